import { z } from 'zod';
import { real } from '../numerics/real';
import type { Vec3 } from '../geometry/mesh';
import type { PressureGrid } from '../grid/pressureGrid';
import { linearShrinkage } from '../material/pvt';
import { weightedQuantile } from '../numerics/weighted';
import type { FillSettings } from '../setup/settings';
import type { FillResult } from '../solvers/fill/outcome';
import type { PackResult } from '../solvers/pack/outcome';

/** A share of the part: a hundredth is left out at either end of a range, for slivers of the grid. */
const EDGE = 0.01;

/** What packing and cooling came to. SI; times from the start of the shot. */
export interface PackFacts {
  switchoverTime: number;
  packingEnd: number;
  /** What packs: melt from the nozzle or, while that is shut, a fluid in the core or a tool that closes; and its highest pressure. */
  heldBy: 'nozzle' | 'core' | 'press';
  packingPressure: number;
  /** When each gate froze, null while still open at the end; and the last of them. */
  gateFrozenAt: (number | null)[];
  lastGateFrozenAt: number | null;
  /** Share of the part that lost its pressure before it was frozen, and the middle of the largest such place. */
  lostShare: number;
  lostPlace: Vec3 | null;
  /** Linear shrinkage in the room: low and high end of the part, and its mean by volume. */
  shrinkage: { low: number; high: number; mean: number; highPlace: Vec3; highThickness: number };
  volumetric: { low: number; high: number; mean: number };
  sink: { depth: number; place: Vec3 };
  /** Largest missing share of the wall in the core. */
  voids: { share: number; place: Vec3 };
  mass: number;
  massBefore: number;
  pressureAtOpening: number;
  heatError: number;
  clampForce: number;
  ejectableTime: number | null;
  openTime: number;
  coolingSet: boolean;
  /** When half the part and all of it (but a hundredth) could be ejected; the slowest place. */
  halfEjectable: number;
  allEjectable: number;
  slowest: { place: Vec3; thickness: number };
  nominalThickness: number;
  cycleTime: number;
}

/** The numbers of it that go out, with their units. */
export const packSummarySchema = z.object({
  switchoverTime_s: real,
  packingEnd_s: real,
  packingPressure_Pa: real,
  gateFrozenAt_s: z.array(real.nullable()),
  lastGateFrozenAt_s: real.nullable(),
  lostShare: real,
  linearShrinkage: z.object({
    low: real,
    high: real,
    mean: real,
  }),
  volumetricShrinkage: z.object({
    low: real,
    high: real,
    mean: real,
  }),
  sinkDepth_m: real,
  missingCore: real,
  mass_kg: real,
  massBefore_kg: real,
  pressureAtOpening_Pa: real,
  clampForce_N: real,
  ejectableTime_s: real.nullable(),
  openTime_s: real,
  halfEjectable_s: real,
  allEjectable_s: real,
  cycleTime_s: real,
  massError: real,
  heatError: real,
  steps: real,
});
export type PackSummary = z.infer<typeof packSummarySchema>;

export const packSummary = (f: PackFacts, pack: PackResult): PackSummary => ({
  switchoverTime_s: f.switchoverTime,
  packingEnd_s: f.packingEnd,
  packingPressure_Pa: f.packingPressure,
  gateFrozenAt_s: f.gateFrozenAt,
  lastGateFrozenAt_s: f.lastGateFrozenAt,
  lostShare: f.lostShare,
  linearShrinkage: { low: f.shrinkage.low, high: f.shrinkage.high, mean: f.shrinkage.mean },
  volumetricShrinkage: f.volumetric,
  sinkDepth_m: f.sink.depth,
  missingCore: f.voids.share,
  mass_kg: f.mass,
  massBefore_kg: f.massBefore,
  pressureAtOpening_Pa: f.pressureAtOpening,
  clampForce_N: f.clampForce,
  ejectableTime_s: f.ejectableTime,
  openTime_s: f.openTime,
  halfEjectable_s: f.halfEjectable,
  allEjectable_s: f.allEjectable,
  cycleTime_s: f.cycleTime,
  massError: pack.massError,
  heatError: pack.heatError,
  steps: pack.steps,
});

