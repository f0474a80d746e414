import type { FeedCell } from '../feed/network';
import type { LaidFeed } from '../feed/layout';
import type { SurfacePoint } from '../geometry/closestPoint';
import type { Vec3 } from '../geometry/mesh';
import { dot, frameOn } from '../geometry/vec';
import { acrossNodes } from '../grid/acrossNodes';
import type { ToolOnGrid } from '../grid/tool';
import type { ToolHold } from '../grid/toolHold';
import { airAt } from '../material/air';
import { isotropic } from '../material/fibres/tensor';
import { meltThermal } from '../material/properties';
import { openingOf } from '../model/body';
import { CLAMP_SHARE } from '../model/packing';
import { warpageOf } from '../model/warpage';
import { nCopies, type Inputs, type Transfer } from '../model/study';
import { NOT_FOLLOWED } from '../solvers/melt/heatRows';
import type { CoreInput } from '../solvers/core/core';
import type { PressInput } from '../solvers/press/openTool';
import type { Switchover } from '../solvers/melt/drive';
import { placeGating } from '../solvers/melt/gating';
import { joinFeed, onJoined, type JoinedFeed } from '../solvers/melt/joinFeed';
import type { FibreInput } from '../solvers/fibres/orientationField';
import type { FillInput } from '../solvers/fill/outcome';
import { thermalTables } from '../solvers/melt/thermalTables';
import { freezingOf } from '../solvers/pack/freeStrain';
import { ROOM_AIR } from '../solvers/pack/inAir';
import type { PackInput } from '../solvers/pack/outcome';
import type { WallSide } from '../solvers/melt/columns';
import type { MeltHeat } from '../solvers/shot/cavity';
import type { TransferInput, Warmth } from '../solvers/shot/transfer';
import type { GridResult } from '../setup/grids';
import type { Behinds } from '../setup/behind';
import type { OpenToolOnGrid } from '../setup/press';
import type { Resolved } from '../setup/resolve';
import type { Stand } from './process';
import type { FibreSettings } from '../setup/fibres';
import type { FillSettings } from '../setup/settings';
import { gatesOfMelt, gateSites, meltEnd, needlesOn, pinsOf, tabSites, ventedWithTabs, ventsOn } from '../setup/sites';

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
/** Frames over the usual ones, by how many instants are wanted. */
const KEPT: Record<NonNullable<Inputs['instants']>, number> = { few: 0.5, many: 2.5 };
const framesOf = (usual: number, { instants }: Pick<Inputs, 'instants'>): number =>
  Math.round(usual * (instants ? KEPT[instants] : 1));

/** Change of the fluidities, rms of ln M, that Detail quick lets pass: 1 % of the pressure, a fifth of its grid error. */
const QUICK_FLUIDITY = 0.12;

/** The skin closes every way by itself; this only ends what would creep for ever. */
const GIVE_UP = 2;

/** What a shot is made with: everything of a run but its phases. */
export interface ShotInput extends Resolved {
  gridResult: GridResult;
  tool: ToolOnGrid;
  /** Where the tool stands open at the start; null: it is closed. */
  open: OpenToolOnGrid | null;
  /** Of the gates. */
  surfaces: SurfacePoint[];
  /** Temperatures of the mould at both walls of every node, K, length 2n; null for those that are set. */
  walls: Float64Array | null;
  /** What the tool holds of the part; null: nothing, or nobody asks. */
  steel: ToolHold | null;
  /** Inserts and plastic moulded before, behind its walls; null: the mould, everywhere. */
  behind: Behinds | null;
  /** The way to the next mould; null: it is the last shot. */
  transfer: Transfer | null;
  /** Number of steps in time over the usual. */
  steps?: number;
}

/** Part and feed on one grid, and the feed itself; without one the melt comes straight to the gates. */
export interface PlacedFeed {
  joined: JoinedFeed;
  network: LaidFeed | null;
}

export function placeFeed({ gridResult, surfaces, inputs, feed }: ShotInput): PlacedFeed {
  const { fine, grid } = gridResult;
  const gating = placeGating(fine, grid, [...gateSites(inputs, surfaces), ...tabSites(inputs)]);
  return { joined: joinFeed(grid, gating, feed), network: feed };
}

