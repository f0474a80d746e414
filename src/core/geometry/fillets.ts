import { UnionFind } from '../numerics/unionFind';
import { flatPatches } from './flatPatches';
import { acrossEdges, edgeTable, facets } from './edges';
import { inspect } from './check';
import { joinClose } from './joinClose';
import type { TriangleMesh, Vec3 } from './mesh';
import { diagonal } from './shells';
import { add, dot, eigen, scale, sub, vertexAt } from './vec';

interface Plane {
  normal: Vec3;
  offset: number;
}

/** A rounding between flat faces and the surface without it. */
export interface Fillet {
  triangles: Uint32Array;
  centre: Vec3;
  /** Largest way a vertex goes, m: the radius, on a square edge. */
  depth: number;
  volumeChange: number;
  /** Where its vertices go. */
  moved: Map<number, Vec3>;
}

/** Flat patches narrower than this share of the limit belong to a rounding. */
const NARROW = 0.35;

/**
 * Roundings of edges and inner corners between flat faces, with radii up to `limit` [m]: every vertex goes
 * to the meeting line or corner of the flat faces around it. Taken only when all other faces keep their
 * planes and the surface stays closed, so what runs out into curved faces is left alone.
 */
export function findFillets(mesh: TriangleMesh, limit: number): Fillet[] {
  const { triangles: t, positions: p } = mesh;
  const n = t.length / 3;
  const { normals, areas } = facets(mesh);
  const across = acrossEdges(edgeTable(mesh));
  const patch = flatPatches(normals, across);
  const wide = widePatches(mesh, patch, areas, NARROW * limit);
  const regions = new UnionFind(n);
  for (let h = 0; h < across.length; h++) {
    const [a, b] = [Math.floor(h / 3), Math.floor(across[h] / 3)];
    if (across[h] > h && !wide.has(patch[a]) && !wide.has(patch[b])) regions.union(a, b);
  }
  const groups = new Map<number, number[]>();
  for (let i = 0; i < n; i++) {
    if (wide.has(patch[i])) continue;
    const root = regions.find(i);
    groups.set(root, [...(groups.get(root) ?? []), i]);
  }
  const planeOf = (i: number): Plane => {
    const normal = vertexAt(normals, i);
    return { normal, offset: dot(normal, vertexAt(p, t[3 * i])) };
  };
  const found: Fillet[] = [];
  for (const list of groups.values()) {
    const inRegion = new Set(list);
    const planes = new Map<number, { plane: Plane; rim: [number, number][] }>();
    for (const i of list) {
      for (let h = 3 * i; h < 3 * i + 3; h++) {
        const other = Math.floor(across[h] / 3);
        if (inRegion.has(other)) continue;
        const entry = planes.get(patch[other]) ?? { plane: planeOf(other), rim: [] };
        entry.rim.push([t[h], t[h % 3 === 2 ? h - 2 : h + 1]]);
        planes.set(patch[other], entry);
      }
    }
    const moved = planes.size >= 2 ? movesOf(mesh, list, [...planes.values()], limit) : null;
    if (!moved) continue;
    const result = applied(mesh, moved);
    if (!result || !keepsFaces(mesh, moved, inRegion, normals)) continue;
    const volumeChange = inspect(result).volume - inspect(mesh).volume;
    const depth = Math.max(...[...moved].map(([v, to]) => Math.hypot(...sub(to, vertexAt(p, v)))));
    if (!(depth > 1e-9 * limit)) continue;
    const sum = list.reduce((s, i) => add(s, vertexAt(p, t[3 * i])), [0, 0, 0] as Vec3);
    found.push({ triangles: Uint32Array.from(list), centre: scale(sum, 1 / list.length), depth, volumeChange, moved });
  }
  return found;
}

/** The mesh with the roundings taken back; null when the result is not closed. */
export function removeFillets(mesh: TriangleMesh, fillets: readonly Fillet[]): TriangleMesh | null {
  return applied(mesh, new Map(fillets.flatMap((f) => [...f.moved])));
}

function applied(mesh: TriangleMesh, moved: Map<number, Vec3>): TriangleMesh | null {
  const positions = mesh.positions.slice();
  for (const [v, to] of moved) positions.set(to, 3 * v);
  const result = joinClose({ positions, triangles: mesh.triangles }, 1e-7 * diagonal(mesh));
  const report = inspect(result);
  return report.watertight && !report.insideOut ? result : null;
}

