import type { CellPiece, CellPoints } from './cellPoints';
import type { StructureLattice } from './structureLattice';

/** Connected solid in one cell of the structure's lattice. */
export interface Piece extends CellPiece {
  cell: number;
  /** Piece whose polynomial carries this one; -1 for a speck that is left out. */
  host: number;
}

/** Two pieces, a below b along `axis`, with solid on the face between their cells. */
export interface Link {
  a: number;
  b: number;
  axis: number;
  /** Rays that pass from one into the other: their number is a measure of the open area. */
  rays: number;
}

/** Links between pieces. Those of cell c are start[c] .. start[c + 1] - 1. */
export function linkPieces(
  pieces: readonly Piece[],
  start: Int32Array,
  points: CellPoints,
  { nx, ny }: StructureLattice,
): Link[] {
  const links = new Map<number, Link>();
  const stride = [1, nx, nx * ny];
  for (const axis of [0, 1, 2] as const) {
    const [first, second] = [(axis + 1) % 3, (axis + 2) % 3];
    let last = -1;
    let latest: Link | null = null;
    points.eachOpening(axis, (u, v, k) => {
      const above = k * stride[axis] + Math.floor(u) * stride[first] + Math.floor(v) * stride[second];
      const below = above - stride[axis];
      const [nLow, nHigh] = [start[below + 1] - start[below], start[above + 1] - start[above]];
      if (!(nLow > 0 && nHigh > 0)) return;
      // Between single pieces every ray says the same.
      if (latest && nLow === 1 && nHigh === 1 && above === last) {
        latest.rays++;
        return;
      }
      last = above;
      const local = [0, 0, 0];
      local[first] = 2 * (u - Math.floor(u)) - 1;
      local[second] = 2 * (v - Math.floor(v)) - 1;
      local[axis] = 1;
      const a = nearestPiece(pieces, start[below], start[below + 1], local);
      local[axis] = -1;
      const b = nearestPiece(pieces, start[above], start[above + 1], local);
      const key = a * pieces.length + b;
      latest = links.get(key) ?? { a, b, axis, rays: 0 };
      links.set(key, latest);
      latest.rays++;
    });
  }
  return [...links.values()];
}

/** Of pieces from .. to - 1 the one with a point nearest to the local place. */
export function nearestPiece(
  pieces: readonly { local: ArrayLike<number> }[],
  from: number,
  to: number,
  [x, y, z]: readonly number[],
): number {
  if (to - from === 1) return from;
  let best = from;
  let least = Infinity;
  for (let p = from; p < to; p++) {
    const { local } = pieces[p];
    for (let i = 0; i < local.length; i += 3) {
      const d = (local[i] - x) ** 2 + (local[i + 1] - y) ** 2 + (local[i + 2] - z) ** 2;
      if (d < least) {
        least = d;
        best = p;
      }
    }
  }
  return best;
}

export const cornerOf = (cell: number, { nx, ny }: StructureLattice): [number, number, number] => [
  cell % nx,
  Math.floor(cell / nx) % ny,
  Math.floor(cell / (nx * ny)),
];
