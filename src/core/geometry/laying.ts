import { Matrix, SingularValueDecomposition, solve } from 'ml-matrix';
import type { TriangleMesh, Vec3 } from './mesh';
import { after, placed, UNMOVED } from './placement';
import { SurfaceTree } from './surfaceTree';
import { cross, distance, dot, eigen, normalised, sub, vertexAt } from './vec';

/** How one part lies on another of the same or nearly the same shape. */
export interface Laying {
  /** Rows of the 3 x 4 matrix that brings places of the first part to those of the second. */
  matrix: readonly number[];
  /** Mean distance of the first surface from the second, without its farthest fifth, and with it, m. */
  distance: number;
  whole: number;
}

/** Points of the surface that are laid on, and of them those by which a start is judged. */
const SAMPLES = 1200;
const FEW = 240;
/** Share of them that counts: what has been added or removed must not pull the rest away. */
const COUNTED = 0.8;
const STEPS = 40;
/** Parts whose surfaces are nearer than this share of their size lie as they are drawn. */
const NEAR = 2e-3;
/** Starts that are followed to their end, and by how much of its size a part may lie otherwise and still lie alike. */
const KEPT = 6;
const ALIKE = 1e-4;
/** Another way to lie must be nearer by this factor than the drawn one. */
const CLEARLY = 0.5;

/**
 * The rigid motion that lays a part onto another one: none where they lie on each other as drawn, else the nearest that
 * is found from their principal axes by iterated closest points (Besl & McKay 1992, towards planes as Chen & Medioni 1992, trimmed as
 * Chetverikov et al. 2002). A part that fits several ways round lies so that its marks [m], its gates, come nearest to
 * those of the other, and without such the way that turns it least.
 */
export function layOnto(from: TriangleMesh, onto: TriangleMesh, marks: Marks = NO_MARKS): Laying {
  const tree = new SurfaceTree(onto);
  const points = surfacePoints(from, SAMPLES);
  const few = surfacePoints(from, FEW);
  const { distance: apart, whole } = closest(points, tree, UNMOVED);
  const drawn: Laying = { matrix: UNMOVED, distance: apart, whole };
  const [own, other] = [axesOf(points), axesOf(surfacePoints(onto, SAMPLES))];
  if (apart <= NEAR * own.size) return drawn;
  const ends = [UNMOVED, ...WAYS.map((way) => motionBetween(own, other, way))]
    // All are judged after a few steps, the best goes on to its end.
    .map((start) => settled(few, tree, start, STEPS / 8))
    .sort((a, b) => a.distance - b.distance)
    .slice(0, KEPT)
    .map(({ matrix }) => settled(points, tree, matrix, STEPS, (pairs, from) => slidMotion(pairs, from, onto)));
  const least = Math.min(...ends.map((e) => e.distance));
  // Of those that lie alike the one that brings most of what stands out of the part onto the other, too.
  const near = ends.filter((e) => e.distance <= least + ALIKE * own.size);
  const wholly = Math.min(...near.map((e) => e.whole));
  const [best] = near
    .filter((e) => e.whole <= wholly + ALIKE * own.size)
    .map((end) => ({ end, apart: marksApart(marks, end.matrix), turn: angleOf(end.matrix) }))
    .sort((a, b) => (Math.abs(a.apart - b.apart) > ALIKE * own.size ? a.apart - b.apart : a.turn - b.turn));
  return best.end.distance < CLEARLY * apart ? best.end : drawn;
}

/** Places that go with a part: of the one that is laid, and of the one it is laid onto, m. */
interface Marks {
  from: readonly Vec3[];
  onto: readonly Vec3[];
}
const NO_MARKS: Marks = { from: [], onto: [] };

/** Mean distance of the moved marks of the first from the nearest of the second; 0 where either has none. */
function marksApart({ from, onto }: Marks, matrix: readonly number[]): number {
  if (!from.length || !onto.length) return 0;
  const least = from.map((p) => Math.min(...onto.map((q) => distance(placed(matrix, p), q))));
  return least.reduce((s, x) => s + x, 0) / least.length;
}

/** Angle by which a motion turns, from the trace of its rotation. */
const angleOf = (m: readonly number[]): number => Math.acos(Math.max(-1, Math.min(1, (m[0] + m[5] + m[10] - 1) / 2)));

