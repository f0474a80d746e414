import type { FeedCell } from '../feed/network';
import type { Field } from '../fields/field';
import type { SurfacePoint } from '../geometry/closestPoint';
import type { Vec3 } from '../geometry/mesh';
import { add, distance, dot } from '../geometry/vec';
import type { ToolOnGrid } from '../grid/tool';
import { airAt } from '../material/air';
import { meltThermal } from '../material/properties';
import { openingOf } from '../model/body';
import { nCopies, type Inputs } from '../model/study';
import { feedFacts, type FeedFacts } from '../results/feedFacts';
import { feedFields } from '../results/feedFields';
import { NOT_FOLLOWED } from '../solvers/fill/heat';
import { placeInlet } from '../solvers/fill/inlet';
import { joinFeed, onJoined, onPart, resultOnPart, type JoinedFeed } from '../solvers/fill/joinFeed';
import type { FillHeat, FillInput, FillOutcome, FillResult } from '../solvers/fill/outcome';
import type { FillFrames } from '../solvers/fill/record';
import { runFill } from '../solvers/fill/stage';
import { thermalTables } from '../solvers/fill/thermalTables';
import type { PackInput, PackResult } from '../solvers/pack/outcome';
import { runPack } from '../solvers/pack/stage';
import { freezingLaw, type FeedStrain } from '../solvers/warp/wallStrain';
import { feedOf } from './feedOf';
import type { GridResult } from './pipeline';
import { packingAt, type FillSettings } from './settings';
import { gateSites, pinsOf, tabSites, ventedWithTabs, ventsOn } from './sites';
import type { StageContext } from './stage';

/** Steps over the whole volume: the front should cross about one node per step. */
const STEPS: Record<Inputs['detail'], number> = { quick: 32, normal: 80, fine: 120 };

/** Frames over time: enough for a smooth time axis, few enough to load at once. */
const FRAMES: Record<Inputs['detail'], number> = { quick: 16, normal: 24, fine: 24 };
/**
 * Steps of packing over the freezing time of the nominal wall while melt flows, and the share of the time since
 * switchover that they may grow to.
 */
const PACK_STEPS: Record<Inputs['detail'], number> = { quick: 22, normal: 30, fine: 44 };
const PACK_STEP_SHARE: Record<Inputs['detail'], number> = { quick: 0.06, normal: 0.055, fine: 0.035 };
const PACK_FRAMES: Record<Inputs['detail'], number> = { quick: 14, normal: 20, fine: 20 };

/** Change of the fluidities, rms of ln M, that Detail quick lets pass: 1 % of the pressure, a fifth of its grid error. */
const QUICK_FLUIDITY = 0.12;

/** The skin closes every way by itself; this only ends what would creep for ever. */
const GIVE_UP = 2;

/** Filling and, where it is asked for and the part was filled, packing and cooling: on the part's own nodes. */
export type Shot = Extract<FillOutcome, { status: 'filled' | 'stalled' }> & {
  pack: PackResult | null;
  /** Over the whole cycle. */
  frames: FillFrames;
  feed?: FeedFacts;
  inFeed?: Field[];
};

