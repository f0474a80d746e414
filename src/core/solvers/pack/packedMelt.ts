import type { PressureGrid } from '../../grid/pressureGrid';
import type { Columns, WallSide } from '../melt/columns';
import type { Heat } from '../melt/heat';
import { limitStress } from '../melt/limitStress';
import { downstream } from '../melt/order';
import type { FlowSolver, Storage } from '../melt/pressure';
import { MeltDensity } from './melt';
import type { Cavity } from '../shot/cavity';
import type { PackInput } from './outcome';
import { HoldingTool } from '../press/holding';
import { PackedCore } from './packedCore';

/**
 * Passes of density and pressure in a step, and the mass left over at which they end, over all of it. What is
 * left over in a step is made good in the next: the balance goes by the masses, not by the densities.
 */
const PASSES = 16;
const MASS_TOLERANCE = 3e-7;
/**
 * The same for a step that smaller steps do not help: where many layers pass the transition at once, the branches of the
 * pvT data may leave a gap in which the mass lies, and no pressure answers to it.
 */
const JUMP_TOLERANCE = 3e-4;
/**
 * Most that the mass of any one node may miss of what its density says, over its own, for a step to be taken. Joints of
 * the feed, through which a thousand times what they hold flows in a step, are held against a share of a mean node.
 */
const NODE_TOLERANCE = 2e-3;
const JOINT_SHARE = 0.05;
/** Passes in which the pressure of a node that nothing flows into is found from its mass, before it is bisected. */
const HOLD_PASSES = 8;
const BISECTIONS = 60;
const HIGHEST = 5e8;
const SOLVER_TOLERANCE = 2e-9;
/**
 * How much closer the pressures are solved for when a pass finds nothing to do and the masses still do not agree: of a node
 * that holds next to nothing, as at the mouth of a tab, what the others leave over is more than its own.
 */
const CLOSER = 0.01;
const CLOSEST = 1e-14;
/** The multigrid hierarchy serves on while it needs at most this many more iterations than when it was new. */
const PATIENCE = 4;
/** Share of the mass that may lose its pressure in a step before the others are solved for anew. */
const RELEASED = 0.01;
/** A node without pressure that more than this of its mass too much would flow into has pressure again. */
const OVERFULL = 1e-4;
/** Change of a specific heat that is not followed by another pass: steps of packing are long. */
const HEAT_CHANGE = 0.01;
/** Stiffness of a node without pressure over its own: what flows in does not press it. */
const HOLD = 1e8;

/** The plastic in the cavity: mass, pressure and heat of every node, and one step of each. SI. */
export class PackedMelt {
  readonly grid: PressureGrid;
  readonly solver: FlowSolver;
  /** Mass of every node, kg: from the flows. */
  readonly mass: Float64Array;
  /** Volume that the plastic of every node has, m3: all of it where it is not hollow. */
  readonly room: Float64Array;
  /** null where no fluid is in the core. */
  readonly core: PackedCore | null = null;
  /** null where no press keeps its force on an open tool. */
  readonly holding: HoldingTool | null = null;
  /** 1 where the plastic has no pressure and stands off the wall. */
  readonly loose: Uint8Array;
  /** 1 where the middle of the wall still flows; set by whoever looks. */
  readonly open: Uint8Array;
  anyOpen = true;
  /** Nothing has pressure any more, and nothing pushes. */
  quiet = false;
  /** 1 for nodes with melt in them, and for those that are the inlet itself. */
  readonly full: Uint8Array;
  readonly pinned: Uint8Array;
  /** Nodes that cool, and nodes with a balance of mass of their own. */
  readonly all: Int32Array;
  readonly free: Int32Array;
  readonly startMass: number;
  /** Mass that came in through the gates, kg, and the largest error of a step over all. */
  massIn = 0;
  massError = 0;
  readonly melt: MeltDensity;
  private readonly storage: Storage;
  private readonly inflow: Float64Array;
  /** Masses before the flow of the last step, and how long that step was; 0 when nothing flowed. */
  private readonly massBefore: Float64Array;
  private flowTime = 0;
  /** What the densities of the last step give more or less than the masses, over all. */
  private net = 0;
  private worn = true;
  /** Nodes that the fluid had come to when the multigrid hierarchy was made. */
  private inCore = 0;
  private usual = 0;
  readonly columns: Columns;
  private readonly heat: Heat;
  private readonly noAir: Float64Array;
  private readonly density: Float64Array;
  private readonly slope: Float64Array;
  /** Links between a gate that is the inlet itself and the rest. */
  private readonly gateLinks: number[];
  private readonly heatBefore: { stored: number; in: number; lost: number };
  /** Walls of plastic that stands off: the sides of the filling, once more with the looser contact. */
  private readonly nSides: number;

