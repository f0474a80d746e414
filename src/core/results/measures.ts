import { z } from 'zod';
import { real } from '../numerics/real';
import { measureSchema } from '../model/warpage';
import { acrossEdges, edgeTable, facet } from '../geometry/edges';
import { closestPoint } from '../geometry/closestPoint';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { cross, distance, dot, eigen, frameOn, sub, vertexAt } from '../geometry/vec';
import type { Measure } from '../model/warpage';

/** Facets belong to one curved face while they bend by less than this from one to the next, rad. */
const SMOOTH_BEND = 0.35;
/** Facets of a flat face turn from the first by less than this, rad. */
const FLAT_BEND = 0.02;

/** A facet of a round face is a smaller share of it: more is a plane, where one is asked for. */
const PLANE = 0.05;

/** Vertices of a face picked on a surface. */
export interface Face {
  vertices: number[];
  kind: 'flat' | 'round';
  /** Outward normal of a flat face, axis of a round one. */
  direction: Vec3;
}

/** A measure as drawn and as moulded: m, for angles rad. */
export const measuredSchema = z.object({
  id: z.string(),
  kind: measureSchema.shape.kind,
  before: real,
  after: real,
  /** null: told, not judged. */
  tolerance: real.nullable(),
  /** What is held against the tolerance. */
  error: real,
});
export type Measured = z.infer<typeof measuredSchema>;

/**
 * The face around a triangle: a flat one where its plane makes up more than `flatShare` of what is reached over smooth
 * edges, else all of that.
 */
export function faceAround(surface: TriangleMesh, seed: number, flatShare = 0.5): Face {
  const { positions: p, triangles: t } = surface;
  const across = acrossOf(surface);
  const first = facet(p, t, seed).normal;
  const grow = (belongs: (normal: Vec3, from: Vec3) => boolean) => {
    const found = new Set([seed]);
    let area = 0;
    for (const i of found) {
      const own = facet(p, t, i);
      area += own.area;
      for (let h = 3 * i; h < 3 * i + 3; h++) {
        const next = Math.floor(across[h] / 3);
        if (across[h] >= 0 && !found.has(next) && belongs(facet(p, t, next).normal, own.normal)) found.add(next);
      }
    }
    return { triangles: [...found], area };
  };
  const flat = grow((normal) => dot(normal, first) > Math.cos(FLAT_BEND));
  const smooth = grow((normal, from) => dot(normal, from) > Math.cos(SMOOTH_BEND));
  // A plane with rounded edges goes on beyond itself, too: then the plane is meant.
  const round = flat.area < flatShare * smooth.area;
  const { triangles } = round ? smooth : flat;
  return {
    vertices: [...new Set(triangles.flatMap((i) => [t[3 * i], t[3 * i + 1], t[3 * i + 2]]))],
    kind: round ? 'round' : 'flat',
    direction: round ? axisOf(triangles.map((i) => facet(p, t, i).normal)) : first,
  };
}

const known = new WeakMap<TriangleMesh, Int32Array>();
function acrossOf(surface: TriangleMesh): Int32Array {
  let across = known.get(surface);
  if (!across) known.set(surface, (across = acrossEdges(edgeTable(surface))));
  return across;
}

/** The direction that all normals of a cylinder are square to. */
function axisOf(normals: readonly Vec3[]): Vec3 {
  return eigen([0, 1, 2].map((i) => [0, 1, 2].map((j) => normals.reduce((s, n) => s + n[i] * n[j], 0)))).vectors[2];
}

/** Least-squares plane through points: its normal, and how far they lie off it from side to side [m]. */
export function planeThrough(points: readonly Vec3[]): { normal: Vec3; flatness: number } {
  const middle = [0, 1, 2].map((d) => points.reduce((s, p) => s + p[d], 0) / points.length) as Vec3;
  const off = points.map((p) => sub(p, middle));
  const normal = eigen([0, 1, 2].map((i) => [0, 1, 2].map((j) => off.reduce((s, r) => s + r[i] * r[j], 0)))).vectors[2];
  let [low, high] = [Infinity, -Infinity];
  for (const r of off) {
    low = Math.min(low, dot(r, normal));
    high = Math.max(high, dot(r, normal));
  }
  return { normal, flatness: high - low };
}