export function fillInputOf(shot: ShotInput, { joined, network }: PlacedFeed): FillInput {
  const { gridResult, tool, inputs, settings, walls, behind, steps = 1 } = shot;
  const { fine, grid } = gridResult;
  const vents = inputs.cycle.venting === 'sealed' ? [] : ventsOn(inputs, fine, grid, tool);
  const opening = openingOf(inputs.tool);
  const projectedArea = onJoined(tool.projectedArea, joined);
  for (const { node, cell } of joined.cells) projectedArea[node] = cell.hot === null ? shadowOf(cell, opening) : 0;
  const machine = ofOne(withinClamp(settings, projectedArea, nCopies(inputs)), nCopies(inputs));
  const open = pressInputOf(shot, joined);
  return {
    ...(open ? { press: open } : {}),
    ...(settings.fibres ? { fibres: fibreInputOf(settings.fibres, shot, joined) } : {}),
    grid: joined.grid,
    gating: joined.gating,
    nGates: inputs.gates.length,
    viscosity: settings.resin.viscosity,
    meltTemperature: settings.meltTemperature,
    control: meltEndsAt(machine, meltEnd(inputs, fine, grid, joined) ?? endOfDose(shot, joined)),
    heat: heatInFeed(heatOf(settings, tool, walls, behind), joined),
    air: {
      state: airAt(settings.mouldTemperature),
      vented: ventedWithTabs(freeAir(inputs, tool, grid.n), joined, network, inputs.tabs ?? []),
      vents: vents.map((v) => ({ ...v, nodes: v.nodes.map((i) => joined.nodeOf[i]) })),
    },
    projectedArea,
    pins: network ? pinsOf(inputs, fine, grid, joined, network) : [],
    hot: joined.cells.flatMap(({ node, cell }) => (cell.hot === null ? [] : [{ node, temperature: cell.hot }])),
    timeLimit: GIVE_UP * settings.freezeTime,
    nSteps: Math.round(steps * STEPS[inputs.detail]),
    nFrames: framesOf(FRAMES[inputs.detail], inputs),
    fluidityTolerance: inputs.detail === 'quick' ? QUICK_FLUIDITY : undefined,
    followHeat: inputs.detail === 'quick' ? NOT_FOLLOWED : undefined,
  };
}

/** Fibres in the melt, which comes in with none of its directions before another. */
function fibreInputOf(
  { model, closure, lengths, migration, coupling }: FibreSettings,
  { mesh, gridResult: { fine, grid } }: Pick<ShotInput, 'mesh' | 'gridResult'>,
  joined: JoinedFeed,
): FibreInput {
  const across = new Float64Array(3 * joined.grid.n);
  const ofPart = acrossNodes(mesh, fine, grid);
  joined.nodeOf.forEach((node, i) => across.set(ofPart.subarray(3 * i, 3 * i + 3), 3 * node));
  // A runner is round: one direction across it stands for all.
  for (const { node, cell } of joined.cells) across.set(frameOn(cell.direction)[0], 3 * node);
  for (let i = 0; i < joined.grid.n; i++)
    if (!across[3 * i] && !across[3 * i + 1] && !across[3 * i + 2]) across[3 * i + 2] = 1;
  return {
    model,
    closure,
    across,
    fresh: isotropic(),
    ...(lengths ? { lengths } : {}),
    ...(migration ? { shares: migration } : {}),
    ...(coupling ? { coupling } : {}),
  };
}

/** The tool as it stands while melt comes in, on the joined grid; null: it is closed. */
function pressInputOf({ open, settings }: ShotInput, joined: JoinedFeed): PressInput | null {
  if (!open || !settings.press) return null;
  const onAll = (values: Float64Array) => onJoined(values, joined);
  return {
    growth: onAll(open.growth),
    area: onAll(open.area),
    gap: open.gap,
    closing: null,
    ...(open.charge ? { charge: { share: onAll(open.charge), temperature: settings.press.chargeTemperature! } } : {}),
  };
}

/** The same as it closes, from where the melt has ended. */
export function closingOf({ settings: { press } }: ShotInput, fill: FillInput, ended: number): PressInput | null {
  if (!fill.press || !press) return null;
  const { speed, force, delay, hold } = press;
  return { ...fill.press, closing: { from: ended + delay, speed, force, hold } };
}

