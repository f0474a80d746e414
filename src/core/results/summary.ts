import { z } from 'zod';
import type { Resolved } from '../setup/resolve';
import { real } from '../numerics/real';
import { vec3Schema } from '../geometry/schemas';
import { coreFacts, coreFactsSchema } from './coreFacts';
import { doesTheCoreComeRight } from './coreRight';
import { coolFactsSchema } from './coolFacts';
import { feedFactsSchema } from './feedFacts';
import { strengthFactsSchema } from './howStrong';
import { holdFactsSchema } from './holdTogether';
import { packSummarySchema } from './packFacts';
import { shapeFactsSchema } from './shape';
import { coolFacts } from './coolFacts';
import { openingOf } from '../model/body';
import type { FeedFacts } from './feedFacts';
import { diffusivity, meltDensity, meltThermal } from '../material/properties';
import { closestPoint } from '../geometry/closestPoint';
import type { Vec3 } from '../geometry/mesh';
import type { PressureGrid } from '../grid/pressureGrid';
import { nCopies, type Inputs } from '../model/study';
import type { GridResult } from '../setup/grids';
import type { FillSettings } from '../setup/settings';
import { SOLVER_VERSION } from '../setup/version';
import type { Mould } from '../setup/mould';
import type { Shot } from './shotFound';
import { flowRateAt, type MachinePhase } from '../solvers/melt/drive';
import { nominalWall } from '../grid/lattice';
import type { FillResult } from '../solvers/fill/outcome';
import type { OpenToolOnGrid } from '../setup/press';
import { pressFacts, pressFactsSchema } from './pressFacts';
import { doesTheToolClose } from './toolCloses';
import { doesItPackOut } from './doesItPackOut';
import { howLongToCool } from './howLongToCool';
import { packFacts, packSummary } from './packFacts';
import { sinkMarks } from './sinks';
import { flowPath } from './flowPath';
import { weightedQuantile } from '../numerics/weighted';
import type { ToolOnGrid } from '../grid/tool';
import type { Answer } from './answer';
import type { Findings } from './findings';
import { airTraps, hesitations } from './places';
import { speedJumps } from './speedJumps';
import { flowedThrough, weldLines } from './weldLines';
import { whatMachine, type MachineNeeds } from './whatMachine';
import { whereFrontsMeet } from './whereFrontsMeet';
import { willItFill, type FillFacts } from './willItFill';

/** Every scalar of a run, SI, with the unit in its key. Booleans and words for what is no number. */
export const summarySchema = z.object({
  /** Version of the solver; missing in runs before version 0.4. */
  solver: z.string().optional(),
  status: z.enum(['filled', 'stalled']),
  fillTime_s: real,
  setInjectionTime_s: real,
  setFlowRate_m3_s: real,
  pressureNeeded_Pa: real,
  /** The same when 95 % is in: how far it rises from there to `pressureNeeded_Pa` says how sharply that is known. */
  pressureBeforeEnds_Pa: real,
  /** Highest pressure that a gate takes for itself. */
  gateLoss_Pa: real,
  pressureLimit_Pa: real,
  limitReachedAt_s: real.nullable(),
  shareFilled: real,
  partVolume_m3: real,
  injectedVolume_m3: real,
  emptyVolume_m3: real,
  unreachableVolume_m3: real,
  shotMass_kg: real,
  /** Equal cavities of which one was solved; the part's volumes are of one. */
  nCavities: real.optional(),
  massError: real,
  meltTemperature_K: real,
  mouldTemperature_K: real,
  freezeTime_s: real,
  flowLength_m: real,
  lastPlace_m: vec3Schema,
  maxShearRate_1_s: real,
  maxShearStress_Pa: real,
  machine: z.string(),
  lowerMouldTemperature_K: real,
  switchoverTime_s: real.nullable(),
  switchoverPressure_Pa: real.nullable(),
  clampForce_N: real,
  packingClampForce_N: real,
  projectedArea_m2: real,
  frontCooling_K: real,
  frozenShareEnd: real,
  heatError: real,
  nWeldLines: real,
  weakestWeldLine: real.nullable(),
  nAirTraps: real,
  gateShares: z.array(
    z.object({
      gate: z.string(),
      share: real,
    }),
  ),
  nCells: real,
  nNodes: real,
  nThinCells: real,
  cellSize_m: real,
  steps: real,
  solverIterations: real,
  /** The settled mould; absent where it has the temperature that is set. */
  cool: coolFactsSchema.optional(),
  /** Packing and cooling; absent where they were not calculated. */
  pack: packSummarySchema.optional(),
  /** The shape in the room; absent where it was not calculated. */
  shape: shapeFactsSchema.optional(),
  /** Faces between shots and inserts; absent where there are none. */
  hold: holdFactsSchema.optional(),
  /** Fluid in the core; absent where none is let in. */
  core: coreFactsSchema.optional(),
  /** Strength of a part with fibres; absent where none were followed. */
  strength: strengthFactsSchema.optional(),
  /** A tool that closes on the melt; absent where it is closed before. */
  press: pressFactsSchema.optional(),
  /** Sections of the feed; absent where the melt comes straight to the gates. */
  feed: feedFactsSchema.optional(),
});
export type Summary = z.infer<typeof summarySchema>;

