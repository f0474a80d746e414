import type { Core } from '../core/core';
import { SHUT, type MachineDrive, type MachinePhase } from '../melt/drive';
import type { FrontStep } from '../melt/front';
import type { ClosingTool } from '../press/closing';
import type { Cavity } from '../shot/cavity';
import type { StallReason } from './outcome';
import { settleFlow, type Following, type Moment } from './settleFlow';

/** Flow rate over the set one below which the front stands still for all practical purposes. */
const STALL_FLOW = 2e-3;
/** Steps of the delay before a fluid is let into the core, and of a ramp of its pressure. */
export const WAITING_STEPS = 12;
/** Least advance of the front in a step, over the volume of the cavity. */
export const LEAST_ADVANCE = 1e-4;

/** A step of the front: what flows into its nodes [m3/s] and the sum of it, what is to come [m3] from a time on [s], over a time. */
export interface Advance {
  step: FrontStep;
  inflow: Float64Array;
  total: number;
  volume: number;
  time: number;
  dt: number;
  /** 1 for nodes that melt flows in, or a fluid in its core. */
  withMelt: Uint8Array;
}

/** What a step came to: melt that came in [m3], how long melt and heat move [s], and what the clock goes on by. */
export interface Moved {
  injected: number;
  dt: number;
  clock: number;
}

/** What drives the melt on: the machine through the nozzle or, while that is shut, a fluid in the core or a tool that closes. */
export interface Push {
  /** null: what the machine says. */
  readonly phase: MachinePhase | null;
  /** Nothing moves before, s. */
  readonly from: number;
  /** What a cavity that it does not fill has come to. */
  readonly stalls: StallReason;
  /** The flow that belongs to a moment, with the air's pressure [Pa] in `moment`; false where it does not settle. */
  settle(moment: Moment, following: Following): boolean;
  /** What drives the front in that flow, and below what it stands still, m3/s. */
  flow(active: Uint8Array): number;
  still(injected: number): number;
  /** When it may yet press harder, s; null: never. */
  later(time: number): number | null;
  /** Longest step, m3 and s, for a front that advances by `nodes` nodes; `volume` and `occupied` of the cavity, m3. */
  limit(now: { time: number; injected: number; nodes: number; volume: number; occupied: number }): {
    volume: number;
    time: number;
  };
  move(advance: Advance): Moved;
  /** What is left to do once heat and melt have moved. */
  moved(advance: Advance): void;
  /** Why it ends though the cavity is not full; null: it goes on. */
  ended(): StallReason | null;
}

export class MachinePush implements Push {
  readonly phase = null;
  readonly from = 0;
  readonly stalls = 'flow';

  constructor(
    private readonly drive: MachineDrive,
    private readonly cavity: Cavity,
  ) {}

  settle(moment: Moment, following: Following): boolean {
    return settleFlow(this.cavity.solver, this.drive, moment, following);
  }

  flow(): number {
    return this.cavity.solver.inletFlow;
  }

  still(injected: number): number {
    return STALL_FLOW * this.drive.setFlow(injected);
  }

  later(): null {
    return null;
  }

  limit({ injected, time }: { injected: number; time: number }): { volume: number; time: number } {
    return this.drive.stepLimit(injected, time);
  }

  move({ step, inflow, total, volume, time, dt }: Advance): Moved {
    step.advance(inflow, total, volume, time, dt);
    const injected = volume - step.left;
    return { injected, dt, clock: (dt * injected) / volume };
  }

  moved(): void {}

  ended(): null {
    return null;
  }
}

/** A fluid in the core: its pressure is a boundary of the flow, like that of the air. */
export class CorePush implements Push {
  readonly phase = 'core';
  readonly stalls = 'core';
  /** A node that melt has not filled and the fluid has come to; -1: none. */
  brokenAt = -1;

  constructor(
    private readonly core: Core,
    private readonly drive: MachineDrive,
    private readonly cavity: Cavity,
  ) {}

