import { ROOM } from '../../material/pvt';
import type { PressureGrid } from '../../grid/pressureGrid';
import type { StageContext } from '../../pipeline/stage';
import type { Columns, WallSide } from '../fill/columns';
import type { Heat } from '../fill/heat';
import { downstream } from '../fill/order';
import type { FillHistory, FillResult } from '../fill/outcome';
import type { FlowSolver, Storage } from '../fill/pressure';
import { gateRims } from './gates';
import { MeltDensity } from './melt';
import type { PackInput, PackOutcome, PackResult } from './outcome';
import { Reach } from './reach';

/** Steps over the freezing time of the nominal wall while melt flows; when all ways are closed they are this much longer. */
const STEPS_PER_FREEZE = 40;
const LONGER_WHEN_CLOSED = 2.5;
const FIRST_STEP = 0.1;
const GROWTH = 1.2;
/** The calculation ends after this many freezing times, ejectable or not. */
const LONGEST = 40;
const N_FRAMES = 20;
/**
 * Passes of density and pressure in a step, and the mass left over at which they end, over all of it. What is
 * left over in a step is made good in the next: the balance goes by the masses, not by the densities.
 */
const PASSES = 8;
const MASS_TOLERANCE = 3e-7;
const SOLVER_TOLERANCE = 2e-9;
/** The multigrid hierarchy serves on while it needs at most this many more iterations than when it was new. */
const PATIENCE = 4;
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
  const run = new PackRun(input, input.fill.columns, input.fill.heat);
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
  private readonly grid: PressureGrid;
  private readonly solver: FlowSolver;
  private readonly melt: MeltDensity;
  private readonly reach: Reach;
  private readonly storage: Storage;
  /** Mass of every node, kg: from the flows. */
  private readonly mass: Float64Array;
  private readonly inflow: Float64Array;
  /** Masses before the flow of the last step, and how long that step was; 0 when nothing flowed. */
  private readonly massBefore: Float64Array;
  private flowTime = 0;
  /** What the densities of the last step give more or less than the masses, over all. */
  private net = 0;
  private worn = true;
  private usual = 0;
  /** 1 where the plastic has no pressure and stands off the wall. */
  private readonly loose: Uint8Array;
  private readonly open: Uint8Array;
  private readonly full: Uint8Array;
  private readonly pinned: Uint8Array;
  private readonly part: Uint8Array;
  private readonly all: Int32Array;
  private readonly noAir: Float64Array;
  private readonly rims: number[][];
  private readonly history: FillHistory;
  private readonly course: PackResult['course'] = { time: [], mass: [], solidShare: [], highestPressure: [] };
  private readonly result: PackResult;
  private readonly partVolume: number;
  private readonly startMass: number;
  private readonly density: Float64Array;
  private readonly slope: Float64Array;
  /** Nodes with a balance of mass of their own. */
  private readonly free: Int32Array;
  /** Links between a gate that is the inlet itself and the rest. */
  private readonly gateLinks: number[];
  private readonly switchTime: number;
  private readonly startTime: number;
  private readonly heatBefore: { stored: number; in: number; lost: number };
  /** Walls of plastic that stands off: the sides of the filling, once more with the looser contact. */
  private readonly nSides: number;
  private time: number;
  private dt = 0;
  private opened = false;
  private anyOpen = true;
  private anyFed = true;
  /** Nothing has pressure any more, and nothing pushes. */
  private quiet = false;
  private savedAt = -1;

  constructor(
    private readonly input: PackInput,
    private readonly columns: Columns,
    private readonly heat: Heat,
  ) {
    const { grid, inlet, solver } = input.fill.state;
    const { n } = grid;
    this.grid = grid;
    this.solver = solver;
    this.reach = new Reach(grid, inlet);
    this.storage = { density: new Float64Array(n), diagonal: new Float64Array(n), right: new Float64Array(n) };
    this.mass = new Float64Array(n);
    this.inflow = new Float64Array(n);
    this.loose = new Uint8Array(n);
    this.open = new Uint8Array(n);
    this.full = Uint8Array.from(input.fill.fillTime, (t) => (t === t ? 1 : 0));
    this.pinned = Uint8Array.from(inlet.gateOfNode, (g) => (g >= 0 ? 1 : 0));
    this.part = input.part ?? new Uint8Array(n).fill(1);
    const kept = new Set(input.hot ?? []);
    this.all = Int32Array.from([...this.full.keys()].filter((i) => this.full[i] && !this.pinned[i] && !kept.has(i)));
    this.free = Int32Array.from([...this.full.keys()].filter((i) => this.full[i] && !this.pinned[i]));
    this.melt = new MeltDensity(input.density, columns, this.free);
    this.density = this.melt.densities;
    this.slope = this.melt.slopes;
    this.gateLinks = [...grid.linkFrom.keys()].filter(
      (l) => this.pinned[grid.linkFrom[l]] !== this.pinned[grid.linkTo[l]],
    );
    this.noAir = new Float64Array(n);
    this.rims = gateRims(grid, inlet);
    this.history = copied(input.fill.history);
    this.startTime = this.time = input.fill.history.time[input.fill.history.time.length - 1];
    this.switchTime = input.fill.switchedAt?.time ?? this.startTime;
    this.nSides = columns.sides.length;
    if (input.detachedTransfer !== null)
      columns.sides.push(...columns.sides.map((s) => looser(s, input.detachedTransfer as number)));
    this.result = emptyResult(n, this.rims.length, this.history, this.course, input.fill);
    this.partVolume = grid.volume.reduce((s, v, i) => s + (this.part[i] ? v : 0), 0);
    this.melt.lookAll(solver.pressure);
    for (let i = 0; i < n; i++) {
      if (this.pinned[i]) this.melt.look(i, Math.max(0, solver.pressure[i]));
      this.storage.density[i] = this.pinned[i] ? this.melt.density : this.density[i];
      this.mass[i] = this.full[i] ? this.storage.density[i] * grid.volume[i] : 0;
    }
    this.setFlowing();
    this.massBefore = this.mass.slice();
    this.startMass = this.mass.reduce((s, m) => s + m, 0);
    const { carriedIn, sheared, lost } = heat.balance;
    this.heatBefore = { stored: heat.storedInMass(this.unpinned()), in: carriedIn + sheared, lost };
  }

  /** Mass of nodes that have a temperature of their own. */
  private unpinned(): Float64Array {
    return this.mass.map((m, i) => (this.pinned[i] ? 0 : m));
  }

  start(): void {
    this.dt = (this.input.firstStep ?? FIRST_STEP) * this.longestStep();
    this.look(this.time);
    this.result.massBefore = this.partMass();
  }

  private longestStep(): number {
    const { freezeTime, stepsPerFreeze = STEPS_PER_FREEZE, stepShare = 0 } = this.input;
    const even = (freezeTime / stepsPerFreeze) * (this.quiet || !this.anyFed ? LONGER_WHEN_CLOSED : 1);
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
    const dt = this.stepSize();
    const before = this.heat.balance.lost;
    this.cool(dt);
    const lost = this.heat.balance.lost - before;
    this.time += dt;
    const nozzle = this.nozzlePressure();
    this.press(dt, nozzle);
    if (!Number.isFinite(this.solver.pressure.reduce((s, p) => s + p, 0)) || !Number.isFinite(lost))
      return {
        status: 'failed',
        step: this.result.steps,
        message: 'The pressure of the packing has no finite solution.',
        likely: 'The pvT data of the resin may be out of their range. Look at its curves at the Resin station.',
      };
    this.result.steps++;
    this.look(this.time);
    this.record(nozzle);
    this.dt = Math.min(dt * GROWTH > this.dt ? dt * GROWTH : this.dt * GROWTH, this.longestStep());
    this.finishWhenDue();
    return null;
  }

  /** Pressure at the nozzle now; the machine lets go at the end of the profile. */
  private nozzlePressure(): number {
    const { control } = this.input;
    const since = this.time - this.switchTime;
    return since > control.end + 1e-9 ? 0 : control.pressureAt(since);
  }

  private cool(dt: number): void {
    const { grid, solver, full, pinned, heat } = this;
    // What flowed in the step before is carried along now, all of it: mass and heat move together.
    solver.scaleFlows(this.flowTime / dt);
    heat.setMass(this.massBefore, this.storage.density);
    if (this.flowTime === 0) return heat.settle(dt, this.all, grid.volume);
    this.letOut(dt);
    const order = downstream(grid, full, pinned, solver.pressure);
    heat.advance(dt, solver, full, order, pinned, grid.volume, grid.volume);
  }

  /** Density of what flows in every node: melt of the core, not of the skin. */
  private setFlowing(): void {
    const { columns, solver, storage, melt } = this;
    for (const i of this.free)
      storage.density[i] = melt.at(columns.bulkTemperature(i), Math.max(0, solver.pressure[i]));
  }

  /** Heat that goes back out through open gates with the flow of the last step. */
  private letOut(dt: number): void {
    const { grid, solver, pinned, heat } = this;
    const { attached } = this.input.fill.state.inlet;
    for (const link of this.gateLinks) {
      const outer = pinned[grid.linkFrom[link]] ? grid.linkTo[link] : grid.linkFrom[link];
      const back = grid.linkFrom[link] === outer ? solver.linkFlow[link] : -solver.linkFlow[link];
      if (back > 0) heat.letOut(outer, back * dt);
    }
    for (const node of new Set(attached.map((a) => a.node))) {
      const back = -solver.attachedInflow(node);
      if (back > 0) heat.letOut(node, back * dt);
    }
  }

  /** Pressures and masses at the end of a step, with the nozzle at `nozzle`. */
  private press(dt: number, nozzle: number): void {
    const { solver, mass, full, input } = this;
    input.fill.state.pins.follow({ time: this.time, shareFilled: 1, nozzlePressure: nozzle, full });
    solver.inletPressure = nozzle;
    // Cooling only takes more of what has no pressure left.
    this.quiet = nozzle === 0 && this.free.every((i) => this.loose[i] === 1);
    this.massBefore.set(mass);
    this.flowTime = this.quiet || !this.anyOpen ? 0 : dt;
    if (this.quiet) return;
    this.melt.lookAll(solver.pressure);
    this.setFlowing();
    if (this.anyOpen) this.flow(dt, nozzle);
    else this.holdMass();
    const gain = this.pinnedGain(nozzle);
    if (this.anyOpen) this.result.massIn += gain;
    for (const i of this.free)
      if (this.loose[i] && mass[i] > this.density[i] * this.grid.volume[i] * (1 + 1e-9)) this.attach(i);
  }

  /** Density and its slope of a node at its present temperature and pressure. */
  private weigh(i: number): void {
    this.melt.look(i, Math.max(0, this.solver.pressure[i]));
    this.density[i] = this.melt.density;
    this.slope[i] = this.melt.slope;
  }

  private flow(dt: number, nozzle: number): void {
    const { solver, mass, storage, inflow, full, columns } = this;
    for (const i of this.all) columns.prepare(i, Math.max(0, solver.pressure[i]));
    solver.updateFluidity(full, 1);
    solver.close(this.open);
    for (let pass = 1; pass <= PASSES; pass++) {
      this.setStorage(dt);
      this.solve(storage, nozzle);
      const fromGates = solver.massFlows(storage, inflow);
      if (!this.settled(dt) && pass < PASSES) continue;
      for (const i of this.free) mass[i] += dt * inflow[i];
      this.result.massIn += dt * fromGates;
      this.result.massError = Math.max(this.result.massError, this.net);
      return;
    }
  }

  /** The unknowns are the same all along: a new hierarchy is made when the old one no longer serves, or a node was let go. */
  private solve(storage: Storage, nozzle: number): void {
    const { solver } = this;
    const before = solver.iterations;
    const fresh = this.worn;
    solver.solve(this.full, this.noAir, { pressure: nozzle }, SOLVER_TOLERANCE, !fresh, storage);
    const taken = solver.iterations - before;
    if (fresh) this.usual = taken;
    this.worn = taken > this.usual + PATIENCE;
  }

  /** Nothing flows: the pressure of every node follows from its mass alone. */
  private holdMass(): void {
    const { solver, mass, grid } = this;
    for (const i of this.free)
      for (let pass = 0; pass < PASSES && !this.loose[i]; pass++) {
        const change = (mass[i] / grid.volume[i] - this.density[i]) / this.slope[i];
        solver.pressure[i] += change;
        if (solver.pressure[i] < 0) this.release(i);
        this.weigh(i);
        if (Math.abs(change) < 1) break;
      }
  }

  /** Melt under gates that are the inlet has the nozzle's pressure and the melt's temperature. */
  private pinnedGain(nozzle: number): number {
    let gain = 0;
    for (let i = 0; i < this.grid.n; i++) {
      if (!this.pinned[i]) continue;
      this.melt.look(i, nozzle);
      this.storage.density[i] = this.melt.density;
      const now = this.melt.density * this.grid.volume[i];
      gain += now - this.mass[i];
      this.mass[i] = now;
    }
    return gain;
  }

  /** Balance of mass in every node, linear in the pressure around the present one. */
  private setStorage(dt: number): void {
    const { grid, mass, storage, solver, loose, density, slope } = this;
    for (const i of this.free) {
      const volume = grid.volume[i];
      const stiffness = (slope[i] * volume) / dt;
      // Where there is no pressure, none comes from what flows in.
      storage.diagonal[i] = loose[i] ? stiffness * HOLD : stiffness;
      storage.right[i] = loose[i]
        ? 0
        : (mass[i] - density[i] * volume) / dt + stiffness * Math.max(0, solver.pressure[i]);
    }
  }

  /** Lets go of nodes that would be pulled; true when densities and masses agree. */
  private settled(dt: number): boolean {
    const { solver, mass, inflow, grid, loose, density } = this;
    let [left, released] = [0, 0];
    for (const i of this.free) {
      if (loose[i]) continue;
      if (solver.pressure[i] < 0) {
        this.release(i);
        released += mass[i];
      }
    }
    this.melt.lookAll(solver.pressure);
    let net = 0;
    for (const i of this.free) {
      if (loose[i]) continue;
      const over = mass[i] + dt * inflow[i] - density[i] * grid.volume[i];
      left += Math.abs(over);
      net += over;
    }
    this.net = Math.abs(net) / this.startMass;
    return left < MASS_TOLERANCE * this.startMass && released < RELEASED * this.startMass;
  }

  private release(i: number): void {
    this.loose[i] = 1;
    this.worn = true;
    this.solver.pressure[i] = 0;
    this.setContact(i, this.nSides);
  }

  private attach(i: number): void {
    this.loose[i] = 0;
    this.worn = true;
    this.setContact(i, 0);
    this.result.releasedAt[i] = NaN;
  }

  private setContact(i: number, offset: number): void {
    if (this.input.detachedTransfer === null) return;
    const { sideOf } = this.columns;
    for (let h = 0; h < 2; h++) sideOf[2 * i + h] = (sideOf[2 * i + h] % this.nSides) + offset;
  }

  /** What has come to pass in every node by now. */
  private look(time: number): void {
    const { columns, input, result, solver, open } = this;
    this.anyOpen = false;
    for (let i = 0; i < open.length; i++) {
      open[i] = this.pinned[i] || (this.full[i] && columns.middleTemperature(i) > input.noFlowTemperature) ? 1 : 0;
      if (open[i] && !this.pinned[i]) this.anyOpen = true;
    }
    const since = time - this.switchTime;
    const pushing = since < input.control.end - 1e-9;
    this.anyFed = this.reach.update(open) > 0 && (pushing || this.anyOpen);
    for (const i of this.all) {
      if (pushing && this.reach.fed[i]) {
        result.fedUntil[i] = time;
        result.sealPressure[i] = solver.pressure[i];
      }
      if (this.loose[i] && result.releasedAt[i] !== result.releasedAt[i]) {
        result.releasedAt[i] = time;
        result.skinAtRelease[i] = columns.colderShare(i, input.transitionTemperature);
      }
      if (result.frozenAt[i] !== result.frozenAt[i] && columns.middleTemperature(i) < input.transitionTemperature) {
        result.frozenAt[i] = time;
        result.unfed[i] = this.loose[i] ? this.missing(i) : 0;
      }
      if (
        result.ejectableAt[i] !== result.ejectableAt[i] &&
        columns.colderShare(i, input.ejectionTemperature) >= input.solidShare
      )
        result.ejectableAt[i] = time;
    }
    this.rims.forEach((rim, g) => {
      const fed = rim.reduce((s, i) => s + this.reach.fed[i], 0);
      if (result.gateFrozenAt[g] === null && fed < GATE_OPEN * rim.length) result.gateFrozenAt[g] = time;
    });
  }

  /** Share of a node's volume that its plastic, free of pressure, does not fill. */
  private missing(i: number): number {
    this.melt.look(i, 0);
    return Math.max(0, 1 - this.mass[i] / (this.melt.density * this.grid.volume[i]));
  }

  private partMass(): number {
    return this.mass.reduce((s, m, i) => s + (this.part[i] ? m : 0), 0);
  }

  private record(nozzle: number): void {
    const { history, solver, course, grid, part, input } = this;
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
    history.flowRate.push(flow.reduce((s, q) => s + q, 0));
    history.gateFlow.push(flow);
    history.shareFilled.push(1);
    history.clampForce.push(force);
    history.phase.push(
      this.opened ? 'open' : this.time - this.switchTime <= input.control.end + 1e-9 ? 'packing' : 'cooling',
    );
    let [solid, highest] = [0, 0];
    for (let i = 0; i < grid.n; i++) {
      if (!part[i] || !this.full[i]) continue;
      solid += grid.volume[i] * (this.pinned[i] ? 1 : this.columns.colderShare(i, input.ejectionTemperature));
      if (solver.pressure[i] > highest && !this.pinned[i]) highest = solver.pressure[i];
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
    fill.state.recorder.save(this.time, this.solver, this.full, last, false);
  }

  private finishWhenDue(): void {
    const { input, result, grid, part } = this;
    let [able, all] = [0, 0];
    for (const i of this.all) {
      if (!part[i]) continue;
      all += grid.volume[i];
      if (result.ejectableAt[i] === result.ejectableAt[i]) able += grid.volume[i];
    }
    const solid = this.course.solidShare[this.course.solidShare.length - 1];
    if (result.ejectableTime === null && solid >= input.solidShare) result.ejectableTime = this.time;
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

  /** The part as it leaves the mould: its mass is what it will keep. */
  private openMould(): void {
    const { result, grid, mass, course } = this;
    this.opened = true;
    result.openTime = this.time;
    result.mass = this.partMass();
    result.pressureAtOpening = course.highestPressure[course.highestPressure.length - 1];
    const room = this.melt.at(ROOM, 0);
    for (const i of this.all) {
      const inCavity = mass[i] / grid.volume[i];
      result.density[i] = inCavity;
      result.shrinkage[i] = 1 - inCavity / room;
      this.melt.look(i, 0);
      result.shrinkageAtEjection[i] = 1 - inCavity / this.melt.density;
      if (result.frozenAt[i] !== result.frozenAt[i]) result.unfed[i] = this.loose[i] ? this.missing(i) : 0;
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
    const { result, heat, solver, heatBefore } = this;
    const { carriedIn, sheared, lost } = heat.balance;
    const put = heatBefore.stored + carriedIn + sheared - heatBefore.in;
    const out = lost - heatBefore.lost + heat.storedInMass(this.unpinned());
    result.heatError = Math.abs(put - out) / put;
    result.solves = solver.solves;
    result.iterations = solver.iterations;
    return { status: result.ejectableTime === null ? 'hot' : 'ejected', result };
  }
}

/** Share of the mass that may lose its pressure in a step before the others are solved for anew. */
const RELEASED = 0.01;
/** Stiffness of a node without pressure over its own: what flows in does not press it. */
const HOLD = 1e8;

const looser = (side: WallSide, transfer: number): WallSide => ({
  ...side,
  transfer: Math.min(side.transfer, transfer),
});

const copied = (h: FillHistory): FillHistory => ({
  time: [...h.time],
  nozzlePressure: [...h.nozzlePressure],
  pressure: [...h.pressure],
  flowRate: [...h.flowRate],
  shareFilled: [...h.shareFilled],
  clampForce: [...h.clampForce],
  phase: [...h.phase],
  gateFlow: [...h.gateFlow],
  gatePressure: [...h.gatePressure],
});

function emptyResult(
  n: number,
  nGates: number,
  history: FillHistory,
  course: PackResult['course'],
  fill: FillResult,
): PackResult {
  const unknown = () => new Float32Array(n).fill(NaN);
  return {
    fedUntil: unknown(),
    frozenAt: unknown(),
    releasedAt: unknown(),
    ejectableAt: unknown(),
    sealPressure: unknown(),
    shrinkageAtEjection: unknown(),
    shrinkage: unknown(),
    density: unknown(),
    unfed: unknown(),
    skinAtRelease: unknown(),
    gateFrozenAt: new Array<number | null>(nGates).fill(null),
    course,
    history,
    ejectableTime: null,
    openTime: NaN,
    mass: 0,
    massBefore: 0,
    massIn: 0,
    massError: 0,
    heatError: 0,
    switchedAt: fill.switchedAt,
    pressureAtOpening: 0,
    steps: 0,
    solves: 0,
    iterations: 0,
  };
}
