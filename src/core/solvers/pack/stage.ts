import { ROOM } from '../../material/pvt';
import type { StageContext } from '../../stage/context';
import type { MachinePhase } from '../melt/drive';
import { copyOf } from '../melt/behind';
import { Cavity } from '../shot/cavity';
import { FrameObserver } from '../shot/frames';
import { HistoryObserver } from '../shot/history';
import type { Observer, Phase, PhaseContext, PhaseFailure } from '../shot/phase';
import type { ShotState } from '../shot/state';
import type { Warmth } from '../shot/transfer';
import { A_DAY } from '../../model/wayNumbers';
import { coolInAir, ROOM_AIR } from './inAir';
import type { Columns } from '../melt/columns';
import { WallStrain, type Hold, type LayeredWall } from './wallStrain';
import { nozzlePressureAt } from './control';
import { gateRims, type GateRim } from './gates';
import type { Packed, PackInput, PackOutcome, PackResult } from './outcome';
import { PackedMelt } from './packedMelt';
import { Reach } from './reach';
import { emptyResult } from './result';

/** Steps over the freezing time of the nominal wall while melt flows; when all ways are closed they are this much longer. */
const STEPS_PER_FREEZE = 40;
const LONGER_WHEN_CLOSED = 2.5;
const FIRST_STEP = 0.1;
const MOST_HALVINGS = 10;
const HALVED_IN_VAIN = 5;
const GROWTH = 1.2;
/** The calculation ends after this many freezing times, ejectable or not. */
const LONGEST = 40;
const N_FRAMES = 20;
/** A gate counts as frozen when less than this share of the way through it is open: edges are resolved roughly. */
const GATE_OPEN = 0.25;
/** Pressure [Pa] with which a part sticks in the mould: the opening waits for it to fall, a tenth longer at most. */
const STICKS = 5e6;
const LONGER_FOR_PRESSURE = 1.1;
/** A gate that stays open is waited for until this many times the time in which the part could be ejected. */
const LONGEST_FOR_GATE = 1.5;
/** Slivers at the part's edges may stay out of it: a part is ejectable when this share of its volume is. */
const ALL = 0.995;

/**
 * Packing, holding and cooling in the mould. Each step: heat of every column, then pressure such that
 * in every node d/dt(integral of rho(p, T) over the wall) + div(rho K M grad p) = 0, implicit in p.
 * Mass is counted from the flows alone, so none is lost. Where no melt comes the mass stays and the
 * pressure falls along the pvT line; at the pressure of the room the plastic leaves the wall.
 */
export const pack: Phase<PackInput, Packed> = async (state, input, ctx) => {
  const run = new PackRun(state, input, ctx);
  run.start();
  while (!run.done) {
    await ctx.checkpoint();
    const problem = run.step();
    if (problem) return problem;
    ctx.report(run.progress());
  }
  return run.outcome();
};

/** The packing of a cavity that nobody else watches. */
export const runPack = (state: ShotState, input: PackInput, ctx: StageContext): Promise<PackOutcome> =>
  pack(state, input, ctx);

/** Layers of the columns by what of them is plastic: a hollow wall is its skin. */
function plasticLayers(columns: Columns): LayeredWall {
  const { nLayers, temperature } = columns;
  const own = new Float64Array(nLayers);
  return {
    nLayers,
    temperature,
    layersOf(node) {
      const layers = columns.layersOf(node);
      if (!columns.isHollow(node)) return layers;
      const plastic = columns.hollow!.plastic(node);
      let whole = 0;
      for (let t = 0; t < nLayers; t++) whole += own[t] = layers.share[t] * plastic[t];
      for (let t = 0; t < nLayers; t++) own[t] /= whole;
      return { share: own };
    },
  };
}

class PackRun {
  done = false;
  private readonly cavity: Cavity;
  private readonly melt: PackedMelt;
  private readonly reach: Reach;
  private readonly part: Uint8Array;
  private readonly rims: GateRim[];
  private readonly history: HistoryObserver;
  private readonly frames: FrameObserver;
  private readonly observers: readonly Observer[];
  private readonly result: PackResult;
  private readonly wall: WallStrain | null;
  private readonly startTime: number;
  private time: number;
  private dt = 0;
  private opened = false;
  private atOpening: Warmth | null = null;
  private anyFed = true;
  /** When the machine lets go, s; Infinity while it waits for the gates. */
  private letGoAt: number;
  private holding = true;