export function packFacts(
  grid: PressureGrid,
  result: FillResult,
  pack: PackResult,
  sinks: { depth: Float32Array; voids: Float32Array },
  settings: FillSettings,
): PackFacts {
  const weight = result.node.held;
  const switchoverTime = result.switchedAt?.time ?? result.history.time[result.history.time.length - 1];
  const q = (values: Float32Array, share: number) => weightedQuantile(values, weight, share) || 0;
  const volumetric = {
    low: q(pack.node.shrinkage, EDGE),
    high: q(pack.node.shrinkage, 1 - EDGE),
    mean: meanOf(pack.node.shrinkage, weight),
  };
  const lost = new Float64Array(grid.n);
  let [lostVolume, all] = [0, 0];
  for (let i = 0; i < grid.n; i++) {
    if (pack.node.density[i] !== pack.node.density[i]) continue;
    all += weight[i];
    const frozen = pack.node.frozenAt[i];
    if (!(pack.node.releasedAt[i] < (frozen === frozen ? frozen : Infinity))) continue;
    lost[i] = weight[i];
    lostVolume += weight[i];
  }
  const frozen = pack.gateFrozenAt.filter((t): t is number => t !== null);
  const high = nodeAt(pack.node.shrinkage, volumetric.high);
  const deepest = nodeAt(sinks.depth, q(sinks.depth, 0.999));
  const emptiest = nodeAt(sinks.voids, q(sinks.voids, 0.999));
  const slow = nodeAt(pack.node.ejectableAt, q(pack.node.ejectableAt, 1 - EDGE));
  const pressed = settings.core ? pack.history.corePressure : pack.history.nozzlePressure;
  const packingPressure = settings.press
    ? Math.max(0, ...pack.course.highestPressure)
    : Math.max(0, ...pressed.filter((_, k) => pack.history.time[k] > switchoverTime));
  return {
    switchoverTime,
    packingEnd: pack.packingEnd,
    heldBy: settings.core ? 'core' : settings.press ? 'press' : 'nozzle',
    packingPressure,
    gateFrozenAt: pack.gateFrozenAt,
    lastGateFrozenAt: frozen.length && frozen.length === pack.gateFrozenAt.length ? Math.max(...frozen) : null,
    lostShare: all > 0 ? lostVolume / all : 0,
    lostPlace: lostVolume > 0 ? centreOf(grid, lost) : null,
    shrinkage: {
      low: linearShrinkage(volumetric.low),
      high: linearShrinkage(volumetric.high),
      mean: linearShrinkage(volumetric.mean),
      highPlace: pointOf(grid, high),
      highThickness: grid.thickness[high],
    },
    volumetric,
    sink: { depth: q(sinks.depth, 0.999), place: pointOf(grid, deepest) },
    voids: { share: q(sinks.voids, 0.999), place: pointOf(grid, emptiest) },
    mass: pack.mass,
    massBefore: pack.massBefore,
    pressureAtOpening: pack.pressureAtOpening,
    heatError: pack.heatError,
    clampForce: Math.max(0, ...pack.history.clampForce),
    ejectableTime: pack.ejectableTime,
    openTime: pack.openTime,
    coolingSet: settings.coolingTime !== null,
    halfEjectable: q(pack.node.ejectableAt, 0.5),
    allEjectable: q(pack.node.ejectableAt, 1 - EDGE),
    slowest: { place: pointOf(grid, slow), thickness: grid.thickness[slow] },
    nominalThickness: weightedQuantile(grid.thickness, weight, 0.5),
    cycleTime: pack.openTime + settings.openTime,
  };
}

function meanOf(values: Float32Array, weight: ArrayLike<number>): number {
  let [sum, all] = [0, 0];
  values.forEach((v, i) => {
    if (v !== v) return;
    sum += weight[i] * v;
    all += weight[i];
  });
  return all > 0 ? sum / all : 0;
}

/** The node whose value comes nearest to one that was read off the whole. */
function nodeAt(values: Float32Array, value: number): number {
  let [best, found] = [Infinity, 0];
  values.forEach((v, i) => {
    const off = Math.abs(v - value);
    if (off < best) [best, found] = [off, i];
  });
  return found;
}

/** The node nearest to the middle of what is weighed: a place on the part even when the middle is not. */
function centreOf(grid: PressureGrid, weight: Float64Array): Vec3 {
  const all = weight.reduce((s, w) => s + w, 0);
  const middle = [0, 1, 2].map((d) => weight.reduce((s, w, i) => s + w * grid.centroid[3 * i + d], 0) / all);
  let [best, found] = [Infinity, 0];
  weight.forEach((w, i) => {
    if (!(w > 0)) return;
    const off = Math.hypot(...middle.map((x, d) => x - grid.centroid[3 * i + d]));
    if (off < best) [best, found] = [off, i];
  });
  return pointOf(grid, found);
}

const pointOf = (grid: PressureGrid, node: number): Vec3 => [
  grid.centroid[3 * node],
  grid.centroid[3 * node + 1],
  grid.centroid[3 * node + 2],
];