  constructor(
    private readonly input: PackInput,
    private readonly cavity: Cavity,
    /** s since the start of the shot. */
    startTime = 0,
  ) {
    const { grid, gating, solver, columns, heat } = cavity;
    if (!columns || !heat) throw new Error('packing needs a filling with heat');
    const { n } = grid;
    this.grid = grid;
    this.solver = solver;
    this.columns = columns;
    this.heat = heat;
    this.storage = { density: new Float64Array(n), diagonal: new Float64Array(n), right: new Float64Array(n) };
    this.mass = new Float64Array(n);
    this.room = grid.volume;
    this.inflow = new Float64Array(n);
    this.loose = new Uint8Array(n);
    this.open = new Uint8Array(n);
    this.full = cavity.front.full;
    this.pinned = Uint8Array.from(gating.gateOfNode, (g) => (g >= 0 ? 1 : 0));
    const kept = new Set(input.hot ?? []);
    this.free = Int32Array.from([...this.full.keys()].filter((i) => this.full[i] && !this.pinned[i]));
    this.all = this.free.filter((i) => !kept.has(i));
    this.melt = new MeltDensity(input.density, columns, this.free, input.second?.density ?? null);
    this.density = this.melt.densities;
    this.slope = this.melt.slopes;
    this.gateLinks = [...grid.linkFrom.keys()].filter(
      (l) => this.pinned[grid.linkFrom[l]] !== this.pinned[grid.linkTo[l]],
    );
    this.noAir = new Float64Array(n);
    if (cavity.core) {
      this.room = grid.volume.slice();
      this.core = new PackedCore(cavity.core, this.full, grid, this.room);
    }
    const hold = cavity.tool?.input.closing?.hold;
    if (cavity.tool && hold !== undefined) this.holding = new HoldingTool(cavity.tool, startTime + hold);
    this.nSides = columns.sides.length;
    if (input.detachedTransfer !== null)
      columns.sides.push(...columns.sides.map((s) => looser(s, input.detachedTransfer as number)));
    this.melt.lookAll(solver.pressure);
    for (let i = 0; i < n; i++) {
      if (this.pinned[i]) this.melt.look(i, Math.max(0, solver.pressure[i]));
      this.storage.density[i] = this.pinned[i] ? this.melt.density : this.density[i];
      this.mass[i] = this.full[i] ? this.storage.density[i] * this.room[i] : 0;
    }
    this.setFlowing();
    heat.followHeat(HEAT_CHANGE);
    this.massBefore = this.mass.slice();
    this.startMass = this.mass.reduce((s, m) => s + m, 0);
    const { carriedIn, sheared, lost } = heat.balance;
    this.heatBefore = { stored: heat.storedInMass(this.unpinned()), in: carriedIn + sheared, lost };
  }

  /** Mass of nodes that have a temperature of their own. */
  private unpinned(): Float64Array {
    return this.mass.map((m, i) => (this.pinned[i] ? 0 : m));
  }

