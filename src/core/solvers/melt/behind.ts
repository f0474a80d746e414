import type { Columns, Thermal, WallSide } from './columns';
import { tableSlope, tableValue, temperatureFor } from './thermalTables';

/** Material of a body behind a wall, and what is asked of plastic there: when it softens, and how fast it then heals. */
export interface BehindMaterial extends Thermal {
  /** K; absent: it does not soften. */
  softens?: number;
  /**
   * 1 / (time in which chains cross a face) at CURVE_MIN + i CURVE_STEP, 1/s, and the stress [Pa] by which it is the
   * fluidity; absent where nobody asks.
   */
  healing?: { rate: Float64Array; stress: number };
}

/**
 * What lies behind walls that do not end at the mould: layers of inserts and of plastic moulded before, from the melt
 * outwards. Plain data. A stack is what one side of one node has behind it.
 *
 *   start       nStacks + 1   first layer of each stack
 *   layer       one a layer   thickness [m], number of its material, start temperature [K], and the conductance of the
 *                             joint [W/(m2 K)] to what lies nearer to the melt; Infinity within a body and where fused
 *   far         nStacks       what the last layer ends at: temperature [K] and transfer [W/(m2 K)]
 *   partner     nStacks       stack of the other side of a body between two walls of melt, each with its half of it; -1: none.
 *                             Such a half ends at nothing (far transfer 0), and gives its partner what it is warmer
 *   area        nStacks       of the wall before it, m2
 *   shared      nStacks       first layer of the body that a stack shares with its partner
 */
export interface BehindSpec {
  materials: BehindMaterial[];
  start: Int32Array;
  layer: { thickness: Float64Array; material: Uint8Array; temperature: Float64Array; joint: Float64Array };
  far: { temperature: Float64Array; transfer: Float64Array };
  partner: Int32Array;
  area: Float64Array;
  shared: Int32Array;
}

/** What changes of a `BehindSpec` in the course of a shot. */
export interface BehindMemory {
  /** K, one a layer. */
  temperature: Float64Array;
  /** Heat that has come in from the melt, and gone out at the far end or across the middle, since the start, J/m2, one a stack. */
  taken: Float64Array;
  passedOn: Float64Array;
  /** Hottest that the face has been, K. */
  peak: Float64Array;
  /** Deepest that the first body has been soft, m, and how long its face has been, s. */
  softDepth: Float64Array;
  softFor: Float64Array;
  /** Time above softening over the time in which chains cross the face, summed; and how far its skin was dragged, m. */
  healing: Float64Array;
  dragged: Float64Array;
}

export function startOf({ layer, partner, start }: BehindSpec): BehindMemory {
  const perStack = () => new Float64Array(partner.length);
  return {
    temperature: layer.temperature.slice(),
    taken: perStack(),
    passedOn: perStack(),
    peak: Float64Array.from(partner, (_, s) => layer.temperature[start[s]]),
    softDepth: perStack(),
    softFor: perStack(),
    healing: perStack(),
    dragged: perStack(),
  };
}

export const copyOf = (memory: BehindMemory): BehindMemory =>
  Object.fromEntries(Object.entries(memory).map(([key, values]) => [key, values.slice()])) as unknown as BehindMemory;

/** Most passes in which a temperature is found from its heat content, and how close, K. */
const CLOSE = 1e-6;

/**
 * Heat in the layers behind a wall, implicit together with the column before them. Elimination from the far end leaves,
 * of the whole stack, one temperature and one conductance at the melt's surface: the column is solved against those as
 * against any wall, and its flux, known then, is carried through the layers. Heat contents are moved by fluxes, so that
 * none is lost however the specific heat changes.
 */
export class Behind {
  readonly memory: BehindMemory;
  /** Heat content of each layer, J/m2; and as it was when its stack was kept. */
  private readonly content: Float64Array;
  private readonly before: Float64Array;
  private readonly kept: Float64Array;
  /**
   * Of each layer as it was last met: a, b of T_j = a_j T_(j-1) + b_j, and the conductance of its edge towards the melt;
   * of each stack what the melt met, and the conductance of the far edge.
   */
  private readonly a: Float64Array;
  private readonly b: Float64Array;
  private readonly edge: Float64Array;
  private readonly outer: Float64Array;
  private readonly met: Float64Array;

  constructor(
    private readonly spec: BehindSpec,
    memory: BehindMemory = startOf(spec),
  ) {
    this.memory = copyOf(memory);
    this.content = this.memory.temperature.map((T, j) => this.contentAt(j, T));
    const perLayer = () => new Float64Array(this.content.length);
    [this.a, this.b, this.edge, this.before] = [perLayer(), perLayer(), perLayer(), perLayer()];
    const nStacks = spec.partner.length;
    this.outer = new Float64Array(nStacks);
    this.met = new Float64Array(2 * nStacks);
    this.kept = new Float64Array(2 * nStacks);
  }

