import type { PressureGrid } from '../../grid/pressureGrid';
import { sectionFlow } from '../../material/sectionFlow';
import { stressForm } from '../../material/stressForm';
import type { StageContext } from '../../pipeline/stage';
import type { Columns } from './columns';
import { CompiledColumns, CompiledHeat } from './compiledColumns';
import { MachineDrive } from './drive';
import type { Inlet } from './inlet';
import { emptyFront, frontInflow, FrontStep, type FrontState } from './front';
import type { Heat } from './heat';
import { Origins } from './origins';
import { ValvePins } from './pins';
import { FlowSolver, type Rheology } from './pressure';
import { downstream, reachableFrom } from './order';
import type { FillHistory, FillInput, FillOutcome, FillResult } from './outcome';
import { LastPlaces } from './lastPlaces';
import { FrameRecorder, meanVelocity } from './record';
import { TrappedAir } from './trappedAir';

const DEFAULT_STEPS = 110;
/**
 * Longest advance of the front in a step, nodes: while it is wide, and when it draws together at the end,
 * where the pressure rises with every node.
 */
const ADVANCE = { wide: 2, end: 1, endAt: 0.9 };
const N_FRAMES = 24;
/** Flow rate over the set one below which the front stands still for all practical purposes. */
const STALL_FLOW = 2e-3;
/** Longest step as a share of the time limit: a creeping front is followed in time, not in volume. */
const LONGEST_STEP = 0.01;
/** Fluidities are followed until inlet pressure (or flow) moves by less than this in one pass. */
const PICARD_TOLERANCE = 2e-3;
const MAX_PICARD = 6;
const FIRST_PASSES = 25;
/** Most passes of a step, made while pressure (or flow) still moves by more than this share in one. */
const MOST_PASSES = 25;
const UNSETTLED = 0.02;
/** A pass that would change the fluidities by less than this (rms of ln M) is not followed by another. */
const FLUIDITY_TOLERANCE = 0.08;
/**
 * Over-relaxation of ln M. For flow at a set rate the pass converges at once, for shares between
 * parallel paths with ratio 1 - n; 1.3 balances the two for the usual n of 0.2 to 0.4.
 */
const RELAXATION = 1.3;
const SOLVER_TOLERANCE = 1e-4;
/** Apparent shear rate below which the melt stands, 1/s. */
const STANDING = 1;
/** Air that stays in the corners of a filled cavity, as a share of it. */
const FULL = 1 - 1e-9;

/**
 * Filling of the cavity. Each step: fluidities of the columns, flow and pressure at the machine's
 * setting, advance of the front, heat of every column, air ahead of the front, switchover.
 */
export async function runFill(input: FillInput, ctx: StageContext): Promise<FillOutcome> {
  const run = new FillRun(input);
  run.fillGates();
  ctx.report(run.progress());
  while (!run.done) {
    await ctx.checkpoint();
    const problem = run.step();
    if (problem) return problem;
    ctx.report(run.progress());
  }
  return run.outcome();
}

class FillRun {
  readonly state: FrontState;
  done = false;
  private readonly rheology: Rheology;
  private readonly columns: Columns | null = null;
  private readonly heat: Heat | null = null;
  private readonly origins: Origins;
  private readonly air: TrappedAir | null = null;
  private readonly noAir: Float64Array;
  private readonly drive: MachineDrive;
  private readonly solver: FlowSolver;
  private readonly inlet: Inlet;
  private readonly pins: ValvePins;
  private readonly inflow: Float64Array;
  private readonly reachable: Float64Array;
  /** What is to be filled, m3. */
  private readonly volume: number;
  /** Melt in hot sections of the feed, there from the start, m3. */
  private readonly hotVolume: number;
  private readonly history: FillHistory = {
    time: [],
    nozzlePressure: [],
    pressure: [],
    flowRate: [],
    shareFilled: [],
    clampForce: [],
    phase: [],
    gateFlow: [],
    gatePressure: [],
    gateLoss: [],
  };
  private readonly lastPlaces: LastPlaces;
  private readonly recorder: FrameRecorder;
  private readonly peakShearRate: Float32Array;
  private readonly peakStress: Float32Array;
  private readonly frontTemperature: Float32Array;
  private readonly frontSpeed: Float32Array;
  private readonly frontDirection: Float32Array;
  private readonly fullBefore: Uint8Array;
  private readonly heldBefore: Float64Array;
  /** Pressure on the mould, Pa. */
  private readonly onTool: Float64Array;
  /** 1 for nodes under a gate. */
  private readonly pinned: Uint8Array;
  /** 1 for nodes that links of a gate's near field lead to. */
  private readonly underGate: Uint8Array;
  private time = 0;
  private injected = 0;
  private steps = 0;
  private unsettled = 0;
  private stalled: 'time' | 'flow' | null = null;
  private reported: number[] = [];

