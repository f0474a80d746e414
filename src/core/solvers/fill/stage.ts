import type { StageContext } from '../../stage/context';
import { Cavity } from '../shot/cavity';
import { FrameObserver } from '../shot/frames';
import { HistoryObserver } from '../shot/history';
import { onNodes, type PerNode } from '../shot/located';
import type { Observer, Phase, PhaseContext, PhaseFailure } from '../shot/phase';
import { emptyState, type FrontMemory, type ShotState } from '../shot/state';
import { MachineDrive, type MachinePhase } from '../melt/drive';
import { frontInflow, FrontStep } from '../melt/front';
import { FrontTrace } from './frontTrace';
import { LastPlaces } from '../melt/lastPlaces';
import { downstream, reachableFrom } from '../melt/order';
import { GateShares } from './gateShares';
import type { Filled, FillInput, FillOutcome, FillResult, StallReason } from './outcome';
import { fillHot, startFlowing } from './firstMelt';
import { Peaks } from './peaks';
import { CorePush, LEAST_ADVANCE, MachinePush, ToolPush, WAITING_STEPS, type Push } from './push';
import { TrappedAir } from '../melt/trappedAir';
import { ClosingTool } from '../press/closing';

const DEFAULT_STEPS = 110;
/**
 * Longest advance of the front in a step, nodes: while it is wide, and when it draws together at the end,
 * where the pressure rises with every node.
 */
const ADVANCE = { wide: 2, end: 1, endAt: 0.9 };
const N_FRAMES = 24;
/** Longest step as a share of the time limit: a creeping front is followed in time, not in volume. */
const LONGEST_STEP = 0.01;
/** Share of a second melt at the front from which it counts as broken through. */
const AT_FRONT = 0.5;
/** Air that stays in the corners of a filled cavity, as a share of it. */
const FULL = 1 - 1e-9;

/**
 * Filling of the cavity. Each step: fluidities of the columns, flow and pressure at the machine's
 * setting, advance of the front, heat of every column, air ahead of the front, switchover.
 */
export const fill: Phase<FillInput, Filled> = async (state, input, ctx) => {
  const run = new FillRun(state, input, ctx);
  if (!state.front) run.begin();
  ctx.report(run.progress());
  while (!run.done) {
    await ctx.checkpoint();
    const problem = run.step();
    if (problem) return problem;
    ctx.report(run.progress());
  }
  return run.outcome();
};

/** The filling of an empty cavity that nobody else watches. */
export const runFill = (input: FillInput, ctx: StageContext): Promise<FillOutcome> =>
  fill(emptyState(input.grid, input.gating), input, ctx);

class FillRun {
  done = false;
  private readonly cavity: Cavity;
  private readonly gateShares: GateShares | null = null;
  private readonly air: TrappedAir | null = null;
  private readonly noAir: Float64Array;
  private readonly drive: MachineDrive;
  private readonly inflow: Float64Array;
  private readonly reachable: Float64Array;
  /** What is to be filled, m3; it follows the gap of a tool that closes. */
  private volume: number;
  /** A tool that moves; null: it does not. */
  private readonly closing: ClosingTool | null = null;
  private readonly push: Push;
  /** Melt in hot sections of the feed, there from the start, m3. */
  private readonly hotVolume: number;
  private readonly lastPlaces: LastPlaces;
  private readonly history: HistoryObserver;
  private readonly frames: FrameObserver;
  private readonly observers: readonly Observer[];
  private readonly peaks: Peaks;
  private readonly trace: FrontTrace;
  /** 1 for nodes that melt flows in, or a fluid in its core. */
  private readonly withMelt: Uint8Array;
  private readonly heldBefore: Float64Array;
  /** Pressure on the mould, Pa. */
  private readonly onTool: Float64Array;
  /** 1 for nodes under a gate that is the inlet itself. */
  private readonly pinned: Uint8Array;
  private time: number;
  private injected: number;
  private steps: number;
  private unsettled: number;
  private ended: 'filled' | 'switched' | StallReason = 'filled';
  /** Where and when a second melt came to the front, if it did. */
  private secondAt: FillResult['brokenThrough'] = null;
  private reported: number[] = [];

