import { z } from 'zod';
import { real } from '../numerics/real';
import { vec3Schema } from '../geometry/schemas';
import { measuredSchema } from './measures';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import type { Warpage } from '../model/warpage';
import { UnionFind } from '../numerics/unionFind';
import type { WarpResult } from '../solvers/warp/stage';
import { vonMises } from '../solvers/warp/stress';
import { measured } from './measures';
import { bestFit, evenGrowth, vertexAreas, without } from '../geometry/alignment';

/** Causes of a shape, in words. */
export const CAUSE_NAMES = {
  shrinkage: 'Uneven shrinkage',
  cooling: 'Uneven cooling',
  corner: 'Spring-in of corners',
  thickness: 'Thinner walls',
  insert: 'Inserts and feed',
  shot: 'Other shots',
  oriented: 'Fibres',
  large: 'Large deflections',
} as const;
export type ShapeCause = keyof typeof CAUSE_NAMES;

/** What a run says of the shape; SI. */
export const shapeFactsSchema = z.object({
  /** Mean linear shrinkage along the walls. */
  meanShrinkage: real,
  /** The same along the fibres and square to them in the plane of the wall; absent where none were followed. */
  onFibres: z.object({ along: real, square: real }).optional(),
  /** The tool was taken larger by that. */
  toolScaled: z.boolean(),
  tolerance_m: real,
  /** Dimensions and faces that are looked at by themselves; missing in runs of earlier versions. */
  measures: z.array(measuredSchema).optional(),
  /**
   * After best fit: what the farthest two-hundredth of the surface deviates from the drawing by at least, and the
   * root mean square; a place where it is reached.
   */
  largest_m: real,
  rms_m: real,
  place_m: vec3Schema,
  /** Largest deviation along each axis. */
  largestAlong_m: vec3Schema,
  /** Share of each cause in the deviation (its part along the whole): they sum to 1. */
  causes: z.array(
    z.object({
      cause: z.enum(Object.keys(CAUSE_NAMES) as [ShapeCause, ...ShapeCause[]]),
      share: real,
      rms_m: real,
    }),
  ),
  /** von Mises stress that a hundredth of the surface reaches: there and in the middle of the walls below, Pa. */
  skinStress_Pa: real,
  coreStress_Pa: real,
  /** Where the surface reaches it; missing in runs of earlier versions. */
  stressPlace_m: vec3Schema.nullable().optional(),
  insertStress: z.array(
    z.object({
      insert: z.string(),
      stress_Pa: real,
    }),
  ),
  /** Largest bend beside even shrinkage over the usual wall; missing in runs of earlier versions. */
  bend: real.optional(),
  /** Load that would buckle the part over the one it has, null: far from it; missing where nothing asked for it. */
  buckling: real.nullable().optional(),
  /** With large deflections: the largest deviation that small ones would give, m; null where there was no rest to be found. */
  smallLargest_m: real.nullable().optional(),
  unknowns: real,
  elements: real,
  iterations: real,
});
export type ShapeFacts = z.infer<typeof shapeFactsSchema>;

/** Largest deviation that is allowed where none is set: by the longest side of the part, m. */
export const usualTolerance = (size: number): number => 1e-4 + 2e-3 * size;

/**
 * Share of the surface that reaches what is called the largest: no single element, corner or spot under a gate makes
 * it. Stresses have peaks along every sharp edge, deviations have not.
 */
export const LARGEST_SHARE = { deviation: 0.005, stress: 0.01 };

interface Surface {
  positions: ArrayLike<number>;
  triangles: ArrayLike<number>;
}

/** What a shape is held against now. `whole` is the deviation of the surface, 3 a vertex. */
export function checksOf(
  surface: TriangleMesh,
  whole: ArrayLike<number>,
  { tolerance, measures }: Pick<Warpage, 'tolerance' | 'measures'>,
): Pick<ShapeFacts, 'tolerance_m' | 'measures'> {
  return {
    tolerance_m: tolerance ?? usualTolerance(longestSide(surface.positions)),
    measures: measures.flatMap((m) => measured(surface, whole, m) ?? []),
  };
}

/** A surface with its vertices moved by `offset` (3 a vertex); those without one stay. */
export const movedSurface = ({ positions, triangles }: TriangleMesh, offset: ArrayLike<number>): TriangleMesh => ({
  positions: positions.map((x, k) => x + (offset[k] === offset[k] ? offset[k] : 0)),
  triangles,
});