  /** What the balance of heat since the start lacks, over what was put in. */
  heatError(): number {
    const { heat, heatBefore } = this;
    const { carriedIn, sheared, lost } = heat.balance;
    const put = heatBefore.stored + carriedIn + sheared - heatBefore.in;
    const out = lost - heatBefore.lost + heat.storedInMass(this.unpinned());
    return Math.abs(put - out) / put;
  }

  /** Heat of every column over a step. */
  cool(dt: number): void {
    const { grid, solver, full, pinned, heat } = this;
    // What flowed in the step before is carried along now, all of it: mass and heat move together.
    solver.scaleFlows(this.flowTime / dt);
    heat.setMass(this.massBefore, this.storage.density);
    if (this.flowTime === 0) return heat.rest(dt, this.all, grid.volume);
    this.letOut(dt);
    const order = downstream(grid, this.active, pinned, solver.pressure);
    this.cavity.carry(dt, full, order, pinned, grid.volume, grid.volume);
    if (this.core) heat.restHollow(dt, this.core.core.nodes);
  }

  /** Heat of every column over a step in which nothing flows any more. */
  lie(dt: number): void {
    this.heat.setMass(this.mass, this.storage.density);
    this.heat.rest(dt, this.all, this.grid.volume);
  }

  /** Nodes whose pressure is solved for (1). */
  private get active(): Uint8Array {
    return this.core?.active ?? this.full;
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
    const { attached } = this.cavity.gating;
    for (const link of this.gateLinks) {
      const outer = pinned[grid.linkFrom[link]] ? grid.linkTo[link] : grid.linkFrom[link];
      const back = grid.linkFrom[link] === outer ? solver.linkFlow[link] : -solver.linkFlow[link];
      if (back > 0) heat.letOut(outer, back * dt);
    }
    for (const node of new Set(attached.map((a) => a.node))) {
      const back = -solver.attachedFlow[node];
      if (back > 0) heat.letOut(node, back * dt);
    }
  }

  /** Node that missed most of its mass when a step did not settle. */
  worst = -1;

  /** Everything that a step changes, kept; the returned function puts it back. */
  mark(): () => void {
    const { columns, solver, heat, cavity } = this;
    const kept = [columns.temperature, columns.wallStress, columns.sideOf, this.mass, this.massBefore, this.loose];
    kept.push(...cavity.carriers.flatMap((c) => c.memory));
    const copies = kept.map((values) => values.slice());
    const gap = cavity.tool?.gap ?? 0;
    const putBack = [
      solver.mark(),
      cavity.pins.mark(),
      heat.behind?.mark() ?? none,
      this.core?.mark() ?? none,
      () => cavity.tool?.setGap(gap),
    ];
    const balance = { ...heat.balance };
    const density = this.storage.density.slice();
    const { flowTime, massIn, massError, quiet } = this;
    return () => {
      kept.forEach((values, k) => values.set(copies[k]));
      putBack.forEach((back) => back());
      Object.assign(heat.balance, balance);
      this.storage.density.set(density);
      Object.assign(this, { flowTime, massIn, massError, quiet, worn: true });
    };
  }

  /**
   * Pressures and masses at the end of a step, with the nozzle at `nozzle`; false where they do not settle. `small`: it has
   * been halved in vain.
   */
  press(dt: number, nozzle: number, time: number, small = false): boolean {
    const { solver, mass, full, cavity } = this;
    cavity.pins.follow({ time, shareFilled: 1, nozzlePressure: nozzle, full });
    const inCore = this.core ? this.pressCore(time) : 0;
    if (!this.core && !this.holding) solver.inletPressure = nozzle;
    const moves = this.holding?.moves(time) === true;
    this.holding?.begin();
    // Cooling only takes more of what has no pressure left.
    this.quiet = nozzle === 0 && inCore === 0 && !moves && this.free.every((i) => this.loose[i] === 1);
    this.massBefore.set(mass);
    this.flowTime = this.quiet || !this.anyOpen ? 0 : dt;
    if (this.quiet) return true;
    this.melt.lookAll(solver.pressure);
    this.setFlowing();
    if (this.anyOpen && !this.flow(dt, nozzle, moves, small ? JUMP_TOLERANCE : MASS_TOLERANCE)) return false;
    if (!this.anyOpen) this.holdMass();
    if (this.core && this.anyOpen) this.core.follow(time, dt, solver, mass, this.inflow, this.density);
    else this.core?.shrink(mass, this.density, inCore > 0);
    const gain = this.pinnedGain(nozzle);
    if (this.anyOpen) this.massIn += gain;
    for (const i of this.free)
      if (this.loose[i] && !this.touched(i) && mass[i] > this.density[i] * this.room[i] * (1 + 1e-9)) this.attach(i);
    return true;
  }

