import { facets } from './edges';
import { measure, type TriangleMesh, type Vec3 } from './mesh';
import { SurfaceTree } from './surfaceTree';
import { add, cross, distance, dot, normalised, sub, vertexAt } from './vec';

/** Bodies that are one shape, turned and moved: numbers of the bodies and the 3 x 4 matrix from the first to each. */
export interface IdenticalGroup {
  members: number[];
  moves: number[][];
}

/** Surfaces closer than this share of the body's size everywhere are the same. */
const SAME = 1e-4;

interface Shape {
  mesh: TriangleMesh;
  volume: number;
  area: number;
  centre: Vec3;
  /** Largest distance from the centre: what lengths are compared with. */
  radius: number;
  /** Sorted distances of the corners from the centre. */
  signature: Float64Array;
}

/**
 * Groups bodies of the same shape under rotation and translation; a mirror image is another shape. Cheap
 * numbers that do not change with a move sort out almost all; what is left is proved by finding the move
 * and comparing the surfaces, so the triangles need not be the same.
 */
export function identicalBodies(meshes: readonly TriangleMesh[]): IdenticalGroup[] {
  const shapes = meshes.map(shapeOf);
  const groups: IdenticalGroup[] = [];
  shapes.forEach((shape, i) => {
    for (const group of groups) {
      const move = moveBetween(shapes[group.members[0]], shape);
      if (!move) continue;
      group.members.push(i);
      group.moves.push(move);
      return;
    }
    groups.push({ members: [i], moves: [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]] });
  });
  return groups;
}

function shapeOf(mesh: TriangleMesh): Shape {
  const { volume, area } = measure(mesh);
  const { areas, centroids } = facets(mesh);
  const total = areas.reduce((s, a) => s + a, 0);
  const centre = [0, 1, 2].map((d) => areas.reduce((s, a, i) => s + a * centroids[3 * i + d], 0) / total) as Vec3;
  const n = mesh.positions.length / 3;
  const signature = Float64Array.from({ length: n }, (_, v) => distance(vertexAt(mesh.positions, v), centre)).sort();
  return { mesh, volume, area, centre, radius: signature[n - 1] || 0, signature };
}

const alike = (a: number, b: number, scale: number) => Math.abs(a - b) <= SAME * scale;

/** The rigid move that takes a onto b, or null. */
function moveBetween(a: Shape, b: Shape): number[] | null {
  if (!alike(a.radius, b.radius, a.radius)) return null;
  if (!alike(a.area, b.area, 10 * a.area) || !alike(a.volume, b.volume, 10 * Math.abs(a.volume) || 1)) return null;
  // Three corners far apart and off one line fix the move.
  const first = pick(a.mesh, (v) => distance(v, a.centre));
  const second = pick(a.mesh, (v) => Math.hypot(...cross(sub(v, a.centre), sub(first, a.centre))));
  const u1 = sub(first, a.centre);
  const u2 = sub(second, a.centre);
  const tolerance = SAME * a.radius;
  const near = (v: Vec3, r: number) => Math.abs(distance(v, b.centre) - r) <= 4 * tolerance;
  const r1 = Math.hypot(...u1);
  const r2 = Math.hypot(...u2);
  const corners = Array.from({ length: b.mesh.positions.length / 3 }, (_, v) => vertexAt(b.mesh.positions, v));
  const firsts = corners.filter((v) => near(v, r1));
  const seconds = corners.filter((v) => near(v, r2));
  const chord = distance(first, second);
  let tree: SurfaceTree | null = null;
  let tried = 0;
  for (const p of firsts) {
    for (const q of seconds) {
      if (Math.abs(distance(p, q) - chord) > 8 * tolerance) continue;
      if (++tried > MAX_TRIES) return null;
      const move = moveOf(a.centre, u1, u2, b.centre, sub(p, b.centre), sub(q, b.centre));
      if (!corners.length || !quickMatch(a, b, move, tolerance)) continue;
      tree ??= new SurfaceTree(b.mesh);
      if (
        onSurface(a.mesh, move, tree, tolerance) &&
        onSurface(b.mesh, inverse(move), new SurfaceTree(a.mesh), tolerance)
      )
        return move;
    }
  }
  return null;
}

/** Symmetric bodies match many ways; one that fits is found long before this. */
const MAX_TRIES = 20000;

function pick(mesh: TriangleMesh, score: (v: Vec3) => number): Vec3 {
  let best = -1;
  let found: Vec3 = [0, 0, 0];
  for (let v = 0; v < mesh.positions.length / 3; v++) {
    const s = score(vertexAt(mesh.positions, v));
    if (s > best * (1 + 1e-9)) {
      best = s;
      found = vertexAt(mesh.positions, v);
    }
  }
  return found;
}

function moveOf(ca: Vec3, a1: Vec3, a2: Vec3, cb: Vec3, b1: Vec3, b2: Vec3): number[] {
  const frame = (x: Vec3, y: Vec3): Vec3[] => {
    const e1 = normalised(x);
    const e3 = normalised(cross(x, y));
    return [e1, cross(e3, e1), e3];
  };
  const A = frame(a1, a2);
  const B = frame(b1, b2);
  const rows = [0, 1, 2].map((r) => [0, 1, 2].map((c) => B[0][r] * A[0][c] + B[1][r] * A[1][c] + B[2][r] * A[2][c]));
  return rows.flatMap((row, r) => [...row, cb[r] - dot(row as Vec3, ca)]);
}

const apply = (m: number[], v: Vec3): Vec3 =>
  [0, 4, 8].map((r) => m[r] * v[0] + m[r + 1] * v[1] + m[r + 2] * v[2] + m[r + 3]) as Vec3;

function inverse(m: number[]): number[] {
  const t: Vec3 = [m[3], m[7], m[11]];
  return [0, 1, 2].flatMap((r) => {
    const row: Vec3 = [m[r], m[4 + r], m[8 + r]];
    return [...row, -dot(row, t)];
  });
}

/** A few corners first: wrong moves fall here. */
function quickMatch(a: Shape, b: Shape, move: number[], tolerance: number): boolean {
  const n = a.mesh.positions.length / 3;
  const p = b.mesh.positions;
  if (p.length !== a.mesh.positions.length) return true;
  for (let k = 0; k < 6; k++) {
    const v = apply(move, vertexAt(a.mesh.positions, Math.floor((k * (n - 1)) / 5)));
    let found = false;
    for (let i = 0; i < p.length && !found; i += 3)
      found =
        Math.abs(p[i] - v[0]) <= 4 * tolerance &&
        Math.abs(p[i + 1] - v[1]) <= 4 * tolerance &&
        Math.abs(p[i + 2] - v[2]) <= 4 * tolerance;
    // Same corners in number but not in place: another cut into triangles, or another shape.
    if (!found) return false;
  }
  return true;
}

/** Corners and middles of the triangles of a mesh, moved, all lie on the other surface. */
function onSurface(mesh: TriangleMesh, move: number[], tree: SurfaceTree, tolerance: number): boolean {
  const { positions: p, triangles: t } = mesh;
  const close = (v: Vec3) => tree.closest(...apply(move, v), 4 * tolerance) >= 0;
  for (let v = 0; v < p.length / 3; v++) if (!close(vertexAt(p, v))) return false;
  for (let i = 0; i < t.length; i += 3) {
    const [a, b, c] = [vertexAt(p, t[i]), vertexAt(p, t[i + 1]), vertexAt(p, t[i + 2])];
    if (!close(add(add(a, b), c).map((x) => x / 3) as Vec3)) return false;
  }
  return true;
}
