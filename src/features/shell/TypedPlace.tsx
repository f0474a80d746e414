'use client';

import { helpOf } from '@/core/help/inputHelp';
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
/** What is drawn in a plane beside the part, point by point. */
const IN_PLANE: ReadonlySet<Aim['for']> = new Set(['runner', 'channel']);
export const isTyped = (aim: Aim | null): boolean => aim !== null && (ON_SURFACE.has(aim.for) || IN_PLANE.has(aim.for));

export const FIRST_COORDINATE = 'typed-place';

/** Beyond the part's box, m. */
const BEYOND = 0.5;

/**
 * A place by its coordinates instead of a click, m: it goes to the surface nearest to it, with the face there, or where it
 * is for what is drawn in a plane. The middle of the part stands there at first.
 * @param height Of the plane that lines are drawn in; null for places on the surface.
 */
export function TypedPlace({
  mesh,
  bounds: { min, max },
  height,
  onPlace,
}: {
  mesh: TriangleMesh;
  height: number | null;
  bounds: { min: readonly number[]; max: readonly number[] };
  onPlace: (at: Vec3, normal: Vec3) => void;
}) {
  const [typed, setTyped] = useState<Vec3 | null>(null);
  const middle = min.map((m, d) => (m + max[d]) / 2) as Vec3;
  const place = typed ?? (height === null ? middle : [middle[0], middle[1], height]);
  const [off, setOff] = useState<number | null>(null);
  return (
    <form
      aria-label="Place by its coordinates"
      className="bg-sheet flex flex-wrap items-center gap-1.5 rounded border p-1 text-[12px] shadow-sm"
      onSubmit={(e) => {
        e.preventDefault();
        if (height !== null) return onPlace(place, [0, 0, 1]);
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
              help={helpOf('place')}
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
      <Button
        type="submit"
        title={
          height === null
            ? 'Puts it onto the surface nearest to these coordinates'
            : 'The first place begins a line, each further one adds one'
        }
      >
        {height === null ? 'Put it there' : 'Draw to there'}
      </Button>
      {height === null && off !== null && off > 5e-5 && (
        <span className="text-soft pr-1 whitespace-nowrap" role="status">
          moved {format(off, 'mm', 2)} to the surface
        </span>
      )}
    </form>
  );
}
