import { z } from 'zod';
import { coordinate, planar } from './bounded';
import { within } from './quantity';

const pitch = within('cavityPitch');

/** Where copies of the cavities lie in the parting plane. Metres and rad. */
export const cavityLayoutSchema = z.strictObject({
  /** Middle of the cavity itself when it was laid out: copies are turned and mirrored about it. */
  middle: planar,
  places: z.discriminatedUnion('by', [
    /** Columns along x, rows along y. `facing`: every second one is mirrored, so that gates look at each other. */
    z.strictObject({
      by: z.literal('row'),
      columns: within('cavityColumns'),
      rows: within('cavityColumns'),
      pitch: z.tuple([pitch, pitch]),
      facing: z.boolean(),
    }),
    /** Turned about a point in even steps. */
    z.strictObject({
      by: z.literal('circle'),
      count: within('cavityRing'),
      centre: planar,
    }),
    /** Each where it is put: mirrored (left to right) and turned about the middle, then moved. */
    z.strictObject({
      by: z.literal('free'),
      copies: z
        .array(z.strictObject({ x: coordinate, y: coordinate, turn: within('cavityTurned'), mirrored: z.boolean() }))
        .min(1)
        .max(47),
    }),
  ]),
  /** Copies that the feed treats alike are solved once. */
  solveOnce: z.boolean(),
});
export type CavityLayout = z.infer<typeof cavityLayoutSchema>;

/** Rows of a 3 x 4 matrix. */
export type Placement = number[];

/** Turned by `turn` about z and mirrored in x or y, both about `middle`, then moved by `by`. */
function placement(
  [mx, my]: readonly [number, number],
  turn: number,
  flip: { x: boolean; y: boolean },
  [bx, by]: readonly [number, number],
): Placement {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const [fx, fy] = [flip.x ? -1 : 1, flip.y ? -1 : 1];
  const [a, b, d, e] = [c * fx, -s * fy, s * fx, c * fy];
  return [a, b, 0, mx + bx - a * mx - b * my, d, e, 0, my + by - d * mx - e * my, 0, 0, 1, 0];
}

/** Placements of the copies; the cavity itself keeps its place and is not in the list. */
export function copyPlacements({ places, middle }: CavityLayout): Placement[] {
  switch (places.by) {
    case 'row': {
      const list: Placement[] = [];
      for (let r = 0; r < places.rows; r++)
        for (let c = 0; c < places.columns; c++) {
          if (r === 0 && c === 0) continue;
          const flip = { x: places.facing && c % 2 === 1, y: places.facing && r % 2 === 1 };
          list.push(placement(middle, 0, flip, [c * places.pitch[0], r * places.pitch[1]]));
        }
      return list;
    }
    case 'circle':
      return Array.from({ length: places.count - 1 }, (_, k) =>
        placement(places.centre, (2 * Math.PI * (k + 1)) / places.count, { x: false, y: false }, [0, 0]),
      );
    case 'free':
      return places.copies.map((p) => placement(middle, p.turn, { x: p.mirrored, y: false }, [p.x, p.y]));
  }
}

/** Swaps inside and outside: its triangles have to be turned over. */
export const mirrors = (m: Placement): boolean => m[0] * m[5] - m[1] * m[4] < 0;
