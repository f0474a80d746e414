'use client';

import { helpOf } from '@/core/help/inputHelp';
import { Bandage, Download, Focus, History, Layers, Scissors, Search, Shapes, Spline, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { MOST_SHOTS, ROLE_LABELS, ROLES, shotOf, type Body, type Role } from '@/core/model/body';
import { diagonalOf } from '@/core/geometry/shells';
import { format } from '@/core/units/reader';
import { toSi } from '@/core/units/units';
import { presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { Button, Fact, SectionTitle, Select } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { AxisTable } from './AxisTable';
import {
  deleteBodies,
  isolateBodies,
  mendBodies,
  restoreOriginals,
  setRole,
  showBodies,
  splitBody,
  traceBody,
} from './bodyActions';
import { FeaturesPanel } from './FeaturesPanel';
import { InsertPanel } from './InsertPanel';
import { OverlapsPanel } from './OverlapsPanel';
import { StandInPanel } from './StandInPanel';
import { perform } from './task';

/** What a body can be; a cavity by the shot that fills it. */
const PARTS = ROLES.flatMap((role) =>
  role === 'cavity'
    ? Array.from({ length: MOST_SHOTS }, (_, k) => ({
        value: `cavity:${k + 1}`,
        label: k ? `Cavity of shot ${k + 1}` : ROLE_LABELS.cavity,
      }))
    : [{ value: `${role}:1`, label: ROLE_LABELS[role] }],
);
const partOf = (b: Body) => `${b.role}:${shotOf(b) || 1}`;

type Panel = 'stand-in' | 'features' | 'overlaps' | null;

/** What can be done with the bodies chosen. */
export function BodyTools() {
  const ids = useBench((s) => s.selectedBodies);
  const bodies = useStudy((s) => presentInputs(s).bodies);
  const variantId = useStudy((s) => s.variantId);
  const chosen = bodies.filter((b) => ids.includes(b.id));
  const [panel, setPanel] = useState<{ of: string; which: Panel }>({ of: '', which: null });
  if (!chosen.length) return <SelectTools bodies={bodies} />;
  const key = ids.join();
  const open = panel.of === key ? panel.which : null;
  const toggle = (which: Panel) => {
    useBench.getState().set({ draft: null, marks: [] });
    setPanel({ of: key, which: open === which ? null : which });
  };
  const one = chosen.length === 1 ? chosen[0] : null;
  const parts = [...new Set(chosen.map(partOf))];
  const inserts = chosen.filter((b) => b.role === 'insert');
  const download = (format: 'stl' | '3mf') =>
    window.location.assign(`/api/variants/${variantId}/bodies?format=${format}&ids=${ids.join()}`);
  return (
    <>
      <SectionTitle
        aside={
          <button
            type="button"
            className="text-soft hover:text-problem"
            title="Delete (Del)"
            aria-label="Delete the chosen bodies"
            onClick={() => deleteBodies(ids)}
          >
            <Trash2 size={14} />
          </button>
        }
      >
        {one ? one.name : `${chosen.length} bodies chosen`}
      </SectionTitle>
      <Select
        label="Role"
        value={parts.length === 1 ? parts[0] : ''}
        options={PARTS}
        onChange={(part) => {
          const [role, shot] = part.split(':');
          setRole(ids, role as Role, Number(shot));
        }}
      />
      {one && <BodyFacts body={one} />}
      {inserts.length > 0 && inserts.length === chosen.length && <InsertPanel bodies={inserts} />}
      <div className="mt-2 grid grid-cols-2 gap-1.5">
        <Tool icon={<Focus size={14} />} onClick={() => isolateBodies(ids)}>
          Isolate
        </Tool>
        <Tool icon={<Layers size={14} />} onClick={() => showBodies(ids, 'faded')}>
          Fade
        </Tool>
        <Tool icon={<Bandage size={14} />} onClick={() => void mendBodies(chosen)}>
          Mend
        </Tool>
        {one && one.standIn ? (
          <Tool icon={<History size={14} />} onClick={() => restoreOriginals(ids)}>
            Restore
          </Tool>
        ) : (
          <Tool
            icon={<Shapes size={14} />}
            pressed={open === 'stand-in'}
            off={!one && 'Choose one body: its stand-in can be used for all of its copies'}
            onClick={() => toggle('stand-in')}
          >
            Stand-in
          </Tool>
        )}
        <Tool
          icon={<Scissors size={14} />}
          pressed={open === 'features'}
          off={one ? null : ONE}
          onClick={() => toggle('features')}
        >
          Small features
        </Tool>
        <Tool icon={<Search size={14} />} pressed={open === 'overlaps'} onClick={() => toggle('overlaps')}>
          Overlaps
        </Tool>
        <Tool icon={<Spline size={14} />} off={one ? null : ONE} onClick={() => one && void traceBody(one)}>
          Axis trace
        </Tool>
        <Tool icon={<Shapes size={14} />} off={one ? null : ONE} onClick={() => one && void selectCopies(one, bodies)}>
          Find copies
        </Tool>
        <Tool icon={<Scissors size={14} />} off={one ? null : ONE} onClick={() => one && void splitBody(one)}>
          Split pieces
        </Tool>
        <div className="grid grid-cols-2 gap-1.5">
          <Tool icon={<Download size={13} />} onClick={() => download('stl')}>
            STL
          </Tool>
          <Tool icon={<Download size={13} />} onClick={() => download('3mf')}>
            3MF
          </Tool>
        </div>
      </div>
      {one && open === 'stand-in' && <StandInPanel body={one} onDone={() => toggle(null)} />}
      {one && open === 'features' && <FeaturesPanel key={one.mesh} body={one} />}
      {open === 'overlaps' && <OverlapsPanel chosen={chosen} />}
      {one && <AxisTable body={one} />}
    </>
  );
}

interface ToolProps {
  icon: ReactNode;
  children: ReactNode;
  onClick: () => void;
  pressed?: boolean;
  /** Why it can not be used. */
  off?: string | false | null;
}

const ONE = 'Choose one body alone';

function Tool({ icon, children, onClick, pressed, off }: ToolProps) {
  return (
    <Button
      onClick={onClick}
      off={off}
      aria-pressed={pressed}
      className={`justify-start px-2 ${pressed ? 'border-petrol! bg-petrol-wash!' : ''}`}
    >
      {icon} {children}
    </Button>
  );
}

function BodyFacts({ body }: { body: Body }) {
  const geometry = useStudy((s) => s.geometries.find((g) => g.hash === body.mesh));
  const original = useStudy((s) => s.geometries.find((g) => g.hash === body.original));
  if (!geometry) return null;
  const { report } = geometry;
  const triangles = report.nTriangles.toLocaleString('en-GB');
  return (
    <dl className="num mt-2 grid grid-cols-[1fr_auto] gap-y-1">
      <Fact label="Volume" value={format(report.volume, 'cm³')} />
      <Fact label="Surface" value={`${format(report.area, 'cm²')}, ${report.watertight ? 'watertight' : 'open'}`} />
      <Fact
        label="Triangles"
        value={original ? `${original.report.nTriangles.toLocaleString('en-GB')} → ${triangles}` : triangles}
      />
    </dl>
  );
}

async function selectCopies(body: Body, bodies: readonly Body[]): Promise<void> {
  const answer = await perform('Find copies', {
    do: 'identical',
    bodies: bodies.map((b) => ({ id: b.id, mesh: b.mesh })),
  });
  const group = answer?.groups.find((g) => g.ids.includes(body.id));
  if (group) useBench.getState().set({ selectedBodies: group.ids });
}

/** Choosing bodies by size, when none is chosen. */
function SelectTools({ bodies }: { bodies: readonly Body[] }) {
  const geometries = useStudy((s) => s.geometries);
  const [limit, setLimit] = useState(toSi(10, 'mm'));
  if (bodies.length < 2)
    return <p className="text-soft mt-2 text-[12px]">Click the body, here or in the view, to work on it.</p>;
  const small = bodies.filter((b) => {
    const bounds = geometries.find((g) => g.hash === b.mesh)?.report.bounds;
    return bounds && diagonalOf(bounds) < limit;
  });
  const triangles = (key: 'mesh' | 'original') =>
    bodies.reduce((s, b) => s + (geometries.find((g) => g.hash === (b[key] ?? b.mesh))?.report.nTriangles ?? 0), 0);
  const [now, before] = [triangles('mesh'), triangles('original')];
  return (
    <>
      <p className="text-soft num mt-2 text-[12px]">
        {bodies.length} bodies, {before !== now ? `${before.toLocaleString('en-GB')} → ` : ''}
        {now.toLocaleString('en-GB')} triangles. Ctrl and Shift choose several.
      </p>
      <div className="mt-2 space-y-1.5">
        <NumberField
          label="Smaller than"
          help={helpOf('smallFeatures')}
          unit="mm"
          value={limit}
          min={1e-4}
          max={10}
          step={1}
          onChange={(v) => v !== null && setLimit(v)}
        />
        <Button
          className="w-full"
          off={!small.length && 'No body is smaller than that'}
          onClick={() => useBench.getState().set({ selectedBodies: small.map((b) => b.id) })}
        >
          Choose {small.length} small {small.length === 1 ? 'body' : 'bodies'}
        </Button>
        <Button className="w-full" onClick={() => useBench.getState().set({ selectedBodies: bodies.map((b) => b.id) })}>
          Choose all
        </Button>
      </div>
    </>
  );
}