  constructor(
    state: ShotState,
    private readonly input: PackInput,
    private readonly ctx: PhaseContext,
  ) {
    const { grid, nGates, before, transitionTemperature, nFrames = N_FRAMES } = input;
    this.cavity = new Cavity(input, state);
    this.melt = new PackedMelt(input, this.cavity, state.time);
    const { gating } = this.cavity;
    const { core, tool } = this.cavity;
    const { holding, free } = this.melt;
    // A press feeds every place at once, as long as it moves.
    const pressed = () => (holding!.moves(this.time) && !tool!.met ? free : []);
    this.reach = new Reach(grid, gating, core ? () => core.nodes : holding ? pressed : undefined);
    this.part = input.part ?? new Uint8Array(grid.n).fill(1);
    this.rims = gateRims(grid, gating).slice(0, nGates);
    this.startTime = this.time = state.time;
    const { end, untilFrozen } = input.control.profile;
    this.letGoAt = core ? core.releasedAt : holding ? holding.until : untilFrozen ? Infinity : input.switchedAt + end;
    this.history = new HistoryObserver(grid, gating, nGates, input.projectedArea, before?.history);
    const { nHalves } = this.melt.columns;
    this.frames = new FrameObserver(grid, nHalves, transitionTemperature, nFrames, before?.frames);
    this.observers = [this.history, this.frames, ...(ctx.observers ?? [])];
    this.result = emptyResult(grid.n, nGates, this.history.history, this.frames.frames);
    const { freezing, steel, meltTemperature } = input;
    const { columns, all } = this.melt;
    this.wall = freezing ? new WallStrain(plasticLayers(columns), freezing, all, grid.n, meltTemperature, steel) : null;
  }

  start(): void {
    this.dt = (this.input.firstStep ?? FIRST_STEP) * this.longestStep();
    this.look(this.time);
    // What has cooled since the melt came has done so along the wall of the cavity, under a pressure that rose.
    const age = this.cavity.front.fillTime.map((t) => (t === t ? Math.max(0, this.startTime - t) : 0));
    this.wall?.look(age, this.melt.solver.pressure, 'held');
    this.result.massBefore = this.partMass();
  }

  private longestStep(): number {
    const { freezeTime, stepsPerFreeze = STEPS_PER_FREEZE, stepShare = 0 } = this.input;
    const even = (freezeTime / stepsPerFreeze) * (this.melt.quiet || !this.anyFed ? LONGER_WHEN_CLOSED : 1);
    return Math.max(even, stepShare * (this.time - this.input.switchedAt));
  }

  /** The step that ends at the next corner of the profile, or at the opening. */
  private stepSize(): number {
    const { control, heldUntil = null, firstStep = FIRST_STEP } = this.input;
    const since = this.time - this.input.switchedAt;
    // The pressure that is let go drives melt back through a gate that is open: that is followed as its coming was.
    if (this.time >= this.letGoAt - 1e-9 && this.holding) {
      this.holding = false;
      this.dt = firstStep * this.longestStep();
    }
    let dt = Math.min(this.dt, this.longestStep());
    for (const corner of control.profile.points) if (corner.at > since + 1e-9) dt = Math.min(dt, corner.at - since);
    for (const moment of [this.letGoAt, this.opened ? null : this.opensAt, heldUntil])
      if (moment !== null && moment > this.time + 1e-9) dt = Math.min(dt, moment - this.time);
    const { core } = this.cavity;
    if (core) dt = Math.min(dt, Math.max(core.nextTurn(this.time) - this.time, 1e-9));
    return Math.min(dt, this.cavity.pins.stepLimit(this.time));
  }

  step(): PhaseFailure | null {
    const { melt } = this;
    let dt = this.stepSize();
    const start = this.time;
    const putBack = melt.mark();
    // A step that has not settled is not taken: half of it is tried.
    for (let halvings = 0; ; halvings++) {
      this.time = start + dt;
      melt.cool(dt);
      if (melt.press(dt, this.nozzlePressure(), this.time, halvings >= HALVED_IN_VAIN)) break;
      putBack();
      if (halvings === MOST_HALVINGS) return this.unsettled(start, dt);
      dt /= 2;
      this.result.halvings++;
    }
    const nozzle = this.nozzlePressure();
    this.result.steps++;
    this.look(this.time);
    this.followWalls(this.time - start);
    this.record();
    const pushes = melt.holding ? 'closing' : 'packing';
    const machine = this.opened ? 'open' : this.hasLetGo() ? 'cooling' : pushes;
    this.dt = Math.min(dt * GROWTH > this.dt ? dt * GROWTH : this.dt * GROWTH, this.longestStep());
    this.finishWhenDue();
    this.show(machine, nozzle);
    return null;
  }

  private unsettled(time: number, dt: number): PhaseFailure {
    return {
      status: 'failed',
      step: this.result.steps,
      message: `Packing does not settle ${(time - this.input.switchedAt).toPrecision(3)} s after switchover, not in steps of ${dt.toExponential(1)} s either.`,
      likely:
        'The pvT data of the resin may be out of their range, or the place is thinner than the grid: look at the curves at the Resin station, or choose a finer Detail.',
      node: this.melt.worst,
    };
  }