/** Points spread evenly over a surface, about `n` of them; the same ones for the same surface. */
export function surfacePoints({ positions, triangles }: TriangleMesh, n: number): Vec3[] {
  const corners = (i: number) => [0, 1, 2].map((c) => vertexAt(positions, triangles[i + c]));
  const areas = Array.from({ length: triangles.length / 3 }, (_, i) => {
    const [a, b, c] = corners(3 * i);
    return Math.hypot(...cross(sub(b, a), sub(c, a)));
  });
  const step = areas.reduce((s, x) => s + x, 0) / n;
  const points: Vec3[] = [];
  let due = step / 2;
  areas.forEach((area, i) => {
    for (; due <= area; due += step) {
      // Additive recurrence (Roberts 2018): evenly spread over a square, folded onto the triangle.
      const [u, v] = [0.7548776662, 0.5698402909].map((x) => (x * (points.length + 1)) % 1);
      const [s, t] = u + v > 1 ? [1 - u, 1 - v] : [u, v];
      const [a, b, c] = corners(3 * i);
      points.push([0, 1, 2].map((d) => a[d] + s * (b[d] - a[d]) + t * (c[d] - a[d])) as Vec3);
    }
    due -= area;
  });
  return points;
}

/** A point, and where the other surface is nearest to it as it lies now. */
interface Pair {
  p: Vec3;
  q: Vec3;
  distance: number;
  /** Of the other surface. */
  triangle: number;
}

/** Nearest places of the surface to the moved points that count, with their mean distance. */
function closest(points: readonly Vec3[], tree: SurfaceTree, matrix: readonly number[]) {
  const pairs = points.map((p): Pair => {
    const [x, y, z] = placed(matrix, p);
    const triangle = tree.closest(x, y, z);
    return { p, q: [...tree.point] as Vec3, distance: tree.distance, triangle };
  });
  pairs.sort((a, b) => a.distance - b.distance);
  const counted = pairs.slice(0, Math.ceil(COUNTED * pairs.length));
  const mean = (list: readonly Pair[]) => list.reduce((s, c) => s + c.distance, 0) / list.length;
  return { counted, distance: mean(counted), whole: mean(pairs) };
}

/** Points laid onto the nearest places of a surface again and again, until they no longer come nearer. */
function settled(
  points: readonly Vec3[],
  tree: SurfaceTree,
  start: readonly number[],
  steps: number,
  nearest: (pairs: readonly Pair[], now: readonly number[]) => number[] = bestMotion,
): Laying {
  let matrix = start;
  let found = closest(points, tree, matrix);
  for (let step = 0; step < steps; step++) {
    const next = nearest(found.counted, matrix);
    const nearer = closest(points, tree, next);
    if (!(nearer.distance < found.distance)) break;
    const done = nearer.distance > (1 - 1e-4) * found.distance;
    matrix = next;
    found = nearer;
    if (done) break;
  }
  return { matrix, distance: found.distance, whole: found.whole };
}

/** The motion with the least squares of distance between pairs of points (Kabsch 1976). */
function bestMotion(pairs: readonly Pair[]): number[] {
  const mean = (of: (pair: Pair) => Vec3): Vec3 =>
    [0, 1, 2].map((d) => pairs.reduce((s, pair) => s + of(pair)[d], 0) / pairs.length) as Vec3;
  const [p0, q0] = [mean(({ p }) => p), mean(({ q }) => q)];
  const moment = Matrix.zeros(3, 3);
  for (const { p, q } of pairs)
    for (let i = 0; i < 3; i++)
      for (let j = 0; j < 3; j++) moment.set(i, j, moment.get(i, j) + (q[i] - q0[i]) * (p[j] - p0[j]));
  const { leftSingularVectors: U, rightSingularVectors: V } = new SingularValueDecomposition(moment);
  const [u, v] = [U, V].map((m) => [0, 1, 2].map((c) => m.getColumn(c) as Vec3));
  const sign = Math.sign(dot(u[2], cross(u[0], u[1])) * dot(v[2], cross(v[0], v[1]))) || 1;
  const rotation = [0, 1, 2].map((i) =>
    [0, 1, 2].map((j) => u[0][i] * v[0][j] + u[1][i] * v[1][j] + sign * u[2][i] * v[2][j]),
  );
  return about(rotation, p0, q0);
}