/** Range of the radii about the least-squares circle square to an axis [m] (Kasa, IEEE Trans. Instrum. Meas. 25 (1976) 8). */
export function roundness(points: readonly Vec3[], axis: Vec3): { radius: number; roundness: number } {
  const [u, v] = frameOn(axis);
  const n = points.length;
  const [mu, mv] = [u, v].map((e) => points.reduce((s, p) => s + dot(p, e), 0) / n);
  let [xx, xy, yy, xz, yz] = [0, 0, 0, 0, 0];
  const flat = points.map((p) => [dot(p, u) - mu, dot(p, v) - mv]);
  for (const [x, y] of flat) {
    const z = x * x + y * y;
    xx += x * x;
    xy += x * y;
    yy += y * y;
    xz += x * z;
    yz += y * z;
  }
  const det = xx * yy - xy * xy || 1e-300;
  const [cx, cy] = [(xz * yy - yz * xy) / det / 2, (yz * xx - xz * xy) / det / 2];
  const radii = flat.map(([x, y]) => Math.hypot(x - cx, y - cy));
  const range = radii.reduce(([low, high], r) => [Math.min(low, r), Math.max(high, r)], [Infinity, -Infinity]);
  return { radius: radii.reduce((s, r) => s + r, 0) / n, roundness: range[1] - range[0] };
}

/** A vertex or face that a measure stands on, farther from the surface than this share of the part is lost. */
const LOST = 0.02;

/**
 * A measure on a surface as drawn and with `offset` (3 a vertex, m: the deviation after alignment). null where the
 * places it stands on are gone, or the face is not of the kind it needs.
 */
export function measured(surface: TriangleMesh, offset: ArrayLike<number>, measure: Measure): Measured | null {
  const picks = measure.places.map((place) => pick(surface, place));
  if (picks.some((p) => !p) || picks.length < PLACES[measure.kind]) return null;
  const [a, b] = picks as { triangle: number; vertex: number }[];
  const drawn = (v: number) => vertexAt(surface.positions, v);
  const moulded = (v: number) => drawn(v).map((x, d) => x + offset[3 * v + d]) as Vec3;
  const of = (value: (at: (v: number) => Vec3) => number) => ({ before: value(drawn), after: value(moulded) });
  const result = (found: { before: number; after: number }, error: number): Measured => ({
    id: measure.id,
    kind: measure.kind,
    tolerance: measure.tolerance,
    ...found,
    error,
  });
  if (measure.kind === 'distance') {
    const found = of((at) => distance(at(a.vertex), at(b.vertex)));
    return result(found, Math.abs(found.after - found.before));
  }
  const wantsPlane = measure.kind === 'flatness' || measure.kind === 'angle';
  const face = faceAround(surface, a.triangle, wantsPlane ? PLANE : undefined);
  const own = face.vertices.filter((v) => offset[3 * v] === offset[3 * v]);
  if (!own.length) return null;
  if (measure.kind === 'face') {
    const after = own.reduce((m, v) => Math.max(m, Math.hypot(offset[3 * v], offset[3 * v + 1], offset[3 * v + 2])), 0);
    return result({ before: 0, after }, after);
  }
  if (measure.kind === 'flatness') {
    if (face.kind !== 'flat') return null;
    const found = of((at) => planeThrough(own.map(at)).flatness);
    return result(found, found.after);
  }
  if (measure.kind === 'roundness') {
    if (face.kind !== 'round') return null;
    const found = of((at) => roundness(own.map(at), face.direction).roundness);
    return result(found, found.after);
  }
  const other = faceAround(surface, b.triangle, PLANE);
  const theirs = other.vertices.filter((v) => offset[3 * v] === offset[3 * v]);
  const found = of((at) => {
    const [n, m] = [[own, face] as const, [theirs, other] as const].map(([vertices, { direction }]) => {
      const { normal } = planeThrough(vertices.map(at));
      return dot(normal, direction) < 0 ? (normal.map((x) => -x) as Vec3) : normal;
    });
    // Between the faces, not between their normals: a square corner has 90 degrees either way.
    return Math.PI - Math.atan2(Math.hypot(...cross(n, m)), dot(n, m));
  });
  return result(found, Math.abs(found.after - found.before));
}

/** Kinds of measures, in words. */
export const MEASURE_NAMES: Record<Measure['kind'], string> = {
  distance: 'Distance',
  angle: 'Angle',
  flatness: 'Flatness',
  roundness: 'Roundness',
  face: 'Face',
};

/** Places that each kind stands on. */
export const PLACES: Record<Measure['kind'], number> = { distance: 2, angle: 2, flatness: 1, roundness: 1, face: 1 };

function pick(surface: TriangleMesh, place: Vec3): { triangle: number; vertex: number } | null {
  const { positions: p, triangles: t } = surface;
  const { triangle, distance: off } = closestPoint(surface, place);
  const corners = [0, 1, 2].map((k) => t[3 * triangle + k]);
  const size = Math.hypot(...[0, 1, 2].map((d) => span(p, d)));
  if (off > LOST * size) return null;
  const vertex = corners.reduce((best, v) =>
    distance(vertexAt(p, v), place) < distance(vertexAt(p, best), place) ? v : best,
  );
  return { triangle, vertex };
}

function span(p: ArrayLike<number>, d: number): number {
  let [low, high] = [Infinity, -Infinity];
  for (let v = d; v < p.length; v += 3) {
    low = Math.min(low, p[v]);
    high = Math.max(high, p[v]);
  }
  return high - low;
}
