'use client';

import { Eye, EyeOff, Blend } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { SEVERITIES } from '@/core/geometry/finding';
import { ROLE_LABELS, shotOf, type Body } from '@/core/model/body';
import { presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { useView } from '../study/view';
import { colourOf } from './bodyColours';
import { renameBody, showBodies } from './bodyActions';
import { SEVERITY_LOOK } from './findings';

/** All bodies: click chooses one, Ctrl adds, Shift takes a stretch; the eye shows, fades, hides. */
export function BodyList() {
  const bodies = useStudy((s) => presentInputs(s).bodies);
  const selected = useBench((s) => s.selectedBodies);
  const choose = (event: React.MouseEvent, body: Body) => {
    const set = useBench.getState().set;
    if (event.shiftKey && selected.length) {
      const [a, b] = [bodies.findIndex((x) => x.id === selected[selected.length - 1]), bodies.indexOf(body)];
      const stretch = bodies.slice(Math.min(a, b), Math.max(a, b) + 1).map((x) => x.id);
      return set({ selectedBodies: [...new Set([...selected, ...stretch])] });
    }
    const on = selected.includes(body.id);
    if (event.ctrlKey || event.metaKey)
      return set({ selectedBodies: on ? selected.filter((id) => id !== body.id) : [...selected, body.id] });
    set({ selectedBodies: on && selected.length === 1 ? [] : [body.id], draft: null, marks: [] });
  };
  const severalShots = bodies.some((b) => shotOf(b) > 1);
  return (
    <ul aria-label="Bodies" className="-mx-2 max-h-64 overflow-y-auto border-y py-1">
      {bodies.map((body) => (
        <BodyRow
          key={body.id}
          body={body}
          role={roleOf(body, severalShots)}
          selected={selected.includes(body.id)}
          onChoose={(e) => choose(e, body)}
        />
      ))}
    </ul>
  );
}

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
  const row = useRef<HTMLLIElement>(null);
  // Chosen in the view, a body must be found in the list as well.
  useEffect(() => {
    if (selected) row.current?.scrollIntoView({ block: 'nearest' });
  }, [selected]);
  const next = how === undefined ? 'faded' : how === 'faded' ? 'hidden' : 'shown';
  const Icon = how === 'hidden' ? EyeOff : how === 'faded' ? Blend : Eye;
  const Warning = worst && SEVERITY_LOOK[worst];
  return (
    <li
      ref={row}
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
