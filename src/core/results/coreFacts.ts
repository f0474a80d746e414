import { z } from 'zod';
import { vec3Schema } from '../geometry/schemas';
import type { Vec3 } from '../geometry/mesh';
import type { PressureGrid } from '../grid/pressureGrid';
import { weightedMean, weightedQuantile } from '../numerics/weighted';
import { real } from '../numerics/real';
import { coreMass } from '../solvers/core/fluid';
import { sectionShape } from '../solvers/melt/layers';
import type { FillSettings } from '../setup/settings';
import type { ShotHistory } from '../solvers/shot/history';
import type { CoreFound, Shot } from './shotFound';

/** What came of a fluid in the core of the melt. SI. */
export const coreFactsSchema = z.object({
  fluid: z.string(),
  /** A second melt: the core is plastic. */
  melt: z.boolean().default(false),
  /** Share of the cavity that the melt had filled when it ended, and when. */
  meltShare: real,
  meltEnded_s: real,
  /** When the fluid was let in, and let out again. */
  from_s: real,
  /** null: it stays. */
  released_s: real.nullable(),
  /** Of the core when the mould opens, or at the end of a shot that did not fill; and of the cavity. */
  volume_m3: real,
  share: real,
  peakPressure_Pa: real,
  /** Mass of the fluid at its peak, and how much less plastic the part has than without it, kg. */
  mass_kg: real,
  saved_kg: real,
  /** From the first needle through the core to its tip. */
  length_m: real,
  tip_m: vec3Schema.nullable(),
  /** Skin around the core, wall to core: a twentieth is thinner, mean, a twentieth is thicker. */
  skin_m: z.object({ low: real, mean: real, high: real }),
  thinnest_m: vec3Schema.nullable(),
  /** Thinnest skin over half of its wall. */
  thinnestShare: real,
  /** Share of the volume that is as thick as the core's walls and has none: solid ends; where the most of it lies. */
  solidShare: real,
  solid_m: vec3Schema.nullable(),
  /** Share of the core that has turned into walls thinner than half of those at the needle, and where farthest. */
  fingered: real,
  finger_m: vec3Schema.nullable(),
  /** Where and when it came out of the melt; null: it did not. */
  broken: z.object({ place_m: vec3Schema, time_s: real }).nullable(),
});
export type CoreFacts = z.infer<typeof coreFactsSchema>;

/** A node counts as hollow from this share of its section on. */
const HOLLOW = 0.02;
/** Walls of at least this share of those around the core could have one. */
const THICK = 0.6;
/** Walls below this share of the needle's are thin ones that the core should have left alone. */
const THIN = 0.5;
const TWENTIETH = 0.05;

/** Place of the core's face through the wall of a node (0 .. 1), from its share of the section. */
export const corePlace = (grid: PressureGrid, i: number, share: number): number =>
  Math.pow(Math.min(1, share), 1 / (sectionShape(grid.shape[i]).s - 1));

/** Plastic between the core's face and the wall, m. */
export const skinOf = (grid: PressureGrid, i: number, share: number): number =>
  0.5 * grid.thickness[i] * (1 - corePlace(grid, i, share));

const placeOf = ({ centroid }: PressureGrid, i: number): Vec3 => [
  centroid[3 * i],
  centroid[3 * i + 1],
  centroid[3 * i + 2],
];

