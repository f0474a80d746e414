import { z } from 'zod';
import { real } from '../numerics/real';
import { balanceStateSchema } from './balanceState';
import { fallingRoot, leastVolumeDiameter, nearestSize } from '../feed/balance';
import type { TriangleMesh } from '../geometry/mesh';
import { resolveResin } from '../setup/settings';
import type { BalanceAsk } from '../model/balanceAsk';
import { fillingAlone, type Inputs } from '../model/study';
import { measureBalance, valueAt, type BalanceState } from './balanceState';
import { meshWithCopies, withCopies } from '../setup/copies';
import { branchesOf, withDiameters, type Branch } from './branches';
import { feedOf, solvedOnce } from '../setup/feedOf';
import { runPipeline, type PipelineOutcome } from './pipeline';
import type { StageContext } from '../stage/context';

export type { BalanceAsk } from '../model/balanceAsk';

export const balanceRowSchema = z.object({
  /** Branch, as in Feed.branches. */
  key: z.string(),
  gates: z.array(z.string()),
  /** Diameter before and after, m; of a section that is not round, that of a round one with the same flow. */
  before: real,
  after: real,
  reason: z.string(),
});
export type BalanceRow = z.infer<typeof balanceRowSchema>;

export const balanceReportSchema = z.object({
  rows: z.array(balanceRowSchema),
  before: balanceStateSchema,
  after: balanceStateSchema,
  /** Spread of fill time after every trial. */
  trail: z.array(real),
  reached: z.boolean(),
});
export type BalanceReport = z.infer<typeof balanceReportSchema>;

export type BalanceOutcome =
  { status: 'balanced'; report: BalanceReport } | { status: 'refused'; message: string; remedy: string };

/** Spreads below which the search ends: well inside 2 % of fill time and 3 % of pressure. */
const ENOUGH = { time: 0.012, pressure: 0.025 };
/** The pressure wanted is met when it is undercut by no more than this. */
const PRESSURE_BAND = 0.03;
const MOST_TRIALS = 9;

/**
 * Looks for the diameters by runs of the whole filling at Detail quick: what each branch and what lies
 * behind it takes is read from a run, the power law of the runners says what diameters would give every
 * cavity its flow, and the next run shows what that was worth.
 */
export async function balanceStudy(
  given: TriangleMesh,
  key: string,
  study: Inputs,
  ask: BalanceAsk,
  ctx: StageContext,
): Promise<BalanceOutcome> {
  const refused = (message: string, remedy: string): BalanceOutcome => ({ status: 'refused', message, remedy });
  const expand = study.cavities !== undefined && !solvedOnce(study);
  const mesh = expand ? meshWithCopies(given, study) : given;
  const inputs = forTrials(expand ? withCopies(study) : study);
  if (!inputs.feed) return refused('There are no runners to balance.', 'Lay out runners first.');
  const ends = { message: 'one gate', remedy: 'Place a gate in every cavity.' };
  if (inputs.gates.length < 2 && ask.goal === 'balance')
    return refused(`There is nothing to balance: the feed has ${ends.message}.`, ends.remedy);
  let diameters: Record<string, number> | null = null;
  const trail: number[] = [];
  const run = async (): Promise<Trial> => {
    const now: Inputs = diameters ? withDiameters(inputs, diameters) : inputs;
    const outcome = await runPipeline(mesh, key, fillingAlone(now), trialContext(ctx, trail.length), {
      gridError: false,
    });
    return { inputs: now, outcome };
  };
  const first = await run();
  const before = stateOf(first);
  if (typeof before === 'string') return refused(before, 'Run the study and follow what "Will it fill?" says.');
  let branches = branchesOf(first.inputs, ask);
  if (branches.every((b) => b.bounds.min === b.bounds.max))
    return refused('Every runner is fixed.', 'Leave at least one free.');
  const start = branches;
  const inside = start.every((b) => b.diameter >= b.bounds.min - 1e-9 && b.diameter <= b.bounds.max + 1e-9);
  let best = inside ? { state: before, diameters: diametersOf(branches) } : null;
  let state = before;
  let trial = first;
  trail.push(before.timeSpread);
  while ((!best || !satisfied(state, ask)) && trail.length < MOST_TRIALS) {
    branches = improved(branches, trial, state, ask);
    diameters = diametersOf(branches);
    trial = await run();
    const next = stateOf(trial);
    if (typeof next === 'string') break;
    state = next;
    trail.push(state.timeSpread);
    if (!best || better(state, best.state, ask)) best = { state, diameters };
  }
  if (!best) return refused('The part does not fill within these bounds.', 'Allow wider runners.');
  let { state: after, diameters: found } = best;
  const sizesOfBranch = (b: Branch) => (ask.ownSizes && b.key in ask.ownSizes ? ask.ownSizes[b.key] : ask.sizes);
  if (start.some(sizesOfBranch)) {
    found = Object.fromEntries(start.map((b) => [b.key, cut(found[b.key], sizesOfBranch(b), b)]));
    diameters = found;
    const rounded = stateOf(await run());
    if (typeof rounded !== 'string') after = rounded;
  }
  const rows = start.map((b) => rowOf(b, found[b.key], before));
  return { status: 'balanced', report: { rows, before, after, trail, reached: satisfied(after, ask) } };
}