  constructor(private readonly input: FillInput) {
    const { grid, inlet, heat, air } = input;
    if (inlet.gateOfNode.length !== grid.n) throw new Error('the inlet belongs to another grid');
    this.state = emptyFront(grid);
    if (heat) {
      const form = stressForm(input.viscosity, heat.noFlowTemperature);
      const columns = new CompiledColumns(grid, form, heat, heat, input.meltTemperature);
      const reference = Math.min(...heat.sides.map((s) => s.temperature));
      this.heat = new CompiledHeat(grid, columns, heat, input.meltTemperature, reference);
      if (input.followHeat !== undefined) this.heat.followHeat(input.followHeat);
      this.columns = columns;
      this.rheology = withEntry(columns, input);
    } else this.rheology = isothermal(grid, input);
    // Pins shut links of this run's own.
    const own = input.pins?.length ? { ...inlet, linkFactor: inlet.linkFactor.slice() } : inlet;
    this.inlet = own;
    this.solver = new FlowSolver(grid, own, this.rheology);
    this.pins = new ValvePins(input.pins ?? [], own.linkFactor);
    this.inflow = new Float64Array(grid.n);
    this.noAir = new Float64Array(grid.n);
    this.reachable = reachableFrom(grid, inlet);
    this.lastPlaces = new LastPlaces(grid, this.reachable);
    this.hotVolume = this.fillHot();
    this.volume = this.reachable.reduce((s, v) => s + v, 0);
    if (air) this.air = new TrappedAir(grid, air.vented, air.state, this.reachable, air.vents);
    this.drive = new MachineDrive(input.control, this.volume);
    this.origins = new Origins(grid, inlet, input.nGates);
    this.recorder = new FrameRecorder(grid, this.columns, heat?.transitionTemperature ?? 0, input.nFrames ?? N_FRAMES);
    const unknown = () => new Float32Array(grid.n).fill(NaN);
    this.peakShearRate = new Float32Array(grid.n);
    this.peakStress = new Float32Array(grid.n);
    this.frontTemperature = unknown();
    this.frontSpeed = unknown();
    this.frontDirection = new Float32Array(3 * grid.n).fill(NaN);
    this.fullBefore = new Uint8Array(grid.n);
    this.heldBefore = new Float64Array(grid.n);
    this.onTool = new Float64Array(grid.n);
    this.underGate = new Uint8Array(grid.n);
    for (const { links } of inlet.stars) for (const { node } of links) this.underGate[node] = 1;
    this.pinned = Uint8Array.from(inlet.gateOfNode, (g) => (g >= 0 ? 1 : 0));
  }

  /** Hot sections of the feed are full before the shot, at their own temperature. Returns their volume. */
  private fillHot(): number {
    const { grid, hot = [] } = this.input;
    const { state, columns } = this;
    let sum = 0;
    for (const { node, temperature } of hot) {
      state.held[node] = grid.volume[node];
      state.full[node] = 1;
      state.fillTime[node] = 0;
      this.reachable[node] = 0;
      sum += grid.volume[node];
      columns?.temperature.fill(temperature, node * columns.nLayers, (node + 1) * columns.nLayers);
      this.heat?.admit(grid.volume[node], temperature);
    }
    return sum;
  }