/** Share of the open tool and the feed at which the melt that is meant for it is in; null: the tool is closed. */
function endOfDose({ open }: ShotInput, { grid, nodeOf }: JoinedFeed): Switchover | null {
  if (!open) return null;
  let part = 0;
  for (const node of nodeOf) part += grid.volume[node];
  const feed = grid.volume.reduce((s, v) => s + v, 0) - part;
  return { by: 'share', share: (feed + open.melt) / (feed + open.open) };
}

/** The machine ends the melt where something else drives it on. */
const meltEndsAt = (control: FillSettings['control'], switchover: Switchover | null): FillSettings['control'] =>
  switchover ? { ...control, switchover, packing: null } : control;

/** Of the filling by a second melt that follows the first; null where there is none. */
export function secondInputOf({ settings, inputs, gridResult }: ShotInput, fill: FillInput): FillInput | null {
  const { second } = settings;
  if (!second) return null;
  const { viscosity, noFlowTemperature, pvt } = second.resin;
  const control = ofOne(
    withinClamp(settings, fill.projectedArea ?? new Float64Array(gridResult.grid.n), nCopies(inputs)),
    nCopies(inputs),
  );
  return {
    ...fill,
    gating: gatesOfMelt(inputs, fill.gating, 'second'),
    control,
    viscosity,
    meltTemperature: second.meltTemperature,
    second: { viscosity, noFlowTemperature, density: pvt, enters: true, first: fill.viscosity },
  };
}

/** The fluid that follows in the core, from where the melt has ended; null where there is none. */
export function coreOfShot(
  { settings: { core }, inputs, gridResult: { fine, grid } }: ShotInput,
  joined: JoinedFeed,
  { found, state }: Stand,
): CoreInput | null {
  if (!core || !found.fill) return null;
  return {
    needles: needlesOn(inputs, fine, grid, joined),
    from: (found.fill.result.switchedAt?.time ?? state.time) + core.delay,
    control: core.control,
    fluid: core.fluid,
    surfaceTension: 0,
  };
}

/** Of packing after a filling; null when it is not asked for or there is nothing to pack. */
export function packInputOf(shot: ShotInput, fill: FillInput, joined: JoinedFeed, stand: Stand): PackInput | null {
  const { found, state } = stand;
  const { inputs, settings, steel, steps = 1 } = shot;
  if (inputs.upTo === 'fill' || found.fill?.status !== 'filled') return null;
  const { packing, resin, coolingTime, pressureLimit } = settings;
  const { hold, after } = warpageOf(inputs);
  const switched = found.fill.result.switchedAt ?? { time: state.time, pressure: state.machine.pressure };
  const part = new Uint8Array(joined.grid.n);
  for (const node of joined.nodeOf) part[node] = 1;
  const { pins, nGates, projectedArea, hot = [] } = fill;
  const core = coreOfShot(shot, joined, stand);
  const press = closingOf(shot, fill, 0);
  return {
    ...meltOf(fill),
    ...(core ? { core } : {}),
    ...(press ? { press } : {}),
    pins,
    nGates,
    projectedArea,
    part,
    hot: hot.map((h) => h.node),
    switchedAt: switched.time,
    density: resin.pvt,
    control: {
      profile: { ...packing, most: fill.control.packing?.most },
      atSwitchover: switched.pressure,
      limit: pressureLimit,
    },
    detachedTransfer: settings.detachedTransfer,
    ejectionTemperature: resin.ejectionTemperature,
    transitionTemperature: resin.transitionTemperature,
    noFlowTemperature: resin.noFlowTemperature,
    solidShare: settings.solidShare,
    coolingTime,
    freezeTime: settings.freezeTime,
    freezing: freezingOf(resin),
    heldUntil: hold === 'ejection' ? FOR_EVER : null,
    ...(steel && hold === 'tool' ? { steel: holdOnJoined(steel, joined) } : {}),
    outside: { ...ROOM_AIR, until: after },
    nFrames: framesOf(PACK_FRAMES[inputs.detail], inputs),
    stepsPerFreeze: steps * PACK_STEPS[inputs.detail],
    stepShare: PACK_STEP_SHARE[inputs.detail] / steps,
  };
}

/** Longer than any shot, s. */
const FOR_EVER = 1e9;