/**
 * Pressure needed is read when 99 % is in: with the last drops the front shrinks to a point and the
 * pressure of a set flow rate rises without a limit that means anything; a machine has switched over.
 */
const NEEDED_AT_SHARE = 0.99;
/** Phases in which the nozzle is shut and something else drives the melt. */
const DRIVEN: readonly MachinePhase[] = ['core', 'closing'];
/** From here on ends close one after the other, and which one first may be below what the grid tells. */
const BEFORE_ENDS = 0.95;
/** Hesitation is looked for up to this share of the filling: every front creeps at the very end. */
const HESITATION_END = 0.95;

/** Share of the volume below which cells without a way to a gate are slivers of the grid. */
const UNREACHABLE = 1e-4;

export function summarise(
  { mesh, inputs, settings }: Resolved,
  gridResult: GridResult,
  outcome: Shot,
  tool: ToolOnGrid & { open?: OpenToolOnGrid | null },
  mould: Mould | null,
): { summary: Summary; answers: Answer[]; findings: Findings; sinks: ReturnType<typeof sinkMarks> | null } {
  const { fine, grid } = gridResult;
  const { result, pack } = outcome;
  const sinks = pack && sinkMarks(grid, pack, settings.resin);
  const packed = pack && sinks && packFacts(grid, result, pack, sinks, settings);
  const { history } = result;
  const partVolume = fine.cells.volume.reduce((s, v) => s + v, 0);
  const apart = partVolume - result.cavityVolume;
  const unreachableVolume = apart > UNREACHABLE * partVolume ? apart : 0;
  const last =
    unreachableVolume > 0 ? largestEmpty(grid, result) : lastNode(grid, result, outcome.status === 'stalled');
  const lastPlace = pointOf(grid, last);
  // The path of a short shot ends where the front stands, not in the empty part behind it.
  const pathEnd = Number.isNaN(result.node.fillTime[last]) ? latestFilled(grid, result) : last;
  const path = flowPath(grid, result.node.fillTime, lastFullFrame(result), pathEnd);
  const findings = findingsOf(grid, outcome, settings);
  const cut = outcome.status === 'stalled' ? Infinity : NEEDED_AT_SHARE + 1e-6;
  // While a fluid in the core pushes, or the tool, the nozzle is shut: what stands before it then is no need of the machine.
  const upTo = (share: number) => (_: unknown, k: number) =>
    history.shareFilled[k] <= share && !DRIVEN.includes(history.phase[k]);
  const pressureNeeded = Math.max(0, ...history.nozzlePressure.filter(upTo(cut)));
  const pressureBeforeEnds = Math.max(0, ...history.nozzlePressure.filter(upTo(BEFORE_ENDS)));
  const gateLoss = Math.max(0, ...history.gateLoss.filter(upTo(cut)).flat());
  const occupied = result.injectedVolume + result.coreVolume;
  const shareFilled = occupied / (unreachableVolume > 0 ? partVolume : result.cavityVolume);
  const thinNode = fine.thin.length ? grid.nodeOfCell[fine.thin[Math.floor(fine.thin.length / 2)]] : -1;
  const facts: FillFacts = {
    status: outcome.status,
    stallReason: outcome.status === 'stalled' ? outcome.reason : null,
    pressureNeeded,
    pressureBeforeEnds,
    gateLoss,
    pressureLimit: settings.pressureLimit,
    limitReachedAt: result.limitReachedAt,
    fillTime: history.time[history.time.length - 1],
    injectionTime: settings.injectionTime,
    freezeTime: settings.freezeTime,
    shareFilled,
    emptyVolume: Math.max(0, result.cavityVolume + unreachableVolume - occupied),
    unreachableVolume,
    lastPlace,
    lastSurface: closestPoint(mesh, lastPlace).point,
    flowLength: path.length,
    pathThickness: path.thickness,
    thinShare: path.thinShare,
    thinThickness: path.thinThickness,
    nThinCells: fine.thin.length,
    thinPlace: thinNode >= 0 ? pointOf(grid, thinNode) : null,
    ...meltFacts(result, settings),
    heatError: result.heatBalance?.error ?? 0,
    switchedAt: result.switchedAt,
    hesitation: findings.hesitations[0] ?? null,
  };
  const projectedArea = nCopies(inputs) * tool.projectedArea.reduce((sum, a) => sum + a, 0);
  const needs = {
    pressure: pressureNeeded,
    clampForce: Math.max(0, ...(pack?.history ?? history).clampForce),
    projectedArea,
    // A press that closes has its force on the melt, whatever single places have.
    packingClamp: settings.press
      ? 0
      : (packed ? packed.packingPressure : (result.switchedAt?.packing ?? 0)) * projectedArea,
    flowRate: Math.max(
      0,
      ...Array.from({ length: 50 }, (_, i) => flowRateAt(settings.control, (i / 50) * settings.shotVolume)),
    ),
    volume: settings.shotVolume,
  };
  const summary = summaryOf(facts, gridResult, result, inputs, settings, needs, findings, outcome.feed);
  if (pack && packed) summary.pack = packSummary(packed, pack);
  const core = outcome.core && coreFacts(grid, outcome, outcome.core, settings);
  if (core) summary.core = core;
  const press = tool.open ? pressFacts(outcome, tool.open, settings) : null;
  if (press) summary.press = press;
  if (mould) summary.cool = coolFacts(mould, grid, openingOf(inputs.tool));
  return {
    summary,
    sinks,
    answers: [
      willItFill(facts, inputs, settings),
      whereFrontsMeet(findings, inputs, settings, outcome.feed),
      whatMachine(needs, inputs, settings),
      ...(packed
        ? [doesItPackOut(packed, inputs, settings), howLongToCool(packed, inputs, settings, summary.cool ?? null, mesh)]
        : []),
      ...(press
        ? [
            doesTheToolClose(
              press,
              facts,
              { wall: nominalWall(mesh), area: opened(tool.open!), volume: partVolume },
              inputs,
              settings,
            ),
          ]
        : []),
      ...(core ? [doesTheCoreComeRight(core, facts.stallReason, inputs, settings)] : []),
    ],
    findings,
  };
}