  constructor(
    state: ShotState,
    private readonly input: FillInput,
    ctx: PhaseContext,
  ) {
    const { gating, heat, air, nGates, before, press, nFrames = N_FRAMES } = input;
    const { front } = state;
    const components = nGates > 1 ? nGates : 0;
    this.cavity = new Cavity(input, state, components);
    const { grid, tool } = this.cavity;
    this.time = state.time;
    this.injected = front?.injected ?? 0;
    this.steps = front?.steps ?? 0;
    this.unsettled = before?.unsettled ?? 0;
    if (input.followHeat !== undefined) this.cavity.heat?.followHeat(input.followHeat);
    this.inflow = new Float64Array(grid.n);
    this.noAir = new Float64Array(grid.n);
    const laid = [...(press?.charge?.share ?? []).keys()].filter((i) => press!.charge!.share[i] > 0);
    this.reachable = reachableFrom(grid, gating, laid);
    this.lastPlaces = new LastPlaces(grid, this.reachable, front?.places);
    this.hotVolume = fillHot(this.cavity, input.hot ?? [], this.reachable, !front);
    this.volume = this.reachable.reduce((s, v) => s + v, 0);
    if (tool && press?.closing) {
      const onTool = (active: Uint8Array) => this.lookAtTool(active);
      this.closing = new ClosingTool(tool, this.cavity, this.reachable, onTool);
    }
    if (air) this.air = new TrappedAir(grid, air.vented, air.state, this.reachable, air.vents, front?.air);
    this.drive = new MachineDrive(input.control, this.volume, input.injectsOn ? undefined : front?.drive);
    this.push = this.whatPushes();
    if (components) {
      const { columns, layers, carrier } = this.cavity;
      const values = columns?.layered(nGates) ?? new Float64Array(grid.n * layers.nLayers * nGates);
      if (front) values.set(front.gateShare);
      this.gateShares = new GateShares(gating, nGates, values);
      carrier.follow(this.gateShares);
    }
    this.history = new HistoryObserver(grid, gating, nGates, input.projectedArea, before?.history);
    const { nHalves = 0 } = this.cavity.columns ?? {};
    const already = before?.frames.times.length;
    this.frames = new FrameObserver(grid, nHalves, heat?.transitionTemperature ?? 0, nFrames, before?.frames, already);
    this.observers = [this.history, this.frames, ...(ctx.observers ?? [])];
    this.peaks = new Peaks(grid.n, before?.node);
    const underGate = new Uint8Array(grid.n);
    for (const { links } of gating.stars) for (const { node } of links) underGate[node] = 1;
    this.trace = new FrontTrace(grid, underGate, before?.node);
    this.withMelt = new Uint8Array(grid.n);
    this.heldBefore = new Float64Array(grid.n);
    this.onTool = new Float64Array(grid.n);
    this.pinned = Uint8Array.from(gating.gateOfNode, (g) => (g >= 0 ? 1 : 0));
  }

  private whatPushes(): Push {
    const { cavity, closing, drive, input } = this;
    if (closing) return new ToolPush(closing, cavity, input.timeLimit);
    return cavity.core ? new CorePush(cavity.core, drive, cavity) : new MachinePush(drive, cavity);
  }

  /** What lies in the tool at the start of the shot, or the first melt at the gates. */
  begin(): void {
    if (!this.input.press?.charge || !this.closing) return this.fillGates();
    const { volume, filled } = this.closing.layCharge();
    this.injected = volume;
    this.enter(filled);
    this.look();
  }

  /** Where the melt starts: nodes that are the inlet and the first ones of a feed are full of it at once. */
  fillGates(): void {
    const { gating, hot = [] } = this.input;
    const { front, solver, heat, grid } = this.cavity;
    this.enter(hot.map((h) => h.node));
    const nodes = gating.attached.filter((a) => a.star < 0).map((a) => a.node);
    for (let i = 0; i < grid.n; i++) if (gating.gateOfNode[i] >= 0) nodes.push(i);
    const volume = nodes.reduce((s, i) => s + grid.volume[i] - front.held[i], 0);
    const flow = this.drive.setFlow(0);
    const dt = volume / flow;
    solver.inletFlow = flow;
    this.prepareStars();
    solver.startStars(flow / Math.max(1, gating.stars.length));
    this.look();
    const step = new FrontStep(grid, front);
    step.fillNodes(nodes, 0, dt);
    this.enter(step.filled);
    for (const i of step.filled) this.trace.temperature[i] = this.input.meltTemperature;
    this.time = dt;
    this.injected = volume;
    heat?.admit(volume);
  }

