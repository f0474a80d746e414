'use client';

import { useState } from 'react';
import { closestPoint } from '@/core/geometry/closestPoint';
import type { TriangleMesh, Vec3 } from '@/core/geometry/mesh';
import { format } from '@/core/units/reader';
import type { Aim } from '../study/bench';
import { Button } from '../ui/controls';
import { NumberField } from '../ui/NumberField';

/** What is placed on the surface of the part, so that its place can be typed as well as clicked. */
const ON_SURFACE: ReadonlySet<Aim['for']> = new Set([
  'gate',
  'probe',
  'distance',
  'section-face',
  'face',
  'outlet',
  'charge',
  'core',
  'pin',
  'alignment',
  'support',
  'measure',
]);
export const isTyped = (aim: Aim | null): boolean => aim !== null && ON_SURFACE.has(aim.for);

export const FIRST_COORDINATE = 'typed-place';

/** Beyond the part's box, m: a place that is typed goes to the surface nearest to it. */
const BEYOND = 0.05;

/**
 * A place by its coordinates instead of a click, m: it goes to the surface nearest to it, with the face there. The middle of
 * the part stands there at first.
 */
export function TypedPlace({
  mesh,
  bounds: { min, max },
  onPlace,
}: {
  mesh: TriangleMesh;
  bounds: { min: readonly number[]; max: readonly number[] };
  onPlace: (at: Vec3, normal: Vec3) => void;
}) {
  const [typed, setTyped] = useState<Vec3 | null>(null);
  const place = typed ?? (min.map((m, d) => (m + max[d]) / 2) as Vec3);
  const [off, setOff] = useState<number | null>(null);
  return (
    <form
      aria-label="Place by its coordinates"
      className="bg-sheet pointer-events-auto flex items-center gap-1.5 rounded border p-1 text-[12px] shadow-sm"
      onSubmit={(e) => {
        e.preventDefault();
        const { point, normal, distance } = closestPoint(mesh, place);
        setOff(distance);
        onPlace(point, normal);
      }}
    >
      {(['X', 'Y', 'Z'] as const).map((axis, d) => (
        <span key={axis} className="flex items-center gap-1">
          <span className="text-soft" aria-hidden>
            {axis}
          </span>
          <span className="w-22" id={d === 0 ? FIRST_COORDINATE : undefined}>
            <NumberField
              label={`Place ${axis}`}
              hideLabel
              unit="mm"
              value={place[d]}
              min={min[d] - BEYOND}
              max={max[d] + BEYOND}
              step={1}
              onChange={(v) => v !== null && setTyped(place.map((x, k) => (k === d ? v : x)) as Vec3)}
            />
          </span>
        </span>
      ))}
      <Button type="submit" title="Puts it onto the surface nearest to these coordinates">
        Put it there
      </Button>
      {off !== null && off > 5e-5 && (
        <span className="text-soft pr-1 whitespace-nowrap" role="status">
          moved {format(off, 'mm', 2)} to the surface
        </span>
      )}
    </form>
  );
}