  get from(): number {
    return this.core.input.from;
  }

  settle(moment: Moment, following: Following): boolean {
    const { core, cavity } = this;
    const air = moment.air.slice();
    core.bound(moment.active, air, core.pressureAt(moment.time));
    cavity.solver.front.placeAt(core);
    return settleFlow(cavity.solver, SHUT, { ...moment, air }, following);
  }

  flow(active: Uint8Array): number {
    return this.core.takeFlow(active, this.cavity.solver.linkFlow);
  }

  still(injected: number): number {
    return STALL_FLOW * this.drive.setFlow(injected);
  }

  later(time: number): number | null {
    const { core } = this;
    const turn = core.nextTurn(time);
    return time < core.releasedAt - 1e-9 && turn < core.releasedAt ? turn : null;
  }

  limit({ time, nodes, volume }: { time: number; nodes: number; volume: number }): { volume: number; time: number } {
    return { volume: Math.max(nodes * this.core.atFront, LEAST_ADVANCE * volume), time: this.rampStep(time) };
  }

  /** Its pressure is followed as it turns. */
  private rampStep(time: number): number {
    const { core } = this;
    const turn = core.nextTurn(time);
    const left = turn - time;
    const steep = Math.abs(core.pressureAt(turn - 1e-9) - core.pressureAt(time)) > 1e-3 * core.pressureAt(time);
    return steep ? Math.max(left / WAITING_STEPS, (turn - core.input.from) / (4 * WAITING_STEPS)) : left;
  }

  move({ step, inflow, total, volume, time, dt }: Advance): Moved {
    step.advance(inflow, total, volume, time, dt);
    return { injected: 0, dt, clock: (dt * (volume - step.left)) / volume };
  }

  moved({ step, volume, time, dt, withMelt }: Advance): void {
    const { core, cavity } = this;
    const { front, solver } = cavity;
    core.advance(volume - step.left, time, dt, withMelt, front.held, solver.linkFlow);
    this.brokenAt = core.brokenThrough(front.full);
  }

  ended(): StallReason | null {
    return this.brokenAt >= 0 ? 'blow-through' : null;
  }
}

/** A tool that closes: what it drives out of full nodes goes to the front, what finds no place holds it up. */
export class ToolPush implements Push {
  readonly phase = 'closing';
  readonly stalls = 'force';
  private gap = 0;

  constructor(
    private readonly closing: ClosingTool,
    private readonly cavity: Cavity,
    private readonly timeLimit: number,
  ) {}

  private get tool() {
    return this.cavity.tool!;
  }

  get from(): number {
    return this.tool.input.closing!.from;
  }

  settle(moment: Moment, following: Following): boolean {
    return this.closing.settle(moment, following);
  }

  flow(): number {
    return this.closing.driven();
  }

  still(): number {
    return this.closing.still(this.timeLimit);
  }

  later(): null {
    return null;
  }

  limit({ occupied }: { occupied: number }): { volume: number; time: number } {
    return { volume: Infinity, time: this.closing.longestWay(occupied) / this.tool.speed };
  }

  move({ step, inflow, total, time, dt }: Advance): Moved {
    const { tool, closing } = this;
    const { gap: before, speed } = tool;
    const way = dt * speed;
    const clock = closing.timeFor(way);
    this.cavity.solver.scaleFlows(way / (speed * clock));
    const driven = closing.move(way);
    step.overflow();
    step.advance(inflow, total, driven, time, clock);
    if (step.left > 0) closing.yield(step.left);
    this.gap = tool.gap;
    // Heat and melt move in the walls that the flow was solved for.
    tool.setGap(before);
    return { injected: 0, dt: clock, clock };
  }

  moved(): void {
    this.tool.setGap(this.gap);
  }

  ended(): StallReason | null {
    return this.tool.met ? 'closed' : null;
  }
}
