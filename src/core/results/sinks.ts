import type { PressureGrid } from '../grid/pressureGrid';
import type { Resin } from '../model/resin';
import type { PackResult } from '../solvers/pack/outcome';

/** Skins that are about to be ejected bear this much of their stiffness in the room: warm, and loaded for seconds. */
const RELAXED = 0.03;
/** Pressure of the room on a skin with nothing behind it, Pa. */
const VACUUM = 101325;
/** Passes of averaging over neighbours: the surroundings a sink is seen against reach about four walls. */
const SURROUNDINGS = 16;

/**
 * Estimate of sink marks and voids. What the core lacked when it froze (`unfed` of the wall) either
 * pulls the faces in, each by half of it, or tears open inside. A face can be pulled in as far as the
 * pressure of the room bends its skin, taken as a strip as wide as the wall is thick, clamped at its
 * sides: q l^4 / (384 D), D = E d^3 / (12 (1 - nu2)) (Timoshenko & Woinowsky-Krieger, Theory of Plates
 * and Shells, 2nd ed. (1959), section 2). The rest is missing in the core. A wall that sinks evenly
 * shows nothing: depth is told against the surroundings.
 *
 * @returns depth [m] and missing share of the wall, one value per node; NaN where nothing was moulded.
 */
export function sinkMarks(
  grid: PressureGrid,
  pack: PackResult,
  resin: Resin,
): { depth: Float32Array; voids: Float32Array } {
  const { n, thickness } = grid;
  const { nu12, E1, E2 } = resin.elastic;
  const stiffness = RELAXED * Math.min(E1, E2);
  const pull = new Float64Array(n);
  const depth = new Float32Array(n).fill(NaN);
  const voids = new Float32Array(n).fill(NaN);
  for (let i = 0; i < n; i++) if (pack.node.unfed[i] > 0) pull[i] = 0.5 * pack.node.unfed[i] * thickness[i];
  const around = surroundings(grid, pull, pack.node.unfed);
  for (let i = 0; i < n; i++) {
    if (pack.node.unfed[i] !== pack.node.unfed[i]) continue;
    const excess = Math.max(0, pull[i] - around[i]);
    const skin = 0.5 * thickness[i] * Math.max(0.05, pack.node.skinAtRelease[i] || 0);
    const plate = (stiffness * skin ** 3) / (12 * (1 - nu12 * nu12));
    const bend = (VACUUM * thickness[i] ** 4) / (384 * plate);
    depth[i] = Math.min(excess, bend);
    voids[i] = (2 * (excess - depth[i])) / thickness[i];
  }
  return { depth, voids };
}

/** Mean of a value over the neighbourhood, by volume. */
function surroundings(grid: PressureGrid, value: Float64Array, known: Float32Array): Float64Array {
  let mean = Float64Array.from(value);
  for (let pass = 0; pass < SURROUNDINGS; pass++) {
    const next = new Float64Array(grid.n);
    for (let i = 0; i < grid.n; i++) {
      let [sum, weight] = [0, 0];
      const add = (j: number) => {
        if (known[j] !== known[j]) return;
        sum += grid.volume[j] * mean[j];
        weight += grid.volume[j];
      };
      add(i);
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) add(grid.rowNode[k]);
      next[i] = weight > 0 ? sum / weight : 0;
    }
    mean = next;
  }
  return mean;
}
