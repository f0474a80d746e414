import { z } from 'zod';
import { real } from '../numerics/real';
import type { PressureGrid } from '../grid/pressureGrid';
import { UnionFind } from '../numerics/unionFind';
import type { Inputs } from '../model/study';
import type { PipelineOutcome } from './pipeline';

/** What fills on its own: a cavity with its gates, or in a single cavity the region of one gate. */
export const balanceGroupSchema = z.object({
  name: z.string(),
  gates: z.array(z.string()),
  volume: real,
  /** When it is full, s, and what the nozzle needs then, Pa. */
  fillTime: real,
  pressure: real,
  /** Flow it would need over the flow it got, for all to be full together. */
  flowRatio: real,
});
export type BalanceGroup = z.infer<typeof balanceGroupSchema>;

export const balanceStateSchema = z.object({
  groups: z.array(balanceGroupSchema),
  /** (largest - smallest) / mean */
  timeSpread: real,
  pressureSpread: real,
  /** Largest nozzle pressure up to the last group full, and when the first one was, Pa. */
  pressure: real,
  pressureAtFirst: real,
  clampForce: real,
  /** Melt lost with a shot, m3. */
  feedVolume: real,
});
export type BalanceState = z.infer<typeof balanceStateSchema>;

/** Share of a group's volume that counts as all of it: the last drop says little. */
const FULL = 0.98;

type Filled = Extract<PipelineOutcome, { status: 'filled' | 'stalled' }>;

export function measureBalance(outcome: Filled, inputs: Inputs): BalanceState {
  const { history, fill, gridResult, summary } = outcome;
  const { grid } = gridResult;
  const nodes = groupsOf(grid, fill.node.gateShare, inputs);
  const at = (time: number) => valueAt(history.time, history.nozzlePressure, time);
  const timed = nodes.map((g) => ({ ...g, ...timesOf(grid, fill.node.fillTime, g.nodes) }));
  const first = Math.min(...timed.map((g) => g.fillTime));
  const shares = timed.map((g) => filledBy(grid, fill.node.fillTime, g.nodes, first) / g.volume);
  const mean = timed.reduce((s, g, k) => s + g.volume * shares[k], 0) / timed.reduce((s, g) => s + g.volume, 0) || 1;
  const groups = timed.map(({ name, gates, volume, fillTime }, k) => ({
    name,
    gates,
    volume,
    fillTime,
    pressure: at(fillTime),
    flowRatio: mean / Math.max(1e-3, shares[k]),
  }));
  const last = Math.max(...groups.map((g) => g.fillTime));
  return {
    groups,
    timeSpread: spread(groups.map((g) => g.fillTime)),
    pressureSpread: spread(groups.map((g) => g.pressure)),
    pressure: Math.max(0, ...history.nozzlePressure.filter((_, i) => history.time[i] <= last)),
    pressureAtFirst: at(first),
    clampForce: Math.max(0, ...history.clampForce.filter((_, i) => history.time[i] <= last)),
    feedVolume: summary.feed?.coldVolume_m3 ?? 0,
  };
}

const spread = (list: number[]) => {
  const mean = list.reduce((s, x) => s + x, 0) / list.length;
  return mean > 0 ? (Math.max(...list) - Math.min(...list)) / mean : 0;
};

/** Bodies that hang together, with the gates on them; one body is shared out by the melt's origin. */
function groupsOf(
  grid: PressureGrid,
  gateShare: ArrayLike<number>,
  { gates }: Inputs,
): { name: string; gates: string[]; nodes: number[] }[] {
  const sets = new UnionFind(grid.n);
  grid.linkFrom.forEach((a, l) => sets.union(a, grid.linkTo[l]));
  const n = gates.length;
  const owner = (i: number) => {
    let best = 0;
    for (let g = 1; g < n; g++) if (gateShare[i * n + g] > gateShare[i * n + best]) best = g;
    return gateShare[i * n + best] > 0 ? best : -1;
  };
  const bodyOf = gates.map((gate) => {
    let [found, least] = [0, Infinity];
    for (let i = 0; i < grid.n; i++) {
      const d = Math.hypot(...gate.position.map((x, k) => x - grid.centroid[3 * i + k]));
      if (d < least) [found, least] = [i, d];
    }
    return sets.find(found);
  });
  const several = new Set(bodyOf).size > 1;
  const groups = new Map<number, { name: string; gates: string[]; nodes: number[] }>();
  gates.forEach((gate, g) => {
    const id = several ? bodyOf[g] : g;
    const known = groups.get(id);
    if (known) known.gates.push(gate.id);
    else groups.set(id, { name: '', gates: [gate.id], nodes: [] });
  });
  for (let i = 0; i < grid.n; i++) groups.get(several ? sets.find(i) : owner(i))?.nodes.push(i);
  const list = [...groups.values()].filter((g) => g.nodes.length);
  return list.map((g, k) => ({ ...g, name: several ? `Cavity ${k + 1}` : `Gate ${g.gates[0]}` }));
}

function timesOf(grid: PressureGrid, fillTime: ArrayLike<number>, nodes: number[]) {
  const filled = nodes.filter((i) => fillTime[i] === fillTime[i]).sort((a, b) => fillTime[a] - fillTime[b]);
  const volume = nodes.reduce((s, i) => s + grid.volume[i], 0);
  let sum = 0;
  for (const i of filled) {
    sum += grid.volume[i];
    if (sum >= FULL * volume) return { volume, fillTime: fillTime[i] };
  }
  return { volume, fillTime: filled.length ? fillTime[filled[filled.length - 1]] : 0 };
}

const filledBy = (grid: PressureGrid, fillTime: ArrayLike<number>, nodes: number[], time: number) =>
  nodes.reduce((s, i) => s + (fillTime[i] <= time ? grid.volume[i] : 0), 0);

/** Value at a time, linear between; the ends hold. */
export function valueAt(times: readonly number[], values: readonly number[], t: number): number {
  const i = times.findIndex((x) => x >= t);
  if (i <= 0) return values[Math.max(0, i === 0 ? 0 : values.length - 1)];
  const w = (t - times[i - 1]) / (times[i] - times[i - 1] || 1);
  return values[i - 1] + w * (values[i] - values[i - 1]);
}
