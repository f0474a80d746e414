'use client';

import { Dialog } from 'radix-ui';
import { SHORTCUTS } from './useKeyboard';

export function ShortcutsDialog({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="bg-sheet fixed top-1/2 left-1/2 z-50 w-96 -translate-1/2 rounded-lg border p-5 shadow-xl"
        >
          <Dialog.Title className="text-[15px] font-semibold">Keyboard</Dialog.Title>
          <dl className="mt-3 grid grid-cols-[auto_1fr] gap-x-5 gap-y-1.5">
            {SHORTCUTS.map(([keys, what]) => (
              <div key={keys} className="contents">
                <dt className="text-soft font-mono text-[12px]">{keys}</dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