  /** Whether the fluid in the core has come to a node: its pressure is that of the fluid. */
  private touched(i: number): boolean {
    return this.core !== null && this.core.core.touches(i);
  }

  /** The fluid's pressure at a time [s], Pa, on all it has come to: against the wall, or off it where there is none. */
  private pressCore(time: number): number {
    const { core, solver, loose } = this;
    if (!core) return 0;
    const p = core.bound(time, solver);
    const nodes = core.core.nodes;
    if (nodes.length !== this.inCore) this.worn = true;
    this.inCore = nodes.length;
    for (const i of nodes) {
      if (p > 0 && loose[i]) this.attach(i);
      else if (!(p > 0) && !loose[i]) this.release(i);
    }
    return p;
  }

  /** Density and its slope of a node at its present temperature and pressure. */
  private weigh(i: number): void {
    this.melt.look(i, Math.max(0, this.solver.pressure[i]));
    this.density[i] = this.melt.density;
    this.slope[i] = this.melt.slope;
  }

  private flow(dt: number, nozzle: number, moves: boolean, tolerance: number): boolean {
    const { solver, mass, storage, inflow, columns } = this;
    for (const i of this.all) columns.prepare(i, Math.max(0, solver.pressure[i]));
    solver.updateFluidity(this.active, 1);
    solver.close(this.open);
    let closeness = SOLVER_TOLERANCE;
    for (let pass = 1; pass <= PASSES; pass++) {
      this.core?.count(solver, this.loose);
      this.setStorage(dt);
      const idle = this.solve(storage, nozzle, closeness) === 0;
      const fromGates = solver.massFlows(storage, inflow);
      const settled = this.settled(dt, tolerance);
      if (idle) closeness = Math.max(CLOSEST, CLOSER * closeness);
      if (moves && !this.followPress()) continue;
      if (!settled) continue;
      for (const i of this.free) mass[i] += dt * inflow[i];
      this.massIn += dt * fromGates;
      this.massError = Math.max(this.massError, this.net);
      this.limitStress();
      return true;
    }
    return false;
  }

  /** Moves the half of the tool that the press closes; true when it stands where the force is met. */
  private followPress(): boolean {
    return this.holding!.follow(this.solver.pressure, this.density, this.slope, this.free, this.loose);
  }

  private limitStress(): void {
    const { grid, solver, columns } = this;
    for (const i of this.all)
      if (this.open[i]) limitStress(i, grid, solver, columns);
      else columns.wallStress[i] = 0;
  }

  /**
   * Iterations that the pressures of a pass took. The unknowns are the same all along: a new hierarchy is made when the
   * old one no longer serves, or a node was let go.
   */
  private solve(storage: Storage, nozzle: number, tolerance: number): number {
    const { solver } = this;
    const before = solver.iterations;
    const fresh = this.worn;
    // While a fluid pushes from inside or the tool from outside, the nozzle is shut.
    const drive = this.core || this.holding ? { flow: 0 } : { pressure: nozzle };
    solver.solve(this.active, this.core?.air ?? this.noAir, drive, tolerance, !fresh, storage);
    const taken = solver.iterations - before;
    // What is solved closer than usual takes longer however well the hierarchy serves.
    if (tolerance < SOLVER_TOLERANCE) return taken;
    if (fresh) this.usual = taken;
    this.worn = taken > this.usual + PATIENCE;
    return taken;
  }

