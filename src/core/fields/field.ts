import { z } from 'zod';
import { real } from '../numerics/real';
import { fieldLocationSchema } from './table';
import type { FieldEntry } from './table';

/**
 * A published result on the pressure grid. Solved in Float64, published once as Float32.
 * `data` holds `frames` blocks of n values; NaN where there is no value (not filled).
 */
export const fieldMetaSchema = z.object({
  id: z.string(),
  /** What it is, in the trade's words. */
  quantity: z.string(),
  /** SI unit of the values. */
  unit: z.string(),
  location: fieldLocationSchema,
  /** Values per node: 1, 3 for a vector, 6 for a tensor (xx yy zz xy yz xz), more for places through the wall. */
  components: real,
  gridKey: z.string(),
  frames: real,
  /** Time of each frame, s; empty when the field belongs to the whole run. */
  times: z.array(real),
  /** Smallest and largest value over all frames. */
  range: z.tuple([real, real]),
});
export type FieldMeta = z.infer<typeof fieldMetaSchema>;

export interface Field extends FieldMeta {
  data: Float32Array;
}

/**
 * A field of the table with its values, one array a frame.
 * @throws Error when there is no frame, or not one time for each.
 */
export function makeField(
  id: string,
  { quantity, si, location, components }: Pick<FieldEntry, 'quantity' | 'si' | 'location' | 'components'>,
  gridKey: string,
  frames: ArrayLike<number>[],
  times: number[] = [],
): Field {
  if (frames.length === 0) throw new Error(`field ${id} has no frames`);
  if (times.length && times.length !== frames.length) throw new Error(`field ${id}: one time per frame is needed`);
  const n = frames[0].length;
  const data = new Float32Array(n * frames.length);
  frames.forEach((frame, f) => data.set(frame as ArrayLike<number>, f * n));
  let low = Infinity;
  let high = -Infinity;
  for (const value of data) {
    if (value < low) low = value;
    if (value > high) high = value;
  }
  const range: [number, number] = low <= high ? [low, high] : [0, 0];
  return { id, quantity, unit: si, location, components, gridKey, frames: frames.length, times, range, data };
}