  /** Pressure at the nozzle now. */
  private nozzlePressure(): number {
    if (this.cavity.core || this.melt.holding) return 0;
    return this.hasLetGo() ? 0 : nozzlePressureAt(this.input.control, this.time - this.input.switchedAt);
  }

  private hasLetGo(): boolean {
    return this.time > this.letGoAt + 1e-9;
  }

  /** When the mould opens, s from the start; null where that is not known yet. */
  private get opensAt(): number | null {
    const { coolingTime } = this.input;
    return coolingTime === null || this.letGoAt === Infinity ? null : this.letGoAt + coolingTime;
  }

  /** What has come to pass in every node by now. */
  private look(time: number): void {
    const { input, melt } = this;
    const result = this.result.node;
    const { gateFrozenAt } = this.result;
    const { columns, open, pinned, full, loose } = melt;
    melt.anyOpen = false;
    for (let i = 0; i < open.length; i++) {
      open[i] = pinned[i] || (full[i] && columns.middleTemperature(i) > input.noFlowTemperature) ? 1 : 0;
      if (open[i] && !pinned[i]) melt.anyOpen = true;
    }
    const pushing = time < this.letGoAt - 1e-9;
    this.anyFed = this.reach.update(open) > 0 && (pushing || melt.anyOpen);
    for (const i of melt.all) {
      if (pushing && this.reach.fed[i]) {
        result.fedUntil[i] = time;
        result.sealPressure[i] = melt.solver.pressure[i];
      }
      if (!loose[i]) result.releasedAt[i] = NaN;
      else if (result.releasedAt[i] !== result.releasedAt[i]) {
        result.releasedAt[i] = time;
        result.skinAtRelease[i] = columns.colderShare(i, input.transitionTemperature);
      }
      if (result.frozenAt[i] !== result.frozenAt[i] && columns.middleTemperature(i) < input.transitionTemperature) {
        result.frozenAt[i] = time;
        result.unfed[i] = loose[i] ? melt.missing(i) : 0;
      }
      if (
        result.ejectableAt[i] !== result.ejectableAt[i] &&
        columns.colderShare(i, input.ejectionTemperature) >= input.solidShare
      )
        result.ejectableAt[i] = time;
    }
    this.rims.forEach((rim, g) => {
      const fed = rim.reduce((s, { node, share }) => s + share * this.reach.fed[node], 0);
      if (gateFrozenAt[g] === null && fed < GATE_OPEN) gateFrozenAt[g] = time;
    });
    // Without a set time the machine lets go once nothing it does can matter any more.
    if (this.letGoAt === Infinity && gateFrozenAt.length && gateFrozenAt.every((t) => t !== null)) this.letGoAt = time;
  }

  private partMass(): number {
    return this.melt.mass.reduce((s, m, i) => s + (this.part[i] ? m : 0), 0);
  }

  /** Mass, solid share and highest pressure of the part now. */
  private record(): void {
    const { part, input, melt } = this;
    const { course } = this.result;
    const { solver, grid, columns, pinned, full, room } = melt;
    let [solid, whole, highest] = [0, 0, 0];
    for (let i = 0; i < grid.n; i++) {
      if (!part[i] || !full[i]) continue;
      solid += room[i] * (pinned[i] ? 1 : columns.colderShare(i, input.ejectionTemperature));
      whole += room[i];
      if (solver.pressure[i] > highest && !pinned[i]) highest = solver.pressure[i];
    }
    course.time.push(this.time);
    course.mass.push(this.partMass());
    course.solidShare.push(solid / whole);
    course.highestPressure.push(highest);
  }

  /** Shows the observers where the packing stands. Frames lie evenly over the root of time: what happens, happens early. */
  private show(machine: MachinePhase, nozzlePressure: number): void {
    const { cavity, melt, input } = this;
    const { nFrames = N_FRAMES, freezeTime } = input;
    const flow = cavity.solver.gateInflow(input.nGates);
    for (const observer of this.observers)
      observer.look({
        time: this.time,
        cavity,
        machine,
        nozzlePressure,
        flowRate: flow.reduce((s, q) => s + q, 0),
        shareFilled: 1,
        onTool: cavity.solver.pressure,
        full: melt.full,
        frame: nFrames * Math.sqrt((this.time - this.startTime) / (4 * freezeTime)),
        flows: false,
        last: this.done,
      });
  }

