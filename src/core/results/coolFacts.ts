import { z } from 'zod';
import { real } from '../numerics/real';
import { boundsSchema, vec3Schema } from '../geometry/schemas';
import { lineFactsSchema } from '../solvers/cool/lineResults';
import type { Vec3 } from '../geometry/mesh';
import type { PressureGrid } from '../grid/pressureGrid';
import { metalOf } from '../cooling/metals';
import { weightedQuantile } from '../numerics/weighted';
import type { Mould } from '../setup/mould';
import { surfaceRange, type StartUp } from '../solvers/cool/stage';
import { dot, vertexAt } from '../geometry/vec';
import type { MouldField } from '../solvers/cool/mouldField';
import { lineResults } from '../solvers/cool/lineResults';

export const supplyFactsSchema = z.object({
  id: z.string(),
  coolant: z.string(),
  flow_m3_s: real,
  pressure_Pa: real,
  sent_K: real,
  returned_K: real,
  heat_W: real,
  pumpPower_W: real,
});
export type SupplyFacts = z.infer<typeof supplyFactsSchema>;

/** The settled mould in numbers, with their units. */
export const coolFactsSchema = z.object({
  block_m: boundsSchema,
  steel: z.string(),
  /** Length of the cycle that the mould was settled for, and when it opens. */
  cycleTime_s: real,
  openTime_s: real,
  surface_K: z.object({
    mean: real,
    low: real,
    high: real,
  }),
  /** Mean of the faces that look one way and the other along the opening; missing where there are none, or in earlier versions. */
  halves_K: z.object({ upper: real, lower: real }).optional(),
  hotSpot: z.object({
    place_m: vec3Schema,
    temperature_K: real,
  }),
  /** Between both sides of the wall: half of the part has less, and a hundredth more than the high one. */
  difference_K: z.object({
    middle: real,
    high: real,
  }),
  differencePlace_m: vec3Schema,
  heat_W: z.object({
    part: real,
    runners: real,
    coolant: real,
    air: real,
    press: real,
  }),
  balanceError: real,
  lines: z.array(lineFactsSchema),
  supplies: z.array(supplyFactsSchema),
  startUp: z
    .object({
      time_s: z.array(real),
      mean_K: z.array(real),
      low_K: z.array(real),
      high_K: z.array(real),
    })
    .nullable(),
  nNodes: real,
  passes: real,
});
export type CoolFacts = z.infer<typeof coolFactsSchema>;

/** `opening`: which way the upper half moves off. */
export function coolFacts(mould: Mould, grid: PressureGrid, opening: Vec3): CoolFacts {
  const { result, source, cooling, block } = mould;
  const { field } = result;
  const [mean, low, high] = surfaceRange(field);
  const difference = wallDifference(source.wallTemperature);
  const highest = weightedQuantile(difference, grid.volume, 0.99);
  const runners = source.feedHeat / source.cycleTime;
  return {
    block_m: block,
    steel: metalOf(cooling.steel)?.name ?? '',
    cycleTime_s: source.cycleTime,
    openTime_s: source.openAt,
    surface_K: { mean, low, high },
    halves_K: halvesOf(field, opening),
    hotSpot: {
      place_m: placeOf(field.facetTemperature, field.facets.centroids, field.covered, high),
      temperature_K: high,
    },
    difference_K: { middle: weightedQuantile(difference, grid.volume, 0.5), high: highest },
    differencePlace_m: placeOf(difference, grid.centroid, null, highest),
    heat_W: {
      part: result.balance.fromPart - runners,
      runners,
      coolant: result.balance.toCoolant,
      air: result.balance.toAmbient,
      press: result.balance.toPlatens,
    },
    balanceError: result.balanceError,
    lines: lineResults(mould),
    supplies: result.coolant.supplies.map((s, k) => ({
      id: s.id,
      coolant: mould.circuit.supplies[k].law.name,
      flow_m3_s: s.flow,
      pressure_Pa: s.pressure,
      sent_K: s.sent,
      returned_K: s.returned,
      heat_W: s.heat,
      pumpPower_W: s.power,
    })),
    startUp: result.startUp && startUpOut(result.startUp),
    nNodes: field.grid.n,
    passes: result.passes,
  };
}

const startUpOut = (s: StartUp) => ({ time_s: s.time, mean_K: s.mean, low_K: s.low, high_K: s.high });

/** Faces look along the opening from this on (cosine). */
const LOOKS = 0.7;

function halvesOf({ facets, covered, facetTemperature }: MouldField, opening: Vec3): CoolFacts['halves_K'] {
  const [upper, lower] = [
    [0, 0],
    [0, 0],
  ];
  for (let f = 0; f < facets.n; f++) {
    const along = dot(vertexAt(facets.normals, f), opening);
    if (Math.abs(along) < LOOKS || !(covered[f] > 0)) continue;
    const sum = along > 0 ? upper : lower;
    const area = facets.areas[f] * covered[f];
    sum[0] += area;
    sum[1] += area * facetTemperature[f];
  }
  return upper[0] > 0 && lower[0] > 0 ? { upper: upper[1] / upper[0], lower: lower[1] / lower[0] } : undefined;
}

/** By how much the two sides of every wall differ, K. */
export const wallDifference = (walls: Float64Array): Float32Array =>
  Float32Array.from({ length: walls.length / 2 }, (_, i) => Math.abs(walls[2 * i] - walls[2 * i + 1]));

/** The place whose value comes nearest to one that was read off the whole. */
function placeOf(values: ArrayLike<number>, places: ArrayLike<number>, seen: Float64Array | null, value: number): Vec3 {
  let [best, found] = [Infinity, 0];
  for (let i = 0; i < values.length; i++) {
    const off = Math.abs(values[i] - value);
    if (off < best && (!seen || seen[i] > 0)) [best, found] = [off, i];
  }
  return [places[3 * found], places[3 * found + 1], places[3 * found + 2]];
}
