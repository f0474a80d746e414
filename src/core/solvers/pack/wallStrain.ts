import type { Vec3 } from '../../geometry/mesh';
import type { ToolHold } from '../../grid/toolHold';
import { CENTRES, EDGES, HALF_LAYERS } from '../melt/layers';
import { perNode, type PerNode } from '../shot/located';
import type { FreezingResin } from './freeStrain';
import { RelaxingLayers } from './relaxingLayers';

/** What following the wall needs of its columns. */
export interface LayeredWall {
  nLayers: number;
  /** K, n * nLayers. */
  temperature: ArrayLike<number>;
  layersOf(node: number): { share: ArrayLike<number> };
}

/** What keeps walls from shrinking along themselves. */
export type Hold =
  /** Nothing moves: friction under pressure, or by hand. */
  | 'held'
  /** The mould keeps it flat, and along itself it is free but for the steel that the part closes around. */
  | 'sliding'
  /** Out of the mould: it shortens and bends as it likes. */
  | 'free';

/** Strain that the layers of every wall would have in the room if they were cut free. */
export interface FrozenStrain {
  nLayers: number;
  node: {
    /** Against the cavity; one a layer, the mean of both directions along the wall. */
    inPlane: PerNode;
    /** Mean over the wall. */
    mean: PerNode;
    /** Half of what a layer has more along the direction that steel held it in than square to that. */
    uneven: PerNode;
    /** That direction, 3 a node; 0 where there is none. */
    heldAlong: PerNode;
    /** Stress of the layers just before the mould opens, and in the room if the wall were free; over E/(1 - nu). */
    inMould: PerNode;
    inRoom: PerNode;
  };
  /** What the cold pieces of the feed shrink by, where there are any that one part alone hangs on. */
  feed?: FeedStrain[];
}

/** A straight piece of cold runner, sprue or gate: its ends [m], section [m2], and linear strain in the room. */
export interface FeedStrain {
  from: Vec3;
  to: Vec3;
  area: number;
  strain: number;
}

/** From none to all freedom. */
const HOLDS: readonly Hold[] = ['held', 'sliding', 'free'];
/** Time in which a wall that is let go springs back, over that of the step. */
const RELEASE = 1e-4;
/** Changes of temperature [K], by what holds a wall, and of pressure [Pa] that are not worth a look yet. */
const KELVIN_TO_WAIT: Record<Hold, number> = { held: 7, sliding: 3, free: 2 };
const PASCAL_TO_WAIT = 6e6;
const LEAST_TIME = 1e-9;
/** Change of the temperature of a layer that a moving wall is followed through in one part of a step, and most parts. */
const KELVIN_PER_PART = 6;
const MOST_PARTS = 8;
/** Shares along and square to a direction closer than this are one: the wall is followed alike in both. */
const ALIKE = 0.05;
const NO_BEND = [0, 0] as const;
/** Below this stiffness over that of the room a wall is melt, and its length is that of the cavity. */
const LEAST_STIFFNESS = 1e-5;
/** A share of the contraction taken away by steel that counts as all of it. */
const ALL = 0.98;

/**
 * The layers of every wall on their way from melt to the room: stress by layer, strain of the wall along itself in two
 * directions, and out of the mould its curvature. Relative to the pressure of the melt around a layer, its stress is
 * that of plane biaxial strain less the free strain. A wall that is held keeps its length. One that slides takes the
 * strain at which its forces cancel, each wall for itself: what neighbours have to agree on is left to the structure.
 */
export class WallStrain {
  /** Columns of the second direction, of nodes that steel holds more one way than the other; -1: alike in both. */
  private readonly second: Int32Array;
  private readonly layers: RelaxingLayers;
  /** Of the second direction, by layer of the column at hand. */
  private readonly restBeside: Float64Array;
  private readonly hasSecond: boolean;
  private readonly temperature: Float32Array;
  private readonly pressure: Float32Array;
  /** Strain of the wall, and half of what its first face has more than its second; two directions a node. */
  private readonly strain: Float64Array;
  private readonly bend: Float64Array;
  private readonly inMould: Float32Array;
  /** Time since each wall was last followed, s. */
  private readonly waited: Float64Array;
  /** How freely each wall moved in its last step, as the index of HOLDS. */
  private readonly freedom: Uint8Array;
  private readonly poisson: number;
  private readonly place: Float64Array;
  private readonly placeSquared: Float64Array;

