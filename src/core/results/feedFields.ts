import { makeField, type Field } from '../fields/field';
import { FIELD_TABLE, type KnownField } from '../fields/table';
import type { JoinedFeed } from '../solvers/melt/joinFeed';
import type { FillResult } from '../solvers/fill/outcome';

/** Id of the values in the feed that go with a field of the part. */
export const feedFieldId = (id: string): string => `feed-${id}`;

/** Results along the feed, one value a cell in the order of the sections, for the run of the joined grid. */
export function feedFields(result: FillResult, { cells }: JoinedFeed, gridKey: string): Field[] {
  const { frames } = result;
  const on = (values: ArrayLike<number>) => Float32Array.from(cells, ({ node }) => values[node]);
  const field = (id: KnownField, list: ArrayLike<number>[], times: number[] = []): Field => {
    const { quantity, si } = FIELD_TABLE[id];
    const entry = { quantity: `${quantity} in the feed`, si, location: 'segment' as const, components: 1 };
    return makeField(feedFieldId(id), entry, `${gridKey}-feed`, list.map(on), times);
  };
  return [
    field('fillTime', [result.node.fillTime]),
    field('pressure', frames.node.pressure, frames.times),
    field('temperature', frames.node.temperature, frames.times),
    field('frozen', frames.node.frozen, frames.times),
    field('peakShearRate', [result.node.peakShearRate]),
    field('peakStress', [result.node.peakStress]),
  ];
}