/** Runners close around nothing. */
function holdOnJoined({ share, along }: ToolHold, { nodeOf, grid }: JoinedFeed): ToolHold {
  const hold = { share: new Float32Array(2 * grid.n), along: new Float32Array(3 * grid.n) };
  nodeOf.forEach((node, i) => {
    hold.share.set(share.subarray(2 * i, 2 * i + 2), 2 * node);
    hold.along.set(along.subarray(3 * i, 3 * i + 3), 3 * node);
  });
  return hold;
}

/** The machine with the most that its clamp holds over `n` times the area [m2] of each node. */
function withinClamp({ control, machine }: FillSettings, area: Float64Array, n: number): FillSettings['control'] {
  const most = (CLAMP_SHARE * machine.clampForce) / (n * area.reduce((sum, a) => sum + a, 0));
  return { ...control, packing: control.packing && { ...control.packing, most } };
}

/** What the machine does for one of `n` equal cavities. */
function ofOne(control: FillSettings['control'], n: number): FillSettings['control'] {
  const { flowRates, maxFlowRate } = control;
  return {
    ...control,
    flowRates: flowRates.map(({ from, rate }) => ({ from: from / n, rate: rate / n })),
    maxFlowRate: maxFlowRate / n,
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
function heatInFeed(heat: MeltHeat, joined: JoinedFeed): MeltHeat {
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

/** Mould temperatures at the sides of nodes, K: those that are given (see `ShotInput`), or those of the halves. */
export const mouldAtSides = (
  { mouldTemperature, lowerMouldTemperature }: FillSettings,
  { halfOf }: ToolOnGrid,
  walls: Float64Array | null,
): ((side: number) => number) => {
  if (walls) return (k) => walls[k];
  return (k) => (halfOf[k] ? lowerMouldTemperature : mouldTemperature);
};

function heatOf(
  settings: FillSettings,
  tool: ToolOnGrid,
  walls: Float64Array | null,
  behind: Behinds | null,
): MeltHeat {
  const { resin, mouldTemperature, lowerMouldTemperature, wallTransfer: transfer } = settings;
  const thermal = meltThermal(resin, settings.meltTemperature);
  // The first side is also that of cold runners.
  const sides: WallSide[] = [{ temperature: mouldTemperature, transfer }];
  if (walls) for (const temperature of walls) sides.push({ temperature, transfer });
  else if (lowerMouldTemperature !== mouldTemperature) sides.push({ temperature: lowerMouldTemperature, transfer });
  const sideOf = walls
    ? Int32Array.from(walls, (_, k) => k + 1)
    : Int32Array.from(tool.halfOf, (half) => Math.min(half, sides.length - 1));
  if (behind) {
    const first = sides.length;
    const { start, layer } = behind.spec;
    behind.walls.list.forEach((_, s) => sides.push({ temperature: layer.temperature[start[s]], transfer, behind: s }));
    behind.walls.of.forEach((s, k) => {
      if (s >= 0) sideOf[k] = first + s;
    });
  }
  return {
    ...thermal,
    tables: thermalTables(resin.specificHeat, resin.conductivity, thermal),
    sides,
    sideOf,
    ...(behind ? { behind: behind.spec } : {}),
    noFlowTemperature: resin.noFlowTemperature,
    transitionTemperature: resin.transitionTemperature,
  };
}

/** Grid and melt, which later phases take over from the filling. */
const meltOf = ({ grid, gating, viscosity, meltTemperature, heat, second, fibres }: FillInput) => ({
  grid,
  gating,
  viscosity,
  meltTemperature,
  heat,
  ...(second ? { second } : {}),
  ...(fibres ? { fibres } : {}),
});

/** Of the way to the next mould; null where there is none, or nothing to carry. */
export function transferInputOf(
  { transfer, settings, tool }: ShotInput,
  fill: FillInput,
  joined: JoinedFeed,
  from: Warmth | null,
): TransferInput | null {
  if (!transfer || !from) return null;
  const onSteel = new Uint8Array(2 * joined.grid.n);
  if (transfer.on === 'lower-half')
    joined.nodeOf.forEach((node, i) => onSteel.set(tool.halfOf.subarray(2 * i, 2 * i + 2), 2 * node));
  const loose = Math.min(settings.wallTransfer, settings.detachedTransfer ?? settings.wallTransfer);
  return {
    ...meltOf(fill),
    from,
    time: transfer.time,
    onSteel,
    steel: { temperature: settings.lowerMouldTemperature, transfer: loose },
    air: ROOM_AIR,
  };
}
