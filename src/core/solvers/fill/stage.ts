import type { PressureGrid } from '../../grid/pressureGrid';
import { sectionFlow, type SectionFlow } from '../../material/sectionFlow';
import type { ViscosityModel } from '../../material/viscosity';
import type { StageContext } from '../../pipeline/stage';
import { uniformColumns, type Columns } from './columns';
import { emptyFront, frontInflow, FrontStep, type FrontState } from './front';
import type { Inlet } from './inlet';
import { FlowSolver } from './pressure';

/** Everything the fill stage needs. SI: m3/s, Pa, K, s. */
export interface FillInput {
  grid: PressureGrid;
  inlet: Inlet;
  nGates: number;
  viscosity: ViscosityModel;
  meltTemperature: number;
  /** Set flow rate while the pressure stays below the limit. */
  flowRate: number;
  pressureLimit: number;
  /** Time after which the melt would have frozen in the nominal wall; filling stops there. */
  timeLimit: number;
  /** Wanted number of steps over the whole volume. */
  nSteps?: number;
}

export interface FillHistory {
  time: number[];
  /** Pressure at the gates, Pa */
  pressure: number[];
  /** m3/s */
  flowRate: number[];
  /** 0..1 */
  shareFilled: number[];
  /** Flow rate of each gate at each time, m3/s */
  gateFlow: number[][];
}

export interface FillResult {
  fillTime: Float64Array;
  /** Pressure frames [Pa], one per entry of frameTimes, length n each. */
  pressureFrames: Float32Array[];
  frameTimes: number[];
  /** Largest apparent shear rate seen by each node, 1/s */
  peakShearRate: Float32Array;
  columns: Columns;
  history: FillHistory;
  /** Volume that can be reached from the gates, and the melt in it, m3. */
  cavityVolume: number;
  injectedVolume: number;
  /** |held - injected| / cavity */
  massError: number;
  /** Time at which the flow rate first had to fall below the set one; null when it never did. */
  limitReachedAt: number | null;
  steps: number;
  solves: number;
  iterations: number;
}

export type FillOutcome =
  | { status: 'filled'; result: FillResult }
  | { status: 'stalled'; result: FillResult; reason: 'time' | 'flow' }
  | { status: 'failed'; step: number; message: string; likely: string };

const DEFAULT_STEPS = 110;
const N_FRAMES = 30;
/** Flow rate over the set one below which the front stands still for all practical purposes. */
const STALL_FLOW = 0.01;
/** Fluidities are followed until inlet pressure (or flow) moves by less than this in one pass. */
const PICARD_TOLERANCE = 2e-3;
const MAX_PICARD = 6;
/** A pass that would change the fluidities by less than this (rms of ln M) is not followed by another. */
const FLUIDITY_TOLERANCE = 0.05;
/**
 * Over-relaxation of ln M. For flow at a set rate the pass converges at once, for shares between
 * parallel paths with ratio 1 - n; 1.3 balances the two for the usual n of 0.2 to 0.4.
 */
const RELAXATION = 1.3;
const SOLVER_TOLERANCE = 1e-4;

