'use client';

import { FolderOpen, GitBranch, Pencil, RotateCcw, Star, StickyNote, Trash2, X } from 'lucide-react';
import { Dialog, DropdownMenu } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { mayStandUnder, treeRows } from '@/core/model/variantTree';
import { VARIANT_COLOURS, type VariantColour } from '@/core/model/variantMarks';
import type { Usage, VariantView } from '@/runtime/wire';
import { toggle, useChoices, useCompare } from '../compare/compared';
import { useBench } from '../study/bench';
import { api } from '../study/api';
import { freshName, newestResult, tell, useStudy } from '../study/store';
import { Button } from '../ui/controls';
import { MENU, MENU_ITEM } from '../shell/menuStyle';
import { RenameField } from '../shell/RenameField';
import { Branches } from './Branches';
import { RunList } from './RunList';
import { STATE_TITLE, StateMark, useVariantStates } from './StateMark';
import { Verdicts } from './Verdicts';

const COLOURS: Record<VariantColour, string> = {
  copper: '#a8481a',
  petrol: '#16626b',
  moss: '#4d7a35',
  straw: '#c79a2b',
  plum: '#5b3f7a',
  ink: '#5a544b',
};

/** All variants of the project as the tree they were branched in, with their notes, marks and runs. */
export function VariantDrawer({ open, onOpenChange }: { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className="bg-sheet fixed inset-y-0 left-0 z-50 flex w-[440px] max-w-[90vw] flex-col border-r shadow-xl outline-none"
        >
          <div className="flex items-center justify-between border-b px-4 py-3">
            <Dialog.Title className="text-[15px] font-semibold">Variants</Dialog.Title>
            <Dialog.Close aria-label="Close the variants" className="text-soft hover:text-ink p-1">
              <X size={15} />
            </Dialog.Close>
          </div>
          {open && <Tree onChosen={() => onOpenChange(false)} />}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Tree({ onChosen }: { onChosen: () => void }) {
  const variants = useStudy((s) => s.variants);
  const rows = treeRows(variants);
  const [dragged, setDragged] = useState<string | null>(null);
  const [over, setOver] = useState<string | null>(null);
  const drop = (parentId: string) => {
    if (dragged) moveUnder(variants, dragged, parentId);
    setDragged(null);
    setOver(null);
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto px-3 py-2">
      <ul role="tree" aria-label="Variants of the project">
        {rows.map((row) => {
          const { id } = row.variant;
          const takes = dragged !== null && dragged !== id && mayStandUnder(variants, dragged, id);
          return (
            <li
              key={id}
              role="treeitem"
              aria-level={row.depth + 1}
              aria-label={row.variant.name}
              aria-selected={false}
              draggable
              onDragStart={() => setDragged(id)}
              onDragEnd={() => setDragged(null)}
              onDragOver={(e) => {
                if (!takes) return;
                e.preventDefault();
                setOver(id);
              }}
              onDragLeave={() => setOver(null)}
              onDrop={() => drop(id)}
              className={`flex rounded ${over === id && takes ? 'bg-petrol-wash' : ''}`}
            >
              <Branches row={row} />
              <Entry variant={row.variant} onChosen={onChosen} />
            </li>
          );
        })}
      </ul>
      <Deleted />
    </div>
  );
}

function moveUnder(variants: readonly VariantView[], id: string, parentId: string | null): void {
  const moved = variants.find((v) => v.id === id);
  if (!moved || moved.parentId === parentId || !mayStandUnder(variants, id, parentId)) return;
  useStudy.getState().mark(id, `Move “${moved.name}” in the tree`, { parentId });
}

function Entry({ variant, onChosen }: { variant: VariantView; onChosen: () => void }) {
  const { id, name, note, starred, colour } = variant;
  const present = useStudy((s) => s.variantId === id);
  const state = useVariantStates()[id];
  const answers = useStudy((s) => newestResult(s, id)?.answers ?? null);
  const [editing, setEditing] = useState<'name' | 'note' | null>(null);
  const [runs, setRuns] = useState(false);
  const study = useStudy.getState();
  const choices = useChoices();
  const compared = choices.some((c) => c.variantId === id);
  return (
    <div className={`min-w-0 flex-1 rounded px-2 py-1.5 ${present ? 'bg-petrol-wash' : 'hover:bg-well'}`}>
      <div className="flex items-center gap-2">
        <span
          className={`size-2.5 shrink-0 rounded-sm ${colour ? '' : 'border'}`}
          style={colour ? { background: COLOURS[colour] } : undefined}
          title={colour ? `Marked ${colour}` : 'No colour'}
        />
        {editing === 'name' ? (
          <RenameField
            label="Name of the variant"
            name={name}
            longest={60}
            className="bg-sheet h-6 min-w-0 flex-1 rounded border px-1.5"
            onName={(typed) => study.rename(id, typed)}
            onDone={() => setEditing(null)}
          />
        ) : (
          <button
            type="button"
            className="min-w-0 flex-1 truncate text-left font-medium"
            aria-current={present}
            title={`Open “${name}”`}
            onClick={() => {
              study.selectVariant(id);
              onChosen();
            }}
          >
            {name}
          </button>
        )}
        <Verdicts answers={answers} />
        <span title={STATE_TITLE[state]} className="grid w-3 place-items-center">
          <StateMark state={state} variantId={id} />
        </span>
        <button
          type="button"
          aria-pressed={starred}
          aria-label={`Star ${name}`}
          className={starred ? 'text-copper' : 'text-soft hover:text-ink'}
          onClick={() => study.mark(id, starred ? `Unstar “${name}”` : `Star “${name}”`, { starred: !starred })}
        >
          <Star size={14} fill={starred ? 'currentColor' : 'none'} />
        </button>
        <Actions variant={variant} onEdit={setEditing} onChosen={onChosen} />
      </div>
      {editing === 'note' ? (
        <textarea
          autoFocus
          aria-label={`Note on ${name}`}
          defaultValue={note}
          maxLength={2000}
          rows={3}
          className="bg-sheet mt-1 w-full rounded border px-2 py-1 text-[12px]"
          onBlur={(e) => {
            const typed = e.currentTarget.value.trim();
            if (typed !== note) study.mark(id, `Note on “${name}”`, { note: typed });
            setEditing(null);
          }}
          onKeyDown={(e) => {
            const done = e.key === 'Enter' && (e.ctrlKey || e.metaKey);
            if (e.key !== 'Escape' && !done) return;
            // Elsewhere they close the drawer and start a run.
            e.stopPropagation();
            if (done) e.currentTarget.blur();
            else setEditing(null);
          }}
        />
      ) : (
        note && <p className="text-soft mt-0.5 pl-4.5 text-[12px] whitespace-pre-wrap">{note}</p>
      )}
      <div className="mt-0.5 flex gap-3 pl-4.5 text-[12px]">
        <button
          type="button"
          aria-expanded={runs}
          className="text-petrol hover:underline"
          onClick={() => setRuns(!runs)}
        >
          {runs ? 'Hide its runs' : 'Its runs'}
        </button>
        {answers && (
          <button
            type="button"
            className="text-petrol hover:underline"
            aria-pressed={compared}
            onClick={() => {
              useCompare.getState().set({ chosen: toggle(choices, id) });
              useBench.getState().goTo('compare');
            }}
          >
            {compared ? 'Leave out of Compare' : 'Compare'}
          </button>
        )}
      </div>
      {runs && <RunList variantId={id} onChosen={onChosen} />}
    </div>
  );
}

function Actions({
  variant: { id, name, parentId },
  onEdit,
  onChosen,
}: {
  variant: VariantView;
  onEdit: (what: 'name' | 'note') => void;
  onChosen: () => void;
}) {
  const variants = useStudy((s) => s.variants);
  const study = useStudy.getState();
  // Opened when the menu has closed: it would take the focus back.
  const edit = useRef<'name' | 'note' | null>(null);
  const branch = async () => {
    study.selectVariant(id);
    if (await study.branch(freshName(variants, 'Variant'))) onChosen();
  };
  const places = variants.filter((v) => v.id !== parentId && mayStandUnder(variants, id, v.id));
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger aria-label={`Actions of ${name}`} className="text-soft hover:text-ink px-0.5">
        ⋯
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          sideOffset={4}
          align="end"
          className={`${MENU} z-[60]`}
          onCloseAutoFocus={(e) => {
            if (!edit.current) return;
            e.preventDefault();
            onEdit(edit.current);
            edit.current = null;
          }}
        >
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => void branch()}>
            <GitBranch size={13} /> Branch from it
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => void (edit.current = 'name')}>
            <Pencil size={13} /> Rename
          </DropdownMenu.Item>
          <DropdownMenu.Item className={MENU_ITEM} onSelect={() => void (edit.current = 'note')}>
            <StickyNote size={13} /> Note
          </DropdownMenu.Item>
          <DropdownMenu.Sub>
            <DropdownMenu.SubTrigger className={MENU_ITEM}>Colour</DropdownMenu.SubTrigger>
            <DropdownMenu.SubContent className={`${MENU} z-[60]`}>
              {[null, ...VARIANT_COLOURS].map((colour) => (
                <DropdownMenu.Item
                  key={colour ?? 'none'}
                  className={MENU_ITEM}
                  onSelect={() => study.mark(id, `Colour of “${name}”`, { colour })}
                >
                  <span
                    className={`size-2.5 rounded-sm ${colour ? '' : 'border'}`}
                    style={colour ? { background: COLOURS[colour] } : undefined}
                  />
                  {colour ?? 'none'}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.SubContent>
          </DropdownMenu.Sub>
          <DropdownMenu.Sub>
            <DropdownMenu.SubTrigger className={MENU_ITEM} disabled={!places.length && parentId === null}>
              Show under
            </DropdownMenu.SubTrigger>
            <DropdownMenu.SubContent className={`${MENU} z-[60] max-h-72 overflow-y-auto`}>
              {parentId !== null && (
                <DropdownMenu.Item className={MENU_ITEM} onSelect={() => moveUnder(variants, id, null)}>
                  none
                </DropdownMenu.Item>
              )}
              {places.map((v) => (
                <DropdownMenu.Item key={v.id} className={MENU_ITEM} onSelect={() => moveUnder(variants, id, v.id)}>
                  {v.name}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.SubContent>
          </DropdownMenu.Sub>
          <DropdownMenu.Item
            className={MENU_ITEM}
            disabled={variants.length === 1}
            onSelect={() => useStudy.getState().remove(id)}
          >
            <Trash2 size={13} /> Delete
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** Variants of the project that were deleted and are still kept. */
function Deleted() {
  const projectId = useStudy((s) => s.projectId);
  const variants = useStudy((s) => s.variants);
  const [list, setList] = useState<Usage['projects'][number]['variants']>([]);
  useEffect(() => {
    let gone = false;
    api.usage().then((usage) => {
      const own = usage.projects.find((p) => p.id === projectId);
      if (!gone) setList(own?.variants.filter((v) => v.deletedAt) ?? []);
    }, tell);
    return () => void (gone = true);
    // What is there now says what was deleted or brought back since.
  }, [projectId, variants.length]);
  if (!list.length) return null;
  return (
    <section aria-label="Deleted variants" className="mt-4 border-t pt-2">
      <h3 className="text-soft flex items-center gap-1.5 text-[12px] font-semibold">
        <FolderOpen size={12} /> Deleted, still kept
      </h3>
      <ul>
        {list.map(({ id, name, version }) => (
          <li key={id} className="flex items-center justify-between gap-2 py-1">
            <span className="truncate">{name}</span>
            <Button className="h-6 px-2 text-[12px]" onClick={() => void useStudy.getState().bringBack(id, version)}>
              <RotateCcw size={12} /> Bring back
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