  /** Sets `side` to what the stack is to the melt over a step of `dt` s. */
  meet(stack: number, dt: number, side: WallSide): void {
    const { start, far, layer } = this.spec;
    const { temperature } = this.memory;
    const { a, b, edge, outer } = this;
    const [first, last] = [start[stack], start[stack + 1] - 1];
    outer[stack] = 1 / (this.halfResistance(last) + 1 / far.transfer[stack]);
    // What lies beyond has its own temperature: a = 0, b = that.
    let after = outer[stack];
    let [aNext, bNext] = [0, far.temperature[stack]];
    for (let j = last; j >= first; j--) {
      edge[j] = this.conductanceBefore(j, j === first);
      const held = (this.capacity(j) * layer.thickness[j]) / dt;
      const rest = held + after * (1 - aNext);
      const known = held * temperature[j] + after * bNext;
      if (j === first) {
        side.temperature = known / rest;
        side.transfer = (edge[j] * rest) / (edge[j] + rest);
      }
      aNext = a[j] = edge[j] / (rest + edge[j]);
      bNext = b[j] = known / (rest + edge[j]);
      after = edge[j];
    }
    this.met[2 * stack] = side.temperature;
    this.met[2 * stack + 1] = side.transfer;
  }

  /**
   * Carries the flux [W/m2] that the column gave over `dt` s through the stack as it was met; `share` of the stack's face
   * has melt before it.
   */
  take(stack: number, dt: number, flux: number, share: number): void {
    const { start } = this.spec;
    const { temperature, taken, passedOn } = this.memory;
    const { a, b, edge, outer, content, met } = this;
    const [first, last] = [start[stack], start[stack + 1] - 1];
    const beyond = this.spec.far.temperature[stack];
    let T = a[first] * (met[2 * stack] + flux / met[2 * stack + 1]) + b[first];
    let arriving = flux;
    for (let j = first; j <= last; j++) {
      const next = j < last ? a[j + 1] * T + b[j + 1] : beyond;
      const leaving = (j < last ? edge[j + 1] : outer[stack]) * (T - next);
      content[j] += share * dt * (arriving - leaving);
      T = next;
      arriving = leaving;
    }
    for (let j = first; j <= last; j++) temperature[j] = this.temperatureOf(j, content[j], temperature[j]);
    taken[stack] += share * dt * flux;
    passedOn[stack] += share * dt * arriving;
  }

  /**
   * What bodies between two walls of melt carry across their middle in `dt` s: of every pair of halves the warmer one gives
   * to the other, towards their common temperature. As much arrives as goes, whatever their areas are.
   */
  exchange(dt: number): void {
    const { partner, area } = this.spec;
    for (let s = 0; s < partner.length; s++) {
      const p = partner[s];
      if (p < 0) continue;
      const [own, other] = [this.half(s), this.half(p)];
      const [C, D] = [area[s] * own.capacity, area[p] * other.capacity];
      const both = (C * D) / (C + D);
      // Each of a pair speaks once: half of the conductance for either.
      const G = (0.5 * Math.min(area[s], area[p])) / (own.resistance + other.resistance);
      const moved = both * (1 - Math.exp((-dt * G) / both)) * (own.temperature - other.temperature);
      this.shift(s, -moved / area[s], own.capacity);
      this.shift(p, moved / area[p], other.capacity);
    }
  }

  /** Heat capacity [J/(m2 K)], mean temperature [K] and resistance from there to its end [m2 K/W] of a shared body's half. */
  private half(stack: number): { capacity: number; temperature: number; resistance: number } {
    const { shared, start, layer } = this.spec;
    let [capacity, content, resistance] = [0, 0, 0];
    for (let j = shared[stack]; j < start[stack + 1]; j++) {
      const c = this.capacity(j) * layer.thickness[j];
      capacity += c;
      content += c * this.memory.temperature[j];
      resistance += this.halfResistance(j);
    }
    return { capacity, temperature: content / capacity, resistance };
  }

  /** Adds heat [J/m2] to the shared body of a stack, as its layers can take it. */
  private shift(stack: number, heat: number, capacity: number): void {
    const { shared, start, layer } = this.spec;
    const { temperature } = this.memory;
    for (let j = shared[stack]; j < start[stack + 1]; j++) {
      this.content[j] += (heat * this.capacity(j) * layer.thickness[j]) / capacity;
      temperature[j] = this.temperatureOf(j, this.content[j], temperature[j]);
    }
    this.memory.passedOn[stack] -= heat;
  }

  /** Temperature [K] at the face of the stack, on its own side of the joint, with a flux [W/m2] coming in. */
  faceTemperature(stack: number, flux: number): number {
    const first = this.spec.start[stack];
    return this.memory.temperature[first] + flux * this.halfResistance(first);
  }

  /** Heat in a stack more than at its start, J/m2. */
  gained(stack: number): number {
    const { start, layer } = this.spec;
    let sum = 0;
    for (let j = start[stack]; j < start[stack + 1]; j++)
      sum += this.content[j] - this.contentAt(j, layer.temperature[j]);
    return sum;
  }

