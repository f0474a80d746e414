import type { Vec3 } from '../../geometry/mesh';
import { frameOn } from '../../geometry/vec';
import { locate } from '../../grid/mouldAxes';
import type { MouldGrid } from '../../grid/mouldGrid';
import { RING_POINTS, ringAnswer, splineWeights } from './ringKernel';
import type { Circuit, CircuitElement } from './circuit';

/** A short length of a bore: a ring of points that draw heat from the cells around them. SI. */
export interface Station {
  element: number;
  /** Middle of the length, and the length itself. */
  at: Vec3;
  length: number;
  radius: number;
  conductivity: number;
  /** Nodes and weights of the points of the ring, one after the other; weights of each point sum to 1. */
  nodes: Int32Array;
  weights: Float64Array;
  /** Where each point's entries begin. */
  start: Int32Array;
  /** Of the grid: see RingAnswer. */
  answer: { radius: number; phi: number };
  /** Mean temperature over the ring, and its first waves along cos and sin. */
  mean: number;
  cos: number;
  sin: number;
  /** Coolant beside it [K] and the conductance per area from the ring's mean to it [W/(m2 K)]. */
  coolant: number;
  transfer: number;
  film: number;
  /** Heat that goes to the coolant, W. */
  heat: number;
}

const COS = Array.from({ length: RING_POINTS }, (_, j) => Math.cos((2 * Math.PI * (j + 0.5)) / RING_POINTS));
const SIN = Array.from({ length: RING_POINTS }, (_, j) => Math.sin((2 * Math.PI * (j + 0.5)) / RING_POINTS));
/** Length of a station over the width of the cells around the part. */
const STEP = 0.5;
/** Numbers of a station that follow from mould and coolant. */
const STATE = ['mean', 'cos', 'sin', 'coolant', 'transfer', 'film', 'heat'] as const;
/** W/(m2 K): a film that may be divided by. */
const LEAST_FILM = 1e-3;

/**
 * Bores as lines below the grid: no cell needs to follow them. The mean of each ring gives heat through the film
 * and through what the grid smooths away (r ln(r_e / r) / k); the first wave around it is corrected so that the
 * cylinder answers to a gradient of temperature as a bore with a film does, although there is steel inside.
 * Lengths outside the block do nothing.
 */
export class LineSinks {
  readonly stations: Station[] = [];
  /** Stations of each element, in the direction from -> to. */
  readonly ofElement: Station[][];

  constructor(
    private readonly grid: MouldGrid,
    private readonly circuit: Circuit,
    conductivity: Float64Array,
  ) {
    this.ofElement = circuit.elements.map((element, e) => (element.wet ? this.place(element, e, conductivity) : []));
  }

  /** All that changes while the mould settles, STATE numbers a station. */
  get memory(): Float64Array {
    return Float64Array.from(this.stations.flatMap((s) => STATE.map((key) => s[key])));
  }

  /** Goes on from what was kept of sinks of the same circuit in the same grid. */
  goOn(memory: Float64Array): void {
    this.stations.forEach((s, k) => STATE.forEach((key, m) => (s[key] = memory[k * STATE.length + m])));
  }

  private place({ wet }: CircuitElement, e: number, conductivity: Float64Array): Station[] {
    const { grid } = this;
    const { from, to, bore } = wet as NonNullable<CircuitElement['wet']>;
    const way = to.map((x, d) => x - from[d]);
    const length = Math.hypot(...way);
    const t = way.map((x) => x / length) as Vec3;
    const n = Math.max(1, Math.ceil(length / (STEP * grid.spacing)));
    const [u, v] = frameOn(t);
    const list: Station[] = [];
    for (let s = 0; s < n; s++) {
      const at = from.map((x, d) => x + ((s + 0.5) / n) * way[d]) as Vec3;
      const centre = grid.nodeAt(...at);
      if (centre < 0) continue;
      const nodes: number[] = [];
      const weights: number[] = [];
      const start = new Int32Array(RING_POINTS + 1);
      for (let j = 0; j < RING_POINTS; j++) {
        const p = at.map((x, d) => x + (bore / 2) * (COS[j] * u[d] + SIN[j] * v[d]));
        spreadOver(grid, p, centre, nodes, weights);
        start[j + 1] = nodes.length;
      }
      const width = this.cellAcross(at, t);
      const station: Station = {
        element: e,
        at,
        length: length / n,
        radius: bore / 2,
        conductivity: conductivity[centre],
        nodes: Int32Array.from(nodes),
        weights: Float64Array.from(weights),
        start,
        answer: ringAnswer(bore / 2 / width),
        mean: 0,
        cos: 0,
        sin: 0,
        coolant: 0,
        transfer: 0,
        film: 0,
        heat: 0,
      };
      list.push(station);
      this.stations.push(station);
    }
    return list;
  }

  /** Mean width of the cells across a direction. */
  private cellAcross(at: Vec3, t: Vec3): number {
    const { planes } = this.grid;
    let sum = 0;
    for (let d = 0; d < 3; d++) {
      const i = locate(planes[d], at[d]);
      sum += (planes[d][i + 1] - planes[d][i]) * (1 - t[d] * t[d]);
    }
    return sum / 2;
  }

