import { useMemo } from 'react';
import { fieldHelpId } from '@/core/help/help';
import type { Unit } from '@/core/units/units';
import type { ColourMap } from '@/viewer/colour';
import { nodesAt } from '@/viewer/frames';
import { OF_SHAPE } from './fields';
import { isolinesText } from './isolines';
import { Legend } from './Legend';
import { shapeSaid } from './shapeSaid';
import { isOverTime, useScaleRange } from './scaleRange';
import { bareSaid, type ShownField } from './shownField';
import { usePacedTime, useView } from './view';
import { Button, Choice } from '../ui/controls';

/** Legend of the shown field at the play head. */
export function FieldLegend({ label, unit, field, volumes, range, map, fixed = false }: LegendProps) {
  const head = usePacedTime(!field.live);
  const bars = useMemo(() => barsOf(field, volumes, head), [field, volumes, head]);
  const own = useScaleRange(field, volumes) ?? field.range;
  const bare = useMemo(() => bareSaid(field, volumes), [field, volumes]);
  const rangeOf = useView((s) => s.rangeOf);
  const typed = useView((s) => s.typedRange?.field === field.id);
  const set = useView((s) => s.set);
  const shape = useView((s) => (OF_SHAPE.includes(field.id) ? shapeSaid(field.id, s.shape) : ''));
  const lined = useView((s) => s.layers.isolines);
  return (
    <Legend
      label={label}
      unit={unit}
      range={range ?? own}
      map={map ?? (field.signed ? 'diverging' : undefined)}
      help={fieldHelpId(field.id)}
      {...bars}
      disabled={field.live}
      note={[shape, bare, lined ? isolinesText(range ?? own, unit) : ''].filter(Boolean).join('; ')}
      onRange={field.live || fixed ? undefined : (ends) => set({ typedRange: { field: field.id, ends }, brush: null })}
    >
      {fixed ? null : typed ? (
        <Button className="mt-2 h-6 w-full text-[12px]" onClick={() => set({ typedRange: null })}>
          Ends as they come
        </Button>
      ) : (
        isOverTime(field) && (
          <div className="mt-2 text-[12px]">
            <Choice
              label="What the scale spans"
              value={rangeOf}
              options={[
                { value: 'shot', label: 'Whole shot' },
                { value: 'instant', label: 'This instant' },
              ]}
              onChange={(next) => set({ rangeOf: next, brush: null })}
            />
          </div>
        )
      )}
    </Legend>
  );
}

interface LegendProps {
  label: string;
  unit: Unit;
  field: ShownField;
  volumes: Float32Array;
  /** That of the field unless it shares one with others. */
  range?: readonly [number, number];
  map?: ColourMap;
  /** Its scale is what it is: no ends are typed, and no instant has one of its own. */
  fixed?: boolean;
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
