import type { TriangleMesh, Vec3 } from './mesh';

/**
 * Which half-edges lie on which edge. Half-edge h = 3 t + e runs from corner e to corner e + 1 of
 * triangle t. Half-edges of edge i: `halfEdges[start[i]] … halfEdges[start[i + 1] - 1]`.
 */
export interface EdgeTable {
  nEdges: number;
  halfEdges: Int32Array;
  start: Int32Array;
  /** Edge of each half-edge. */
  edgeOf: Int32Array;
}

export const fromVertex = (t: Uint32Array, h: number): number => t[h];
export const toVertex = (t: Uint32Array, h: number): number => t[h % 3 === 2 ? h - 2 : h + 1];

/** Edge table of a mesh by two counting passes: linear in the triangles. */
export function edgeTable(mesh: TriangleMesh): EdgeTable {
  const { triangles: t } = mesh;
  const nVertices = mesh.positions.length / 3;
  const n = t.length;
  const low = (h: number) => Math.min(fromVertex(t, h), toVertex(t, h));
  const high = (h: number) => Math.max(fromVertex(t, h), toVertex(t, h));
  // By the higher vertex first, then stably by the lower: equal edges end up side by side.
  const byHigh = countingSort(n, nVertices, null, high);
  const halfEdges = countingSort(n, nVertices, byHigh, low);
  const edgeOf = new Int32Array(n);
  const start = new Int32Array(n + 1);
  let nEdges = 0;
  for (let i = 0; i < n; i++) {
    const h = halfEdges[i];
    if (i === 0 || low(h) !== low(halfEdges[i - 1]) || high(h) !== high(halfEdges[i - 1])) start[nEdges++] = i;
    edgeOf[h] = nEdges - 1;
  }
  start[nEdges] = n;
  return { nEdges, halfEdges, start: start.slice(0, nEdges + 1), edgeOf };
}

function countingSort(n: number, nKeys: number, order: Int32Array | null, key: (i: number) => number): Int32Array {
  const offset = new Int32Array(nKeys + 1);
  for (let i = 0; i < n; i++) offset[key(i) + 1]++;
  for (let k = 0; k < nKeys; k++) offset[k + 1] += offset[k];
  const sorted = new Int32Array(n);
  for (let i = 0; i < n; i++) {
    const item = order ? order[i] : i;
    sorted[offset[key(item)]++] = item;
  }
  return sorted;
}

/** Across each half-edge: the half-edge on its other side where exactly two meet, else -1. */
export function acrossEdges(edges: EdgeTable): Int32Array {
  const across = new Int32Array(edges.halfEdges.length).fill(-1);
  for (let i = 0; i < edges.nEdges; i++) {
    if (edges.start[i + 1] - edges.start[i] !== 2) continue;
    const [a, b] = [edges.halfEdges[edges.start[i]], edges.halfEdges[edges.start[i] + 1]];
    across[a] = b;
    across[b] = a;
  }
  return across;
}

/** How the triangles of an edge meet. */
export type EdgeKind = 'open' | 'regular' | 'misoriented' | 'non-manifold';

export function edgeKind(t: Uint32Array, edges: EdgeTable, edge: number): EdgeKind {
  const n = edges.start[edge + 1] - edges.start[edge];
  if (n === 1) return 'open';
  let forward = 0;
  for (let i = edges.start[edge]; i < edges.start[edge + 1]; i++) {
    const h = edges.halfEdges[i];
    if (fromVertex(t, h) < toVertex(t, h)) forward++;
  }
  // Bodies that touch along an edge have as many triangles one way as the other: still a closed surface.
  if (2 * forward === n) return 'regular';
  return n === 2 ? 'misoriented' : 'non-manifold';
}

/** Unit normal and area of a triangle; the normal is zero where the area is. */
export function facet(p: ArrayLike<number>, t: ArrayLike<number>, i: number): { normal: Vec3; area: number } {
  const [a, b, c] = [3 * t[3 * i], 3 * t[3 * i + 1], 3 * t[3 * i + 2]];
  const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
  const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
  const n: Vec3 = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
  const length = Math.hypot(n[0], n[1], n[2]);
  return { normal: length > 0 ? [n[0] / length, n[1] / length, n[2] / length] : [0, 0, 0], area: length / 2 };
}

/** Normals (3 per triangle), areas and centroids (3 per triangle) of all triangles. */
export function facets(mesh: TriangleMesh): { normals: Float64Array; areas: Float64Array; centroids: Float64Array } {
  const { positions: p, triangles: t } = mesh;
  const n = t.length / 3;
  const normals = new Float64Array(3 * n);
  const areas = new Float64Array(n);
  const centroids = new Float64Array(3 * n);
  for (let i = 0; i < n; i++) {
    const { normal, area } = facet(p, t, i);
    normals.set(normal, 3 * i);
    areas[i] = area;
    for (let d = 0; d < 3; d++)
      centroids[3 * i + d] = (p[3 * t[3 * i] + d] + p[3 * t[3 * i + 1] + d] + p[3 * t[3 * i + 2] + d]) / 3;
  }
  return { normals, areas, centroids };
}
