'use client';

import { helpOf } from '@/core/help/inputHelp';
import type { Point } from '../study/bench';
import { presentPart, useStudy } from '../study/store';
import { NumberField } from '../ui/NumberField';

const AXES = ['X', 'Y', 'Z'] as const;
/** Beyond the part's box, m: what is typed may be off the surface for a moment. */
const BEYOND = 0.01;
const NO_PART = 10;

/** Coordinates of a place on the part, to be typed. */
export function PositionFields({ position, onChange }: { position: Point; onChange: (position: Point) => void }) {
  const bounds = useStudy(presentPart)?.bounds;
  return AXES.map((axis, d) => (
    <NumberField
      key={axis}
      label={axis}
      help={helpOf('place')}
      unit="mm"
      value={position[d]}
      min={bounds ? bounds.min[d] - BEYOND : -NO_PART}
      max={bounds ? bounds.max[d] + BEYOND : NO_PART}
      step={1}
      onChange={(v) => v !== null && onChange(position.map((x, i) => (i === d ? v : x)) as Point)}
    />
  ));
}
