import { makeField, type Field } from '../fields/field';
import type { JoinedFeed } from '../solvers/melt/joinFeed';
import type { FillResult } from '../solvers/fill/outcome';

/** Id of the values in the feed that go with a field of the part. */
export const feedFieldId = (id: string): string => `feed-${id}`;

/** Results along the feed, one value a cell in the order of the sections, for the run of the joined grid. */
export function feedFields(result: FillResult, { cells }: JoinedFeed, gridKey: string): Field[] {
  const { frames } = result;
  const on = (values: ArrayLike<number>) => Float32Array.from(cells, ({ node }) => values[node]);
  const field = (
    id: string,
    quantity: string,
    unit: string,
    list: ArrayLike<number>[],
    times: number[] = [],
  ): Field => ({
    ...makeField(feedFieldId(id), `${quantity} in the feed`, unit, `${gridKey}-feed`, list.map(on), times),
    location: 'segment',
  });
  return [
    field('fillTime', 'Fill time', 's', [result.node.fillTime]),
    field('pressure', 'Pressure', 'Pa', frames.node.pressure, frames.times),
    field('temperature', 'Mean temperature', 'K', frames.node.temperature, frames.times),
    field('frozen', 'Frozen share of the wall', '', frames.node.frozen, frames.times),
    field('peakShearRate', 'Peak shear rate', '1/s', [result.node.peakShearRate]),
    field('peakStress', 'Peak wall shear stress', 'Pa', [result.node.peakStress]),
  ];
}
