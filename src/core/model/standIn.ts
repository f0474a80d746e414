import type { StandIn } from './body';
import { facets } from '../geometry/edges';
import { weld, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { add, cross, dot, eigen, frameOn, normalised, scale, vertexAt } from '../geometry/vec';

export type StandInShape = StandIn['shape'];

/**
 * The smallest box, cylinder or sphere found around a body. `axis` (unit vector) fixes the cylinder's
 * axis or one edge of the box; null tries the directions of large faces, the principal axes and x, y, z.
 */
export function fitStandIn(mesh: TriangleMesh, shape: StandInShape, axis: Vec3 | null): StandIn {
  if (shape === 'sphere') return fitSphere(mesh);
  const directions = axis ? [axis] : fitDirections(mesh);
  const fits =
    shape === 'box'
      ? boxFrames(directions, mesh).map((f) => boxIn(mesh, f))
      : directions.map((d) => cylinderOn(mesh, d));
  return fits.reduce((best, fit) => (standInVolume(fit) < standInVolume(best) * (1 - 1e-6) ? fit : best));
}

export function standInVolume(s: StandIn): number {
  if (s.shape === 'box') return s.size[0] * s.size[1] * s.size[2];
  if (s.shape === 'cylinder') return (Math.PI / 4) * s.diameter ** 2 * s.length;
  return (Math.PI / 6) * s.diameter ** 3;
}

const AXES: Vec3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

function fitDirections(mesh: TriangleMesh): Vec3[] {
  const { normals, areas, centroids } = facets(mesh);
  const total = areas.reduce((s, a) => s + a, 0);
  const mean = [0, 1, 2].map((d) => areas.reduce((s, a, i) => s + a * centroids[3 * i + d], 0) / total);
  const moments = (of: (i: number, d: number) => number) =>
    [0, 1, 2].map((r) => [0, 1, 2].map((c) => areas.reduce((s, a, i) => s + a * of(i, r) * of(i, c), 0)));
  const inertia = eigen(moments((i, d) => centroids[3 * i + d] - mean[d])).vectors;
  // The flank normals of a cylinder have no part along its axis.
  const flank = eigen(moments((i, d) => normals[3 * i + d])).vectors;
  const list: Vec3[] = [];
  const push = (v: Vec3) => {
    if (!list.some((w) => Math.abs(dot(v, w)) > 1 - 1e-9)) list.push(v);
  };
  [...AXES, ...largeFaces(normals, areas), ...inertia, ...flank].forEach((v) => push(normalised(v)));
  return list;
}

function largeFaces(normals: Float64Array, areas: Float64Array): Vec3[] {
  const bins = new Map<string, { v: Vec3; area: number }>();
  areas.forEach((area, i) => {
    const v = vertexAt(normals, i);
    const sign = v.find((x) => Math.abs(x) > 1e-6)! < 0 ? -1 : 1;
    const key = v.map((x) => Math.round(200 * sign * x)).join();
    const bin = bins.get(key) ?? { v: scale(v, sign), area: 0 };
    bin.area += area;
    bins.set(key, bin);
  });
  return [...bins.values()]
    .sort((a, b) => b.area - a.area)
    .slice(0, 8)
    .map((b) => b.v);
}

/** Frames with each direction as one axis and the projection of another as the second. */
function boxFrames(directions: Vec3[], mesh: TriangleMesh): [Vec3, Vec3, Vec3][] {
  const frames: [Vec3, Vec3, Vec3][] = [];
  const seconds = directions.length > 1 ? directions : fitDirections(mesh);
  for (const a of directions) {
    for (const b of seconds) {
      const across = add(b, a, -dot(a, b));
      if (Math.hypot(...across) < 0.2) continue;
      const u = normalised(across);
      frames.push([u, cross(a, u), a]);
    }
  }
  return frames;
}

function extent(mesh: TriangleMesh, d: Vec3): [number, number] {
  let [low, high] = [Infinity, -Infinity];
  const { positions: p } = mesh;
  for (let i = 0; i < p.length; i += 3) {
    const x = p[i] * d[0] + p[i + 1] * d[1] + p[i + 2] * d[2];
    if (x < low) low = x;
    if (x > high) high = x;
  }
  return [low, high];
}

function boxIn(mesh: TriangleMesh, axes: [Vec3, Vec3, Vec3]): StandIn {
  const spans = axes.map((d) => extent(mesh, d));
  const centre = axes.reduce((c, d, i) => add(c, d, (spans[i][0] + spans[i][1]) / 2), [0, 0, 0] as Vec3);
  return { shape: 'box', centre, axes, size: spans.map(([a, b]) => Math.max(b - a, 1e-9)) as Vec3 };
}

function cylinderOn(mesh: TriangleMesh, axis: Vec3): StandIn {
  const [u, v] = frameOn(axis);
  const { positions: p } = mesh;
  const flat: [number, number][] = [];
  for (let i = 0; i < p.length / 3; i++) {
    const q = vertexAt(p, i);
    flat.push([dot(q, u), dot(q, v)]);
  }
  const { x, y, r } = enclosingCircle(flat);
  const [low, high] = extent(mesh, axis);
  const centre = add(add(scale(u, x), v, y), axis, (low + high) / 2);
  return { shape: 'cylinder', centre, axis, diameter: Math.max(2 * r, 1e-9), length: Math.max(high - low, 1e-9) };
}

/** Smallest circle around points (Welzl 1991, the points in a fixed shuffle). */
export function enclosingCircle(input: [number, number][]): { x: number; y: number; r: number } {
  const points = input.slice();
  let seed = 12345;
  for (let i = points.length - 1; i > 0; i--) {
    seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
    const j = seed % (i + 1);
    [points[i], points[j]] = [points[j], points[i]];
  }
  let c = { x: 0, y: 0, r: -1 };
  const outside = ([x, y]: [number, number]) => Math.hypot(x - c.x, y - c.y) > c.r * (1 + 1e-12) + 1e-15;
  const two = (a: [number, number], b: [number, number]) => ({
    x: (a[0] + b[0]) / 2,
    y: (a[1] + b[1]) / 2,
    r: Math.hypot(a[0] - b[0], a[1] - b[1]) / 2,
  });
  const three = (a: [number, number], b: [number, number], d: [number, number]) => {
    const [bx, by, dx, dy] = [b[0] - a[0], b[1] - a[1], d[0] - a[0], d[1] - a[1]];
    const det = 2 * (bx * dy - by * dx);
    if (Math.abs(det) < 1e-300) return two(a, Math.hypot(bx, by) > Math.hypot(dx, dy) ? b : d);
    const x = (dy * (bx * bx + by * by) - by * (dx * dx + dy * dy)) / det;
    const y = (bx * (dx * dx + dy * dy) - dx * (bx * bx + by * by)) / det;
    return { x: a[0] + x, y: a[1] + y, r: Math.hypot(x, y) };
  };
  for (let i = 0; i < points.length; i++) {
    if (!outside(points[i])) continue;
    c = { x: points[i][0], y: points[i][1], r: 0 };
    for (let j = 0; j < i; j++) {
      if (!outside(points[j])) continue;
      c = two(points[i], points[j]);
      for (let k = 0; k < j; k++) if (outside(points[k])) c = three(points[i], points[j], points[k]);
    }
  }
  return c;
}

/** Ball around all vertices: steps towards the farthest one shrink to the smallest (Badoiu & Clarkson 2003). */
function fitSphere(mesh: TriangleMesh): StandIn {
  const { positions: p } = mesh;
  let centre = vertexAt(p, 0);
  let r2 = 0;
  for (let step = 1; step <= 400; step++) {
    let far = 0;
    r2 = -1;
    for (let i = 0; i < p.length / 3; i++) {
      const d2 = (p[3 * i] - centre[0]) ** 2 + (p[3 * i + 1] - centre[1]) ** 2 + (p[3 * i + 2] - centre[2]) ** 2;
      if (d2 > r2) {
        r2 = d2;
        far = i;
      }
    }
    if (step < 400) centre = add(centre, add(vertexAt(p, far), centre, -1), 1 / (step + 1));
  }
  return { shape: 'sphere', centre, diameter: 2 * Math.sqrt(r2) };
}

const STEPS = 48;

/** Closed surface of a stand-in. */
export function standInMesh(s: StandIn): TriangleMesh {
  const soup: number[] = [];
  const quad = (a: Vec3, b: Vec3, c: Vec3, d: Vec3) => soup.push(...a, ...b, ...c, ...a, ...c, ...d);
  if (s.shape === 'box') {
    const corner = (i: number): Vec3 =>
      s.axes.reduce((c, d, k) => add(c, d, ((i >> k) & 1 ? 0.5 : -0.5) * s.size[k]), s.centre);
    for (const [a, b, c, d] of [
      [0, 2, 3, 1],
      [4, 5, 7, 6],
      [0, 1, 5, 4],
      [2, 6, 7, 3],
      [0, 4, 6, 2],
      [1, 3, 7, 5],
    ])
      quad(corner(a), corner(b), corner(c), corner(d));
    return outwards(weld(soup).mesh);
  }
  const [u, v, w] = frameOn(s.shape === 'cylinder' ? s.axis : [0, 0, 1]);
  const at = (r: number, z: number, k: number): Vec3 => {
    const angle = (2 * Math.PI * (k % STEPS)) / STEPS;
    const ring = r === 0 ? s.centre : add(add(s.centre, u, r * Math.cos(angle)), v, r * Math.sin(angle));
    return add(ring, w, z);
  };
  const profile: [number, number][] =
    s.shape === 'cylinder'
      ? [
          [0, -s.length / 2],
          [s.diameter / 2, -s.length / 2],
          [s.diameter / 2, s.length / 2],
          [0, s.length / 2],
        ]
      : Array.from({ length: STEPS / 2 + 1 }, (_, i): [number, number] => {
          const angle = -Math.PI / 2 + (2 * Math.PI * i) / STEPS;
          const r = i === 0 || i === STEPS / 2 ? 0 : Math.cos(angle);
          return [(r * s.diameter) / 2, (Math.sin(angle) * s.diameter) / 2];
        });
  for (let i = 0; i + 1 < profile.length; i++)
    for (let k = 0; k < STEPS; k++)
      quad(at(...profile[i], k), at(...profile[i], k + 1), at(...profile[i + 1], k + 1), at(...profile[i + 1], k));
  return weld(soup).mesh;
}

/** Frames may be left-handed (typed in): the box must face outwards all the same. */
function outwards(mesh: TriangleMesh): TriangleMesh {
  const { positions: p, triangles: t } = mesh;
  let volume = 0;
  for (let i = 0; i < t.length; i += 3)
    volume += dot(vertexAt(p, t[i]), cross(vertexAt(p, t[i + 1]), vertexAt(p, t[i + 2])));
  if (volume >= 0) return mesh;
  const triangles = t.slice();
  for (let i = 0; i < t.length; i += 3) [triangles[i + 1], triangles[i + 2]] = [t[i + 2], t[i + 1]];
  return { positions: p, triangles };
}

/** The stand-in moved by a rigid 3 x 4 matrix. */
export function movedStandIn(s: StandIn, m: readonly number[]): StandIn {
  const turn = (v: Vec3) => [0, 4, 8].map((r) => m[r] * v[0] + m[r + 1] * v[1] + m[r + 2] * v[2]) as Vec3;
  const centre = add(turn(s.centre), [m[3], m[7], m[11]]);
  if (s.shape === 'box') return { ...s, centre, axes: s.axes.map(turn) as [Vec3, Vec3, Vec3] };
  return s.shape === 'cylinder' ? { ...s, centre, axis: turn(s.axis) } : { ...s, centre };
}