  /** Keeps the stack as it is, for `goOn`. */
  keep(stack: number): void {
    const { start } = this.spec;
    for (let j = start[stack]; j < start[stack + 1]; j++) this.before[j] = this.content[j];
    this.kept[2 * stack] = this.memory.taken[stack];
    this.kept[2 * stack + 1] = this.memory.passedOn[stack];
  }

  /** Goes on by `times` what has changed since `keep`; 0 takes it back. */
  goOn(stack: number, times: number): void {
    const { start } = this.spec;
    const { temperature, taken, passedOn } = this.memory;
    const { content, before, kept } = this;
    for (let j = start[stack]; j < start[stack + 1]; j++) {
      content[j] = before[j] + times * (content[j] - before[j]);
      temperature[j] = this.temperatureOf(j, content[j], temperature[j]);
    }
    taken[stack] = kept[2 * stack] + times * (taken[stack] - kept[2 * stack]);
    passedOn[stack] = kept[2 * stack + 1] + times * (passedOn[stack] - kept[2 * stack + 1]);
  }

  /** Everything, kept; the returned function puts it back. */
  mark(): () => void {
    const arrays = [...Object.values(this.memory), this.content] as Float64Array[];
    const copies = arrays.map((values) => values.slice());
    return () => arrays.forEach((values, k) => values.set(copies[k]));
  }

  /**
   * What a step of `dt` s has done to the face of a stack: a flux [W/m2] came in and melt ran over it with a shear stress
   * [Pa].
   */
  look(stack: number, dt: number, flux: number, stress: number): void {
    const { memory, spec } = this;
    const [first, end] = [spec.start[stack], spec.start[stack + 1]];
    const face = this.faceTemperature(stack, flux);
    if (face > memory.peak[stack]) memory.peak[stack] = face;
    const { softens, healing } = this.materialOf(first);
    if (softens === undefined || face < softens) return;
    memory.softFor[stack] += dt;
    const { thickness, material } = spec.layer;
    const body = material[first];
    let [depth, slip] = [0, 0];
    let [before, T] = [face, face];
    for (let j = first; j < end && material[j] === body; j++) {
      T = memory.temperature[j];
      if (T < softens) {
        // Between the last place that is soft and the middle of this layer.
        const apart = thickness[j] / 2 + (j > first ? thickness[j - 1] / 2 : 0);
        depth += apart * ((before - softens) / Math.max(before - T, 1e-9)) - (j > first ? thickness[j - 1] / 2 : 0);
        break;
      }
      depth += thickness[j];
      if (healing) slip += (thickness[j] * tableValue(healing.rate, T)) / healing.stress;
      before = T;
    }
    memory.softDepth[stack] = Math.max(memory.softDepth[stack], depth);
    if (!healing) return;
    memory.healing[stack] += dt * tableValue(healing.rate, face);
    memory.dragged[stack] += dt * stress * slip;
  }

  private materialOf(j: number): BehindMaterial {
    return this.spec.materials[this.spec.layer.material[j]];
  }

  private conductivity(j: number): number {
    const { conductivity, tables } = this.materialOf(j);
    return tables ? conductivity * tableValue(tables.conduct, this.memory.temperature[j]) : conductivity;
  }

  /** J/(m3 K) */
  private capacity(j: number): number {
    const { density, specificHeat, tables } = this.materialOf(j);
    return density * specificHeat * (tables ? tableSlope(tables.heat, this.memory.temperature[j]) : 1);
  }

  private halfResistance(j: number): number {
    return this.spec.layer.thickness[j] / (2 * this.conductivity(j));
  }

  private conductanceBefore(j: number, outermost: boolean): number {
    const joint = 1 / this.spec.layer.joint[j];
    return 1 / (joint + this.halfResistance(j) + (outermost ? 0 : this.halfResistance(j - 1)));
  }

  /** Heat content of layer j at a temperature [K], J/m2. */
  private contentAt(j: number, T: number): number {
    const { density, specificHeat, tables } = this.materialOf(j);
    return density * specificHeat * this.spec.layer.thickness[j] * (tables ? tableValue(tables.heat, T) : T);
  }

  private temperatureOf(j: number, content: number, guess: number): number {
    const { density, specificHeat, tables } = this.materialOf(j);
    const wanted = content / (density * specificHeat * this.spec.layer.thickness[j]);
    return tables ? temperatureFor(tables.heat, wanted, guess, CLOSE) : wanted;
  }
}

/** Flux [W/m2] that a column gives to the wall of its half `h`, with the conductance of its last edge, 1/s. */
export function fluxToWall(columns: Columns, node: number, half: number, edge: number, capacity: number): number {
  const { nLayers } = columns;
  const last = half === 0 ? 0 : nLayers - 1;
  const T = columns.temperature[node * nLayers + last];
  const perArea = (edge * capacity * columns.reach[node]) / columns.layersOf(node).edgeFactor[half === 0 ? 0 : nLayers];
  return perArea * (T - columns.side(node, half).temperature);
}
