import { UnionFind } from '../numerics/unionFind';
import type { EdgeTable } from './edges';
import { boundsOf, type Bounds, type TriangleMesh, type Vec3 } from './mesh';

/** A connected piece of surface. */
export interface Shell {
  triangles: Uint32Array;
  /** Signed: negative when its faces point inwards. m3 */
  volume: number;
  area: number;
  bounds: Bounds;
  closed: boolean;
  /** Shell that encloses it most tightly, or -1. */
  inside: number;
}

/** Past this many shells nesting is not looked for: it costs a ray through each pair. */
const MAX_NESTED = 400;

/** Connected pieces of a mesh (through shared edges), with nesting. `t` in each is triangle numbers. */
export function findShells(mesh: TriangleMesh, edges: EdgeTable): Shell[] {
  const n = mesh.triangles.length / 3;
  const sets = new UnionFind(n);
  const openOf = new Uint8Array(n);
  for (let e = 0; e < edges.nEdges; e++) {
    const first = Math.floor(edges.halfEdges[edges.start[e]] / 3);
    const count = edges.start[e + 1] - edges.start[e];
    if (count % 2 === 1) openOf[first] = 1;
    for (let i = 1; i < count; i++) sets.union(first, Math.floor(edges.halfEdges[edges.start[e] + i] / 3));
  }
  const members = new Map<number, number[]>();
  for (let i = 0; i < n; i++) {
    const root = sets.find(i);
    const list = members.get(root);
    if (list) list.push(i);
    else members.set(root, [i]);
  }
  const shells = [...members.values()].map((list) => shellOf(mesh, list, openOf));
  if (shells.length > 1 && shells.length <= MAX_NESTED)
    shells.forEach((_, i) => (shells[i].inside = parentOf(mesh, shells, i)));
  return shells;
}

function shellOf(mesh: TriangleMesh, list: number[], openOf: Uint8Array): Shell {
  const { positions: p, triangles: t } = mesh;
  const o = 3 * t[3 * list[0]];
  let volume = 0;
  let area = 0;
  let closed = true;
  const bounds: Bounds = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
  for (const i of list) {
    if (openOf[i]) closed = false;
    const [a, b, c] = [3 * t[3 * i], 3 * t[3 * i + 1], 3 * t[3 * i + 2]];
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    volume += ((p[a] - p[o]) * nx + (p[a + 1] - p[o + 1]) * ny + (p[a + 2] - p[o + 2]) * nz) / 6;
    area += Math.sqrt(nx * nx + ny * ny + nz * nz) / 2;
    for (const v of [a, b, c]) {
      for (let d = 0; d < 3; d++) {
        if (p[v + d] < bounds.min[d]) bounds.min[d] = p[v + d];
        if (p[v + d] > bounds.max[d]) bounds.max[d] = p[v + d];
      }
    }
  }
  return { triangles: Uint32Array.from(list), volume, area, bounds, closed, inside: -1 };
}

/** The smallest closed shell whose inside holds a point of shell i. */
function parentOf(mesh: TriangleMesh, shells: Shell[], i: number): number {
  const own = shells[i];
  const t = own.triangles[0];
  const point = [0, 1, 2].map(
    (d) => [0, 1, 2].reduce((s, c) => s + mesh.positions[3 * mesh.triangles[3 * t + c] + d], 0) / 3,
  ) as Vec3;
  let best = -1;
  shells.forEach((other, j) => {
    if (j === i || !other.closed) return;
    if (best >= 0 && Math.abs(other.volume) >= Math.abs(shells[best].volume)) return;
    if (
      own.bounds.min.some((m, d) => m < other.bounds.min[d]) ||
      own.bounds.max.some((m, d) => m > other.bounds.max[d])
    )
      return;
    if (encloses(mesh, other, point)) best = j;
  });
  return best;
}

/** Parity of crossings along a slanted ray; works for shells that face either way. */
function encloses(mesh: TriangleMesh, shell: Shell, point: Vec3): boolean {
  const { positions: p, triangles: t } = mesh;
  // The ray (1, s, r) as x = x0 + w: a shear maps it onto the x axis, and crossings become a 2D test.
  const [s, r] = [0.2137, 0.1391];
  let crossings = 0;
  const uv = new Float64Array(9);
  for (const i of shell.triangles) {
    for (let c = 0; c < 3; c++) {
      const v = 3 * t[3 * i + c];
      const w = p[v] - point[0];
      uv[3 * c] = p[v + 1] - point[1] - s * w;
      uv[3 * c + 1] = p[v + 2] - point[2] - r * w;
      uv[3 * c + 2] = w;
    }
    const e0 = uv[3] * uv[7] - uv[6] * uv[4];
    const e1 = uv[6] * uv[1] - uv[0] * uv[7];
    const e2 = uv[0] * uv[4] - uv[3] * uv[1];
    if (!((e0 > 0 && e1 > 0 && e2 > 0) || (e0 < 0 && e1 < 0 && e2 < 0))) continue;
    if ((e0 * uv[2] + e1 * uv[5] + e2 * uv[8]) / (e0 + e1 + e2) > 0) crossings++;
  }
  return crossings % 2 === 1;
}

/** The triangles listed, as a mesh of its own with only the vertices it uses. */
export function subMesh(mesh: TriangleMesh, triangles: ArrayLike<number>): TriangleMesh {
  const renumber = new Map<number, number>();
  const positions: number[] = [];
  const out = new Uint32Array(3 * triangles.length);
  for (let i = 0; i < triangles.length; i++) {
    for (let c = 0; c < 3; c++) {
      const v = mesh.triangles[3 * triangles[i] + c];
      let m = renumber.get(v);
      if (m === undefined) {
        m = renumber.size;
        renumber.set(v, m);
        positions.push(mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]);
      }
      out[3 * i + c] = m;
    }
  }
  return { positions: Float64Array.from(positions), triangles: out };
}

/** Several meshes as one, in order. */
export function joined(meshes: readonly TriangleMesh[]): TriangleMesh {
  const positions = new Float64Array(meshes.reduce((s, m) => s + m.positions.length, 0));
  const triangles = new Uint32Array(meshes.reduce((s, m) => s + m.triangles.length, 0));
  let [p, t] = [0, 0];
  for (const mesh of meshes) {
    positions.set(mesh.positions, p);
    for (let i = 0; i < mesh.triangles.length; i++) triangles[t + i] = mesh.triangles[i] + p / 3;
    p += mesh.positions.length;
    t += mesh.triangles.length;
  }
  return { positions, triangles };
}

export const diagonalOf = (bounds: Bounds): number => Math.hypot(...bounds.max.map((m, d) => m - bounds.min[d]));
export const diagonal = (mesh: TriangleMesh): number => diagonalOf(boundsOf(mesh.positions));
