import type { PressureGrid } from '../../grid/pressureGrid';
import type { Columns } from '../melt/columns';
import { FrontStep } from '../melt/front';
import { meanVelocity } from '../melt/velocity';
import { capillaryFactor, filmShare } from './film';
import { corePressure, releasedAt, type CoreControl, type CoreFluid } from './fluid';
import { Hollow } from './hollow';

/** A fluid that is let into the core of the melt. SI. */
export interface CoreInput {
  /** Nodes that the needles open into. */
  needles: readonly number[];
  /** Since the start of the shot, s. */
  from: number;
  control: CoreControl;
  fluid: CoreFluid;
  /** Of the melt against the fluid, N/m; 0 leaves it out: a melt's viscosity is far stronger. */
  surfaceTension: number;
}

/** The core as a state keeps it. Lengths n. */
export interface CoreMemory {
  /** Fluid in the node, m3. */
  volume: Float64Array;
  /** What it can take, m3; 0 for nodes that the fluid has not come to. */
  room: Float64Array;
  /** 1 where it has taken that and passes the rest on. */
  done: Uint8Array;
  /** When it was half full of what it can take, s; NaN before. */
  time: Float64Array;
  /** Of the node when the fluid came: what it will leave on the wall, as a share of the section. */
  film: Float64Array;
}

const emptyCore = (n: number): CoreMemory => ({
  volume: new Float64Array(n),
  room: new Float64Array(n),
  done: new Uint8Array(n),
  time: new Float64Array(n).fill(NaN),
  film: new Float64Array(n).fill(NaN),
});

/** Length over which melt shears in the plane of the wall beside the front, over the wall's thickness: 4 / (2 pi). */
const SHEARED = 0.64;
/** Passes in which film and speed of a bubble agree. */
const FILM_PASSES = 6;
/** Nodes further ahead than this many links are not reached in one step. */
const AHEAD = 4;

/**
 * A fluid of no resistance in the core of the melt: one pressure in all nodes it has come to. Its front moves like that
 * of the melt, one node wide: a node passes melt on until its core has all that the film leaves it (see `filmShare`),
 * then the fluid goes on into its neighbours.
 */
export class Core {
  readonly memory: CoreMemory;
  readonly hollow: Hollow;
  private readonly flow: Float64Array;
  private readonly rooms: Float64Array;
  private readonly shut: Uint8Array;
  private readonly withMelt: Uint8Array;

  constructor(
    private readonly grid: PressureGrid,
    private readonly columns: Columns,
    readonly input: CoreInput,
    /** K; melt that is colder stays on the wall. */
    private readonly noFlowTemperature: number,
    before?: CoreMemory | null,
  ) {
    const { n } = grid;
    this.memory = emptyCore(n);
    if (before) for (const key of Object.keys(before) as (keyof CoreMemory)[]) this.memory[key].set(before[key]);
    this.hollow = new Hollow(grid, columns.nHalves, input.fluid);
    columns.hollow = this.hollow;
    this.flow = new Float64Array(n);
    this.rooms = new Float64Array(n);
    this.shut = new Uint8Array(n);
    this.withMelt = new Uint8Array(n);
    for (let i = 0; i < n; i++) this.open(i);
  }

  /** Whether the fluid has come to a node. */
  touches(i: number): boolean {
    return this.memory.room[i] > 0;
  }

  /** Nodes that the fluid has come to. */
  get nodes(): number[] {
    const { room } = this.memory;
    const list: number[] = [];
    for (let i = 0; i < room.length; i++) if (room[i] > 0) list.push(i);
    return list;
  }

  /** Of the fluid in all nodes, m3. */
  get volume(): number {
    return this.memory.volume.reduce((s, v) => s + v, 0);
  }

  /** Pressure of the fluid, Pa above the atmosphere. */
  pressureAt(time: number): number {
    const { control, fluid, from } = this.input;
    return corePressure(control, fluid, time - from, this.volume);
  }