/** Over which a gap stands open, m2. */
const opened = ({ open, closed, gap }: OpenToolOnGrid) => (open - closed) / gap;

function findingsOf(
  grid: PressureGrid,
  { result, status, feed, passed }: Pick<Shot, 'result' | 'status' | 'feed' | 'passed'>,
  settings: FillSettings,
): Findings {
  const stalled = status === 'stalled';
  const { resin } = settings;
  const end = result.history.time[result.history.time.length - 1];
  return {
    weldLines: weldLines({
      grid,
      fillTime: result.node.fillTime,
      frontDirection: result.node.frontDirection,
      frontTemperature: result.node.frontTemperature,
      pressure: lastFullFrame(result),
      viscosity: resin.viscosity,
      noFlowTemperature: resin.noFlowTemperature,
      mouldTemperature: Math.max(settings.mouldTemperature, settings.lowerMouldTemperature),
      diffusivity: diffusivity(meltThermal(resin, settings.meltTemperature)),
    }).map((line) => ({ ...line, flowedThrough: flowedThrough(grid, line.points, passed) })),
    airTraps: airTraps(grid, result.traps),
    speedJumps: feed ? speedJumps(grid, result.node.fillTime, result.node.frontSpeed, feed.pins, end) : [],
    // Before a short shot the front creeps everywhere.
    hesitations: stalled
      ? []
      : hesitations(
          grid,
          result.node.fillTime,
          result.node.frontSpeed,
          result.node.frontTemperature,
          HESITATION_END * end,
        ),
  };
}

/** How cold, frozen and sheared the melt is, by volume, with single cells left out. */
function meltFacts(result: FillResult, settings: FillSettings) {
  const { resin } = settings;
  const weight = result.node.held;
  const frozen = result.frames.node.frozen[result.frames.node.frozen.length - 1];
  const cold = weightedQuantile(result.node.frontTemperature, weight, 0.05);
  return {
    frontCooling: Math.max(0, settings.meltTemperature - cold) || 0,
    frozenShare: weightedQuantile(frozen, weight, 0.95) || 0,
    stressShare: weightedQuantile(result.node.peakStress, weight, 0.999) / resin.maxShearStress,
    rateShare: weightedQuantile(result.node.peakShearRate, weight, 0.999) / resin.maxShearRate,
  };
}