  /** Nothing flows: the pressure of every node follows from its mass alone. */
  private holdMass(): void {
    const { solver, mass, room } = this;
    for (const i of this.free) {
      if (this.loose[i] || this.touched(i)) continue;
      let change = Infinity;
      for (let pass = 0; pass < HOLD_PASSES && !this.loose[i] && Math.abs(change) >= 1; pass++) {
        change = (mass[i] / room[i] - this.density[i]) / this.slope[i];
        solver.pressure[i] += change;
        if (solver.pressure[i] < 0) this.release(i);
        this.weigh(i);
      }
      if (!this.loose[i] && !(Math.abs(change) < 1)) this.bisect(i, mass[i] / room[i]);
    }
  }

  /** Pressure at which a node has a density: where the branches of the pvT data meet, there is no slope to follow. */
  private bisect(i: number, density: number): void {
    let [low, high] = [0, HIGHEST];
    for (let k = 0; k < BISECTIONS; k++) {
      const p = 0.5 * (low + high);
      this.melt.look(i, p);
      if (this.melt.density < density) low = p;
      else high = p;
    }
    this.solver.pressure[i] = 0.5 * (low + high);
    this.weigh(i);
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

  /** Lets go of nodes that would be pulled; true when densities and masses agree, over all and in every node. */
  private settled(dt: number, tolerance: number): boolean {
    const { solver, mass, inflow, grid, loose, density } = this;
    let [left, released] = [0, 0];
    for (const i of this.free) {
      if (!Number.isFinite(solver.pressure[i])) return this.fail(i);
      if (loose[i] || solver.pressure[i] >= 0 || this.touched(i)) continue;
      this.release(i);
      released += mass[i];
    }
    this.melt.lookAll(solver.pressure);
    let net = 0;
    let refilled = false;
    let most = 0;
    const joint = (JOINT_SHARE * this.startMass) / this.free.length;
    for (const i of this.free) {
      if (this.touched(i)) continue;
      const holds = density[i] * this.room[i];
      const over = mass[i] + dt * inflow[i] - holds;
      const scale = grid.ducts?.joint[i] ? Math.max(joint, holds) : holds;
      if (loose[i]) {
        // What it lacks has come in: from here on it presses back, or a long step would press any amount into it.
        if (over <= OVERFULL * holds) continue;
        this.attach(i);
        if (over > NODE_TOLERANCE * scale || over > tolerance * this.startMass) refilled = true;
      } else {
        left += Math.abs(over);
        net += over;
      }
      const missed = Math.abs(over) / scale;
      if (missed <= most) continue;
      most = missed;
      this.worst = i;
    }
    this.net = Math.abs(net) / this.startMass;
    return (
      !refilled && most < NODE_TOLERANCE && left < tolerance * this.startMass && released < RELEASED * this.startMass
    );
  }

  private fail(i: number): false {
    this.worst = i;
    return false;
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
  }

  private setContact(i: number, offset: number): void {
    if (this.input.detachedTransfer === null) return;
    const { sideOf } = this.columns;
    for (let h = 0; h < 2; h++) {
      // Plastic shrinks onto an insert, and is fused to plastic.
      if (this.columns.side(i, h).behind !== undefined) continue;
      sideOf[2 * i + h] = (sideOf[2 * i + h] % this.nSides) + offset;
    }
  }

  /** Share of a node's volume that its plastic, free of pressure, does not fill. */
  missing(i: number): number {
    this.melt.look(i, 0);
    return Math.max(0, 1 - this.mass[i] / (this.melt.density * this.room[i]));
  }
}

const none = () => {};

const looser = (side: WallSide, transfer: number): WallSide => ({
  ...side,
  transfer: Math.min(side.transfer, transfer),
});