  /** The melt that speaks for a gate may not have come to its node yet. */
  private prepareStars(): void {
    const { columns, solver, front, gating } = this.cavity;
    for (const { node } of gating.stars)
      if (!front.full[node]) columns?.prepare(node, Math.max(0, solver.pressure[node]));
  }

  /** One solve and one advance of the front. Returns an outcome only on failure. */
  step(): PhaseFailure | null {
    const { front, solver, pins, core, grid } = this.cavity;
    const { drive, push } = this;
    if (this.time < push.from - 1e-9) return this.wait(push.from);
    core?.letIn(front.full, solver.linkFlow);
    pins.follow({
      time: this.time,
      shareFilled: this.injected / this.volume,
      nozzlePressure: solver.inletPressure,
      full: front.full,
    });
    this.solveFlow();
    const before = drive.phase;
    if (!push.phase && drive.follow(this.injected, this.time, solver.inletPressure, solver.inletFlow, front.full)) {
      this.look({ machine: before, frame: 0 });
      // What the machine does from here on is the next phase's.
      if (!this.input.control.packing) return this.switchOver();
      this.solveFlow();
    }
    if (!Number.isFinite(solver.inletPressure) || !Number.isFinite(solver.inletFlow))
      return this.broken(solver.pressure);
    this.look();
    const { active } = this.lastPlaces;
    const flow = push.flow(active);
    this.withMelt.set(active);
    for (const i of core?.nodes ?? []) this.withMelt[i] = 1;
    const total = frontInflow(grid, { full: this.withMelt }, solver, this.inflow);
    // No number is not "no flow".
    if (!Number.isFinite(total)) return this.broken(this.inflow);
    this.lastPlaces.share(front.full, front.held, this.inflow);
    if (!(total > 0) || flow < push.still(this.injected)) {
      const later = push.later(this.time);
      return later === null ? this.endOfFlow() : this.wait(later);
    }
    this.heldBefore.set(front.held);
    const { inflow, withMelt, time } = this;
    const advance = { step: new FrontStep(grid, front), inflow, total, withMelt, time, ...this.stepSize(flow) };
    const by = push.move(advance);
    this.injected += by.injected;
    this.afterStep(advance.step.filled, by.dt);
    push.moved(advance);
    // The cavity of a tool that closes has become smaller.
    if (this.closing) this.volume = this.reachable.reduce((s, v) => s + v, 0);
    this.time += by.clock;
    this.steps++;
    if (this.occupied >= this.volume * FULL) return this.finish();
    const ended = push.ended();
    if (ended) return this.stall(ended);
    if (this.time > this.input.timeLimit) return this.stall(this.closing ? 'force' : 'time');
    return null;
  }

  /** Melt and what is in its core, m3. */
  private get occupied(): number {
    return this.injected + (this.cavity.core?.volume ?? 0);
  }

  /** Nothing moves until a moment [s]; the melt cools. */
  private wait(until: number): null {
    const { heat, front, core, solver } = this.cavity;
    const { timeLimit } = this.input;
    const end = Math.min(until, timeLimit);
    const dt = Math.min(end - this.time, Math.max((end - this.push.from) / WAITING_STEPS, timeLimit / 300));
    solver.scaleFlows(0);
    const hollow = core?.nodes ?? [];
    const solid = [...front.held.keys()].filter((i) => front.held[i] > 0 && !core?.touches(i));
    heat?.rest(dt, solid, front.held);
    heat?.restHollow(dt, hollow);
    this.time += dt;
    this.look();
    return this.time > timeLimit - 1e-9 ? this.stall('time') : null;
  }

  private switchOver(): null {
    this.ended = 'switched';
    this.done = true;
    return null;
  }

  private broken(values: Float64Array): PhaseFailure {
    return {
      status: 'failed',
      step: this.steps,
      message: 'The pressure equation has no finite solution.',
      likely: 'A place of the part is thinner than the grid can tell. Look at the place, or choose a finer Detail.',
      node: values.findIndex((v) => !Number.isFinite(v)),
    };
  }

  /** No flow left: air that stays pressed into a corner is told as a trap, anything more is a short shot. */
  private endOfFlow(): null {
    const trapped = this.air ? this.air.traps.reduce((s, t) => s + this.emptyAround(t.node), 0) : 0;
    if (this.occupied + trapped >= this.volume * (1 - 1e-3)) return this.finish();
    return this.stall(this.push.stalls);
  }

  private emptyAround(node: number): number {
    return Math.max(0, this.reachable[node] - this.cavity.front.held[node]);
  }

