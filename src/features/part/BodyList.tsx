'use client';

import { Eye, EyeOff, Blend } from 'lucide-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import { SEVERITIES } from '@/core/geometry/finding';
import { ROLE_LABELS, shotOf, type Body } from '@/core/model/body';
import { presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { useView } from '../study/view';
import { Select } from '../ui/controls';
import { inOrder } from '../ui/inOrder';
import { SearchField } from '../ui/SearchField';
import { colourOf } from './bodyColours';
import { renameBody, showBodies } from './bodyActions';
import { SEVERITY_LOOK } from './findings';

/** All bodies: click chooses one, Ctrl adds, Shift takes a stretch; the eye shows, fades, hides. */
export function BodyList() {
  const bodies = useStudy((s) => presentInputs(s).bodies);
  const selected = useBench((s) => s.selectedBodies);
  const [asked, setAsked] = useState('');
  const [by, setBy] = useState<Order>('given');
  const geometries = useStudy((s) => s.geometries);
  const severalShots = bodies.some((b) => shotOf(b) > 1);
  const many = bodies.length > MANY;
  const listed = useMemo(() => {
    if (!many) return bodies;
    const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
    const size = new Map(geometries.map((g) => [g.hash, g.report.volume]));
    const keyOf = (b: Body): string | number =>
      by === 'name' ? b.name : by === 'role' ? roleOf(b, severalShots) : -(size.get(b.mesh) ?? NaN);
    const found = bodies.filter((b) => {
      const text = `${b.name} ${roleOf(b, severalShots)} ${b.standIn ? 'stand-in' : ''}`.toLowerCase();
      return words.every((w) => text.includes(w));
    });
    return by === 'given' ? found : found.sort((a, b) => inOrder(keyOf(a), keyOf(b)));
  }, [bodies, many, asked, by, geometries, severalShots]);
  const choose = (event: React.MouseEvent, body: Body) => {
    const set = useBench.getState().set;
    if (event.shiftKey && selected.length) {
      const last = selected[selected.length - 1];
      const [a, b] = [listed.findIndex((x) => x.id === last), listed.indexOf(body)];
      const stretch = listed.slice(Math.max(0, Math.min(a, b)), Math.max(a, b) + 1).map((x) => x.id);
      return set({ selectedBodies: [...new Set([...selected, ...stretch])] });
    }
    const on = selected.includes(body.id);
    if (event.ctrlKey || event.metaKey)
      return set({ selectedBodies: on ? selected.filter((id) => id !== body.id) : [...selected, body.id] });
    set({ selectedBodies: on && selected.length === 1 ? [] : [body.id], draft: null, marks: [] });
  };
  const box = useRef<HTMLUListElement>(null);
  const virtual = useVirtualizer({
    count: listed.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    getItemKey: (k) => listed[k].id,
    overscan: 10,
  });
  // Chosen in the view, a body must be found in the list as well.
  const newest = listed.findIndex((b) => b.id === selected[selected.length - 1]);
  useEffect(() => {
    if (newest >= 0) virtual.scrollToIndex(newest, { align: 'auto' });
  }, [newest, virtual]);
  return (
    <>
      {many && (
        <div className="mb-1.5 flex gap-1.5">
          <div className="min-w-0 flex-1">
            <SearchField
              label="Narrow the bodies"
              placeholder={`${bodies.length} bodies`}
              value={asked}
              onChange={setAsked}
            />
          </div>
          <div className="w-28">
            <Select label="Order of the bodies" value={by} options={ORDERS} onChange={(v) => setBy(v as Order)} />
          </div>
        </div>
      )}
      <ul ref={box} aria-label="Bodies" className="-mx-2 max-h-64 overflow-y-auto border-y">
        <li aria-hidden style={{ height: virtual.getVirtualItems()[0]?.start ?? 0 }} />
        {virtual.getVirtualItems().map(({ index, key }) => {
          const body = listed[index];
          return (
            <BodyRow
              key={key}
              body={body}
              role={roleOf(body, severalShots)}
              selected={selected.includes(body.id)}
              onChoose={(e) => choose(e, body)}
            />
          );
        })}
        <li aria-hidden style={{ height: virtual.getTotalSize() - (virtual.getVirtualItems().at(-1)?.end ?? 0) }} />
      </ul>
      {many && asked.trim() !== '' && (
        <p className="text-soft mt-1 text-[12px]">
          {listed.length ? `${listed.length} of ${bodies.length}` : 'No body has all of these words.'}
        </p>
      )}
    </>
  );
}

/** Lists longer than that can be narrowed and put in order. */
const MANY = 8;
/** px */
const ROW = 30;
type Order = 'given' | 'name' | 'role' | 'size';
const ORDERS: { value: Order; label: string }[] = [
  { value: 'given', label: 'As brought in' },
  { value: 'name', label: 'By name' },
  { value: 'role', label: 'By role' },
  { value: 'size', label: 'Largest first' },
];

/** What the body is; where there are several shots, what is moulded is told by its shot. */
const roleOf = (body: Body, severalShots: boolean): string =>
  severalShots && shotOf(body) ? `Shot ${shotOf(body)}` : ROLE_LABELS[body.role];

interface RowProps {
  body: Body;
  role: string;
  selected: boolean;
  onChoose: (event: React.MouseEvent) => void;
}

function BodyRow({ body, role, selected, onChoose }: RowProps) {
  const how = useView((s) => s.bodyView[body.id]);
  const worst = useStudy((s) => {
    const findings = s.geometries.find((g) => g.hash === body.mesh)?.findings ?? [];
    return SEVERITIES.find((severity) => severity !== 'cosmetic' && findings.some((f) => f.severity === severity));
  });
  const [renaming, setRenaming] = useState(false);
  const next = how === undefined ? 'faded' : how === 'faded' ? 'hidden' : 'shown';
  const Icon = how === 'hidden' ? EyeOff : how === 'faded' ? Blend : Eye;
  const Warning = worst && SEVERITY_LOOK[worst];
  return (
    <li
      className={`flex h-[30px] items-center gap-2 rounded px-2 ${selected ? 'bg-petrol-wash' : 'hover:bg-well'} ${body.role === 'left-out' || how === 'hidden' ? 'text-soft' : ''}`}
    >
      <span className="size-2.5 shrink-0 rounded-full border" style={{ background: colourOf(body) }} />
      {renaming ? (
        <input
          autoFocus
          defaultValue={body.name}
          aria-label="Name of the body"
          className="bg-sheet min-w-0 flex-1 rounded border px-1"
          onBlur={(e) => {
            renameBody(body.id, e.target.value);
            setRenaming(false);
          }}
          onKeyDown={(e) => {
            if (e.key === 'Enter') e.currentTarget.blur();
            if (e.key === 'Escape') setRenaming(false);
          }}
        />
      ) : (
        <button
          type="button"
          aria-pressed={selected}
          onClick={onChoose}
          onDoubleClick={() => setRenaming(true)}
          title={`${body.name}: ${role}. Double-click to rename.`}
          className="min-w-0 flex-1 truncate text-left"
        >
          {body.name}
        </button>
      )}
      {Warning && (
        <span title={Warning.label} className={Warning.colour}>
          <Warning.Icon size={13} />
        </span>
      )}
      <span className="text-soft shrink-0 text-[11.5px]">{body.standIn ? 'stand-in' : role}</span>
      <button
        type="button"
        aria-label={`${next === 'shown' ? 'Show' : next === 'faded' ? 'Fade' : 'Hide'} ${body.name}`}
        title={next === 'shown' ? 'Show' : next === 'faded' ? 'Fade' : 'Hide'}
        className="text-soft hover:text-ink shrink-0"
        onClick={() => showBodies([body.id], next)}
      >
        <Icon size={14} />
      </button>
    </li>
  );
}