  /** Temperatures of the rings in the present field. */
  read(temperature: Float64Array): void {
    for (const s of this.stations) {
      s.mean = s.cos = s.sin = 0;
      for (let j = 0; j < RING_POINTS; j++) {
        let T = 0;
        for (let k = s.start[j]; k < s.start[j + 1]; k++) T += s.weights[k] * temperature[s.nodes[k]];
        s.mean += T / RING_POINTS;
        s.cos += (2 * T * COS[j]) / RING_POINTS;
        s.sin += (2 * T * SIN[j]) / RING_POINTS;
      }
    }
  }

  /**
   * Heat that element e takes up while its coolant comes in with `inlet` [K] and `capacity` [W/K]; sets the coolant's
   * temperature at every station. Coolant warms along the way as between the walls of a heat exchanger.
   */
  take(e: number, inlet: number, capacity: number, film: number, forward: boolean): number {
    let T = inlet;
    let sum = 0;
    const list = this.ofElement[e];
    for (let k = 0; k < list.length; k++) {
      const s = list[forward ? k : list.length - 1 - k];
      this.setFilm(s, film);
      const conductance = s.transfer * 2 * Math.PI * s.radius * s.length;
      const heat = capacity * (1 - Math.exp(-conductance / capacity)) * (s.mean - T);
      s.heat = heat;
      s.coolant = s.mean - heat / conductance;
      T += heat / capacity;
      sum += heat;
    }
    return sum;
  }

  /** Coolant that stands still carries nothing away. */
  still(e: number): void {
    for (const s of this.ofElement[e]) s.heat = s.transfer = s.film = 0;
  }

  private setFilm(s: Station, film: number): void {
    s.film = Math.max(film, LEAST_FILM);
    s.transfer = 1 / (1 / s.film + (s.radius * Math.log(s.answer.radius)) / s.conductivity);
  }

  /** Strength of the first wave for a wave of the ring's temperature of 1 K, W/(m2 K). */
  private wave({ film, radius, conductivity, answer }: Station): number {
    if (!(film > 0)) return 0;
    const biot = (film * radius) / conductivity;
    const beta = (biot - 1) / (biot + 1);
    return ((2 * conductivity) / radius) * (beta / (1 - beta * answer.phi));
  }

  /** Warmest and coldest place of the bore's wall at a station, K. */
  wallRange(s: Station): [number, number] {
    const mean = s.film > 0 ? s.coolant + (s.transfer * (s.mean - s.coolant)) / s.film : s.mean;
    if (!(s.film > 0)) return [mean, mean];
    const biot = (s.film * s.radius) / s.conductivity;
    const beta = (biot - 1) / (biot + 1);
    const swing = (Math.hypot(s.cos, s.sin) * 2) / ((1 + biot) * (1 - beta * s.answer.phi));
    return [mean - swing, mean + swing];
  }

  /** Adds the heat drawn from every node [W] to `out`. */
  draw(out: Float64Array): void {
    for (const s of this.stations) {
      if (!(s.film > 0)) continue;
      const wave = this.wave(s);
      const area = (2 * Math.PI * s.radius * s.length) / RING_POINTS;
      for (let j = 0; j < RING_POINTS; j++) {
        const q = s.heat / RING_POINTS + area * wave * (s.cos * COS[j] + s.sin * SIN[j]);
        for (let k = s.start[j]; k < s.start[j + 1]; k++) out[s.nodes[k]] += s.weights[k] * q;
      }
    }
  }

  /** Adds to the diagonal what each node gives at least for a kelvin more, W/K: each point draws from its cells one by one. */
  lump(diagonal: Float64Array): void {
    for (const s of this.stations) {
      const area = (2 * Math.PI * s.radius * s.length) / RING_POINTS;
      const g = area * s.transfer;
      for (let k = 0; k < s.nodes.length; k++) diagonal[s.nodes[k]] += s.weights[k] * g;
    }
  }

  /** Heat taken up along every line, W, by the line's id. */
  heatOfLines(): Map<string, number> {
    const out = new Map<string, number>();
    for (const s of this.stations) {
      const { line } = this.circuit.elements[s.element];
      if (line !== null) out.set(line, (out.get(line) ?? 0) + s.heat);
    }
    return out;
  }
}

/** Adds the weights over the steel of the cells around a point (see `splineWeights`); all on `fallback` where there is none. */
export function spreadOver(
  grid: MouldGrid,
  p: readonly number[],
  fallback: number,
  nodes: number[],
  weights: number[],
): void {
  const [nx, ny, nz] = grid.size;
  const at = p.map((x, d) => {
    const planes = grid.planes[d];
    const inside = Math.min(planes[planes.length - 1], Math.max(planes[0], x));
    const cell = locate(planes, inside);
    const middle = (planes[cell] + planes[cell + 1]) / 2;
    return { cell, weights: splineWeights((inside - middle) / (planes[cell + 1] - planes[cell])) };
  });
  const first = nodes.length;
  let total = 0;
  for (let c = 0; c < 27; c++) {
    const [a, b, e] = [c % 3, Math.floor(c / 3) % 3, Math.floor(c / 9)];
    const [i, j, k] = [at[0].cell + a - 1, at[1].cell + b - 1, at[2].cell + e - 1];
    if (i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz) continue;
    const node = grid.nodeOf[i + nx * (j + ny * k)];
    const w = at[0].weights[a] * at[1].weights[b] * at[2].weights[e];
    if (node < 0 || !(w > 1e-9)) continue;
    nodes.push(node);
    weights.push(w);
    total += w;
  }
  if (!(total > 0)) {
    nodes.push(fallback);
    weights.push(1);
    total = 1;
  }
  for (let k = first; k < weights.length; k++) weights[k] /= total;
}