  /** Heat, origin and air follow the melt that has moved in this step. */
  private afterStep(filled: number[], dt: number): void {
    const { heldBefore, withMelt, pinned, cavity } = this;
    const { solver, front, columns, core, heat, grid } = cavity;
    const { meltTemperature } = this.input;
    const { active } = this.lastPlaces;
    const order = downstream(grid, active, pinned, solver.pressure);
    cavity.carry(dt, withMelt, order, pinned, heldBefore, front.held);
    if (core) heat?.restHollow(dt, core.nodes);
    this.lookForSecond(filled, dt);
    this.trace.pass(filled, solver.linkFlow, (i) => columns?.middleTemperature(i) ?? meltTemperature);
    this.enter(filled);
    this.air?.update(front.held, front.full, this.time + dt, dt, solver.pressure);
    this.peaks.look(solver, columns, active, pinned);
  }

  /** Where a second melt has come to the front it lies at the skin from there on: the first time is told. */
  private lookForSecond(filled: readonly number[], dt: number): void {
    const { cavity } = this;
    if (!cavity.columns?.second || this.secondAt) return;
    const node = filled.find((i) => cavity.coreShare(i) > AT_FRONT);
    if (node !== undefined) this.secondAt = { node, time: this.time + dt };
  }

  /** Flow field and fluidities for the present front at the machine's setting, and what follows from it. */
  private solveFlow(): void {
    const { time, injected, pinned, push } = this;
    const { front, solver, columns } = this.cavity;
    if (columns) {
      for (let i = 0; i < front.full.length; i++)
        if (front.full[i] && !pinned[i]) columns.prepare(i, Math.max(0, solver.pressure[i]));
      this.prepareStars();
    }
    this.lastPlaces.update(front.full);
    const { active } = this.lastPlaces;
    const air = this.air ? this.lastPlaces.airAround(this.air.pressure, front.full) : this.noAir;
    solver.front.place(front.held, front.full);
    const moment = { active, air, injected, time, first: this.steps === 0 };
    if (!push.settle(moment, this.input)) this.unsettled++;
  }

  /** The front moves by at most about one node, the whole takes at least nSteps, and no step is overlong. */
  private stepSize(flow: number): { volume: number; dt: number } {
    const { nSteps = DEFAULT_STEPS, timeLimit } = this.input;
    const { grid } = this.cavity;
    let atFront = 0;
    for (let i = 0; i < grid.n; i++) if (this.inflow[i] > 0) atFront += grid.volume[i];
    const { wide, end, endAt } = this.input.advance ?? ADVANCE;
    const { time, injected, volume: cavity, occupied } = this;
    const nodes = occupied < endAt * cavity ? wide : end;
    const limit = this.push.limit({ time, injected, nodes, volume: cavity, occupied });
    const longest = Math.min(
      limit.time,
      this.cavity.pins.stepLimit(this.time),
      Number.isFinite(timeLimit) ? LONGEST_STEP * timeLimit : Infinity,
    );
    const volume = Math.min(
      cavity / nSteps,
      Math.max(nodes * atFront, LEAST_ADVANCE * cavity),
      cavity - occupied,
      limit.volume,
      flow * longest,
    );
    return { volume, dt: volume / flow };
  }

  private enter(filled: readonly number[]): void {
    startFlowing(this.cavity, filled, () => this.drive.setFlow(0));
    for (const i of filled) this.reported.push(i);
  }

  progress() {
    const nodes = Int32Array.from(this.reported);
    const times = Float32Array.from(this.reported, (i) => this.cavity.front.fillTime[i]);
    this.reported = [];
    const share = Math.min(1, this.occupied / this.volume);
    return {
      stage: 'fill' as const,
      fraction: share,
      message: `${Math.round(100 * share)} % filled after ${this.time.toFixed(2)} s`,
      filled: { nodes, times },
    };
  }

  /** Pressure on the mould with that of the front, Pa. */
  private lookAtTool(active: Uint8Array): Float64Array {
    const { onTool } = this;
    onTool.set(this.cavity.solver.pressure);
    this.cavity.solver.addFrontPressure(active, onTool);
    return onTool;
  }