/**
 * Filling of the cavity: set flow rate until the pressure limit, then the limit is held. One column
 * of layers per node is laid out; in this isothermal form all layers keep the melt temperature.
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
  private readonly flow: SectionFlow;
  private readonly solver: FlowSolver;
  private readonly inflow: Float64Array;
  private readonly reachable: Float64Array;
  private readonly volume: number;
  private readonly history: FillHistory = { time: [], pressure: [], flowRate: [], shareFilled: [], gateFlow: [] };
  private readonly frames: Float32Array[] = [];
  private readonly frameTimes: number[] = [];
  private readonly peakShearRate: Float32Array;
  private time = 0;
  private injected = 0;
  private steps = 0;
  private inletPressure = 0;
  private flowRate: number;
  private limitReachedAt: number | null = null;
  private stalled: 'time' | 'flow' | null = null;
  private reported: number[] = [];

  constructor(private readonly input: FillInput) {
    const { grid, inlet } = input;
    if (inlet.gateOfNode.length !== grid.n) throw new Error('the inlet belongs to another grid');
    this.state = emptyFront(grid);
    this.flow = sectionFlow(input.viscosity, input.meltTemperature);
    this.solver = new FlowSolver(grid, inlet, this.flow);
    this.inflow = new Float64Array(grid.n);
    this.peakShearRate = new Float32Array(grid.n);
    this.flowRate = input.flowRate;
    this.reachable = reachableFrom(grid, inlet);
    this.volume = this.reachable.reduce((s, v) => s + v, 0);
  }

  /** The melt first fills the nodes under the gates. */
  fillGates(): void {
    const { grid, inlet } = this.input;
    const nodes = inlet.attached.map((a) => a.node);
    for (let i = 0; i < grid.n; i++) if (inlet.gateOfNode[i] >= 0) nodes.push(i);
    const volume = nodes.reduce((s, i) => s + grid.volume[i], 0);
    const dt = volume / this.flowRate;
    this.record();
    const step = new FrontStep(grid, this.state);
    step.fillNodes([...new Set(nodes)], 0, dt);
    this.enter(step.filled);
    this.time = dt;
    this.injected = volume;
    this.saveFrame();
  }

  /** One solve and one advance of the front. Returns an outcome only on failure. */
  step(): FillOutcome | null {
    const { grid } = this.input;
    const { state, solver } = this;
    this.solveFlow();
    if (!Number.isFinite(this.inletPressure) || !(solver.unitInflow > 0))
      return {
        status: 'failed',
        step: this.steps,
        message: 'The pressure equation has no finite solution.',
        likely: 'A gate sits on a sliver of the part. Move the gate or raise the detail.',
      };
    this.record();
    const total = frontInflow(grid, state, solver.unitFlow, this.inflow);
    if (!(total > 0)) return this.finish();
    const volume = this.stepVolume();
    const dt = volume / this.flowRate;
    const step = new FrontStep(grid, state);
    step.advance(this.inflow, total, volume, this.time, dt);
    this.injected += volume - step.left;
    this.time += (dt * (volume - step.left)) / volume;
    this.enter(step.filled);
    this.steps++;
    if (this.frames.length < (this.injected / this.volume) * N_FRAMES) this.saveFrame();
    if (this.injected >= this.volume * (1 - 1e-9)) return this.finish();
    if (this.time > this.input.timeLimit) return this.stall('time');
    if (this.flowRate < STALL_FLOW * this.input.flowRate) return this.stall('flow');
    return null;
  }

  /** Flow field and fluidities for the present front, and the inlet pressure or flow rate that follows. */
  private solveFlow(): void {
    const { solver, state } = this;
    const passes = this.steps === 0 ? 25 : MAX_PICARD;
    for (let pass = 0; pass < passes; pass++) {
      const previous = this.limitReachedAt === null ? this.inletPressure : this.flowRate;
      solver.solve(state.full, SOLVER_TOLERANCE, pass > 0);
      this.applyLimit();
      const present = this.limitReachedAt === null ? this.inletPressure : this.flowRate;
      const change = solver.updateFluidity(state.full, this.inletPressure, pass === 0 ? 1 : RELAXATION);
      if (change < FLUIDITY_TOLERANCE) break;
      if (pass > 0 && Math.abs(present - previous) < PICARD_TOLERANCE * Math.abs(present)) break;
    }
    for (let i = 0; i < this.peakShearRate.length; i++) {
      if (solver.shearRate[i] > this.peakShearRate[i]) this.peakShearRate[i] = solver.shearRate[i];
    }
  }

  private applyLimit(): void {
    const { flowRate, pressureLimit } = this.input;
    const needed = flowRate / this.solver.unitInflow;
    if (needed <= pressureLimit) {
      this.inletPressure = needed;
      this.flowRate = flowRate;
    } else {
      this.inletPressure = pressureLimit;
      this.flowRate = pressureLimit * this.solver.unitInflow;
      this.limitReachedAt ??= this.time;
    }
  }

  /** The front moves by at most about one node, and the whole takes at least nSteps. */
  private stepVolume(): number {
    const { grid, nSteps = DEFAULT_STEPS } = this.input;
    let atFront = 0;
    for (let i = 0; i < grid.n; i++) if (this.inflow[i] > 0) atFront += grid.volume[i];
    const wanted = Math.min(this.volume / nSteps, Math.max(atFront, 1e-4 * this.volume));
    return Math.min(wanted, this.volume - this.injected);
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
      if (weight > 0) fluidity[i] = sum / weight;
      else {
        // First nodes of all: the mean shear rate of the set flow through the gate's neighbourhood.
        const rate = this.input.flowRate / (grid.wallGap[i] * grid.spacing ** 2 + 1e-30);
        fluidity[i] = 1 / this.flow.effectiveViscosity(Math.min(rate, 1e4), grid.shape[i], 0);
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
    history.time.push(this.time);
    history.pressure.push(this.inletPressure);
    history.flowRate.push(this.flowRate);
    history.shareFilled.push(this.injected / this.volume);
    const gates = solver.gateInflow(this.input.nGates);
    history.gateFlow.push(Array.from(gates, (q) => q * this.inletPressure));
  }

  private saveFrame(): void {
    const frame = new Float32Array(this.input.grid.n);
    for (let i = 0; i < frame.length; i++) {
      frame[i] = this.state.full[i] ? this.solver.unitPressure[i] * this.inletPressure : NaN;
    }
    this.frames.push(frame);
    this.frameTimes.push(this.time);
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
    this.record();
    this.saveFrame();
    this.done = true;
    return null;
  }

  outcome(): FillOutcome {
    const held = this.state.held.reduce((s, v) => s + v, 0);
    const result: FillResult = {
      fillTime: this.state.fillTime,
      pressureFrames: this.frames,
      frameTimes: this.frameTimes,
      peakShearRate: this.peakShearRate,
      columns: uniformColumns(this.input.grid.n, this.input.meltTemperature),
      history: this.history,
      cavityVolume: this.volume,
      injectedVolume: this.injected,
      massError: Math.abs(held - this.injected) / this.volume,
      limitReachedAt: this.limitReachedAt,
      steps: this.steps,
      solves: this.solver.solves,
      iterations: this.solver.iterations,
    };
    return this.stalled ? { status: 'stalled', result, reason: this.stalled } : { status: 'filled', result };
  }
}

/** Volume of every node that hangs together with a gate, 0 for the rest. */
function reachableFrom(grid: PressureGrid, inlet: Inlet): Float64Array {
  const volume = new Float64Array(grid.n);
  const seen = new Uint8Array(grid.n);
  const queue: number[] = inlet.attached.map((a) => a.node);
  for (let i = 0; i < grid.n; i++) if (inlet.gateOfNode[i] >= 0) queue.push(i);
  for (const i of queue) seen[i] = 1;
  for (let q = 0; q < queue.length; q++) {
    const i = queue[q];
    volume[i] = grid.volume[i];
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      if (seen[j]) continue;
      seen[j] = 1;
      queue.push(j);
    }
  }
  return volume;
}
