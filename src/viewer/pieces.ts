import { NO_VALUE } from './results';

/** A surface with what a cut along one of its values needs at each vertex. */
export interface ValuedSurface {
  /** mm, 3 a vertex */
  positions: ArrayLike<number>;
  triangles: ArrayLike<number>;
  /** Offsets to where it is drawn, mm, 3 a vertex. */
  offsets: ArrayLike<number>;
  /** NO_VALUE where there is none. */
  values: ArrayLike<number>;
  /** Wall behind each vertex, mm. */
  walls: ArrayLike<number>;
}

/** Triangles by their corners, 3 numbers each: places and offsets, mm. */
export interface Faces {
  positions: Float32Array;
  offsets: Float32Array;
}

/**
 * Faces that close what is left of a body where its surface is drawn on one side of a value alone: from the line of
 * that value on the surface straight into the wall, to its middle. Those of the other face of the wall meet them there.
 */
export function facesAt({ positions, triangles, offsets, values, walls }: ValuedSurface, level: number): Faces {
  const [places, moved]: [number[], number[]] = [[], []];
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [triangles[t], triangles[t + 1], triangles[t + 2]];
    if (corners.some((v) => !(values[v] < NO_VALUE / 2))) continue;
    const above = corners.map((v) => values[v] >= level);
    const alone = above.findIndex((x, k) => x !== above[(k + 1) % 3] && x !== above[(k + 2) % 3]);
    if (alone < 0) continue;
    const [a, b, c] = [0, 1, 2].map((k) => corners[(alone + k) % 3]);
    const inwards = inwardNormal(positions, corners);
    const ends = [b, c].map((other) => {
      const s = (level - values[a]) / (values[other] - values[a]);
      const mean = (of: ArrayLike<number>, d: number) => of[3 * a + d] + s * (of[3 * other + d] - of[3 * a + d]);
      const at = [0, 1, 2].map((d) => mean(positions, d));
      const depth = (walls[a] + s * (walls[other] - walls[a])) / 2;
      return {
        at,
        deep: at.map((x, d) => x + depth * inwards[d]),
        offset: [0, 1, 2].map((d) => mean(offsets, d)),
      };
    });
    const [p, q] = ends;
    for (const [at, { offset }] of [
      [p.at, p],
      [q.at, q],
      [q.deep, q],
      [p.at, p],
      [q.deep, q],
      [p.deep, p],
    ] as const) {
      places.push(...at);
      moved.push(...offset);
    }
  }
  return { positions: Float32Array.from(places), offsets: Float32Array.from(moved) };
}

/** Of a triangle whose corners run round it as seen from outside; nothing for a sliver. */
function inwardNormal(positions: ArrayLike<number>, [i, j, k]: readonly number[]): [number, number, number] {
  const side = (v: number, d: number) => positions[3 * v + d] - positions[3 * i + d];
  const [ux, uy, uz, vx, vy, vz] = [side(j, 0), side(j, 1), side(j, 2), side(k, 0), side(k, 1), side(k, 2)];
  const n = [uz * vy - uy * vz, ux * vz - uz * vx, uy * vx - ux * vy];
  const length = Math.hypot(...n) || 1;
  return [n[0] / length, n[1] / length, n[2] / length];
}