  /** Where the melt starts: nodes that are the inlet and the first ones of a feed are full of it at once. */
  fillGates(): void {
    const { grid, inlet, hot = [] } = this.input;
    this.enter(hot.map((h) => h.node));
    const nodes = inlet.attached.filter((a) => a.star < 0).map((a) => a.node);
    for (let i = 0; i < grid.n; i++) if (inlet.gateOfNode[i] >= 0) nodes.push(i);
    const volume = nodes.reduce((s, i) => s + grid.volume[i] - this.state.held[i], 0);
    const flow = this.drive.setFlow(0);
    const dt = volume / flow;
    this.solver.inletFlow = flow;
    this.prepareStars();
    this.solver.startStars(flow / Math.max(1, inlet.stars.length));
    this.record();
    const step = new FrontStep(grid, this.state);
    step.fillNodes(nodes, 0, dt);
    this.enter(step.filled);
    for (const i of step.filled) this.frontTemperature[i] = this.input.meltTemperature;
    this.time = dt;
    this.injected = volume;
    this.heat?.admit(volume);
  }

  /** The melt that speaks for a gate may not have come to its node yet. */
  private prepareStars(): void {
    const { columns, solver, state } = this;
    for (const { node } of this.inlet.stars)
      if (!state.full[node]) columns?.prepare(node, Math.max(0, solver.pressure[node]));
  }

  /** One solve and one advance of the front. Returns an outcome only on failure. */
  step(): FillOutcome | null {
    const { grid } = this.input;
    const { state, solver, drive } = this;
    this.pins.follow({
      time: this.time,
      shareFilled: this.injected / this.volume,
      nozzlePressure: solver.inletPressure,
      full: state.full,
    });
    this.solveFlow();
    this.record();
    if (drive.follow(this.injected, this.time, solver.inletPressure, solver.inletFlow)) {
      this.solveFlow();
      this.record();
    }
    if (!Number.isFinite(solver.inletPressure) || !Number.isFinite(solver.inletFlow))
      return this.broken(solver.pressure);
    if (this.recorder.frames.times.length < (this.injected / this.volume) * (this.input.nFrames ?? N_FRAMES))
      this.saveFrame();
    const total = frontInflow(grid, { full: this.lastPlaces.active }, solver, this.inflow);
    // No number is not "no flow".
    if (!Number.isFinite(total)) return this.broken(this.inflow);
    this.lastPlaces.share(state.full, state.held, this.inflow);
    const still = STALL_FLOW * drive.setFlow(this.injected);
    if (!(total > 0) || solver.inletFlow < still) return this.endOfFlow();
    const { volume, dt } = this.stepSize(solver.inletFlow);
    this.fullBefore.set(this.lastPlaces.active);
    this.heldBefore.set(state.held);
    const step = new FrontStep(grid, state);
    step.advance(this.inflow, total, volume, this.time, dt);
    this.injected += volume - step.left;
    this.afterStep(step.filled, dt);
    this.time += (dt * (volume - step.left)) / volume;
    this.steps++;
    if (this.injected >= this.volume * FULL) return this.finish();
    if (this.time > this.input.timeLimit) return this.stall('time');
    return null;
  }

  private broken(values: Float64Array): FillOutcome {
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
    return this.injected + trapped >= this.volume * (1 - 1e-3) ? this.finish() : this.stall('flow');
  }

  private emptyAround(node: number): number {
    return Math.max(0, this.reachable[node] - this.state.held[node]);
  }

  /** Heat, origin and air follow the melt that has moved in this step. */
  private afterStep(filled: number[], dt: number): void {
    const { solver, state, heldBefore, fullBefore } = this;
    const { grid } = this.input;
    const order = downstream(grid, fullBefore, this.pinned, solver.pressure);
    this.heat?.advance(dt, solver, fullBefore, order, this.pinned, heldBefore, state.held);
    this.origins.advance(dt, solver, fullBefore, order, heldBefore, state.held);
    for (const i of filled)
      this.frontTemperature[i] = this.columns ? this.columns.middleTemperature(i) : this.input.meltTemperature;
    for (const i of filled) {
      const v = meanVelocity(grid, solver.linkFlow, i);
      const speed = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
      if (speed > 0) {
        this.frontSpeed[i] = speed;
        // Under a gate the melt comes from everywhere at once.
        if (this.underGate[i]) continue;
        for (let d = 0; d < 3; d++) this.frontDirection[3 * i + d] = v[d] / speed;
      } else passFront(grid, i, this.frontSpeed, this.frontDirection);
    }
    this.enter(filled);
    this.air?.update(state.held, state.full, this.time + dt, dt, solver.pressure);
    this.peaks();
  }

