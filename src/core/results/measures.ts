import type { Vec3 } from '../geometry/mesh';
import { cross, dot, eigen, frameOn, normalised, sub } from '../geometry/vec';

/** Facets belong to one face while they bend by less than this from one to the next, rad. */
const SMOOTH_BEND = 0.35;
/** A face is flat when no facet turns from the first by more than this, rad. */
const FLAT_BEND = 0.02;

/** Vertices and facets of a face picked on a surface. */
export interface Face {
  triangles: number[];
  vertices: number[];
  kind: 'flat' | 'round';
  /** Normal of a flat face, axis of a round one. */
  direction: Vec3;
}

interface Surface {
  positions: ArrayLike<number>;
  triangles: ArrayLike<number>;
}

const at = (p: ArrayLike<number>, v: number): Vec3 => [p[3 * v], p[3 * v + 1], p[3 * v + 2]];

/** The face around a facet: all facets reached over smooth edges; a flat one where that stays plane. */
export function faceAround(surface: Surface, seed: number): Face {
  const { positions: p, triangles: t } = surface;
  const normal = (i: number) =>
    normalised(cross(sub(at(p, t[3 * i + 1]), at(p, t[3 * i])), sub(at(p, t[3 * i + 2]), at(p, t[3 * i]))));
  const byEdge = new Map<string, number[]>();
  const edge = (a: number, b: number) => (a < b ? `${a}-${b}` : `${b}-${a}`);
  for (let i = 0; i < t.length / 3; i++)
    for (let k = 0; k < 3; k++) {
      const key = edge(t[3 * i + k], t[3 * i + ((k + 1) % 3)]);
      (byEdge.get(key) ?? byEdge.set(key, []).get(key)!).push(i);
    }
  const first = normal(seed);
  const grow = (belongs: (i: number, from: number) => boolean): number[] => {
    const found = new Set([seed]);
    const queue = [seed];
    for (const i of queue)
      for (let k = 0; k < 3; k++)
        for (const j of byEdge.get(edge(t[3 * i + k], t[3 * i + ((k + 1) % 3)])) ?? []) {
          if (found.has(j) || !belongs(j, i)) continue;
          found.add(j);
          queue.push(j);
        }
    return [...found];
  };
  const flat = grow((i) => dot(normal(i), first) > Math.cos(FLAT_BEND));
  const smooth = grow((i, from) => dot(normal(i), normal(from)) > Math.cos(SMOOTH_BEND));
  // A plane face with rounded edges reaches beyond its plane, too: then the plane is meant.
  const area = (list: number[]) => list.reduce((s, i) => s + areaOf(p, t, i), 0);
  const round = area(flat) < 0.5 * area(smooth);
  const triangles = round ? smooth : flat;
  const vertices = [...new Set(triangles.flatMap((i) => [t[3 * i], t[3 * i + 1], t[3 * i + 2]]))];
  return {
    triangles,
    vertices,
    kind: round ? 'round' : 'flat',
    direction: round ? axisOf(triangles.map(normal)) : first,
  };
}

function areaOf(p: ArrayLike<number>, t: ArrayLike<number>, i: number): number {
  const [a, b, c] = [at(p, t[3 * i]), at(p, t[3 * i + 1]), at(p, t[3 * i + 2])];
  return Math.hypot(...cross(sub(b, a), sub(c, a))) / 2;
}

/** The direction that all normals of a cylinder are square to. */
function axisOf(normals: readonly Vec3[]): Vec3 {
  const m = [0, 1, 2].map((i) => [0, 1, 2].map((j) => normals.reduce((s, n) => s + n[i] * n[j], 0)));
  return eigen(m).vectors[2];
}

/** Least-squares plane through points: its middle, normal, and how far points lie off it [m]. */
export function planeThrough(points: readonly Vec3[]): { middle: Vec3; normal: Vec3; flatness: number } {
  const middle = [0, 1, 2].map((d) => points.reduce((s, p) => s + p[d], 0) / points.length) as Vec3;
  const m = [0, 1, 2].map((i) =>
    [0, 1, 2].map((j) => points.reduce((s, p) => s + (p[i] - middle[i]) * (p[j] - middle[j]), 0)),
  );
  const normal = eigen(m).vectors[2];
  const off = points.map((p) => dot(sub(p, middle), normal));
  return { middle, normal, flatness: Math.max(...off) - Math.min(...off) };
}

/** Angle [rad] between two flat faces by their planes; 0 .. pi, of the normals as they point. */
export function angleBetween(a: readonly Vec3[], outwardA: Vec3, b: readonly Vec3[], outwardB: Vec3): number {
  const towards = (n: Vec3, outward: Vec3): Vec3 => (dot(n, outward) < 0 ? [-n[0], -n[1], -n[2]] : n);
  const [na, nb] = [towards(planeThrough(a).normal, outwardA), towards(planeThrough(b).normal, outwardB)];
  return Math.atan2(Math.hypot(...cross(na, nb)), dot(na, nb));
}

/** Least-squares circle square to an axis: its radius and the range of the radii [m]. */
export function roundness(points: readonly Vec3[], axis: Vec3): { radius: number; roundness: number } {
  const [u, v] = frameOn(axis);
  const flat = points.map((p) => [dot(p, u), dot(p, v)]);
  const mean = [0, 1].map((d) => flat.reduce((s, p) => s + p[d], 0) / flat.length);
  // x2 + y2 + a x + b y + c = 0 about the mean (Kasa 1976): three linear equations.
  let [xx, xy, yy, xz, yz] = [0, 0, 0, 0, 0];
  let spread = 0;
  for (const p of flat) {
    const [x, y] = [p[0] - mean[0], p[1] - mean[1]];
    const z = x * x + y * y;
    xx += x * x;
    xy += x * y;
    yy += y * y;
    xz += x * z;
    yz += y * z;
    spread += z;
  }
  const det = xx * yy - xy * xy || 1e-300;
  const [cx, cy] = [(xz * yy - yz * xy) / det / 2, (yz * xx - xz * xy) / det / 2];
  const radius = Math.sqrt(spread / flat.length + cx * cx + cy * cy);
  const radii = flat.map((p) => Math.hypot(p[0] - mean[0] - cx, p[1] - mean[1] - cy));
  return { radius, roundness: Math.max(...radii) - Math.min(...radii) };
}
