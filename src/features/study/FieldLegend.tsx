import { useMemo } from 'react';
import type { Unit } from '@/core/units/units';
import type { ColourMap } from '@/viewer/colour';
import { nodesAt } from '@/viewer/frames';
import { Legend } from './Legend';
import type { ShownField } from './shownField';
import { usePacedTime } from './view';

/** Legend of the shown field at the play head. */
export function FieldLegend({ label, unit, field, volumes, range = field.range, map }: LegendProps) {
  const head = usePacedTime(!field.live);
  const bars = useMemo(() => barsOf(field, volumes, head), [field, volumes, head]);
  return <Legend label={label} unit={unit} range={range} map={map} {...bars} disabled={field.live} />;
}

interface LegendProps {
  label: string;
  unit: Unit;
  field: ShownField;
  volumes: Float32Array;
  /** That of the field unless it shares one with others. */
  range?: readonly [number, number];
  map?: ColourMap;
}

/** What the legend counts: nodes by volume, for the shape what is drawn by area. */
function barsOf(field: ShownField, volumes: Float32Array, head: number) {
  if (field.atVertices) {
    const { values, areas } = field.atVertices.counted;
    return { values, weights: areas, weightName: 'share of surface' };
  }
  return {
    values: nodesAt(field.nodes, Math.min(head, field.end)),
    weights: volumes,
    weightName: 'share of volume',
    times: field.nodeTimes,
    until: field.live ? field.end : Math.min(head, field.end),
  };
}
