import { acrossEdges, edgeTable, fromVertex, toVertex } from './edges';
import type { TriangleMesh, Vec3 } from './mesh';

/** Faces that meet at more than this make an edge one sees, rad. */
const SHARP = (25 * Math.PI) / 180;
/** Pieces of an edge that bend by less than this run on as one, rad. */
const STRAIGHT = (4 * Math.PI) / 180;

const minus = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const norm = (a: Vec3) => Math.sqrt(dot(a, a));
const along = (a: Vec3, b: Vec3, t: number): Vec3 => [0, 1, 2].map((d) => a[d] + t * (b[d] - a[d])) as Vec3;

/** The sharp edge nearest to a point: the place on it, and the middle of its straight run. */
export interface EdgeSnap {
  point: Vec3;
  middle: Vec3;
  distance: number;
}

/** Metres. null where the surface has no sharp edge. */
export function snapToEdge(mesh: TriangleMesh, at: Vec3): EdgeSnap | null {
  const edges = sharpEdges(mesh);
  let best: { edge: [number, number]; point: Vec3; distance: number } | null = null;
  const vertex = (v: number): Vec3 => [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]];
  for (const edge of edges) {
    const [a, b] = [vertex(edge[0]), vertex(edge[1])];
    const way = minus(b, a);
    const t = Math.min(1, Math.max(0, dot(minus(at, a), way) / dot(way, way)));
    const point = along(a, b, t);
    const distance = norm(minus(at, point));
    if (!best || distance < best.distance) best = { edge, point, distance };
  }
  if (!best) return null;
  const [first, last] = straightRun(best.edge, edges, vertex);
  return { point: best.point, middle: along(vertex(first), vertex(last), 0.5), distance: best.distance };
}

function sharpEdges(mesh: TriangleMesh): [number, number][] {
  const { positions: p, triangles: t } = mesh;
  const normals = new Float64Array(t.length);
  for (let f = 0; f < t.length; f += 3) {
    const [a, b, c] = [t[f], t[f + 1], t[f + 2]].map((v): Vec3 => [p[3 * v], p[3 * v + 1], p[3 * v + 2]]);
    const [u, w] = [minus(b, a), minus(c, a)];
    const n: Vec3 = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]];
    const length = norm(n) || 1;
    for (let d = 0; d < 3; d++) normals[f + d] = n[d] / length;
  }
  const normal = (face: number): Vec3 => [normals[3 * face], normals[3 * face + 1], normals[3 * face + 2]];
  const across = acrossEdges(edgeTable(mesh));
  const found: [number, number][] = [];
  across.forEach((other, e) => {
    if (other < e || dot(normal(Math.floor(e / 3)), normal(Math.floor(other / 3))) > Math.cos(SHARP)) return;
    found.push([fromVertex(t, e), toVertex(t, e)]);
  });
  return found;
}

/** Ends of the straight chain of sharp edges that holds `edge`. */
function straightRun(
  edge: [number, number],
  edges: readonly [number, number][],
  vertex: (v: number) => Vec3,
): [number, number] {
  const at = new Map<number, [number, number][]>();
  for (const e of edges) for (const v of e) at.set(v, [...(at.get(v) ?? []), e]);
  const run = (from: number, to: number): number => {
    const seen = new Set([from]);
    for (;;) {
      const way = minus(vertex(to), vertex(from));
      const next = (at.get(to) ?? [])
        .map(([a, b]) => (a === to ? b : a))
        .find((v) => {
          if (seen.has(v)) return false;
          const on = minus(vertex(v), vertex(to));
          return dot(way, on) > Math.cos(STRAIGHT) * norm(way) * norm(on);
        });
      if (next === undefined) return to;
      seen.add(to);
      [from, to] = [to, next];
    }
  };
  return [run(edge[1], edge[0]), run(edge[0], edge[1])];
}