/** A fixed branch keeps its size, whatever the cutters. */
const cut = (d: number, sizes: number[] | null, { bounds }: Branch) =>
  bounds.min === bounds.max || !sizes ? d : nearestSize(d, sizes, bounds);

interface Trial {
  inputs: Inputs;
  outcome: PipelineOutcome;
}

/**
 * The set flow goes on to the very end: a switchover would hide how the last cavity fills. So would a fluid in the core,
 * which has one pressure everywhere, or a tool that closes: runners are balanced for the melt alone in the closed tool, and tabs
 * that open for that fluid stay shut.
 */
export function forTrials(study: Inputs): Inputs {
  const { compression: _, ...closed } = study;
  const { core, ...melt } = closed;
  const inputs: Inputs =
    core && core.fluid !== 'melt'
      ? { ...melt, ...(melt.tabs && { tabs: melt.tabs.filter((t) => t.opens !== 'core') }) }
      : closed;
  return { ...inputs, detail: 'quick', cycle: { ...inputs.cycle, switchover: { by: 'share', share: 1 } } };
}

function trialContext(ctx: StageContext, k: number): StageContext {
  return {
    signal: ctx.signal,
    checkpoint: () => ctx.checkpoint(),
    report: ({ fraction, stage }) => {
      const part = stage === 'grid' ? 0.1 * fraction : 0.1 + 0.9 * fraction;
      ctx.report({ stage: 'fill', fraction: (k + part) / MOST_TRIALS, message: `Trial ${k + 1}: filling` });
    },
  };
}

function stateOf({ outcome, inputs }: Trial): BalanceState | string {
  if (outcome.status === 'refused') return outcome.problems[0].message;
  if (outcome.status === 'failed') return outcome.message;
  if (outcome.status === 'stalled') return 'The part does not fill with these runners.';
  return measureBalance(outcome, inputs);
}

function satisfied(state: BalanceState, { goal, pressure }: BalanceAsk): boolean {
  const even = state.timeSpread <= ENOUGH.time && state.pressureSpread <= ENOUGH.pressure;
  if (goal === 'balance' || pressure === null) return even;
  return even && state.pressure <= pressure && state.pressure > (1 - PRESSURE_BAND) * pressure;
}

/** Even first; among the least-volume trials also near to the wanted pressure, and not above it. */
function better(a: BalanceState, b: BalanceState, { goal, pressure }: BalanceAsk): boolean {
  const score = (s: BalanceState) => {
    const off = goal === 'least-volume' && pressure ? Math.abs(s.pressure / pressure - 1) : 0;
    const above = goal === 'least-volume' && pressure && s.pressure > pressure ? 0.05 : 0;
    return Math.max(s.timeSpread, 0.6 * s.pressureSpread) + off + above;
  };
  return score(a) < score(b);
}

const diametersOf = (branches: Branch[]) => Object.fromEntries(branches.map((b) => [b.key, b.diameter]));

/** Exponent of the resin's power law at high shear. */
function exponentOf(inputs: Inputs): number {
  const viscosity = resolveResin(inputs)?.viscosity;
  return viscosity && 'n' in viscosity ? viscosity.n : 1;
}

