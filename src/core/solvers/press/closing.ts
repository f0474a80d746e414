import type { Cavity } from '../shot/cavity';
import { settleFlow, type Following, type Moment } from '../fill/settleFlow';
import { limitStress } from '../melt/limitStress';
import { SHUT } from '../melt/drive';
import type { OpenTool, PressMemory } from './openTool';
import { closingSpeed } from './speed';

/** Largest change of the gap in a step, over wall and gap: pressures go by its third power. */
const CLOSING_STEP = 0.04;
/** Change of the fluidities, rms of ln M, that is let be: at a set speed the force has the whole error of it. */
const FLUIDITY_TOLERANCE = 0.015;
/** Plastic between the halves that would need this pressure to flow out of its own place yields instead, Pa. */
const YIELD = 5e7;
/** Share of the gap that a half comes on by, at least, in the time there is. */
const LEAST_WAY = 1e-3;

/** A tool that closes on a cavity that is not full: what it drives out, how fast, and against what. */
export class ClosingTool {
  /** Over which the gap stands open, m2. */
  private readonly area: number;
  /** Where the half stood in the last two flows. */
  private before: PressMemory = { gap: 0, speed: 0 };
  private now: PressMemory = { gap: 0, speed: 0 };
  /** 1 for nodes whose melt is driven out; the others press back with so much, N. */
  private readonly flowing: Uint8Array;
  private yielding = 0;

  constructor(
    private readonly tool: OpenTool,
    private readonly cavity: Cavity,
    /** Volume of every node that melt can come to, m3, which follows the gap. */
    private readonly reachable: Float64Array,
    /** Pressure of the flow last solved for on the mould, Pa. */
    private readonly onTool: (active: Uint8Array) => Float64Array,
  ) {
    this.flowing = new Uint8Array(reachable.length);
    this.area = reachable.reduce((s, v, i) => s + (v > 0 ? tool.opens(i) : 0), 0);
  }

  /** Puts the charge that lies in the open tool into its nodes. Returns its volume, m3, and the nodes that are full of it. */
  layCharge(): { volume: number; filled: number[] } {
    const { cavity, tool, reachable } = this;
    const { front, columns, heat, grid } = cavity;
    const filled: number[] = [];
    let volume = 0;
    const { share, temperature } = tool.input.charge!;
    for (let i = 0; i < share.length; i++) {
      if (!(share[i] > 0) || !(reachable[i] > 0)) continue;
      front.held[i] = share[i] * grid.volume[i];
      volume += front.held[i];
      if (share[i] >= 0.5) front.fillTime[i] = 0;
      columns?.temperature.fill(temperature, i * columns.nLayers, (i + 1) * columns.nLayers);
      heat?.admit(front.held[i], temperature);
      if (share[i] < 1 - 1e-9) continue;
      front.full[i] = 1;
      filled.push(i);
    }
    return { volume, filled };
  }

  /** Speed of this step, with the flow that belongs to it; false where none settles. */
  settle(moment: Moment, given: Following): boolean {
    const { tool, cavity } = this;
    const fluidityTolerance = Math.min(FLUIDITY_TOLERANCE, given.fluidityTolerance ?? FLUIDITY_TOLERANCE);
    const following = { ...given, fluidityTolerance };
    this.before = { gap: this.now.gap, speed: this.now.speed };
    const { active } = moment;
    const press = tool.input.closing!;
    if (tool.met) {
      tool.speed = 0;
      return settleFlow(cavity.solver, SHUT, moment, following);
    }
    const force = () => tool.forceOf(this.onTool(active)) + this.yielding;
    let { first } = moment;
    let settled = true;
    const found = closingSpeed(press, tool.speed, (speed) => {
      this.tellSolid(active, speed);
      const source = tool.source(speed, this.flowing);
      settled = settleFlow(cavity.solver, SHUT, { ...moment, first, source, watch: force }, following);
      first = false;
      tool.speed = speed;
      return force();
    });
    this.now = { gap: tool.gap, speed: tool.speed };
    const { columns, solver, grid } = cavity;
    if (columns) for (let i = 0; i < active.length; i++) if (active[i]) limitStress(i, grid, solver, columns);
    return settled && found !== null;
  }

  /**
   * Time [s] that the half takes for a way [m] of this step: where the melt slows it down its speed goes on falling, by so
   * much a way as over the step before.
   */
  timeFor(way: number): number {
    const { before, now } = this;
    const falls = before.gap > now.gap && before.speed > now.speed;
    const rate = falls ? Math.log(before.speed / now.speed) / (before.gap - now.gap) : 0;
    return (rate * way > 1e-6 ? Math.expm1(rate * way) / rate : way) / now.speed;
  }

  /** What the full nodes give up in the flow last solved for, m3/s. */
  driven(): number {
    return this.under() * this.tool.speed;
  }

  /** The same of a half that stands still for all practical purposes: within the time there is it gets nowhere. */
  still(timeLimit: number): number {
    return (this.under() * LEAST_WAY * this.tool.gap) / timeLimit;
  }

  /** Tells the nodes that flow from those that yield, at a speed, and sums up the force of these. */
  private tellSolid(active: Uint8Array, speed: number): void {
    const { tool, cavity, flowing } = this;
    const { grid, solver } = cavity;
    this.yielding = 0;
    for (let i = 0; i < active.length; i++) {
      flowing[i] = active[i];
      if (!active[i]) continue;
      let leads = 0;
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) leads += grid.transmissibility[grid.rowLink[k]];
      if (tool.opens(i) * speed <= YIELD * leads * solver.fluidity[i]) continue;
      flowing[i] = 0;
      this.yielding += tool.input.area[i] * YIELD;
    }
  }

  private under(): number {
    const { flowing } = this;
    let sum = 0;
    for (let i = 0; i < flowing.length; i++) if (flowing[i]) sum += this.tool.opens(i);
    return sum;
  }

  /** Longest way [m] of a step: the halves meet at its end, or melt has taken all the space there is. */
  longestWay(occupied: number): number {
    const { tool, area, reachable } = this;
    const volume = reachable.reduce((s, v) => s + v, 0);
    return Math.min(tool.gap, (volume - occupied) / area, (CLOSING_STEP * volume) / area);
  }

  /** Moves the half on by a way [m]; returns what full nodes have given up, m3. */
  move(way: number): number {
    const { tool, cavity, reachable } = this;
    const { held, full } = cavity.front;
    tool.setGap(Math.max(0, tool.gap - way));
    let driven = 0;
    for (let i = 0; i < held.length; i++) {
      if (!(reachable[i] > 0)) continue;
      reachable[i] = cavity.grid.volume[i];
      if (!full[i]) continue;
      driven += held[i] - cavity.grid.volume[i];
      held[i] = cavity.grid.volume[i];
    }
    return driven;
  }

  /** The melt takes all the space and more: the half goes back by what finds no place, m3. */
  yield(left: number): void {
    const { tool, cavity, reachable } = this;
    tool.setGap(tool.gap + left / this.area);
    for (let i = 0; i < reachable.length; i++) {
      if (!(reachable[i] > 0)) continue;
      reachable[i] = cavity.grid.volume[i];
      if (cavity.front.full[i]) cavity.front.held[i] = reachable[i];
    }
  }
}
