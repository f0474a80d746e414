'use client';

import { Settings2, X } from 'lucide-react';
import { Popover } from 'radix-ui';
import { create } from 'zustand';
import { METRIC, READER_UNITS, type ReaderUnits } from '@/core/units/reader';
import { cssBarOf, SEQUENTIAL_NAMES, type SequentialName } from '@/viewer/colour';
import { setReader, useReader } from '../study/reader';
import { Button, Choice, SectionTitle } from '../ui/controls';

const QUANTITIES: { of: keyof ReaderUnits; label: string }[] = [
  { of: 'length', label: 'Lengths' },
  { of: 'pressure', label: 'Pressures' },
  { of: 'temperature', label: 'Temperatures' },
  { of: 'mass', label: 'Masses' },
];
const INCHES: ReaderUnits = { length: 'in', pressure: 'psi', temperature: '°F', mass: 'oz' };
const COLOURS: Record<SequentialName, string> = { moss: 'Moss', dusk: 'Dusk', ink: 'Ink' };

/** Whether it is open: the page, with its bar, is drawn anew by each choice. */
const usePanel = create(() => ({ open: false }));

/** Units and colours of whoever looks, kept by the browser. */
export function PageSettings() {
  const { units, colours, reversed } = useReader();
  const open = usePanel((s) => s.open);
  return (
    <Popover.Root open={open} onOpenChange={(on) => usePanel.setState({ open: on })}>
      <Popover.Trigger asChild>
        <Button look="quiet" className="px-1.5" aria-label="Units and colours" title="Units and colours of this page">
          <Settings2 size={15} />
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          align="end"
          collisionPadding={8}
          aria-label="Units and colours"
          className="bg-sheet z-40 w-80 rounded-md border p-4 shadow-lg"
        >
          <div className="flex items-center justify-between">
            <h2 className="font-semibold">Units and colours</h2>
            <Popover.Close aria-label="Close" className="text-soft hover:text-ink">
              <X size={15} />
            </Popover.Close>
          </div>
          <div className="mt-3 space-y-1.5">
            {QUANTITIES.map(({ of, label }) => (
              <div key={of} className="flex items-center justify-between gap-3">
                <span>{label}</span>
                <div className="w-40">
                  <Choice
                    label={label}
                    value={units[of]}
                    options={READER_UNITS[of].map((value) => ({ value, label: value }))}
                    onChange={(unit) => setReader({ units: { ...units, [of]: unit } as ReaderUnits })}
                  />
                </div>
              </div>
            ))}
          </div>
          <div className="mt-2 flex gap-1.5">
            <Button className="flex-1" onClick={() => setReader({ units: METRIC })}>
              All metric
            </Button>
            <Button className="flex-1" onClick={() => setReader({ units: INCHES })}>
              All in inch and pound
            </Button>
          </div>
          <p className="text-soft mt-2 text-[12px]">
            Fields take any unit that fits them: “2 in”, “30 bar”, “1/8 in”. Files keep the units that their keys name.
          </p>
          <SectionTitle>Colours of fields</SectionTitle>
          <div className="space-y-1" role="group" aria-label="Colours of fields">
            {SEQUENTIAL_NAMES.map((name) => (
              <button
                key={name}
                type="button"
                aria-pressed={name === colours}
                onClick={() => setReader({ colours: name })}
                className="aria-pressed:bg-petrol-wash hover:bg-well flex w-full items-center gap-3 rounded px-2 py-1 text-left aria-pressed:font-medium"
              >
                <span className="w-12">{COLOURS[name]}</span>
                <span className="h-3 flex-1 rounded-sm" style={{ background: cssBarOf(name) }} />
              </button>
            ))}
          </div>
          <p className="text-soft mt-1.5 text-[12px]">
            Dusk goes from blue to yellow, for eyes that take red for green. Ink prints in black alone.
          </p>
          <label className="mt-2 flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-petrol"
              checked={reversed}
              onChange={(e) => setReader({ reversed: e.target.checked })}
            />
            Dark for high values
          </label>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
