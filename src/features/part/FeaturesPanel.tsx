'use client';

import { helpOf } from '@/core/help/inputHelp';
import { useState } from 'react';
import type { Body } from '@/core/model/body';
import type { FeatureView } from '@/core/model/geometryTask';
import { format } from '@/core/units/reader';
import { toSi } from '@/core/units/units';
import { useBench } from '../study/bench';
import { Button } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { removeFeaturesOf } from './bodyActions';
import { perform } from './task';

const KIND: Record<FeatureView['kind'], string> = {
  hole: 'Hole',
  pocket: 'Pocket',
  boss: 'Boss',
  round: 'Round',
  fillet: 'Fillet',
};

/** Small holes, pockets and bosses in flat faces: shown first, removed when asked. */
export function FeaturesPanel({ body }: { body: Body }) {
  const [limit, setLimit] = useState(toSi(5, 'mm'));
  const [found, setFound] = useState<FeatureView[] | null>(null);
  const [off, setOff] = useState<ReadonlySet<number>>(new Set());
  const ref = { id: body.id, mesh: body.mesh };
  const mark = (features: FeatureView[], without: ReadonlySet<number>) =>
    useBench
      .getState()
      .set({ marks: features.map((f) => ({ position: f.centre, radius: f.size / 2, on: !without.has(f.id) })) });
  const look = async () => {
    const answer = await perform('Small features', { do: 'features', body: ref, limit });
    if (!answer) return;
    setFound(answer.features);
    setOff(new Set());
    mark(answer.features, new Set());
  };
  const toggle = (id: number) => {
    const next = new Set(off);
    if (!next.delete(id)) next.add(id);
    setOff(next);
    if (found) mark(found, next);
  };
  const chosen = found?.filter((f) => !off.has(f.id)) ?? [];
  const change = chosen.reduce((s, f) => s + f.volumeChange, 0);
  const triangles = chosen.reduce((s, f) => s + f.nTriangles, 0);
  const remove = async () => {
    await removeFeaturesOf(
      body,
      limit,
      chosen.map((f) => f.id),
    );
    useBench.getState().set({ marks: [] });
  };
  return (
    <div className="bg-well/60 -mx-2 mt-3 space-y-1.5 rounded border p-2" role="group" aria-label="Small features">
      <NumberField
        label="Up to"
        help={helpOf('smallFeatures')}
        unit="mm"
        value={limit}
        min={1e-4}
        max={1}
        step={1}
        onChange={(v) => {
          if (v === null) return;
          setLimit(v);
          setFound(null);
          useBench.getState().set({ marks: [] });
        }}
      />
      <Button className="w-full" onClick={() => void look()}>
        Look for small features
      </Button>
      {found?.length === 0 && (
        <p className="text-soft text-[12px]">None between or in flat faces that can be taken away safely.</p>
      )}
      {found && found.length > 0 && (
        <>
          <ul className="max-h-40 divide-y overflow-y-auto border-y">
            {found.map((f) => (
              <li key={f.id}>
                <label className="num flex items-center gap-2 py-1">
                  <input
                    type="checkbox"
                    checked={!off.has(f.id)}
                    onChange={() => toggle(f.id)}
                    className="accent-petrol"
                  />
                  <span className="flex-1">
                    {KIND[f.kind]} {f.kind === 'round' || f.kind === 'fillet' ? 'R ' : ''}
                    {format(f.size, 'mm')}
                  </span>
                  <span className="text-soft text-[12px]">
                    {f.volumeChange > 0 ? '+' : ''}
                    {format(f.volumeChange, 'cm³', 2)}
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <Button
            look="primary"
            className="w-full"
            off={!chosen.length && 'Tick what is to be removed'}
            onClick={() => void remove()}
          >
            Remove {chosen.length}
          </Button>
          <p className="text-soft num text-[11.5px]">
            Volume {change > 0 ? '+' : ''}
            {format(change, 'cm³')}, {triangles.toLocaleString('en-GB')} triangles fewer or so.
          </p>
        </>
      )}
    </div>
  );
}