  /** The next time after `time` at which the pressure turns, s. */
  nextTurn(time: number): number {
    const { control, from } = this.input;
    for (const { at } of control.points) if (from + at > time + 1e-9) return from + at;
    return Infinity;
  }

  get releasedAt(): number {
    return this.input.from + releasedAt(this.input.control);
  }

  /** Lets the fluid in at the needles that melt has come to. */
  letIn(full: Uint8Array, linkFlow: Float64Array): void {
    for (const i of this.input.needles) if (full[i] && !this.touches(i)) this.enter(i, linkFlow);
  }

  private enter(i: number, linkFlow: Float64Array): void {
    const { memory, grid } = this;
    const film = this.filmOf(i, linkFlow);
    memory.film[i] = film;
    // What is frozen through takes nothing; it counts as reached all the same.
    memory.room[i] = Math.max(1e-6, 1 - film) * grid.volume[i];
    this.open(i);
  }

  /** Film that the fluid would leave at a node now, as a share of its section: what is frozen, and that of the rest. */
  filmOf(i: number, linkFlow: Float64Array): number {
    const { columns, grid, noFlowTemperature } = this;
    const s = grid.shape[i];
    const frozen = 1 - Math.pow(1 - columns.colderShare(i, noFlowTemperature), s - 1);
    if (frozen > 1 - 1e-9) return 1;
    let most = 0;
    for (let t = 0; t < columns.nLayers; t++) most = Math.max(most, columns.velocityShareOf(i, t));
    const viscous = filmShare(most * (1 - frozen), s);
    let film = viscous;
    const { surfaceTension } = this.input;
    if (surfaceTension > 0) {
      const viscosity = columns.wallStress[i] / Math.max(1e-12, columns.peakRate[i]);
      const ahead = Math.hypot(...meanVelocity(grid, linkFlow, i)) / (1 - frozen);
      // The bubble is the slower the thinner the film.
      for (let pass = 0; pass < FILM_PASSES; pass++)
        film = viscous * capillaryFactor((viscosity * ahead) / (1 - film) / surfaceTension, s);
    }
    return 1 - (1 - frozen) * (1 - film);
  }

  /** Takes the nodes of the core out of those that are solved for, and puts the fluid's pressure into them. */
  bound(active: Uint8Array, pressure: Float64Array, value: number): void {
    const { room } = this.memory;
    for (let i = 0; i < room.length; i++) {
      if (!(room[i] > 0)) continue;
      active[i] = 0;
      pressure[i] = value;
    }
  }

  /** How far melt still fills each node of the core, for the way of its links: 1 none of the way hollow. Others stay as they are. */
  standInto(share: Float64Array): void {
    const { room, volume } = this.memory;
    for (let i = 0; i < room.length; i++) if (room[i] > 0) share[i] = 1 - Math.min(1, volume[i] / room[i]);
  }

  /**
   * Melt that is pushed out of the nodes of the core into those with a pressure of their own (`active`), m3/s in all. A
   * node that has no more to give gets as much of the fluid on to its neighbour; the flow of such links is set to none,
   * for what they carry is no melt.
   */
  takeFlow(active: Uint8Array, linkFlow: Float64Array): number {
    const { grid, flow, withMelt } = this;
    const { room, done } = this.memory;
    flow.fill(0);
    for (let i = 0; i < grid.n; i++) withMelt[i] = active[i] || room[i] > 0 ? 1 : 0;
    let total = 0;
    for (let l = 0; l < linkFlow.length; l++) {
      const q = linkFlow[l];
      if (q === 0) continue;
      const [i, j] = q > 0 ? [grid.linkFrom[l], grid.linkTo[l]] : [grid.linkTo[l], grid.linkFrom[l]];
      if (room[j] > 0 && active[i]) {
        // Melt that comes back pushes the fluid back.
        flow[j] -= Math.abs(q);
        total -= Math.abs(q);
      }
      if (!(room[i] > 0) || !active[j]) continue;
      flow[done[i] ? j : i] += Math.abs(q);
      total += Math.abs(q);
      if (done[i]) linkFlow[l] = 0;
    }
    this.spread();
    return total;
  }