  constructor(
    private readonly columns: LayeredWall,
    resin: FreezingResin,
    private readonly nodes: ArrayLike<number>,
    private readonly n: number,
    /** Temperature of the melt when it came, K. */
    melt: number,
    private readonly steel: { [K in keyof ToolHold]: ArrayLike<number> } | null = null,
  ) {
    const { nLayers } = columns;
    const size = nodes.length;
    this.second = new Int32Array(size).fill(-1);
    let nSecond = 0;
    for (let k = 0; k < size; k++) {
      const [along, square] = this.steelShares(nodes[k]);
      if (Math.abs(along - square) > ALIKE) this.second[k] = nSecond++;
    }
    [this.place, this.placeSquared] = layerPlaces(nLayers);
    this.layers = new RelaxingLayers(size, nSecond, this.place, resin);
    this.restBeside = new Float64Array(nLayers);
    this.hasSecond = nSecond > 0;
    for (let k = 0; k < size; k++) this.layers.begin(k, Math.fround(melt), 0);
    this.temperature = new Float32Array(size * nLayers).fill(melt);
    this.pressure = new Float32Array(size);
    this.strain = new Float64Array(2 * size);
    this.bend = new Float64Array(2 * size);
    this.inMould = new Float32Array(size * nLayers).fill(NaN);
    this.freedom = new Uint8Array(size);
    this.waited = new Float64Array(size);
    this.poisson = resin.poisson;
  }

  private steelShares(node: number): [number, number] {
    return this.steel ? [this.steel.share[2 * node], this.steel.share[2 * node + 1]] : [0, 0];
  }

  /**
   * Takes what has come to pass since the last look, `dt` [s] ago, for a node or for all. `pressure` per node, Pa above
   * the atmosphere. What changes little waits for the next look, unless it is the `last` before something else.
   */
  look(
    dt: number | ArrayLike<number>,
    pressure: ArrayLike<number>,
    hold: Hold | ((node: number) => Hold),
    last = false,
  ): void {
    for (let k = 0; k < this.nodes.length; k++) {
      const i = this.nodes[k];
      const passed = typeof dt === 'number' ? dt : dt[i];
      const waited = this.waited[k];
      const p = Math.max(0, pressure[i]);
      const how = typeof hold === 'string' ? hold : hold(i);
      const before = HOLDS[this.freedom[k]];
      this.waited[k] += passed;
      if (how !== before && waited > 0) {
        // What waited belongs to what held it then: temperatures in between go straight.
        const share = waited / (waited + passed);
        this.step(k, waited, this.pressure[k] + share * (p - this.pressure[k]), before, share);
        this.waited[k] = passed;
      }
      if (!last && !this.isDue(k, p, how)) continue;
      this.step(k, Math.max(LEAST_TIME, this.waited[k]), p, how, 1);
      this.waited[k] = 0;
    }
  }

  private isDue(k: number, pressure: number, hold: Hold): boolean {
    if (HOLDS[this.freedom[k]] !== hold || Math.abs(pressure - this.pressure[k]) > PASCAL_TO_WAIT) return true;
    const { columns, temperature } = this;
    const { nLayers } = columns;
    const from = this.nodes[k] * nLayers;
    const most = KELVIN_TO_WAIT[hold];
    for (let t = 0; t < nLayers; t++)
      if (Math.abs(columns.temperature[from + t] - temperature[k * nLayers + t]) > most) return true;
    return false;
  }

