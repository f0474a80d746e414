import type { Vec3 } from './mesh';
import { cross, dot, normalised, sub } from './vec';
import { Matrix, solve } from 'ml-matrix';

/** How a shape is laid onto its drawing before the two are compared. */
export type Alignment = { by: 'best-fit' } | { by: 'three-points'; points: [Vec3, Vec3, Vec3] };

/** Rigid motion of small angles, u = shift + turn x (p - centre), and an even growth. */
export interface Motion {
  centre: Vec3;
  shift: Vec3;
  turn: Vec3;
  growth: number;
}

/** Displacement [m] of a motion at a place. */
export function moved({ centre, shift, turn, growth }: Motion, p: Vec3): Vec3 {
  const r = sub(p, centre);
  const w = cross(turn, r);
  return [0, 1, 2].map((d) => shift[d] + w[d] + growth * r[d]) as Vec3;
}

/**
 * The motion nearest to displacements (3 a point) by weighted least squares; with `growth` also the nearest
 * even growth. Weights are areas: a finer triangulation changes nothing.
 */
export function bestFit(
  positions: ArrayLike<number>,
  displacement: ArrayLike<number>,
  weights: ArrayLike<number>,
  growth = false,
): Motion {
  const total = sum(weights);
  const centre = [0, 1, 2].map((d) => sum(weights, (w, v) => w * positions[3 * v + d]) / total) as Vec3;
  const size = growth ? 7 : 6;
  const A = Matrix.zeros(size, size);
  const b = Matrix.zeros(size, 1);
  const row = new Float64Array(size);
  const extent = Math.sqrt(
    sum(weights, (w, v) => w * [0, 1, 2].reduce((s, d) => s + (positions[3 * v + d] - centre[d]) ** 2, 0)) / total,
  );
  for (let v = 0; v < weights.length; v++) {
    const w = weights[v];
    if (!(w > 0) || displacement[3 * v] !== displacement[3 * v]) continue;
    const r = [0, 1, 2].map((d) => (positions[3 * v + d] - centre[d]) / extent);
    for (let d = 0; d < 3; d++) {
      row.fill(0);
      row[d] = 1;
      const [i, j] = [(d + 1) % 3, (d + 2) % 3];
      // (turn x r)_d = turn_i r_j - turn_j r_i
      row[3 + i] = r[j];
      row[3 + j] = -r[i];
      if (growth) row[6] = r[d];
      for (let k = 0; k < size; k++) {
        b.set(k, 0, b.get(k, 0) + w * row[k] * displacement[3 * v + d]);
        for (let l = 0; l < size; l++) A.set(k, l, A.get(k, l) + w * row[k] * row[l]);
      }
    }
  }
  // A body that is a line or a point has motions that do nothing.
  for (let k = 0; k < size; k++) A.set(k, k, A.get(k, k) + 1e-12 * total);
  const x = solve(A, b).getColumn(0);
  return {
    centre,
    shift: [x[0], x[1], x[2]],
    turn: [x[3] / extent, x[4] / extent, x[5] / extent],
    growth: growth ? x[6] / extent : 0,
  };
}

/**
 * The rigid motion that three points share with the part: all of the first, across the line to the second,
 * and out of the plane at the third. `at` tells the displacement of a point. null when they lie on a line.
 */
export function threePointMotion(points: readonly [Vec3, Vec3, Vec3], at: (p: Vec3) => Vec3): Motion | null {
  const [a, b, c] = points;
  const [ab, ac] = [sub(b, a), sub(c, a)];
  const plane = cross(ab, ac);
  const area = Math.hypot(...plane);
  if (!(area > 1e-6 * (dot(ab, ab) + dot(ac, ac)))) return null;
  const along = normalised(ab);
  const normal = normalised(plane);
  const side = cross(normal, along);
  const shift = at(a);
  const [db, dc] = [sub(at(b), shift), sub(at(c), shift)];
  const length = Math.hypot(...ab);
  // Turns about normal and side carry b across the line; the turn about the line lifts c.
  const aboutNormal = dot(db, side) / length;
  const aboutSide = -dot(db, normal) / length;
  const [cx, cy] = [dot(ac, along), dot(ac, side)];
  const aboutLine = (dot(dc, normal) + aboutSide * cx) / cy;
  const turn = [0, 1, 2].map((d) => aboutNormal * normal[d] + aboutSide * side[d] + aboutLine * along[d]) as Vec3;
  return { centre: a, shift, turn, growth: 0 };
}

/** Displacements less a motion: what deviates from the drawing. 3 a point. */
export function without(positions: ArrayLike<number>, displacement: ArrayLike<number>, motion: Motion): Float32Array {
  const out = new Float32Array(displacement.length);
  for (let v = 0; v < out.length; v += 3) {
    const u = moved(motion, [positions[v], positions[v + 1], positions[v + 2]]);
    for (let d = 0; d < 3; d++) out[v + d] = displacement[v + d] - u[d];
  }
  return out;
}

/** Even growth about the centre of the points: a tool cut larger by `share`. */
export const evenGrowth = (positions: ArrayLike<number>, weights: ArrayLike<number>, share: number): Motion => {
  const total = sum(weights);
  const centre = [0, 1, 2].map((d) => sum(weights, (w, v) => w * positions[3 * v + d]) / total) as Vec3;
  return { centre, shift: [0, 0, 0], turn: [0, 0, 0], growth: share };
};

/** Area [m2] that goes with each vertex. */
export function vertexAreas(positions: ArrayLike<number>, triangles: ArrayLike<number>): Float64Array {
  const areas = new Float64Array(positions.length / 3);
  const at = (v: number): Vec3 => [positions[3 * v], positions[3 * v + 1], positions[3 * v + 2]];
  for (let i = 0; i < triangles.length; i += 3) {
    const [a, b, c] = [at(triangles[i]), at(triangles[i + 1]), at(triangles[i + 2])];
    const third = Math.hypot(...cross(sub(b, a), sub(c, a))) / 6;
    for (let k = 0; k < 3; k++) areas[triangles[i + k]] += third;
  }
  return areas;
}

function sum(list: ArrayLike<number>, of: (x: number, i: number) => number = (x) => x): number {
  let total = 0;
  for (let i = 0; i < list.length; i++) total += of(list[i], i);
  return total;
}
