'use client';

import { helpOf } from '@/core/help/inputHelp';
import { useEffect, useState } from 'react';
import type { Vec3 } from '@/core/geometry/mesh';
import { standInVolume, type StandInShape } from '@/core/model/standIn';
import type { Body, StandIn } from '@/core/model/body';
import { format } from '@/core/units/reader';
import { presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { Button, Choice, Fact } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { applyStandIn, AXIS_CHOICES } from './bodyActions';
import { perform } from './task';

const SHAPES = [
  { value: 'box', label: 'Box' },
  { value: 'cylinder', label: 'Cylinder' },
  { value: 'sphere', label: 'Sphere' },
] as const;
const AXES = [
  { value: 'fit', label: 'Best' },
  { value: 'x', label: 'X' },
  { value: 'y', label: 'Y' },
  { value: 'z', label: 'Z' },
] as const;

/** Fits a simple solid around a body, lets it be adjusted, and puts it in the body's place. */
export function StandInPanel({ body, onDone }: { body: Body; onDone: () => void }) {
  const draft = useBench((s) => s.draft);
  const bodies = useStudy((s) => presentInputs(s).bodies);
  const volume = useStudy((s) => s.geometries.find((g) => g.hash === body.mesh)?.report.volume ?? 0);
  const [shape, setShape] = useState<StandInShape>('box');
  const [axis, setAxis] = useState<keyof typeof AXIS_CHOICES>('fit');
  const [copies, setCopies] = useState<{ id: string; move: number[] }[]>([]);
  const ref = { id: body.id, mesh: body.mesh };
  useEffect(() => {
    let current = true;
    void perform('Fit', { do: 'fit', body: { id: body.id, mesh: body.mesh }, shape, axis: AXIS_CHOICES[axis] }).then(
      (answer) => current && answer && useBench.getState().set({ draft: { body: body.id, standIn: answer.standIn } }),
    );
    return () => {
      current = false;
    };
  }, [body.id, body.mesh, shape, axis]);
  const standIn = draft?.body === body.id ? draft.standIn : null;
  const update = (next: StandIn) => useBench.getState().set({ draft: { body: body.id, standIn: next } });
  const findCopies = async () => {
    const others = bodies.filter((b) => b.id !== body.id && !b.standIn);
    const answer = await perform('Find copies', {
      do: 'identical',
      bodies: [ref, ...others.map((b) => ({ id: b.id, mesh: b.mesh }))],
    });
    const group = answer?.groups.find((g) => g.ids[0] === body.id);
    setCopies(group ? group.ids.slice(1).map((id, i) => ({ id, move: group.moves[i + 1] })) : []);
  };
  return (
    <div className="bg-well/60 -mx-2 mt-3 space-y-1.5 rounded border p-2" role="group" aria-label="Stand-in">
      <Choice label="Shape" value={shape} options={SHAPES} onChange={setShape} />
      {shape !== 'sphere' && <Choice label="Aligned to" value={axis} options={AXES} onChange={setAxis} />}
      {standIn && <Numbers standIn={standIn} onChange={update} />}
      {standIn && (
        <dl className="num grid grid-cols-[1fr_auto]">
          <Fact label="Volume" value={`${format(volume, 'cm³')} → ${format(standInVolume(standIn), 'cm³')}`} />
        </dl>
      )}
      <Button className="w-full" onClick={() => void findCopies()}>
        {copies.length
          ? `${copies.length} ${copies.length === 1 ? 'copy' : 'copies'} found`
          : 'Find copies of this body'}
      </Button>
      <Button
        look="primary"
        className="w-full"
        disabled={!standIn}
        onClick={() => standIn && void applyStandIn(body.id, standIn, copies).then(onDone)}
      >
        {copies.length ? `Use for all ${copies.length + 1}` : 'Use stand-in'}
      </Button>
      <p className="text-soft text-[11.5px]">Drag the dots in the view, or type. The original is kept.</p>
    </div>
  );
}

function Numbers({ standIn, onChange }: { standIn: StandIn; onChange: (s: StandIn) => void }) {
  const field = (label: string, value: number, set: (v: number) => StandIn) => (
    <NumberField
      key={label}
      label={label}
      help={helpOf('standIn')}
      unit="mm"
      value={value}
      min={1e-5}
      max={10}
      step={0.5}
      onChange={(v) => v !== null && onChange(set(v))}
    />
  );
  const place = ['X', 'Y', 'Z'].map((name, d) => (
    <NumberField
      key={name}
      label={`Centre ${name}`}
      help={helpOf('place')}
      unit="mm"
      value={standIn.centre[d]}
      min={-100}
      max={100}
      step={0.5}
      onChange={(v) =>
        v !== null && onChange({ ...standIn, centre: standIn.centre.map((x, i) => (i === d ? v : x)) as Vec3 })
      }
    />
  ));
  if (standIn.shape === 'box')
    return (
      <>
        {standIn.size.map((s, d) =>
          field(['Width', 'Depth', 'Height'][d], s, (v) => ({
            ...standIn,
            size: standIn.size.map((x, i) => (i === d ? v : x)) as Vec3,
          })),
        )}
        {place}
      </>
    );
  return (
    <>
      {field('Diameter', standIn.diameter, (v) => ({ ...standIn, diameter: v }))}
      {standIn.shape === 'cylinder' && field('Length', standIn.length, (v) => ({ ...standIn, length: v }))}
      {place}
    </>
  );
}