  private peaks(): void {
    const { peakShearRate, peakStress, columns, solver } = this;
    for (let i = 0; i < peakShearRate.length; i++) {
      // Where nothing flows any more the stress in the solid is not the melt's.
      if (!this.fullBefore[i] || this.pinned[i] || solver.shearRate[i] < STANDING) continue;
      const rate = columns ? columns.peakRate[i] : solver.shearRate[i];
      const stress = columns ? columns.wallStress[i] : solver.shearRate[i] / solver.fluidity[i];
      if (rate > peakShearRate[i]) peakShearRate[i] = rate;
      if (stress > peakStress[i]) peakStress[i] = stress;
    }
  }

  /** Flow field and fluidities for the present front at the machine's setting, and what follows from it. */
  private solveFlow(): void {
    const { solver, state, drive, columns, time, injected } = this;
    if (columns) {
      for (let i = 0; i < state.full.length; i++)
        if (state.full[i] && !this.pinned[i]) columns.prepare(i, Math.max(0, solver.pressure[i]));
      this.prepareStars();
    }
    this.lastPlaces.update(state.full);
    const { active } = this.lastPlaces;
    const air = this.air ? this.lastPlaces.airAround(this.air.pressure, state.full) : this.noAir;
    solver.placeFront(state.held, state.full);
    const passes = this.steps === 0 ? FIRST_PASSES : (this.input.passes ?? MAX_PICARD);
    let wanted = drive.wanted(injected);
    let same = false;
    let moved = Infinity;
    // Where the usual passes do not do, more are made as long as the pressure still moves.
    const most = this.input.passes ?? MOST_PASSES;
    for (let pass = 0; pass < passes || (moved > UNSETTLED && pass < most); pass++) {
      const previous = 'flow' in wanted ? solver.inletPressure : solver.inletFlow;
      solver.solve(active, air, wanted, this.input.tolerance ?? SOLVER_TOLERANCE, same);
      same = true;
      const change = solver.updateFluidity(active, pass === 0 ? 1 : RELAXATION);
      const corrected =
        pass > 0 || this.steps > 0 ? drive.corrected(injected, solver.inletPressure, solver.inletFlow) : null;
      if (corrected) {
        wanted = corrected;
        same = false;
        continue;
      }
      // The very first pass knows no fluidity: it neither settles nor says what the machine must do.
      if (pass === 0 && this.steps === 0) continue;
      const present = 'flow' in wanted ? solver.inletPressure : solver.inletFlow;
      moved = Math.abs(present - previous) / Math.abs(present);
      if (change < (this.input.fluidityTolerance ?? FLUIDITY_TOLERANCE)) moved = Math.min(moved, UNSETTLED);
      if (moved <= UNSETTLED && change < (this.input.fluidityTolerance ?? FLUIDITY_TOLERANCE)) break;
      if (pass > 0 && moved < PICARD_TOLERANCE) break;
    }
    if (moved > UNSETTLED && this.input.passes === undefined) this.unsettled++;
    drive.settled(injected, solver.inletFlow, time);
  }

  /** The front moves by at most about one node, the whole takes at least nSteps, and no step is overlong. */
  private stepSize(flow: number): { volume: number; dt: number } {
    const { grid, nSteps = DEFAULT_STEPS, timeLimit } = this.input;
    let atFront = 0;
    for (let i = 0; i < grid.n; i++) if (this.inflow[i] > 0) atFront += grid.volume[i];
    const { wide, end, endAt } = this.input.advance ?? ADVANCE;
    const advance = this.injected < endAt * this.volume ? wide : end;
    const limit = this.drive.stepLimit(this.injected, this.time);
    const longest = Math.min(
      limit.time,
      this.pins.stepLimit(this.time),
      Number.isFinite(timeLimit) ? LONGEST_STEP * timeLimit : Infinity,
    );
    const volume = Math.min(
      this.volume / nSteps,
      Math.max(advance * atFront, 1e-4 * this.volume),
      this.volume - this.injected,
      limit.volume,
      flow * longest,
    );
    return { volume, dt: volume / flow };
  }