export async function shoot(
  gridResult: GridResult,
  tool: ToolOnGrid,
  surfaces: SurfacePoint[],
  inputs: Inputs,
  settings: FillSettings,
  /** Temperatures of the mould at both walls of every node, K, length 2n; null for those that are set. */
  walls: Float64Array | null,
  ctx: StageContext,
  /** Number of steps in time over the usual. */
  steps = 1,
): Promise<Shot | Extract<FillOutcome, { status: 'failed' }>> {
  const { fine, grid, gridKey } = gridResult;
  const tabs = inputs.tabs ?? [];
  const inlet = placeInlet(fine, grid, [...gateSites(inputs, surfaces), ...tabSites(inputs)]);
  const vented = freeAir(inputs, tool, grid.n);
  const vents = inputs.cycle.venting === 'sealed' ? [] : ventsOn(inputs, fine, grid, tool);
  const copies = nCopies(inputs);
  const plain = {
    nGates: inputs.gates.length,
    viscosity: settings.resin.viscosity,
    meltTemperature: settings.meltTemperature,
    control: ofOne(settings.control, copies),
    timeLimit: GIVE_UP * settings.freezeTime,
    nSteps: Math.round(steps * STEPS[inputs.detail]),
    nFrames: FRAMES[inputs.detail],
    fluidityTolerance: inputs.detail === 'quick' ? QUICK_FLUIDITY : undefined,
    followHeat: inputs.detail === 'quick' ? NOT_FOLLOWED : undefined,
  };
  const state = airAt(settings.mouldTemperature);
  const heat = heatOf(settings, tool, walls);
  if (!inputs.feed && !tabs.length) {
    const input = { ...plain, grid, inlet, heat, air: { state, vented, vents }, projectedArea: tool.projectedArea };
    const outcome = await runFill(input, ctx);
    if (outcome.status === 'failed') return outcome;
    const pack = await packAfter(outcome, input, inputs, settings, steps, {}, ctx);
    if (pack && 'message' in pack) return pack;
    const { recorder } = outcome.result.state;
    return ofAll({ ...outcome, pack, frames: recorder.frames }, copies);
  }
  const network = feedOf(inputs, settings.meltTemperature);
  const joined = joinFeed(grid, inlet, network);
  const shadow = onJoined(tool.projectedArea, joined);
  const opening = openingOf(inputs.tool);
  for (const { node, cell } of joined.cells) shadow[node] = cell.hot === null ? shadowOf(cell, opening) : 0;
  const input: FillInput = {
    ...plain,
    grid: joined.grid,
    inlet: joined.inlet,
    heat: heatInFeed(heat, joined),
    air: {
      state,
      vented: ventedWithTabs(vented, joined, network, tabs),
      vents: vents.map((v) => ({ ...v, nodes: v.nodes.map((i) => joined.nodeOf[i]) })),
    },
    projectedArea: shadow,
    pins: pinsOf(inputs, fine, grid, joined, network),
    hot: joined.cells.flatMap(({ node, cell }) => (cell.hot === null ? [] : [{ node, temperature: cell.hot }])),
  };
  const outcome = await runFill(input, ctx);
  if (outcome.status === 'failed') return outcome;
  const part = new Uint8Array(joined.grid.n);
  for (const node of joined.nodeOf) part[node] = 1;
  const hot = input.hot?.map((h) => h.node) ?? [];
  const packed = await packAfter(outcome, input, inputs, settings, steps, { part, hot }, ctx);
  if (packed && 'message' in packed) return packed;
  const { frames } = outcome.result.state.recorder;
  const whole: Shot = {
    ...outcome,
    result: resultOnPart(outcome.result, grid, joined),
    pack: packed && packOnPart(packed, joined, inputs.gates.length),
    frames: framesOnPart(frames, joined),
  };
  return {
    ...ofAll(whole, copies),
    feed: feedFacts(outcome.result, joined, network, inputs.gates, copies),
    inFeed: feedFields({ ...outcome.result, frames }, joined, gridKey),
  };
}

/** The packing of a filled part; null when it is not asked for or there is nothing to pack. */
async function packAfter(
  outcome: Extract<FillOutcome, { status: 'filled' | 'stalled' }>,
  { projectedArea }: FillInput,
  inputs: Inputs,
  settings: FillSettings,
  steps: number,
  own: Partial<PackInput>,
  ctx: StageContext,
): Promise<PackResult | Extract<FillOutcome, { status: 'failed' }> | null> {
  if (inputs.upTo === 'fill' || outcome.status !== 'filled') return null;
  const { result } = outcome;
  const { packing, resin, coolingTime, pressureLimit } = settings;
  const switched = result.switchedAt ?? {
    time: result.history.time[result.history.time.length - 1],
    pressure: result.state.solver.inletPressure,
  };
  const packed = await runPack(
    {
      fill: result,
      density: resin.pvt,
      control: {
        pressureAt: (since) => Math.min(pressureLimit, packingAt(packing, since, switched.pressure)),
        corners: packing.points.map((p) => p.at),
        end: packing.end,
      },
      detachedTransfer: settings.detachedTransfer,
      ejectionTemperature: resin.ejectionTemperature,
      transitionTemperature: resin.transitionTemperature,
      noFlowTemperature: resin.noFlowTemperature,
      solidShare: settings.solidShare,
      openAt: coolingTime === null ? null : switched.time + packing.end + coolingTime,
      freezeTime: settings.freezeTime,
      projectedArea,
      freezing: freezingLaw(resin.pvt, resin.transitionTemperature, resin.expansion.along),
      nFrames: PACK_FRAMES[inputs.detail],
      stepsPerFreeze: steps * PACK_STEPS[inputs.detail],
      stepShare: PACK_STEP_SHARE[inputs.detail] / steps,
      ...own,
    },
    ctx,
  );
  return packed.status === 'failed' ? packed : packed.result;
}

function framesOnPart(frames: FillFrames, { nodeOf, grid }: JoinedFeed): FillFrames {
  const each = (list: Float32Array[], width = 1) => list.map((values) => onPart(values, nodeOf, width));
  return {
    ...frames,
    pressure: each(frames.pressure),
    temperature: each(frames.temperature),
    frozen: each(frames.frozen),
    velocity: each(frames.velocity, 3),
    profile: each(frames.profile, frames.profile.length ? frames.profile[0].length / grid.n : 1),
  };
}

function packOnPart(pack: PackResult, joined: JoinedFeed, nGates: number): PackResult {
  const { nodeOf } = joined;
  const on = (values: Float32Array) => onPart(values, nodeOf);
  return {
    ...pack,
    fedUntil: on(pack.fedUntil),
    frozenAt: on(pack.frozenAt),
    releasedAt: on(pack.releasedAt),
    ejectableAt: on(pack.ejectableAt),
    sealPressure: on(pack.sealPressure),
    shrinkageAtEjection: on(pack.shrinkageAtEjection),
    shrinkage: on(pack.shrinkage),
    density: on(pack.density),
    unfed: on(pack.unfed),
    skinAtRelease: on(pack.skinAtRelease),
    frozen: pack.frozen && {
      ...pack.frozen,
      inPlane: onPart(pack.frozen.inPlane, nodeOf, pack.frozen.nLayers),
      mean: on(pack.frozen.mean),
      pressure: onPart(pack.frozen.pressure, nodeOf, pack.frozen.nLayers),
      feed: feedStrain(pack.frozen.mean, joined),
    },
    gateFrozenAt: pack.gateFrozenAt.slice(0, nGates),
  };
}