/** What came of the core of a shot; on the part's own nodes. */
export function coreFacts(grid: PressureGrid, shot: Shot, found: CoreFound, settings: FillSettings): CoreFacts {
  const { result, pack } = shot;
  const { history } = pack ?? result;
  const { node, needles } = found;
  const share = Float32Array.from(node.volume, (v, i) => v / grid.volume[i]);
  const hollow = [...share.keys()].filter((i) => share[i] > HOLLOW);
  const volumes = (list: readonly number[]) => list.map((i) => grid.volume[i]);
  const volume = history.coreVolume.at(-1) ?? 0;
  const cavity = grid.volume.reduce((s, v) => s + v, 0);
  const skins = hollow.map((i) => skinOf(grid, i, share[i]));
  const quantile = (q: number) => (hollow.length ? weightedQuantile(skins, volumes(hollow), q) : NaN);
  const low = quantile(TWENTIETH);
  const thinnest = hollow.find((_, k) => skins[k] <= low);
  const walls = weightedMean(
    hollow.map((i) => grid.thickness[i]),
    volumes(hollow),
  );
  const atNeedle = Math.max(...needles.map((i) => grid.thickness[i]), 0);
  const solid = hollow.length
    ? [...share.keys()].filter((i) => share[i] <= HOLLOW && grid.thickness[i] >= THICK * walls)
    : [];
  const away = waysThrough(grid, hollow, needles);
  const tip = hollow.reduce((best, i) => ((away.get(i) ?? -1) > (away.get(best) ?? -1) ? i : best), hollow[0] ?? -1);
  const fingers = hollow.filter((i) => grid.thickness[i] < THIN * atNeedle);
  const sumOf = (list: readonly number[], of: (i: number) => number) => list.reduce((s, i) => s + of(i), 0);
  const finger = fingers.reduce(
    (best, i) => ((away.get(i) ?? -1) > (away.get(best) ?? -1) ? i : best),
    fingers[0] ?? -1,
  );
  const peak = Math.max(0, ...history.corePressure);
  const atPeak = history.corePressure.lastIndexOf(peak);
  const plastic = pack ? weightedMean(pack.node.density, grid.volume) : NaN;
  const farthest = solid.reduce(
    (best, i) => (distanceTo(grid, i, tip) > distanceTo(grid, best, tip) ? i : best),
    solid[0] ?? -1,
  );
  return {
    fluid: settings.core?.fluid.name ?? settings.second?.resin.name ?? '',
    melt: settings.second !== null,
    meltShare: settings.second ? shareAt(history, found.from) : (result.switchedAt?.share ?? 1),
    meltEnded_s: settings.second ? found.from : (result.switchedAt?.time ?? 0),
    from_s: found.from,
    released_s: Number.isFinite(found.releasedAt) ? found.releasedAt : null,
    volume_m3: volume,
    share: volume / cavity,
    peakPressure_Pa: peak,
    mass_kg: settings.core ? coreMass(settings.core.fluid, peak, history.coreVolume[atPeak] ?? 0) : 0,
    saved_kg: settings.second ? NaN : volume * plastic,
    length_m: away.get(tip) ?? 0,
    tip_m: tip < 0 ? null : placeOf(grid, tip),
    skin_m: { low, mean: hollow.length ? weightedMean(skins, volumes(hollow)) : NaN, high: quantile(1 - TWENTIETH) },
    thinnest_m: thinnest === undefined ? null : placeOf(grid, thinnest),
    thinnestShare: thinnest === undefined ? NaN : low / (0.5 * walls),
    solidShare: sumOf(solid, (i) => grid.volume[i]) / cavity,
    solid_m: farthest < 0 ? null : placeOf(grid, farthest),
    fingered: hollow.length ? sumOf(fingers, (i) => node.volume[i]) / sumOf(hollow, (i) => node.volume[i]) : 0,
    finger_m: finger < 0 ? null : placeOf(grid, finger),
    broken: result.brokenThrough && {
      place_m: placeOf(grid, result.brokenThrough.node),
      time_s: result.brokenThrough.time,
    },
  };
}

/** Share filled at a time of the shot. */
function shareAt({ time, shareFilled }: ShotHistory, at: number): number {
  const k = time.findIndex((t) => t >= at);
  return shareFilled[k < 0 ? shareFilled.length - 1 : k] ?? 1;
}

const distanceTo = (grid: PressureGrid, i: number, j: number): number =>
  i < 0 || j < 0 ? -1 : Math.hypot(...placeOf(grid, i).map((x, d) => x - placeOf(grid, j)[d]));

/** Length of the shortest way from a needle to every hollow node, through hollow ones, m. */
function waysThrough(grid: PressureGrid, hollow: readonly number[], needles: readonly number[]): Map<number, number> {
  const inside = new Set([...hollow, ...needles]);
  const ways = new Map<number, number>();
  const todo = needles.filter((i) => i >= 0).map((node) => ({ node, way: 0 }));
  while (todo.length) {
    todo.sort((a, b) => b.way - a.way);
    const { node, way } = todo.pop()!;
    if (ways.has(node)) continue;
    ways.set(node, way);
    // Corners of nodes are cut as well: ways along the faces alone would be too long by their staircase.
    const next = new Set<number>();
    for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++) {
      const j = grid.rowNode[k];
      if (!inside.has(j)) continue;
      next.add(j);
      for (let m = grid.rowStart[j]; m < grid.rowStart[j + 1]; m++) next.add(grid.rowNode[m]);
    }
    for (const j of next)
      if (inside.has(j) && !ways.has(j)) todo.push({ node: j, way: way + distanceTo(grid, node, j) });
  }
  return ways;
}