function summaryOf(
  facts: FillFacts,
  { fine, grid }: GridResult,
  result: FillResult,
  inputs: Inputs,
  settings: FillSettings,
  needs: MachineNeeds,
  findings: Findings,
  feed?: FeedFacts,
): Summary {
  const volume = fine.cells.volume.reduce((s, v) => s + v, 0);
  return {
    solver: SOLVER_VERSION,
    status: facts.status,
    fillTime_s: facts.fillTime,
    setInjectionTime_s: settings.injectionTime,
    setFlowRate_m3_s: settings.flowRate,
    pressureNeeded_Pa: facts.pressureNeeded,
    pressureBeforeEnds_Pa: facts.pressureBeforeEnds,
    gateLoss_Pa: facts.gateLoss,
    pressureLimit_Pa: facts.pressureLimit,
    limitReachedAt_s: facts.limitReachedAt,
    shareFilled: facts.shareFilled,
    partVolume_m3: volume,
    injectedVolume_m3: result.injectedVolume,
    emptyVolume_m3: facts.emptyVolume,
    unreachableVolume_m3: facts.unreachableVolume,
    shotMass_kg:
      (nCopies(inputs) * result.injectedVolume + (feed?.coldVolume_m3 ?? 0)) *
      meltDensity(settings.resin, settings.meltTemperature),
    nCavities: nCopies(inputs),
    massError: result.massError,
    meltTemperature_K: settings.meltTemperature,
    mouldTemperature_K: settings.mouldTemperature,
    lowerMouldTemperature_K: settings.lowerMouldTemperature,
    freezeTime_s: settings.freezeTime,
    flowLength_m: facts.flowLength,
    lastPlace_m: facts.lastPlace,
    maxShearRate_1_s: facts.rateShare * settings.resin.maxShearRate,
    maxShearStress_Pa: facts.stressShare * settings.resin.maxShearStress,
    machine: settings.machine.name,
    switchoverTime_s: result.switchedAt?.time ?? null,
    switchoverPressure_Pa: result.switchedAt?.pressure ?? null,
    clampForce_N: needs.clampForce,
    packingClampForce_N: needs.packingClamp,
    projectedArea_m2: needs.projectedArea,
    frontCooling_K: facts.frontCooling,
    frozenShareEnd: facts.frozenShare,
    heatError: result.heatBalance?.error ?? 0,
    nWeldLines: findings.weldLines.length,
    weakestWeldLine: findings.weldLines.length ? Math.min(...findings.weldLines.map((w) => w.strength)) : null,
    nAirTraps: findings.airTraps.length,
    gateShares: gateShares(result, inputs),
    nCells: fine.cells.n,
    nNodes: grid.n,
    nThinCells: fine.thin.length,
    cellSize_m: fine.lattice.spacing,
    steps: result.steps,
    solverIterations: result.iterations,
    ...(feed ? { feed } : {}),
  };
}

/** Share of the melt that came through each gate: flow integrated over time. */
function gateShares({ history }: FillResult, inputs: Inputs): { gate: string; share: number }[] {
  const sums = inputs.gates.map(() => 0);
  for (let i = 1; i < history.time.length; i++) {
    const dt = history.time[i] - history.time[i - 1];
    history.gateFlow[i].forEach((q, g) => (sums[g] += q * dt));
  }
  const total = sums.reduce((s, v) => s + v, 0) || 1;
  return inputs.gates.map((gate, g) => ({ gate: gate.id, share: sums[g] / total }));
}

const pointOf = (grid: PressureGrid, node: number): Vec3 => [
  grid.centroid[3 * node],
  grid.centroid[3 * node + 1],
  grid.centroid[3 * node + 2],
];

/** The frame of the last full flow field: the pressures when the front arrived. */
const lastFullFrame = (result: FillResult) => result.frames.node.pressure[result.frames.node.pressure.length - 1];

/** The fullest node that no melt came to. */
function largestEmpty(grid: PressureGrid, result: FillResult): number {
  let best = 0;
  let most = -1;
  for (let i = 0; i < grid.n; i++) {
    if (!Number.isNaN(result.node.fillTime[i]) || grid.volume[i] <= most) continue;
    most = grid.volume[i];
    best = i;
  }
  return best;
}

function latestFilled(grid: PressureGrid, result: FillResult): number {
  let best = 0;
  let latest = -1;
  for (let i = 0; i < grid.n; i++) {
    // Slivers are filled with the excess of their neighbours: their times are no news.
    if (grid.volume[i] < 0.05 * grid.spacing ** 3 || !(result.node.fillTime[i] > latest)) continue;
    latest = result.node.fillTime[i];
    best = i;
  }
  return best;
}

/** The node that filled last, or for a short shot the empty node farthest from the melt. */
function lastNode(grid: PressureGrid, result: FillResult, stalled: boolean): number {
  if (!stalled) return latestFilled(grid, result);
  const steps = new Int32Array(grid.n).fill(-1);
  const queue: number[] = [];
  for (let i = 0; i < grid.n; i++) {
    if (Number.isNaN(result.node.fillTime[i])) continue;
    steps[i] = 0;
    queue.push(i);
  }
  let last = queue[0] ?? 0;
  for (let q = 0; q < queue.length; q++) {
    const i = queue[q];
    if (grid.volume[i] > 0.05 * grid.spacing ** 3) last = i;
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      if (steps[j] >= 0) continue;
      steps[j] = steps[i] + 1;
      queue.push(j);
    }
  }
  return last;
}