  /**
   * Shares what each place of the front takes with those around it. The faces of the wall are not all that slows the melt:
   * beside a finger of the fluid it shears in the plane as well, over about the gap, so that fingers are four gaps apart at
   * the least (Paterson, Phys. Fluids 28 (1985) 26). A front that grows by its neighbourhood's mean with this length is
   * least stable at that distance; one of single nodes would finger from node to node. Thin walls beside take less.
   */
  private spread(): void {
    const { grid, flow } = this;
    const spread = new Float64Array(grid.n);
    const { room } = this.memory;
    for (let i = 0; i < grid.n; i++) {
      if (!(flow[i] > 0)) {
        spread[i] += flow[i];
        continue;
      }
      const reach = SHEARED * grid.thickness[i];
      const around = this.front(i, 3 * reach);
      let sum = 0;
      for (const a of around) {
        const j = a.node;
        const thinner = Math.min(1, grid.thickness[j] / grid.thickness[i]) ** 3;
        const left = room[j] > 0 ? room[j] : grid.volume[j];
        sum += a.weight = thinner * left * Math.exp(-a.distance / reach);
      }
      if (sum > 0) for (const { node, weight } of around) spread[node] += (flow[i] * weight) / sum;
      else spread[i] += flow[i];
    }
    flow.set(spread);
  }

  /** Nodes of the front within `reach` [m] of node i, that one included, by ways through melt and core. */
  private front(i: number, reach: number): { node: number; distance: number; weight: number }[] {
    const { grid } = this;
    const { centroid } = grid;
    const away = (j: number) =>
      Math.hypot(
        centroid[3 * j] - centroid[3 * i],
        centroid[3 * j + 1] - centroid[3 * i + 1],
        centroid[3 * j + 2] - centroid[3 * i + 2],
      );
    const queue = [i];
    const seen = new Set(queue);
    const found = [];
    for (let q = 0; q < queue.length; q++) {
      const j = queue[q];
      if (this.takes(j)) found.push({ node: j, distance: away(j), weight: 0 });
      for (let k = grid.rowStart[j]; k < grid.rowStart[j + 1]; k++) {
        const next = grid.rowNode[k];
        if (seen.has(next) || !(this.withMelt[next] === 1) || away(next) > reach) continue;
        seen.add(next);
        queue.push(next);
      }
    }
    return found;
  }