/** The motion, after `now`, with the least squares of distance from the planes that are met: points may slide in them. */
function slidMotion(pairs: readonly Pair[], now: readonly number[], { positions, triangles }: TriangleMesh): number[] {
  const lying = pairs.map(({ p }) => placed(now, p));
  const centre = [0, 1, 2].map((d) => lying.reduce((s, p) => s + p[d], 0) / lying.length) as Vec3;
  const size = Math.sqrt(lying.reduce((s, p) => s + dot(sub(p, centre), sub(p, centre)), 0) / lying.length);
  const [A, b] = [Matrix.zeros(6, 6), Matrix.zeros(6, 1)];
  pairs.forEach(({ q, triangle }, k) => {
    const [c0, c1, c2] = [0, 1, 2].map((c) => vertexAt(positions, triangles[3 * triangle + c]));
    const normal = normalised(cross(sub(c1, c0), sub(c2, c0)));
    const row = [...normal, ...cross(sub(lying[k], centre), normal).map((x) => x / size)];
    const gap = dot(normal, sub(q, lying[k]));
    row.forEach((x, i) => {
      b.set(i, 0, b.get(i, 0) + x * gap);
      row.forEach((y, j) => A.set(i, j, A.get(i, j) + x * y));
    });
  });
  // Ways to slide that no plane holds, as those of a round bar, stay as they are.
  for (let i = 0; i < 6; i++) A.set(i, i, A.get(i, i) + 1e-6 * pairs.length);
  const [sx, sy, sz, ...turn] = solve(A, b).getColumn(0);
  const angle = Math.hypot(...turn) / size;
  const axis = normalised(turn as Vec3);
  const to = centre.map((c, d) => c + [sx, sy, sz][d]) as Vec3;
  return after(about(rotationAbout(axis, angle), centre, to), now);
}

/** Rodrigues' rotation. */
const rotationAbout = (axis: Vec3, angle: number): number[][] => {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const [x, y, z] = axis;
  const skew = [
    [0, -z, y],
    [z, 0, -x],
    [-y, x, 0],
  ];
  return [0, 1, 2].map((i) => [0, 1, 2].map((j) => (i === j ? c : 0) + s * skew[i][j] + (1 - c) * axis[i] * axis[j]));
};

/** The motion that turns about `from` and brings it to `to`. */
const about = (rotation: readonly (readonly number[])[], from: Vec3, to: Vec3): number[] =>
  rotation.flatMap((row, d) => [...row, to[d] - row.reduce((s, x, e) => s + x * from[e], 0)]);

interface Axes {
  centre: Vec3;
  /** Longest first, a right-handed frame. */
  axes: readonly [Vec3, Vec3, Vec3];
  /** Radius of gyration, m. */
  size: number;
}

function axesOf(points: readonly Vec3[]): Axes {
  const centre = [0, 1, 2].map((d) => points.reduce((s, p) => s + p[d], 0) / points.length) as Vec3;
  const spread = [0, 1, 2].map((i) =>
    [0, 1, 2].map((j) => points.reduce((s, p) => s + (p[i] - centre[i]) * (p[j] - centre[j]), 0) / points.length),
  );
  const { values, vectors } = eigen(spread);
  const [x, y] = vectors.map(normalised);
  return { centre, axes: [x, y, cross(x, y)], size: Math.sqrt(values[0] + values[1] + values[2]) };
}

/** The 24 ways to lay one right-handed frame of axes onto another: axis and sign for each of the three. */
const WAYS = [
  [0, 1],
  [0, 2],
  [1, 0],
  [1, 2],
  [2, 0],
  [2, 1],
].flatMap(([i, j]) => [1, -1].flatMap((s) => [1, -1].map((t) => ({ i, j, s, t }))));

function motionBetween(from: Axes, to: Axes, { i, j, s, t }: (typeof WAYS)[number]): number[] {
  const x = to.axes[i].map((c) => s * c) as Vec3;
  const y = to.axes[j].map((c) => t * c) as Vec3;
  const images = [x, y, cross(x, y)];
  const rotation = [0, 1, 2].map((r) =>
    [0, 1, 2].map((c) => images.reduce((sum, image, k) => sum + image[r] * from.axes[k][c], 0)),
  );
  return about(rotation, from.centre, to.centre);
}

/** What lies of the first surface farther than `apart` [m] outside the second one, or inside it: triangle numbers. */
export function apartFrom(
  mesh: TriangleMesh,
  other: SurfaceTree,
  matrix: readonly number[],
  apart: number,
): { outside: number[]; inside: number[] } {
  const { positions, triangles } = mesh;
  const found = { outside: [] as number[], inside: [] as number[] };
  for (let i = 0; i < triangles.length; i += 3) {
    const corners = [0, 1, 2].map((c) => placed(matrix, vertexAt(positions, triangles[i + c])));
    const [x, y, z] = [0, 1, 2].map((d) => (corners[0][d] + corners[1][d] + corners[2][d]) / 3);
    other.closest(x, y, z);
    if (other.distance <= apart) continue;
    found[other.inside(x, y, z) ? 'inside' : 'outside'].push(i / 3);
  }
  return found;
}