  private finishWhenDue(): void {
    const { input, result, part, melt } = this;
    const { course } = result;
    const { ejectableAt } = result.node;
    let [able, all] = [0, 0];
    for (const i of melt.all) {
      if (!part[i]) continue;
      all += melt.room[i];
      if (ejectableAt[i] === ejectableAt[i]) able += melt.room[i];
    }
    const solid = course.solidShare[course.solidShare.length - 1];
    if (result.ejectableTime === null && solid >= input.solidShare)
      result.ejectableTime = this.passed(input.solidShare);
    const over = this.time - this.startTime > LONGEST * input.freezeTime;
    const gateWaited = result.ejectableTime !== null && this.time > LONGEST_FOR_GATE * result.ejectableTime;
    if (this.letGoAt === Infinity && (gateWaited || over)) this.letGoAt = this.time;
    if (this.due() && !this.opened) this.openMould();
    if (over && !this.opened) this.openMould();
    if (over || (this.opened && able >= ALL * all && result.ejectableTime !== null)) this.done = true;
  }

  /** Whether the mould opens now. */
  private due(): boolean {
    const { opensAt, time, letGoAt, input, result } = this;
    if (input.coolingTime !== null) return opensAt !== null && time >= opensAt - 1e-9;
    if (result.ejectableTime === null || time < letGoAt - 1e-9) return false;
    const { highestPressure } = result.course;
    const sticks = highestPressure[highestPressure.length - 1] > STICKS;
    return !sticks || time >= LONGER_FOR_PRESSURE * Math.max(result.ejectableTime, letGoAt);
  }

  /** When the solid share passed a value, between the last two steps. */
  private passed(share: number): number {
    const { time, solidShare } = this.result.course;
    const k = time.length - 1;
    if (k === 0 || !(solidShare[k] > solidShare[k - 1])) return time[k];
    const weight = Math.max(0, (share - solidShare[k - 1]) / (solidShare[k] - solidShare[k - 1]));
    return time[k - 1] + weight * (time[k] - time[k - 1]);
  }

  private followWalls(dt: number, last = false): void {
    if (!this.opened || last) this.wall?.look(dt, this.melt.solver.pressure, this.holdOf, last);
  }

  /** Friction holds what has pressure. */
  private readonly holdOf = (node: number): Hold => {
    const byHand = (this.input.heldUntil ?? 0) > this.time - 1e-9;
    return byHand || this.melt.solver.pressure[node] > 0 ? 'held' : 'sliding';
  };

  /** The part as it leaves the mould: its mass is what it will keep. */
  private openMould(): void {
    const { result } = this;
    this.followWalls(0, true);
    this.wall?.opens();
    const { heat, columns } = this.cavity;
    this.atOpening = {
      temperature: columns!.temperature.slice(),
      behind: heat?.behind ? copyOf(heat.behind.memory) : null,
    };
    const { course, node } = result;
    const { mass, melt, loose, room: space } = this.melt;
    this.opened = true;
    result.openTime = this.time;
    result.packingEnd = this.letGoAt;
    result.mass = this.partMass();
    result.pressureAtOpening = course.highestPressure[course.highestPressure.length - 1];
    for (const i of this.melt.all) {
      const inCavity = mass[i] / space[i];
      node.density[i] = inCavity;
      node.shrinkage[i] = 1 - inCavity / melt.of(i, ROOM, 0);
      melt.look(i, 0);
      node.shrinkageAtEjection[i] = 1 - inCavity / melt.density;
      if (node.frozenAt[i] !== node.frozenAt[i]) node.unfed[i] = loose[i] ? this.melt.missing(i) : 0;
    }
  }

  progress() {
    const { course } = this.result;
    const solid = course.solidShare[course.solidShare.length - 1] ?? 0;
    const share = Math.min(1, solid / this.input.solidShare);
    return {
      stage: 'pack' as const,
      fraction: share,
      message: `${Math.round(100 * solid)} % cold enough to eject after ${this.time.toFixed(1)} s`,
    };
  }

  async outcome(): Promise<Packed> {
    const { result, melt } = this;
    const state = this.cavity.state(this.time);
    result.massIn = melt.massIn;
    result.massError = melt.massError;
    result.heat = state.heat;
    result.heatError = melt.heatError();
    result.solves = melt.solver.solves;
    result.iterations = melt.solver.iterations;
    await this.coolOutside();
    const { atOpening } = this;
    return { status: result.ejectableTime === null ? 'hot' : 'ejected', state, result, atOpening };
  }

  /** The part after it has left the mould; nothing of what was told of the mould changes. */
  private async coolOutside(): Promise<void> {
    const { wall, melt, input, atOpening, ctx } = this;
    if (!wall || !atOpening) return;
    const { outside = { ...ROOM_AIR, until: A_DAY }, freezeTime } = input;
    const after = input.freezing?.afterShrinkage ?? 0;
    await coolInAir(melt, wall, atOpening.temperature, outside, after, freezeTime, () => ctx.checkpoint());
    this.result.frozen = wall.finish();
  }
}