  /** A node that has just become full starts with the fluidity of the flow that filled it. */
  private enter(filled: number[]): void {
    const { grid } = this.input;
    const { fluidity } = this.solver;
    for (const i of filled) {
      let sum = 0;
      let weight = 0;
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
        const j = grid.rowNode[k];
        const w = grid.transmissibility[grid.rowLink[k]];
        if (fluidity[j] > 0) {
          sum += w * fluidity[j];
          weight += w;
        }
      }
      // First nodes of all: the mean shear rate of the set flow through the gate's neighbourhood.
      if (weight > 0) fluidity[i] = sum / weight;
      else {
        const perFlow = grid.ducts?.rate[i] || 1 / (grid.wallGap[i] * grid.spacing ** 2 + 1e-30);
        const rate = Math.min(this.drive.setFlow(0) * perFlow, 1e4);
        const guess = 1e-3;
        this.columns?.prepare(i, 0);
        fluidity[i] = this.rheology.fluidityAt(i, rate, 0, guess);
      }
      this.reported.push(i);
    }
  }

  progress() {
    const nodes = Int32Array.from(this.reported);
    const times = Float32Array.from(this.reported, (i) => this.state.fillTime[i]);
    this.reported = [];
    const share = Math.min(1, this.injected / this.volume);
    return {
      stage: 'fill' as const,
      fraction: share,
      message: `${Math.round(100 * share)} % filled after ${this.time.toFixed(2)} s`,
      filled: { nodes, times },
    };
  }

  private record(): void {
    const { history, solver } = this;
    const { projectedArea } = this.input;
    history.time.push(this.time);
    history.nozzlePressure.push(solver.inletPressure);
    const atGates = this.gatePressures();
    history.gatePressure.push(atGates);
    history.gateLoss.push(Array.from(solver.gateLoss(this.input.nGates)));
    history.pressure.push(Math.max(...atGates));
    history.flowRate.push(solver.inletFlow);
    history.shareFilled.push(this.injected / this.volume);
    history.phase.push(this.drive.phase);
    let force = 0;
    if (projectedArea) {
      this.onTool.set(solver.pressure);
      solver.addFrontPressure(this.lastPlaces.active, this.onTool);
      for (let i = 0; i < projectedArea.length; i++) force += projectedArea[i] * Math.max(0, this.onTool[i]);
    }
    history.clampForce.push(force);
    history.gateFlow.push(Array.from(solver.gateInflow(this.input.nGates)));
  }

  private gatePressures(): number[] {
    const { gateNode } = this.input.inlet;
    if (gateNode) return Array.from(gateNode.subarray(0, this.input.nGates), (node) => this.solver.pressure[node]);
    return new Array<number>(this.input.nGates).fill(this.solver.inletPressure);
  }

  private saveFrame(last = false): void {
    this.recorder.save(this.time, this.solver, this.state.full, last);
  }

  private stall(reason: 'time' | 'flow'): null {
    this.stalled = reason;
    return this.finish();
  }

  /**
   * A full cavity has no front left to flow to: its last flow field is the one that filled it. A
   * standing front is solved once more.
   */
  private finish(): null {
    if (this.stalled) this.solveFlow();
    else this.closeLast();
    this.record();
    this.saveFrame(true);
    this.done = true;
    return null;
  }

  /** Nodes that the last drop left short of full by rounding are full as well, with all that a full node has. */
  private closeLast(): void {
    const { state } = this;
    const last: number[] = [];
    for (let i = 0; i < state.full.length; i++)
      if (!state.full[i] && state.fillTime[i] === state.fillTime[i]) {
        state.full[i] = 1;
        last.push(i);
      }
    this.enter(last);
  }

  outcome(): FillOutcome {
    const { state, solver, drive } = this;
    const held = state.held.reduce((s, v) => s + v, 0);
    const result: FillResult = {
      fillTime: state.fillTime,
      frames: this.recorder.sofar(),
      peakShearRate: this.peakShearRate,
      peakStress: this.peakStress,
      frontTemperature: this.frontTemperature,
      frontSpeed: this.frontSpeed,
      frontDirection: this.frontDirection,
      gateShare: this.origins.share,
      columns: this.columns,
      heat: this.heat,
      heatBalance: this.heatBalance(),
      traps: this.air?.found() ?? [],
      history: this.history,
      held: state.held,
      cavityVolume: this.volume,
      injectedVolume: this.injected,
      massError: Math.abs(held - this.hotVolume - this.injected) / this.volume,
      limitReachedAt: drive.limitReachedAt,
      switchedAt: drive.switchedAt,
      pins: (this.input.pins ?? []).map(({ gate }, k) => ({
        gate,
        movedAt: this.pins.movedAt[k],
      })),
      steps: this.steps,
      unsettled: this.unsettled,
      solves: solver.solves,
      iterations: solver.iterations,
      state: { grid: this.input.grid, inlet: this.inlet, solver, pins: this.pins, recorder: this.recorder },
    };
    return this.stalled ? { status: 'stalled', result, reason: this.stalled } : { status: 'filled', result };
  }

  private heatBalance(): FillResult['heatBalance'] {
    if (!this.heat) return null;
    const { balance } = this.heat;
    const stored = this.heat.stored(this.state.held);
    const put = balance.carriedIn + balance.sheared;
    return { ...balance, stored, error: Math.abs(put - balance.lost - stored) / put };
  }
}

