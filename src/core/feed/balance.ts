/**
 * Balance of runners that leave one junction: diameters with which every cavity fills in the same time
 * under the same pressure. SI. Round sections; fully developed flow in the runners.
 */

/** Pressure loss [Pa] of a round runner: length [m], diameter [m], flow [m3/s]. Falls with the diameter. */
export type RunnerLaw = (length: number, diameter: number, flow: number) => number;

/**
 * Power law tau = K rate^n: 4 L/d K ((3n + 1)/(4n) 32 Q/(pi d^3))^n (Bird, Armstrong & Hassager, Dynamics
 * of Polymeric Liquids 1, 1987, table 4.2-1). n = 1 is Hagen and Poiseuille.
 */
export const powerLawRunner =
  (K: number, n: number): RunnerLaw =>
  (length, diameter, flow) =>
    ((4 * length) / diameter) * K * (((3 * n + 1) / (4 * n)) * ((32 * flow) / (Math.PI * diameter ** 3))) ** n;

export interface Bounds {
  min: number;
  max: number;
}

/** One way from the junction to a cavity. */
export interface BalanceBranch {
  length: number;
  /** Volume of the cavity behind it, m3. */
  volume: number;
  /** Pressure [Pa] the cavity itself takes at a flow [m3/s] when it is nearly full; none where it is left out. */
  cavityLoss?: (flow: number) => number;
  bounds?: Bounds;
}

/** Range in which a diameter is looked for, m. */
const WIDEST: Bounds = { min: 1e-5, max: 1 };

/** Root of a function that falls from low to high, to the last digits. The ends count where it has none. */
export function fallingRoot(f: (x: number) => number, low: number, high: number): number {
  if (f(low) <= 0) return low;
  if (f(high) >= 0) return high;
  // In the logarithm: what is looked for spans many powers of ten.
  for (let k = 0; k < 200 && high / low - 1 > 1e-12; k++) {
    const middle = Math.sqrt(low * high);
    if (f(middle) > 0) low = middle;
    else high = middle;
  }
  return Math.sqrt(low * high);
}

const runnerVolume = (b: BalanceBranch, diameter: number) => (Math.PI / 4) * diameter ** 2 * b.length;

interface FlowOptions {
  fillTime: number;
  /** The runner itself is filled in the same time. */
  countRunner?: boolean;
}

const flowInto = (b: BalanceBranch, d: number, { fillTime, countRunner }: FlowOptions) =>
  (b.volume + (countRunner ? runnerVolume(b, d) : 0)) / fillTime;

/** Pressure [Pa] from the junction to the end of a branch of diameter d that fills in the set time. */
export function branchPressure(law: RunnerLaw, b: BalanceBranch, d: number, options: FlowOptions): number {
  const flow = flowInto(b, d, options);
  return law(b.length, d, flow) + (b.cavityLoss?.(flow) ?? 0);
}

/** Diameter with which a branch takes the pressure `dp`, within its bounds. */
export function diameterForPressure(law: RunnerLaw, b: BalanceBranch, dp: number, options: FlowOptions): number {
  const { min, max } = b.bounds ?? WIDEST;
  return fallingRoot((d) => branchPressure(law, b, d, options) - dp, min, max);
}

/** Diameters that go with a given one of branch `given`: all take its pressure. */
export function diametersWith(
  law: RunnerLaw,
  branches: readonly BalanceBranch[],
  given: number,
  diameter: number,
  options: FlowOptions,
): number[] {
  const dp = branchPressure(law, branches[given], diameter, options);
  return branches.map((b, k) => (k === given ? diameter : diameterForPressure(law, b, dp, options)));
}

/** Diameters of one pressure whose runners together hold `volume` [m3], and that pressure. */
export function diametersOfVolume(
  law: RunnerLaw,
  branches: readonly BalanceBranch[],
  volume: number,
  options: FlowOptions,
): { diameters: number[]; pressure: number } {
  const at = (dp: number) => branches.map((b) => diameterForPressure(law, b, dp, options));
  const total = (dp: number) => at(dp).reduce((s, d, k) => s + runnerVolume(branches[k], d), 0);
  const pressure = fallingRoot((dp) => total(dp) - volume, 1, 1e12);
  return { diameters: at(pressure), pressure };
}

/** How a set total flow [m3/s] splits so that all branches take the same pressure, and when each cavity is full. */
export function splitFlow(
  law: RunnerLaw,
  branches: readonly BalanceBranch[],
  diameters: readonly number[],
  total: number,
): { flows: number[]; fillTimes: number[] } {
  const loss = (b: BalanceBranch, d: number, q: number) => law(b.length, d, q) + (b.cavityLoss?.(q) ?? 0);
  const flowAt = (k: number, dp: number) =>
    fallingRoot((q) => dp - loss(branches[k], diameters[k], q), 1e-15 * total, total);
  const all = (dp: number) => branches.reduce((s, _, k) => s + flowAt(k, dp), 0);
  // More pressure, more flow: the sum rises to the total.
  const dp = fallingRoot((p) => total - all(p), 1e-6, 1e13);
  const flows = branches.map((_, k) => flowAt(k, dp));
  return { flows, fillTimes: branches.map((b, k) => b.volume / flows[k]) };
}

/** The nearest of a list of cutter sizes that lies within the bounds; the bound itself where none does. */
export function nearestSize(diameter: number, sizes: readonly number[], { min, max }: Bounds = WIDEST): number {
  const inside = sizes.filter((s) => s >= min - 1e-9 && s <= max + 1e-9);
  if (!inside.length) return Math.min(max, Math.max(min, diameter));
  return inside.reduce((best, s) => (Math.abs(s - diameter) < Math.abs(best - diameter) ? s : best));
}

/**
 * Diameter of a runner that feeds `share` of what the widest one feeds, for the least volume at a given
 * loss: the cubes of the diameters add up at every junction, for any n (Murray, Proc. Natl. Acad. Sci.
 * 12 (1926) 207, whose argument does not need n = 1: volume ~ d^2, loss ~ Q^n d^-(3n+1)).
 */
export const leastVolumeDiameter = (widest: number, share: number): number => widest * Math.cbrt(share);