  /** Whether a node is of the front: the fluid has come to it, or is done beside it, and there is melt to push. */
  private takes(i: number): boolean {
    const { grid } = this;
    const { room, done } = this.memory;
    if (done[i]) return false;
    if (room[i] > 0 || this.flow[i] > 0) return true;
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) if (done[grid.rowNode[k]]) return true;
    return false;
  }

  /** Room [m3] of the front: nodes that take fluid up now. */
  get atFront(): number {
    const { room } = this.memory;
    let sum = 0;
    for (let i = 0; i < room.length; i++)
      if (this.flow[i] > 0) sum += room[i] > 0 ? room[i] : 0.5 * this.grid.volume[i];
    return sum;
  }

  /**
   * Lets `volume` m3 more of the fluid in, where `takeFlow` has found it to go, in [t, t + dt]; `full` tells where melt
   * is. Melt that the nodes have lost is taken from `held`.
   */
  advance(volume: number, t: number, dt: number, full: Uint8Array, held: Float64Array, linkFlow: Float64Array): void {
    const { grid, memory, flow, rooms, shut } = this;
    const before = memory.volume.slice();
    rooms.set(memory.room);
    for (const i of this.near(full)) rooms[i] = Math.max(1e-6, 1 - this.filmOf(i, linkFlow)) * grid.volume[i];
    for (let i = 0; i < grid.n; i++) {
      if (!full[i]) shut[i] = 2;
      else if (!(rooms[i] > 0)) {
        // Too far to be reached.
        rooms[i] = grid.volume[i];
        shut[i] = 0;
      } else shut[i] = memory.done[i];
    }
    const step = new FrontStep({ ...grid, volume: rooms }, { held: memory.volume, full: shut, fillTime: memory.time });
    const total = flow.reduce((s, q) => s + Math.max(0, q), 0);
    if (total > 0) step.advance(flow, total, volume, t, dt);
    for (const i of step.filled) memory.done[i] = 1;
    for (let i = 0; i < grid.n; i++) {
      if (memory.volume[i] === before[i]) continue;
      held[i] -= memory.volume[i] - before[i];
      if (!(memory.room[i] > 0)) {
        memory.room[i] = rooms[i];
        memory.film[i] = 1 - rooms[i] / grid.volume[i];
      }
      this.open(i);
    }
  }

  /** The core of node i becomes this large, m3: its plastic has changed its volume. One that is filled up is none. */
  resize(i: number, volume: number): void {
    const { memory, grid } = this;
    if (!(volume > 0)) {
      memory.volume[i] = memory.room[i] = memory.done[i] = 0;
      memory.film[i] = NaN;
      this.hollow.set(i, 0, 0);
      return;
    }
    memory.volume[i] = Math.min(grid.volume[i], volume);
    if (memory.done[i] || memory.volume[i] > memory.room[i])
      memory.room[i] = Math.max(1e-9 * grid.volume[i], memory.volume[i]);
    this.open(i);
  }

  /** Nodes full of melt that the front may come to in one step. */
  private near(full: Uint8Array): number[] {
    const { grid } = this;
    const { room } = this.memory;
    const seen = new Uint8Array(grid.n);
    const found: number[] = [];
    let ring = this.nodes;
    for (let i = 0; i < grid.n; i++) if (this.flow[i] > 0 && !(room[i] > 0)) ring.push(i);
    for (const i of ring) {
      seen[i] = 1;
      if (!(room[i] > 0)) found.push(i);
    }
    for (let far = 0; far < AHEAD; far++) {
      const next: number[] = [];
      for (const i of ring)
        for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
          const j = grid.rowNode[k];
          if (seen[j] || !full[j]) continue;
          seen[j] = 1;
          next.push(j);
        }
      found.push(...next);
      ring = next;
    }
    return found;
  }

  /** What heat and flow see of a node's core. */
  private open(i: number): void {
    const { memory, grid, hollow, columns } = this;
    if (!(memory.room[i] > 0)) return;
    // Plastic that shrinks later does so all through its skin: what is a layer of it stays one.
    const core = Math.max(1e-6, 1 - memory.film[i]);
    hollow.set(i, core, memory.done[i] ? 1 : memory.volume[i] / (core * grid.volume[i]));
    columns.flowShare.set(hollow.ofCore(i).subarray(0, columns.nLayers), i * columns.nLayers);
  }

  /** A node that melt has not filled and the fluid has come to; -1 where there is none. */
  brokenThrough(full: Uint8Array): number {
    const { grid } = this;
    const { done } = this.memory;
    for (let l = 0; l < grid.linkFrom.length; l++) {
      const [i, j] = [grid.linkFrom[l], grid.linkTo[l]];
      if (done[i] && !full[j]) return j;
      if (done[j] && !full[i]) return i;
    }
    return -1;
  }

  /** Everything that a step changes, kept; the returned function puts it back. */
  mark(): () => void {
    const kept = Object.values(this.memory) as (Float64Array | Uint8Array)[];
    const copies = kept.map((values) => values.slice());
    return () => {
      kept.forEach((values, k) => values.set(copies[k]));
      for (let i = 0; i < this.grid.n; i++) this.open(i);
    };
  }
}
