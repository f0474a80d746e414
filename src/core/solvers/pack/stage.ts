import { ROOM } from '../../material/pvt';
import type { StageContext } from '../../pipeline/stage';
import type { FillHistory } from '../fill/outcome';
import { WallStrain } from '../warp/wallStrain';
import { gateRims, type GateRim } from './gates';
import type { PackInput, PackOutcome, PackResult } from './outcome';
import { PackedMelt } from './packedMelt';
import { Reach } from './reach';
import { copied, emptyResult } from './result';

/** Steps over the freezing time of the nominal wall while melt flows; when all ways are closed they are this much longer. */
const STEPS_PER_FREEZE = 40;
const LONGER_WHEN_CLOSED = 2.5;
const FIRST_STEP = 0.1;
const MOST_HALVINGS = 10;
const GROWTH = 1.2;
/** The calculation ends after this many freezing times, ejectable or not. */
const LONGEST = 40;
const N_FRAMES = 20;
/** A gate counts as frozen when less than this share of the way through it is open: edges are resolved roughly. */
const GATE_OPEN = 0.25;
/** Slivers at the part's edges may stay out of it: a part is ejectable when this share of its volume is. */
const ALL = 0.995;

/**
 * Packing, holding and cooling in the mould. Each step: heat of every column, then pressure such that
 * in every node d/dt(integral of rho(p, T) over the wall) + div(rho K M grad p) = 0, implicit in p.
 * Mass is counted from the flows alone, so none is lost. Where no melt comes the mass stays and the
 * pressure falls along the pvT line; at the pressure of the room the plastic leaves the wall.
 */
export async function runPack(input: PackInput, ctx: StageContext): Promise<PackOutcome> {
  if (!input.fill.columns || !input.fill.heat) throw new Error('packing needs a filling with heat');
  const run = new PackRun(input, new PackedMelt(input, input.fill.columns, input.fill.heat));
  run.start();
  while (!run.done) {
    await ctx.checkpoint();
    const problem = run.step();
    if (problem) return problem;
    ctx.report(run.progress());
  }
  return run.outcome();
}

class PackRun {
  done = false;
  private readonly reach: Reach;
  private readonly part: Uint8Array;
  private readonly rims: GateRim[];
  private readonly history: FillHistory;
  private readonly course: PackResult['course'] = { time: [], mass: [], solidShare: [], highestPressure: [] };
  private readonly result: PackResult;
  private readonly partVolume: number;
  private readonly wall: WallStrain | null;
  private readonly switchTime: number;
  private readonly startTime: number;
  private time: number;
  private dt = 0;
  private opened = false;
  private anyFed = true;
  private savedAt = -1;

  constructor(
    private readonly input: PackInput,
    private readonly melt: PackedMelt,
  ) {
    const { fill } = input;
    const { grid, inlet } = fill.state;
    this.reach = new Reach(grid, inlet);
    this.part = input.part ?? new Uint8Array(grid.n).fill(1);
    this.rims = gateRims(grid, inlet);
    this.history = copied(fill.history);
    this.startTime = this.time = fill.history.time[fill.history.time.length - 1];
    this.switchTime = fill.switchedAt?.time ?? this.startTime;
    this.result = emptyResult(grid.n, this.rims.length, this.history, this.course);
    this.wall = input.freezing ? new WallStrain(melt.columns, input.freezing, melt.all, grid.n) : null;
    this.partVolume = grid.volume.reduce((s, v, i) => s + (this.part[i] ? v : 0), 0);
  }

  start(): void {
    this.dt = (this.input.firstStep ?? FIRST_STEP) * this.longestStep();
    this.look(this.time);
    this.wall?.look(this.melt.solver.pressure, true, true);
    this.result.massBefore = this.partMass();
  }

  private longestStep(): number {
    const { freezeTime, stepsPerFreeze = STEPS_PER_FREEZE, stepShare = 0 } = this.input;
    const even = (freezeTime / stepsPerFreeze) * (this.melt.quiet || !this.anyFed ? LONGER_WHEN_CLOSED : 1);
    return Math.max(even, stepShare * (this.time - this.switchTime));
  }