  /** Of node k, `share` of the way to the temperatures of its column. */
  private step(k: number, dt: number, pressure: number, hold: Hold, share: number): void {
    const { columns, temperature, layers } = this;
    const { before, after } = layers;
    const { nLayers } = columns;
    const from = this.nodes[k] * nLayers;
    const at = k * nLayers;
    for (let t = 0; t < nLayers; t++) before[t] = after[t] = temperature[at + t];
    const start = this.pressure[k];
    const freedom = HOLDS.indexOf(hold);
    // What has been held springs back at once, not over the step; melt in between gives way.
    const release = freedom > this.freedom[k] ? RELEASE * dt : 0;
    this.freedom[k] = freedom;
    if (release > 0) this.follow(k, release, start, start, hold);
    // How a moving wall goes within the step depends on which of its layers turn solid first.
    let most = 0;
    for (let t = 0; t < nLayers; t++)
      most = Math.max(most, share * Math.abs(columns.temperature[from + t] - before[t]));
    const parts = hold === 'held' ? 1 : Math.max(1, Math.min(MOST_PARTS, Math.ceil(most / KELVIN_PER_PART)));
    for (let part = 1; part <= parts; part++) {
      const way = (share * part) / parts;
      for (let t = 0; t < nLayers; t++) {
        before[t] = after[t];
        after[t] = temperature[at + t] + way * (columns.temperature[from + t] - temperature[at + t]);
      }
      const p = start + ((pressure - start) * part) / parts;
      this.follow(k, (dt - release) / parts, p - (pressure - start) / parts, p, hold);
    }
    for (let t = 0; t < nLayers; t++) temperature[at + t] = after[t];
    this.pressure[k] = pressure;
  }

  private follow(k: number, dt: number, p0: number, p1: number, hold: Hold): void {
    const { layers, restBeside } = this;
    const second = this.second[k];
    layers.step(k, second, dt, p0, p1);
    if (hold === 'held') return;
    if (second >= 0) for (let t = 0; t < restBeside.length; t++) restBeside[t] = layers.rest[t] - layers.restApart[t];
    if (hold === 'sliding') this.slide(k);
    else this.letGo(k);
  }

  /** Mean over the wall of what `values` has in the layers of node k. */
  private mean(k: number, values: Float64Array): number {
    const { share } = this.columns.layersOf(this.nodes[k]);
    let sum = 0;
    for (let t = 0; t < values.length; t++) sum += share[t] * values[t];
    return sum;
  }

  /** In the closed mould: forces cancel with what the steel takes, the wall stays flat. */
  private slide(k: number): void {
    const { layers, strain, poisson } = this;
    const [along, square] = this.steelShares(this.nodes[k]);
    const stiffness = this.mean(k, layers.stretched);
    if (stiffness < LEAST_STIFFNESS) return;
    const first = this.mean(k, layers.rest);
    if (this.second[k] < 0) {
      const share = (along + square) / 2;
      if (share >= ALL) return;
      const spring = share / (1 - share);
      const even = -(first + spring * strain[2 * k]) / (stiffness + spring);
      this.stretch(k, [even, even], NO_BEND);
      return;
    }
    // Forces in units of E/(1 - nu^2): each direction bears nu of what the other does.
    const spring = [along, square].map((s) => ((1 + poisson) * s) / Math.max(1 - s, 1 - ALL));
    const other = this.mean(k, this.restBeside);
    const a = stiffness + spring[0];
    const b = stiffness + spring[1];
    const c = poisson * stiffness;
    const f = -(first + poisson * other + spring[0] * strain[2 * k]);
    const g = -(other + poisson * first + spring[1] * strain[2 * k + 1]);
    const det = a * b - c * c;
    this.stretch(k, [(b * f - c * g) / det, (a * g - c * f) / det], NO_BEND);
  }

  /** In the air: neither force nor moment. */
  private letGo(k: number): void {
    const { layers, restBeside } = this;
    const first = this.freed(k, layers.rest);
    const beside = this.second[k] < 0 ? first : this.freed(k, restBeside);
    if (first && beside) this.stretch(k, [first[0], beside[0]], [first[1], beside[1]]);
  }

  /** Strain and bend with which the layers of node k bear neither; null where it is melt. */
  private freed(k: number, rest: Float64Array): [number, number] | null {
    const { share } = this.columns.layersOf(this.nodes[k]);
    const { stretched } = this.layers;
    const { nLayers } = this.columns;
    let [force, moment, even, mixed, turning] = [0, 0, 0, 0, 0];
    for (let t = 0; t < nLayers; t++) {
      const stiff = share[t] * stretched[t];
      force += share[t] * rest[t];
      moment += share[t] * this.place[t] * rest[t];
      even += stiff;
      mixed += stiff * this.place[t];
      turning += stiff * this.placeSquared[t];
    }
    if (even < LEAST_STIFFNESS) return null;
    // Half a wall stands for one that is alike on both sides.
    const det = even * turning - mixed * mixed;
    if (nLayers === HALF_LAYERS || !(det > 1e-9 * even * even)) return [-force / even, 0];
    return [(mixed * moment - turning * force) / det, (mixed * force - even * moment) / det];
  }