  /** Shows the observers where the filling stands. */
  private look(own: { machine?: MachinePhase; frame?: number; last?: boolean } = {}): void {
    const { cavity, drive } = this;
    const { solver, front } = cavity;
    const shareFilled = this.occupied / this.volume;
    const onTool = this.lookAtTool(this.lastPlaces.active);
    const {
      machine = this.push.phase ?? drive.phase,
      frame = shareFilled * (this.input.nFrames ?? N_FRAMES),
      last = false,
    } = own;
    for (const observer of this.observers)
      observer.look({
        time: this.time,
        cavity,
        machine,
        nozzlePressure: solver.inletPressure,
        flowRate: solver.inletFlow,
        shareFilled,
        onTool,
        full: front.full,
        frame,
        flows: true,
        last,
      });
  }

  private stall(reason: StallReason): null {
    this.ended = reason;
    return this.finish();
  }

  /**
   * A full cavity has no front left to flow to: its last flow field is the one that filled it. A
   * standing front is solved once more.
   */
  private finish(): null {
    if (this.ended === 'filled') this.closeLast();
    else this.solveFlow();
    this.look({ last: true });
    this.done = true;
    return null;
  }

  /** Nodes that the last drop left short of full by rounding are full as well, with all that a full node has. */
  private closeLast(): void {
    const { full, fillTime } = this.cavity.front;
    const last: number[] = [];
    for (let i = 0; i < full.length; i++)
      if (!full[i] && fillTime[i] === fillTime[i]) {
        full[i] = 1;
        last.push(i);
      }
    this.enter(last);
  }

  outcome(): Filled {
    const { cavity, drive, trace, ended } = this;
    const { solver, pins, columns } = cavity;
    const { before } = this.input;
    const { grid } = cavity;
    const brokenAt = this.push instanceof CorePush ? this.push.brokenAt : -1;
    const state = cavity.state(this.time, ended === 'filled' ? null : this.ahead());
    const held = state.node.held.reduce((s, v) => s + v, 0);
    const result: FillResult = {
      node: {
        fillTime: onNodes(state.node.fillTime, grid.n),
        peakShearRate: this.peaks.shearRate,
        peakStress: this.peaks.stress,
        frontTemperature: trace.temperature,
        frontSpeed: trace.speed,
        frontDirection: trace.direction,
        gateShare: this.gateShareOfNodes(state.node.held),
        held: onNodes(state.node.held, grid.n),
        core: onNodes(state.core?.volume ?? new Float64Array(grid.n), grid.n),
      },
      frames: this.frames.frames,
      history: this.history.history,
      nHalves: columns?.nHalves ?? 0,
      heatBalance: this.heatBalance(),
      traps: this.air?.found() ?? [],
      cavityVolume: this.volume,
      injectedVolume: this.injected,
      coreVolume: cavity.core?.volume ?? 0,
      gap: cavity.tool?.gap ?? 0,
      massError: Math.abs(held - this.hotVolume - this.injected) / this.volume,
      brokenThrough: brokenAt < 0 ? (before?.brokenThrough ?? this.secondAt) : { node: brokenAt, time: this.time },
      limitReachedAt: drive.limitReachedAt,
      switchedAt: drive.switchedAt && { ...drive.switchedAt, packing: drive.packingPressure },
      pins: (this.input.pins ?? []).map(({ gate }, k) => ({ gate, movedAt: pins.movedAt[k].slice() })),
      steps: this.steps,
      unsettled: this.unsettled,
      solves: solver.solves + (before?.solves ?? 0),
      iterations: solver.iterations + (before?.iterations ?? 0),
    };
    if (ended === 'filled' || ended === 'switched') return { status: ended, state, result };
    return { status: 'stalled', state, result, reason: ended };
  }

  /** With one gate all melt is that gate's. */
  private gateShareOfNodes(held: Float64Array): PerNode {
    const { grid } = this.cavity;
    if (this.gateShares) return this.gateShares.ofNodes(this.cavity.layers, grid.n);
    return onNodes(
      Float32Array.from(held, (v) => (v > 0 ? 1 : 0)),
      grid.n,
    );
  }

  private ahead(): FrontMemory {
    const { steps, injected, gateShares, drive, lastPlaces, air } = this;
    return {
      steps,
      injected,
      gateShare: gateShares?.values.slice() ?? new Float64Array(0),
      drive: drive.memory,
      places: lastPlaces.memory,
      air: air?.memory ?? null,
    };
  }

  private heatBalance(): FillResult['heatBalance'] {
    const { heat, front } = this.cavity;
    if (!heat) return null;
    const { balance } = heat;
    const stored = heat.stored(front.held);
    const put = balance.carriedIn + balance.sheared;
    return { ...balance, stored, error: Math.abs(put - balance.lost - stored) / put };
  }
}