/** Deviation of the shape from the drawing after best fit; the tool cut larger by `growth`. 3 a vertex. */
export function deviation(surface: Surface, displacement: ArrayLike<number>, growth: number): Float32Array {
  const { positions } = surface;
  const pieces = pieceAreas(surface);
  if (pieces.length === 1) return fitted(positions, displacement, pieces[0], growth);
  const out = new Float32Array(displacement.length);
  for (const areas of pieces) {
    const own = fitted(positions, displacement, areas, growth);
    areas.forEach((area, v) => {
      if (area > 0) out.set(own.subarray(3 * v, 3 * v + 3), 3 * v);
    });
  }
  return out;
}

function fitted(
  positions: ArrayLike<number>,
  displacement: ArrayLike<number>,
  areas: Float64Array,
  growth: number,
): Float32Array {
  const scaled = without(positions, displacement, evenGrowth(positions, areas, -growth));
  return without(positions, scaled, bestFit(positions, scaled, areas));
}

/** Areas of the vertices of every piece of a surface, worked out once: each part of a tool comes out by itself. */
const known = new WeakMap<Surface, Float64Array[]>();
function pieceAreas(surface: Surface): Float64Array[] {
  const kept = known.get(surface);
  if (kept) return kept;
  const { positions, triangles } = surface;
  const areas = vertexAreas(positions, triangles);
  const sets = new UnionFind(areas.length);
  for (let i = 0; i < triangles.length; i += 3) {
    sets.union(triangles[i], triangles[i + 1]);
    sets.union(triangles[i], triangles[i + 2]);
  }
  const pieces = new Map<number, Float64Array>();
  areas.forEach((area, v) => {
    const root = sets.find(v);
    let own = pieces.get(root);
    if (!own) pieces.set(root, (own = new Float64Array(areas.length)));
    own[v] = area;
  });
  const made = [...pieces.values()];
  known.set(surface, made);
  return made;
}

export function shapeFacts(
  surface: TriangleMesh,
  result: WarpResult,
  asked: Pick<Warpage, 'tolerance' | 'measures' | 'toolScaled'>,
): ShapeFacts {
  const { positions } = surface;
  const areas = vertexAreas(positions, surface.triangles);
  const growth = asked.toolScaled ? result.meanShrinkage : 0;
  const whole = deviation(surface, result.displacement, growth);
  const sizes = Float32Array.from(areas, (_, v) => Math.hypot(whole[3 * v], whole[3 * v + 1], whole[3 * v + 2]));
  const farthest = upper(sizes, areas, LARGEST_SHARE.deviation);
  const along = [0, 1, 2].map((d) => {
    const of = Float32Array.from(areas, (_, v) => Math.abs(whole[3 * v + d]));
    const { value, at } = upper(of, areas, LARGEST_SHARE.deviation);
    return at >= 0 && whole[3 * at + d] < 0 ? -value : value;
  }) as Vec3;
  const skin = stresses(result.skinStress);
  const core = stresses(result.coreStress);
  const stressed = upper(skin, areas, LARGEST_SHARE.stress);
  return {
    meanShrinkage: result.meanShrinkage,
    ...(result.onFibres ? { onFibres: result.onFibres } : {}),
    toolScaled: asked.toolScaled,
    ...checksOf(surface, whole, asked),
    largest_m: farthest.value,
    rms_m: Math.sqrt(product(areas, whole, whole)),
    place_m: placeOf(positions, Math.max(0, farthest.at)),
    largestAlong_m: along,
    causes: sharesOf(surface, result, areas, whole),
    skinStress_Pa: stressed.value,
    coreStress_Pa: upper(core, areas, LARGEST_SHARE.stress).value,
    stressPlace_m: stressed.at < 0 ? null : placeOf(positions, stressed.at),
    insertStress: result.inserts
      .filter((i) => !i.plastic)
      .map(({ id, highest }) => ({ insert: id, stress_Pa: highest })),
    ...beyondFacts(surface, result, areas, growth),
    unknowns: result.unknowns,
    elements: result.elements,
    iterations: result.iterations,
  };
}

