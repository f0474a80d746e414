import type { PressureGrid } from '../../grid/pressureGrid';
import type { Core } from '../core/core';
import type { FlowSolver } from '../melt/pressure';

/** Nodes further back than this many links get nothing of what comes back in one step. */
const MOST_ROUNDS = 40;

/**
 * A fluid in the core of what is packed: it keeps its pressure on the skin from inside. Mass of the plastic stays, its
 * volume shrinks, and the core grows by that; where melt is drawn on from the core, the fluid's front goes after it.
 */
export class PackedCore {
  /** Nodes with a pressure of their own: full ones that the fluid has not come to (1). Length n. */
  readonly active: Uint8Array;
  /** Pressure of the fluid in the others, Pa. Length n. */
  readonly air: Float64Array;
  private readonly datum: Float64Array;
  private readonly volume: Float64Array;

  constructor(
    readonly core: Core,
    private readonly full: Uint8Array,
    private readonly grid: PressureGrid,
    /** Of the plastic in every node, m3: what the core leaves of it. Length n. */
    private readonly room: Float64Array,
  ) {
    this.volume = grid.volume;
    this.active = full.slice();
    this.air = new Float64Array(full.length);
    this.datum = new Float64Array(full.length);
    this.setRoom();
  }

  private setRoom(): void {
    const { room, volume, core } = this;
    for (let i = 0; i < room.length; i++) room[i] = volume[i] - core.memory.volume[i];
  }

  /** Sets the boundary of the flow at a time [s], and the pressure in the core; returns that pressure, Pa. */
  bound(time: number, solver: FlowSolver): number {
    const { core, active, air, full } = this;
    const p = core.pressureAt(time);
    if (p > 0) core.letIn(full, solver.linkFlow);
    active.set(full);
    core.bound(active, air, p);
    for (const i of core.nodes) solver.pressure[i] = p;
    solver.front.placeAt(core);
    return p;
  }

  /** Has the solver count pressures from the fluid's (see `FlowSolver.datum`); `loose` nodes have none of their own. */
  count(solver: FlowSolver, loose: Uint8Array): void {
    const { air, core, datum } = this;
    const [first] = core.nodes;
    const p = first === undefined ? 0 : air[first];
    for (let i = 0; i < datum.length; i++) datum[i] = loose[i] ? 0 : p;
    solver.datum = datum;
    solver.inletDatum = p;
  }

  /**
   * Moves the core as the flow of a step of `dt` s says, which ends at `time`: `mass` [kg] has it in already, `inflow`
   * [kg/s] is what every node got, `density` [kg/m3] that of its plastic now. The mass of all stays what it is.
   */
  follow(
    time: number,
    dt: number,
    solver: FlowSolver,
    mass: Float64Array,
    inflow: Float64Array,
    density: Float64Array,
  ): void {
    const { core, full } = this;
    const { memory } = core;
    // Melt that has left nodes of the core was replaced by the fluid at its front, not where it came from.
    let lost = 0;
    for (const i of core.nodes) {
      if (!(inflow[i] < 0)) continue;
      mass[i] -= dt * inflow[i];
      lost -= dt * inflow[i];
    }
    core.takeFlow(this.active, solver.linkFlow);
    this.shrink(mass, density, core.pressureAt(time) > 0);
    const before = memory.volume.slice();
    const mean = this.meanDensity(mass);
    if (lost > 0) core.advance(lost / mean, time - dt, dt, full, new Float64Array(mass.length), solver.linkFlow);
    let moved = 0;
    for (let i = 0; i < mass.length; i++) moved += (memory.volume[i] - before[i]) * density[i];
    if (moved > 0)
      for (let i = 0; i < mass.length; i++) mass[i] -= (lost / moved) * (memory.volume[i] - before[i]) * density[i];
    else for (const i of core.nodes) if (inflow[i] < 0) mass[i] += dt * inflow[i];
    this.setRoom();
  }

  /**
   * The core takes what the plastic of its nodes has shrunk by, while it is `pressed` against the wall: without pressure the
   * plastic shrinks off the wall instead. What has come back fills it either way.
   */
  shrink(mass: Float64Array, density: Float64Array, pressed: boolean): void {
    const { core, volume } = this;
    this.passBack(mass, density);
    for (const i of core.nodes) {
      const left = volume[i] - mass[i] / density[i];
      if (pressed || left < core.memory.volume[i]) core.resize(i, left);
    }
    this.setRoom();
  }

  /** Melt that has come back into nodes of the core beyond what they hold goes on into those behind: the front recedes. */
  private passBack(mass: Float64Array, density: Float64Array): void {
    const { core, volume, grid } = this;
    const space = (i: number) => (core.touches(i) ? density[i] * volume[i] - mass[i] : 0);
    let over = core.nodes.filter((i) => space(i) < 0);
    for (let round = 0; over.length && round < MOST_ROUNDS; round++) {
      const next = new Set<number>();
      for (const i of over) {
        const excess = -space(i);
        if (!(excess > 0)) continue;
        const behind: number[] = [];
        let sum = 0;
        for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
          const j = grid.rowNode[k];
          if (!(space(j) > 0)) continue;
          behind.push(j);
          sum += space(j);
        }
        for (const j of behind) {
          const part = (excess * space(j)) / sum;
          mass[i] -= part;
          mass[j] += part;
          if (space(j) < 0) next.add(j);
        }
      }
      over = [...next];
    }
  }

  private meanDensity(mass: Float64Array): number {
    let [m, v] = [0, 0];
    for (const i of this.core.nodes) {
      m += mass[i];
      v += this.room[i];
    }
    return m / v;
  }

  mark(): () => void {
    const back = this.core.mark();
    const room = this.room.slice();
    return () => {
      back();
      this.room.set(room);
    };
  }
}