/** New places of a region's vertices; null when one has no two faces to go to. */
function movesOf(
  mesh: TriangleMesh,
  list: number[],
  planes: { plane: Plane; rim: [number, number][] }[],
  limit: number,
): Map<number, Vec3> | null {
  const { positions: p, triangles: t } = mesh;
  const moved = new Map<number, Vec3>();
  const vertices = new Set(list.flatMap((i) => [t[3 * i], t[3 * i + 1], t[3 * i + 2]]));
  for (const v of vertices) {
    const at = vertexAt(p, v);
    // An arc of radius r spans a chord of 1.42 r at a square edge.
    const near = planes.filter(({ plane, rim }) => {
      if (Math.abs(dot(plane.normal, at) - plane.offset) > limit) return false;
      return rim.some(([a, b]) => toSegment(at, vertexAt(p, a), vertexAt(p, b)) <= 1.6 * limit);
    });
    if (near.length < 2) return null;
    const to = onPlanes(
      at,
      near.map((x) => x.plane),
    );
    // A vertex that stays where it is blends into a face too far away: the rounding is larger than asked for.
    const way = to ? Math.hypot(...sub(to, at)) : 0;
    if (!to || way > limit || way < 1e-6 * limit) return null;
    moved.set(v, to);
  }
  return moved;
}

/** Distance of a point from a segment. */
function toSegment(at: Vec3, a: Vec3, b: Vec3): number {
  const along = sub(b, a);
  const square = dot(along, along);
  const s = square > 0 ? Math.min(1, Math.max(0, dot(sub(at, a), along) / square)) : 0;
  return Math.hypot(...sub(at, add(a, along, s)));
}

/** The nearest point that lies on all the planes, by least squares; null when they do not meet. */
function onPlanes(at: Vec3, planes: Plane[]): Vec3 | null {
  const m = [0, 1, 2].map((r) => [0, 1, 2].map((c) => planes.reduce((s, { normal }) => s + normal[r] * normal[c], 0)));
  const { values, vectors } = eigen(m);
  const right = planes.reduce((s, { normal, offset }) => add(s, normal, offset - dot(normal, at)), [0, 0, 0] as Vec3);
  let to = at;
  values.forEach((value, k) => {
    if (value > 1e-3) to = add(to, vectors[k], dot(vectors[k], right) / value);
  });
  const worst = Math.max(...planes.map(({ normal, offset }) => Math.abs(dot(normal, to) - offset)));
  const moved = Math.hypot(...sub(to, at));
  return worst <= 1e-6 * (moved + 1e-6) ? to : null;
}

/** Faces outside the region keep their direction when its vertices have gone. */
function keepsFaces(mesh: TriangleMesh, moved: Map<number, Vec3>, region: Set<number>, before: Float64Array): boolean {
  const { positions: p, triangles: t } = mesh;
  for (let i = 0; i < t.length / 3; i++) {
    const corners = [t[3 * i], t[3 * i + 1], t[3 * i + 2]];
    if (region.has(i) || !corners.some((v) => moved.has(v))) continue;
    const [a, b, c] = corners.map((v) => moved.get(v) ?? vertexAt(p, v));
    const [u, w] = [sub(b, a), sub(c, a)];
    const n: Vec3 = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]];
    const length = Math.hypot(...n);
    if (length < 1e-12) continue;
    if (dot(n, vertexAt(before, i)) < (1 - 1e-5) * length) return false;
  }
  return true;
}

/** Patches whose mean width, area over extent, is more than `width`. */
function widePatches(mesh: TriangleMesh, patch: Int32Array, areas: Float64Array, width: number): Set<number> {
  const sums = new Map<number, { area: number; min: Vec3; max: Vec3 }>();
  for (let i = 0; i < patch.length; i++) {
    const s = sums.get(patch[i]) ?? {
      area: 0,
      min: [Infinity, Infinity, Infinity] as Vec3,
      max: [-Infinity, -Infinity, -Infinity] as Vec3,
    };
    s.area += areas[i];
    for (let c = 3 * i; c < 3 * i + 3; c++) {
      for (let d = 0; d < 3; d++) {
        const x = mesh.positions[3 * mesh.triangles[c] + d];
        s.min[d] = Math.min(s.min[d], x);
        s.max[d] = Math.max(s.max[d], x);
      }
    }
    sums.set(patch[i], s);
  }
  return new Set([...sums].filter(([, s]) => s.area / Math.hypot(...sub(s.max, s.min)) > width).map(([id]) => id));
}