function beyondFacts(
  surface: Surface,
  { beyond, displacement, byCause }: WarpResult,
  areas: Float64Array,
  growth: number,
): Pick<ShapeFacts, 'bend' | 'buckling' | 'smallLargest_m'> {
  if (!beyond) return {};
  const { bend, buckling, large } = beyond;
  if (!large) return { bend };
  if (!large.settled) return { bend, buckling, smallLargest_m: null };
  const small = deviation(
    surface,
    displacement.map((u, k) => u - byCause.large[k]),
    growth,
  );
  const sizes = Float32Array.from(areas, (_, v) => Math.hypot(small[3 * v], small[3 * v + 1], small[3 * v + 2]));
  return { bend, buckling, smallLargest_m: upper(sizes, areas, LARGEST_SHARE.deviation).value };
}

const MAY_BE_MISSING: ReadonlySet<ShapeCause> = new Set(['insert', 'shot', 'oriented', 'large']);

/** Each cause's part along the whole deviation, over the whole: sums to 1 but for what even shrinkage leaves. */
function sharesOf(
  surface: Surface,
  { byCause }: WarpResult,
  areas: Float64Array,
  whole: Float32Array,
): ShapeFacts['causes'] {
  const parts = (Object.keys(CAUSE_NAMES) as ShapeCause[]).map((cause) => {
    const part = deviation(surface, byCause[cause], 0);
    return { cause, along: product(areas, part, whole), rms_m: Math.sqrt(product(areas, part, part)) };
  });
  const total = parts.reduce((s, p) => s + p.along, 0) || 1;
  return parts
    .filter((p) => !MAY_BE_MISSING.has(p.cause) || p.rms_m > 0)
    .map(({ cause, along, rms_m }) => ({ cause, share: along / total, rms_m }));
}

/** Mean over the surface of a . b. */
function product(areas: Float64Array, a: Float32Array, b: Float32Array): number {
  let [sum, total] = [0, 0];
  for (let v = 0; v < areas.length; v++) {
    sum += areas[v] * (a[3 * v] * b[3 * v] + a[3 * v + 1] * b[3 * v + 1] + a[3 * v + 2] * b[3 * v + 2]);
    total += areas[v];
  }
  return sum / total;
}

export function longestSide(positions: ArrayLike<number>): number {
  let longest = 0;
  for (let d = 0; d < 3; d++) {
    let [low, high] = [Infinity, -Infinity];
    for (let v = d; v < positions.length; v += 3) {
      low = Math.min(low, positions[v]);
      high = Math.max(high, positions[v]);
    }
    longest = Math.max(longest, high - low);
  }
  return longest;
}

/** von Mises stress of tensors (6 a vertex); NaN where there is none. */
export const stresses = (tensors: Float32Array): Float32Array =>
  Float32Array.from({ length: tensors.length / 6 }, (_, v) => vonMises(tensors, 6 * v));

/** Largest or least principal stress of tensors (6 a vertex). */
export function principal(tensors: Float32Array, which: 'largest' | 'least'): Float32Array {
  const turn = which === 'largest' ? 0 : (2 * Math.PI) / 3;
  return Float32Array.from({ length: tensors.length / 6 }, (_, v) => {
    const [xx, yy, zz, xy, yz, xz] = tensors.subarray(6 * v, 6 * v + 6);
    // Trigonometric roots of the characteristic polynomial (Smith 1961).
    const mean = (xx + yy + zz) / 3;
    const [a, b, c] = [xx - mean, yy - mean, zz - mean];
    const p = Math.sqrt((a * a + b * b + c * c + 2 * (xy * xy + yz * yz + xz * xz)) / 6);
    if (!(p > 0)) return mean;
    const det = a * (b * c - yz * yz) - xy * (xy * c - yz * xz) + xz * (xy * yz - b * xz);
    const r = Math.max(-1, Math.min(1, det / (2 * p ** 3)));
    return mean + 2 * p * Math.cos(Math.acos(r) / 3 + turn);
  });
}

const placeOf = (positions: ArrayLike<number>, v: number): Vec3 => [
  positions[3 * v],
  positions[3 * v + 1],
  positions[3 * v + 2],
];

/** What a share of the area reaches, and a vertex that does; values that are none do not count, at -1 where all are. */
export function upper(
  values: ArrayLike<number>,
  areas: ArrayLike<number>,
  share: number,
): { value: number; at: number } {
  const order = Array.from(areas, (_, v) => v).filter((v) => values[v] === values[v] && areas[v] > 0);
  order.sort((a, b) => values[b] - values[a]);
  const wanted = share * order.reduce((s, v) => s + areas[v], 0);
  let passed = 0;
  for (const v of order) {
    passed += areas[v];
    if (passed >= wanted) return { value: values[v], at: v };
  }
  return { value: 0, at: -1 };
}