/** Next diameters, from what every branch and what lies behind it took in the last run. */
function improved(branches: Branch[], { inputs, outcome }: Trial, state: BalanceState, ask: BalanceAsk): Branch[] {
  if (outcome.status !== 'filled') return branches;
  const n = exponentOf(inputs);
  const facts = outcome.summary.feed;
  const firstFull = Math.min(...state.groups.map((g) => g.fillTime));
  const loss = new Map(
    (facts?.sections ?? []).map((s) => [s.id, valueAt(facts?.times_s ?? [], s.losses_Pa, firstFull)]),
  );
  const network = feedOf(inputs, 0);
  const ways = branches.map((b) => {
    const taken = b.segments.reduce((s, k) => s + (loss.get(network.segments[k].id) ?? 0), 0);
    const groups = state.groups.filter((g) => b.gates.some((id) => g.gates.includes(id)));
    const flow = groups.reduce((s, g) => s + g.flowRatio, 0) / Math.max(1, groups.length);
    // What is not this branch's own must be spent too, at the flow that is wanted.
    const rest = Math.max(0.02 * state.pressureAtFirst, state.pressureAtFirst - taken);
    return { taken: Math.max(taken, 1e-3 * state.pressureAtFirst), flow, rest };
  });
  const scale = ask.goal === 'least-volume' && ask.pressure ? volumeScale(branches, ways, state, ask.pressure, n) : 1;
  const at = (target: number) =>
    branches.map((b, k) => {
      const { taken, flow, rest } = ways[k];
      const left = Math.max(0.02 * target, target - rest * flow ** n);
      const d = b.diameter * Math.pow((taken * flow ** n) / left, 1 / (3 * n + 1));
      // Half or double at the most: farther, what was read says little.
      const bounded = Math.min(2 * b.diameter, Math.max(0.5 * b.diameter, d));
      return Math.min(b.bounds.max, Math.max(b.bounds.min, bounded));
    });
  const volume = (list: number[]) => branches.reduce((s, b, k) => s + b.length * list[k] ** 2, 0);
  const present = volume(branches.map((b) => b.diameter));
  const target = fallingRoot((p) => volume(at(p)) - present, 0.05 * state.pressureAtFirst, 20 * state.pressureAtFirst);
  const even = corrected(branches, at(target), ways);
  const widest = Math.max(...even);
  return branches.map((b, k) => {
    const cube = scale === 1 ? even[k] : towardsCubeLaw(b, even[k], widest, branches);
    const diameter = Math.min(b.bounds.max, Math.max(b.bounds.min, scale * cube));
    return { ...b, diameter, last: { size: sizesOf(branches)[k], error: Math.log(ways[k].flow) } };
  });
}

/** ln of the diameters over their mean. */
function sizesOf(branches: readonly { diameter: number }[]): number[] {
  const logs = branches.map((b) => Math.log(b.diameter));
  const mean = logs.reduce((s, x) => s + x, 0) / logs.length;
  return logs.map((x) => x - mean);
}

/**
 * The power law says what a step is worth, the last two trials what it was worth: steps are stretched or
 * shortened by the ratio, branch by branch (a secant).
 */
function corrected(branches: Branch[], even: number[], ways: { flow: number }[]): number[] {
  const sizes = sizesOf(branches);
  const wanted = sizesOf(even.map((diameter) => ({ diameter })));
  return branches.map((b, k) => {
    const step = wanted[k] - sizes[k];
    const error = Math.log(ways[k].flow);
    if (!b.last || Math.abs(sizes[k] - b.last.size) < 1e-4 || Math.abs(error) < 1e-4) return even[k];
    const measured = (error - b.last.error) / (sizes[k] - b.last.size);
    const ratio = (measured * step) / -error;
    return even[k] * Math.exp(step / Math.min(4, Math.max(0.4, ratio)) - step);
  });
}

/** Shared branches follow the cube law; the last ones are left to the balance. */
function towardsCubeLaw(b: Branch, even: number, widest: number, all: Branch[]): number {
  const single = Math.min(...all.map((x) => x.share));
  if (b.share === single) return even;
  const last = all.filter((x) => x.share === single && x.gates.every((g) => b.gates.includes(g)));
  const mean = last.length ? last.reduce((s, x) => s + x.diameter, 0) / last.length : widest;
  return leastVolumeDiameter(mean, b.share / single);
}

/** Factor on all diameters that would bring the needed pressure to the wanted one. */
function volumeScale(
  branches: Branch[],
  ways: { taken: number }[],
  state: BalanceState,
  wanted: number,
  n: number,
): number {
  // The longest chain of branches: of every number of gates fed, the one that takes most.
  const byShare = new Map<number, number>();
  branches.forEach((b, k) => byShare.set(b.share, Math.max(byShare.get(b.share) ?? 0, ways[k].taken)));
  const taken = [...byShare.values()].reduce((s, p) => s + p, 0);
  // When one cavity is full too early the other's pressure runs away: that says nothing about the size.
  const rest = Math.max(0, state.pressureAtFirst - taken);
  const left = Math.max(0.03 * wanted, (1 - 0.5 * PRESSURE_BAND) * wanted - rest);
  return Math.min(1.3, Math.max(0.75, Math.pow(taken / left, 1 / (3 * n + 1))));
}

function rowOf(b: Branch, after: number, before: BalanceState): BalanceRow {
  const groups = before.groups.filter((g) => b.gates.some((id) => g.gates.includes(id)));
  const flow = groups.reduce((s, g) => s + g.flowRatio, 0) / Math.max(1, groups.length);
  const off = Math.round(100 * Math.abs(flow - 1));
  const fixed = b.bounds.min === b.bounds.max;
  const atBound = !fixed && (after <= b.bounds.min * 1.0001 || after >= b.bounds.max * 0.9999);
  const why = fixed
    ? 'Fixed.'
    : off < 1
      ? 'Gets its share already.'
      : flow > 1
        ? `What hangs on it gets ${off}\u00a0% too little.`
        : `What hangs on it gets ${off}\u00a0% too much.`;
  return {
    key: b.key,
    gates: b.gates,
    before: b.diameter,
    after,
    reason: atBound ? `${why} At its bound.` : why,
  };
}