/** Cold pieces of the feed with the mean strain of their cells. Slices of ducts that serve more cavities have no body. */
function feedStrain(mean: Float32Array, { cells }: JoinedFeed): FeedStrain[] {
  const pieces = new Map<number, { first: FeedCell; last: FeedCell; volume: number; strain: number }>();
  for (const { node, cell } of cells) {
    const strain = mean[node];
    if (cell.hot !== null || cell.alike !== 1 || strain !== strain) continue;
    const piece = pieces.get(cell.segment) ?? { first: cell, last: cell, volume: 0, strain: 0 };
    piece.last = cell;
    piece.volume += cell.duct.area * cell.length;
    piece.strain += cell.duct.area * cell.length * strain;
    pieces.set(cell.segment, piece);
  }
  return [...pieces.values()].map(({ first, last, volume, strain }) => {
    const from = add(first.position, first.direction, -first.length / 2);
    const to = add(last.position, last.direction, last.length / 2);
    return { from, to, area: volume / distance(from, to), strain: strain / volume };
  });
}

/** What the machine does for one of `n` equal cavities. */
function ofOne(control: FillSettings['control'], n: number): FillSettings['control'] {
  if (n === 1) return control;
  return { ...control, flowRateAt: (v) => control.flowRateAt(n * v) / n, maxFlowRate: control.maxFlowRate / n };
}

/** What the machine sees of `n` cavities of which one was solved. Flows of single gates stay theirs. */
function ofAll(shot: Shot, n: number): Shot {
  if (n === 1) return shot;
  const all = (history: FillResult['history']) => ({
    ...history,
    flowRate: history.flowRate.map((q) => n * q),
    clampForce: history.clampForce.map((f) => n * f),
  });
  const { result, pack } = shot;
  return {
    ...shot,
    result: { ...result, history: all(result.history) },
    pack: pack && { ...pack, history: all(pack.history) },
  };
}

/** Nodes (1) from which air gets out without a loss. */
function freeAir({ cycle }: Inputs, tool: ToolOnGrid, n: number): Uint8Array {
  if (cycle.venting === 'open') return new Uint8Array(n).fill(1);
  return cycle.venting === 'parting-line' ? tool.vented : new Uint8Array(n);
}

/** Area of a length of runner seen along the opening direction, m2. */
function shadowOf({ direction, length, duct, alike }: FeedCell, opening: Vec3): number {
  const along = dot(direction, opening);
  return (length * Math.sqrt(Math.max(0, 1 - along * along)) * duct.width) / alike + Math.abs(along) * duct.area;
}

/** Contact of hot sections: the melt has the wall's temperature. */
const HOT_TRANSFER = 1e5;

/** Walls of the joined grid: runners lie in the upper half's steel, hot sections at their own temperature. */
function heatInFeed(heat: FillHeat, joined: JoinedFeed): FillHeat {
  const sideOf = new Int32Array(2 * joined.grid.n);
  joined.nodeOf.forEach((node, i) => sideOf.set(heat.sideOf.subarray(2 * i, 2 * i + 2), 2 * node));
  const sides = heat.sides.slice();
  for (const { node, cell } of joined.cells) {
    if (cell.hot === null) continue;
    let side = sides.findIndex((s) => s.temperature === cell.hot && s.transfer === HOT_TRANSFER);
    if (side < 0) side = sides.push({ temperature: cell.hot, transfer: HOT_TRANSFER }) - 1;
    sideOf.fill(side, 2 * node, 2 * node + 2);
  }
  return { ...heat, sides, sideOf };
}

function heatOf(settings: FillSettings, tool: ToolOnGrid, walls: Float64Array | null): FillHeat {
  const { resin, mouldTemperature, lowerMouldTemperature, wallTransfer: transfer } = settings;
  const thermal = meltThermal(resin, settings.meltTemperature);
  // The first side is also that of cold runners.
  const sides = [{ temperature: mouldTemperature, transfer }];
  if (walls) for (const temperature of walls) sides.push({ temperature, transfer });
  else if (lowerMouldTemperature !== mouldTemperature) sides.push({ temperature: lowerMouldTemperature, transfer });
  return {
    ...thermal,
    tables: thermalTables(resin.specificHeat, resin.conductivity, thermal),
    sides,
    sideOf: walls ? Int32Array.from(walls, (_, k) => k + 1) : tool.halfOf,
    noFlowTemperature: resin.noFlowTemperature,
    transitionTemperature: resin.transitionTemperature,
  };
}