  /** Moves the wall of node k: strain and bend along the direction held, and square to it. */
  private stretch(k: number, strain: readonly [number, number], bend: readonly [number, number]): void {
    for (let d = 0; d < 2; d++) {
      this.strain[2 * k + d] += strain[d];
      this.bend[2 * k + d] += bend[d];
    }
    this.layers.stretch(k, strain[0], bend[0]);
    const second = this.second[k];
    if (second >= 0) this.layers.stretchApart(second, strain[0] - strain[1], bend[0] - bend[1]);
  }

  /** Layers just before the mould opens. */
  opens(): void {
    for (let k = 0; k < this.nodes.length; k++) this.inMould.set(this.stressesOf(k), k * this.columns.nLayers);
  }

  /** Of the layers of a node, mean of both directions, over E/(1 - nu). */
  private stressesOf(k: number): Float64Array {
    const first = this.layers.stresses(k);
    const second = this.second[k];
    if (second < 0) return first;
    const apart = this.layers.stressesApart(second);
    return first.map((s, t) => s - apart[t] / 2);
  }

  /** The walls as they are now: what their layers would be if they were cut free, and what they bear. */
  finish(): FrozenStrain {
    const { columns, n, steel, strain, bend } = this;
    const { nLayers } = columns;
    const two = this.hasSecond;
    const inPlane = perNode(n, nLayers);
    const mean = perNode(n);
    const uneven = perNode(n, two ? nLayers : 0, 0);
    const heldAlong = perNode(n, two ? 3 : 0, 0);
    const inMould = perNode(n, nLayers);
    const inRoom = perNode(n, nLayers);
    for (let k = 0; k < this.nodes.length; k++) {
      const i = this.nodes[k];
      const { share } = columns.layersOf(i);
      const second = this.second[k];
      const first = this.layers.stresses(k);
      const apart = second < 0 ? null : this.layers.stressesApart(second);
      let sum = 0;
      for (let t = 0; t < nLayers; t++) {
        const l = i * nLayers + t;
        const along = strain[2 * k] + bend[2 * k] * this.place[t] - first[t];
        const beside = apart ? strain[2 * k + 1] + bend[2 * k + 1] * this.place[t] - (first[t] - apart[t]) : along;
        inPlane[l] = (along + beside) / 2;
        if (two) uneven[l] = (along - beside) / 2;
        sum += share[t] * inPlane[l];
        inMould[l] = this.inMould[k * nLayers + t];
        inRoom[l] = apart ? first[t] - apart[t] / 2 : first[t];
      }
      mean[i] = sum;
      if (two && second >= 0 && steel) for (let d = 0; d < 3; d++) heldAlong[3 * i + d] = steel.along[3 * i + d];
    }
    return { nLayers, node: { inPlane, mean, uneven, heldAlong, inMould, inRoom } };
  }

  /** Shrinks all walls on, by a strain that bears no stress. */
  age(strain: number): void {
    for (let k = 0; k < this.strain.length; k++) this.strain[k] += strain;
  }
}

/** Place of each layer of a column through the wall, 1 at its first side, -1 at its second; and mean of its square. */
function layerPlaces(nLayers: number): [Float64Array, Float64Array] {
  const whole = nLayers > HALF_LAYERS;
  const depth = (t: number) => (whole ? (t < HALF_LAYERS ? HALF_LAYERS - 1 - t : t - HALF_LAYERS) : t);
  const sign = (t: number) => (!whole || t < HALF_LAYERS ? 1 : -1);
  return [
    Float64Array.from({ length: nLayers }, (_, t) => sign(t) * CENTRES[depth(t)]),
    Float64Array.from({ length: nLayers }, (_, t) => {
      const [a, b] = [EDGES[depth(t)], EDGES[depth(t) + 1]];
      return (b ** 3 - a ** 3) / (3 * (b - a));
    }),
  ];
}