  /** The step that ends at the next corner of the profile, or at the opening. */
  private stepSize(): number {
    const { control, openAt } = this.input;
    const since = this.time - this.switchTime;
    let dt = Math.min(this.dt, this.longestStep());
    for (const corner of [...control.corners, control.end])
      if (corner > since + 1e-9) dt = Math.min(dt, corner - since);
    if (openAt !== null && !this.opened && openAt > this.time + 1e-9) dt = Math.min(dt, openAt - this.time);
    return Math.min(dt, this.input.fill.state.pins.stepLimit(this.time));
  }

  step(): PackOutcome | null {
    const { melt } = this;
    let dt = this.stepSize();
    const start = this.time;
    const putBack = melt.mark();
    // A step that has not settled is not taken: half of it is tried.
    for (let halvings = 0; ; halvings++) {
      this.time = start + dt;
      melt.cool(dt);
      if (melt.press(dt, this.nozzlePressure(), this.time)) break;
      putBack();
      if (halvings === MOST_HALVINGS) return this.unsettled(start, dt);
      dt /= 2;
      this.result.halvings++;
    }
    const nozzle = this.nozzlePressure();
    this.result.steps++;
    this.look(this.time);
    this.wall?.look(melt.solver.pressure, !this.opened);
    this.record(nozzle);
    this.dt = Math.min(dt * GROWTH > this.dt ? dt * GROWTH : this.dt * GROWTH, this.longestStep());
    this.finishWhenDue();
    return null;
  }

  private unsettled(time: number, dt: number): PackOutcome {
    return {
      status: 'failed',
      step: this.result.steps,
      message: `Packing does not settle ${(time - this.switchTime).toPrecision(3)} s after switchover, not in steps of ${dt.toExponential(1)} s either.`,
      likely:
        'The pvT data of the resin may be out of their range, or the place is thinner than the grid: look at the curves at the Resin station, or choose a finer Detail.',
      node: this.melt.worst,
    };
  }

  /** Pressure at the nozzle now; the machine lets go at the end of the profile. */
  private nozzlePressure(): number {
    const { control } = this.input;
    const since = this.time - this.switchTime;
    return since > control.end + 1e-9 ? 0 : control.pressureAt(since);
  }