/** What an overflowing neighbour passed on came with no flow of its own: the front goes on as it came to them. */
function passFront(grid: PressureGrid, node: number, speed: Float32Array, direction: Float32Array): void {
  const sum = [0, 0, 0];
  let [speeds, weight] = [0, 0];
  for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++) {
    const [j, link] = [grid.rowNode[k], grid.rowLink[k]];
    // Links of the feed lie along no axis.
    if (grid.linkAxis[link] > 2) continue;
    const towards = direction[3 * j + grid.linkAxis[link]] * (grid.linkFrom[link] === j ? 1 : -1);
    if (!(towards > 0)) continue;
    const w = grid.transmissibility[link] * towards;
    for (let d = 0; d < 3; d++) sum[d] += w * direction[3 * j + d];
    speeds += w * speed[j];
    weight += w;
  }
  const length = Math.hypot(sum[0], sum[1], sum[2]);
  // Two that came from opposite sides leave none.
  if (!(length > 0.5 * weight)) return;
  speed[node] = speeds / weight;
  for (let d = 0; d < 3; d++) direction[3 * node + d] = sum[d] / length;
}

/** Shape exponent of the section that a gate's entry is reckoned with: a slab's. */
const ENTRY_SHAPE = 2;

/** What the columns say, and melt of the temperature of its source in the gates. */
function withEntry(columns: Columns, { viscosity, meltTemperature }: FillInput): Rheology {
  return {
    fluidityAt: (node, rate, p, start) => columns.fluidityAt(node, rate, p, start),
    enteringAt: (gateNode, rate, p) => {
      const T = gateNode < 0 ? meltTemperature : columns.bulkTemperature(gateNode);
      return 1 / sectionFlow(viscosity, T).effectiveViscosity(rate, ENTRY_SHAPE, Math.max(0, p));
    },
  };
}

/** A melt of one temperature: no columns, the section's closed relation serves every node. */
function isothermal(grid: PressureGrid, input: FillInput): Rheology {
  const flow = sectionFlow(input.viscosity, input.meltTemperature);
  return { fluidityAt: (node, rate, p) => 1 / flow.effectiveViscosity(rate, grid.shape[node], p) };
}

/** Full nodes in order of falling pressure: each comes after all that feed it. */