  /** What has come to pass in every node by now. */
  private look(time: number): void {
    const { input, result, melt } = this;
    const { columns, open, pinned, full, loose } = melt;
    melt.anyOpen = false;
    for (let i = 0; i < open.length; i++) {
      open[i] = pinned[i] || (full[i] && columns.middleTemperature(i) > input.noFlowTemperature) ? 1 : 0;
      if (open[i] && !pinned[i]) melt.anyOpen = true;
    }
    const since = time - this.switchTime;
    const pushing = since < input.control.end - 1e-9;
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
      if (result.gateFrozenAt[g] === null && fed < GATE_OPEN) result.gateFrozenAt[g] = time;
    });
  }

  private partMass(): number {
    return this.melt.mass.reduce((s, m, i) => s + (this.part[i] ? m : 0), 0);
  }

  private record(nozzle: number): void {
    const { history, course, part, input, melt } = this;
    const { solver, grid, columns, pinned, full } = melt;
    const { gateNode } = input.fill.state.inlet;
    const atGates = this.rims.map((_, g) => (gateNode ? solver.pressure[gateNode[g]] : nozzle));
    let force = 0;
    if (input.projectedArea)
      for (let i = 0; i < grid.n; i++) force += input.projectedArea[i] * Math.max(0, solver.pressure[i]);
    const flow = Array.from(solver.gateInflow(this.rims.length));
    if (this.time - this.switchTime > input.control.end + 1e-9) this.recordRelease();
    history.time.push(this.time);
    history.nozzlePressure.push(nozzle);
    history.pressure.push(Math.max(0, ...atGates));
    history.gatePressure.push(atGates);
    history.gateLoss.push(Array.from(solver.gateLoss(this.rims.length)));
    history.flowRate.push(flow.reduce((s, q) => s + q, 0));
    history.gateFlow.push(flow);
    history.shareFilled.push(1);
    history.clampForce.push(force);
    history.phase.push(
      this.opened ? 'open' : this.time - this.switchTime <= input.control.end + 1e-9 ? 'packing' : 'cooling',
    );
    let [solid, highest] = [0, 0];
    for (let i = 0; i < grid.n; i++) {
      if (!part[i] || !full[i]) continue;
      solid += grid.volume[i] * (pinned[i] ? 1 : columns.colderShare(i, input.ejectionTemperature));
      if (solver.pressure[i] > highest && !pinned[i]) highest = solver.pressure[i];
    }
    course.time.push(this.time);
    course.mass.push(this.partMass());
    course.solidShare.push(solid / this.partVolume);
    course.highestPressure.push(highest);
    this.saveFrame();
  }

  /** The machine lets go at once: one more entry at the very time at which it still pressed. */
  private recordRelease(): void {
    const { history } = this;
    const last = history.time.length - 1;
    if (!(history.nozzlePressure[last] > 0)) return;
    for (const list of Object.values(history) as unknown[][]) list.push(list[last]);
    history.nozzlePressure[last + 1] = 0;
    history.phase[last + 1] = 'cooling';
  }

  /** Frames lie evenly over the square root of time: what happens, happens early. */
  private saveFrame(last = false): void {
    const { nFrames = N_FRAMES, freezeTime, fill } = this.input;
    const place = Math.floor(nFrames * Math.sqrt((this.time - this.startTime) / (4 * freezeTime)));
    if (!last && place === this.savedAt) return;
    this.savedAt = place;
    fill.state.recorder.save(this.time, this.melt.solver, this.melt.full, last, false);
  }

  private finishWhenDue(): void {
    const { input, result, part, melt } = this;
    const { grid } = melt;
    let [able, all] = [0, 0];
    for (const i of melt.all) {
      if (!part[i]) continue;
      all += grid.volume[i];
      if (result.ejectableAt[i] === result.ejectableAt[i]) able += grid.volume[i];
    }
    const solid = this.course.solidShare[this.course.solidShare.length - 1];
    if (result.ejectableTime === null && solid >= input.solidShare)
      result.ejectableTime = this.passed(input.solidShare);
    const released = this.time - this.switchTime >= input.control.end - 1e-9;
    const due = input.openAt === null ? result.ejectableTime !== null && released : this.time >= input.openAt - 1e-9;
    if (due && !this.opened) this.openMould();
    const over = this.time - this.startTime > LONGEST * input.freezeTime;
    if (over && !this.opened) this.openMould();
    if (over || (this.opened && able >= ALL * all && result.ejectableTime !== null)) {
      this.saveFrame(true);
      this.done = true;
    }
  }

  /** When the solid share passed a value, between the last two steps. */
  private passed(share: number): number {
    const { time, solidShare } = this.course;
    const k = time.length - 1;
    if (k === 0 || !(solidShare[k] > solidShare[k - 1])) return time[k];
    const weight = Math.max(0, (share - solidShare[k - 1]) / (solidShare[k] - solidShare[k - 1]));
    return time[k - 1] + weight * (time[k] - time[k - 1]);
  }

  /** The part as it leaves the mould: its mass is what it will keep. */
  private openMould(): void {
    const { result, course } = this;
    const { grid, mass, melt, loose } = this.melt;
    this.opened = true;
    result.openTime = this.time;
    result.mass = this.partMass();
    result.pressureAtOpening = course.highestPressure[course.highestPressure.length - 1];
    const room = melt.at(ROOM, 0);
    for (const i of this.melt.all) {
      const inCavity = mass[i] / grid.volume[i];
      result.density[i] = inCavity;
      result.shrinkage[i] = 1 - inCavity / room;
      melt.look(i, 0);
      result.shrinkageAtEjection[i] = 1 - inCavity / melt.density;
      if (result.frozenAt[i] !== result.frozenAt[i]) result.unfed[i] = loose[i] ? this.melt.missing(i) : 0;
    }
  }

  progress() {
    const { course } = this;
    const solid = course.solidShare[course.solidShare.length - 1] ?? 0;
    const share = Math.min(1, solid / this.input.solidShare);
    return {
      stage: 'pack' as const,
      fraction: share,
      message: `${Math.round(100 * solid)} % cold enough to eject after ${this.time.toFixed(1)} s`,
    };
  }

  outcome(): PackOutcome {
    const { result, melt } = this;
    result.frozen = this.wall?.finish() ?? null;
    result.massIn = melt.massIn;
    result.massError = melt.massError;
    result.heatError = melt.heatError();
    result.solves = melt.solver.solves;
    result.iterations = melt.solver.iterations;
    return { status: result.ejectableTime === null ? 'hot' : 'ejected', result };
  }
}
