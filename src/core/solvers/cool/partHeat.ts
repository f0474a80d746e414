import type { PressureGrid } from '../../grid/pressureGrid';
import type { StressForm } from '../../material/stressForm';
import { Columns, type Thermal } from '../melt/columns';
import { Heat } from '../melt/heat';
import { tableValue } from '../melt/thermalTables';

/** What a wall of plastic gives its two sides of the mould, SI. */
export interface PartHeatInput {
  thermal: Thermal;
  form: StressForm;
  meltTemperature: number;
  /** Wall temperature about which the answer is linear, K. */
  wall: number;
  /** Between plastic and mould, and from `detachedAt` on; W/(m2 K), s. */
  transfer: number;
  detachedTransfer: number | null;
  detachedAt: number;
  ejectionTemperature: number;
  solidShare: number;
  /** Half gaps that are asked for, m: smallest and largest. */
  reach: [number, number];
}

/** Heat per volume of plastic [J/m3] that goes to a wall of temperature T0 while the other has T1: E - own (T0 - wall) + other (T1 - wall). */
export interface WallHeat {
  E: Float64Array;
  own: Float64Array;
  other: Float64Array;
}

const N_REACH = 20;
const SHAPES = [2, 2.5, 3];
/** A plane wall in the middle of the table: the course of all is taken from it. */
const MIDDLE = N_REACH >> 1;
/** The second case has its first wall warmer by this, K. */
const WARMER = 10;
const FIRST_STEP = 4e-4;
const GROWTH = 1.08;
/** Longest step over the diffusion time of the thickest half gap. */
const LONGEST = 0.02;
/** The thickest wall is followed for this many diffusion times of its half gap. */
const LAST = 6;

/**
 * Cooling of walls of all thicknesses between two mould walls, followed once from the melt temperature on: the heat
 * that has gone to either wall, and when enough of the wall is cold. Conduction is linear in the wall temperatures
 * as far as the melt's properties allow, so two cases tell the rest.
 */
export class PartHeat {
  readonly wall: number;
  private readonly times: number[] = [0];
  /** Per time and row: heat to the first wall and to the second, J/m3, in both cases. */
  private readonly given: { alike: Float64Array; first: Float64Array; second: Float64Array }[] = [];
  /** When a row can be ejected, with both walls alike, and with one warmer. */
  private readonly ejectable: { alike: Float64Array; warmer: Float64Array };
  private readonly step: number;
  /** Cold share of a wall against the time over that at which it can be ejected. */
  private readonly course: { u: number[]; share: number[] } = { u: [0], share: [0] };

  constructor(private readonly input: PartHeatInput) {
    this.wall = input.wall;
    const [low, high] = input.reach;
    this.step = Math.log(high / low) / (N_REACH - 1) || 1;
    const rows = N_REACH * SHAPES.length;
    this.ejectable = { alike: new Float64Array(rows).fill(Infinity), warmer: new Float64Array(rows).fill(Infinity) };
    this.follow(rows);
    const end = this.ejectable.alike[MIDDLE];
    this.course.u = this.course.u.map((time) => time / end);
  }

  /** Cold share of a wall after `u` times the time at which it can be ejected. */
  shareAfter(u: number): number {
    const { course } = this;
    if (!(u > 0) || !Number.isFinite(course.u[1])) return 0;
    let [low, high] = [0, course.u.length - 1];
    if (u >= course.u[high]) return course.share[high];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (course.u[middle] <= u) low = middle;
      else high = middle;
    }
    const s = (u - course.u[low]) / (course.u[high] - course.u[low]);
    return course.share[low] + s * (course.share[high] - course.share[low]);
  }

  private follow(rows: number): void {
    const { input } = this;
    const { thermal, meltTemperature, wall, transfer } = input;
    const grid = columnsOnly(
      Array.from({ length: 2 * rows }, (_, k) => ({
        reach: input.reach[0] * Math.exp((k % N_REACH) * this.step),
        shape: SHAPES[Math.floor((k % rows) / N_REACH)],
      })),
    );
    const sides = [wall, wall + WARMER, wall].map((temperature) => ({ temperature, transfer }));
    // Two indices for equal walls keep the columns whole.
    const sideOf = Uint8Array.from({ length: 4 * rows }, (_, k) => (k % 2 ? 2 : k < 2 * rows ? 0 : 1));
    const columns = new Columns(grid, input.form, thermal, { sides, sideOf }, meltTemperature);
    const heat = new Heat(grid, columns, thermal, meltTemperature, wall);
    const nodes = [...Array(2 * rows).keys()];
    const capacity = thermal.density * thermal.specificHeat;
    const content = (i: number) => {
      const { share } = columns.layersOf(i);
      let sum = 0;
      for (let t = 0; t < columns.nLayers; t++) {
        const T = columns.temperature[i * columns.nLayers + t];
        sum += share[t] * (thermal.tables ? tableValue(thermal.tables.heat, T) : T);
      }
      return sum * capacity;
    };
    const flux = (i: number, h: number) => {
      const side = columns.side(i, h);
      return Math.max(1e-9, side.transfer * (columns.surfaceTemperature(i, h) - side.temperature));
    };
    const gone = [new Float64Array(2 * rows), new Float64Array(2 * rows)];
    const colder = new Float64Array(2 * rows);
    const diffusion = (thermal.density * thermal.specificHeat * input.reach[1] ** 2) / thermal.conductivity;
    let held = nodes.map(content);
    let before = nodes.map((i) => [flux(i, 0), flux(i, 1)]);
    this.record(gone, rows);
    let dt = (FIRST_STEP * (thermal.density * thermal.specificHeat * input.reach[0] ** 2)) / thermal.conductivity;
    for (let time = 0; time < LAST * diffusion; dt = Math.min(dt * GROWTH, LONGEST * diffusion)) {
      if (input.detachedTransfer !== null && time < input.detachedAt && time + dt > input.detachedAt)
        dt = input.detachedAt - time;
      heat.rest(dt, nodes, grid.volume);
      time += dt;
      if (input.detachedTransfer !== null && time >= input.detachedAt - 1e-12)
        for (const side of sides) side.transfer = Math.min(transfer, input.detachedTransfer);
      const now = nodes.map(content);
      const after = nodes.map((i) => [flux(i, 0), flux(i, 1)]);
      for (const i of nodes) {
        const [a, b] = [before[i][0] + after[i][0], before[i][1] + after[i][1]];
        const lost = held[i] - now[i];
        gone[0][i] += (lost * a) / (a + b);
        gone[1][i] += (lost * b) / (a + b);
        this.noteEjection(i, rows, columns.colderShare(i, input.ejectionTemperature), colder, time, dt);
      }
      this.course.u.push(time);
      this.course.share.push(columns.colderShare(MIDDLE, input.ejectionTemperature));
      held = now;
      before = after;
      this.times.push(time);
      this.record(gone, rows);
    }
  }

  private noteEjection(i: number, rows: number, share: number, colder: Float64Array, time: number, dt: number): void {
    const { solidShare } = this.input;
    const list = i < rows ? this.ejectable.alike : this.ejectable.warmer;
    const last = colder[i];
    if (list[i % rows] === Infinity && share >= solidShare)
      list[i % rows] = time - (share > last ? ((share - solidShare) / (share - last)) * dt : 0);
    colder[i] = share;
  }

  private record([first, second]: Float64Array[], rows: number): void {
    this.given.push({
      alike: Float64Array.from({ length: rows }, (_, r) => (first[r] + second[r]) / 2),
      first: first.slice(rows),
      second: second.slice(rows),
    });
  }

  /** Rows and weights for a half gap [m] and a shape exponent. */
  private rowsAt(reach: number, shape: number): [row: number, weight: number][] {
    const x = Math.min(N_REACH - 1.000001, Math.max(0, Math.log(reach / this.input.reach[0]) / this.step));
    const y = Math.min(SHAPES.length - 1.000001, Math.max(0, (shape - SHAPES[0]) / (SHAPES[1] - SHAPES[0])));
    const [i, j] = [Math.floor(x), Math.floor(y)];
    const [u, v] = [x - i, y - j];
    const row = i + N_REACH * j;
    return [
      [row, (1 - u) * (1 - v)],
      [row + 1, u * (1 - v)],
      [row + N_REACH, (1 - u) * v],
      [row + N_REACH + 1, u * v],
    ];
  }

  /** Heat given off in `time` s of contact by columns of these half gaps and shapes. */
  heat(time: number, reach: ArrayLike<number>, shape: ArrayLike<number>): WallHeat {
    const { times, given } = this;
    let k = 1;
    while (k < times.length - 1 && times[k] < time) k++;
    // Beyond the last time heat goes on flowing as it did: through the plastic from the warmer wall to the colder.
    const s = Math.max(0, (time - times[k - 1]) / (times[k] - times[k - 1]));
    const at = (pick: 'alike' | 'first' | 'second', r: number) =>
      given[k - 1][pick][r] + s * (given[k][pick][r] - given[k - 1][pick][r]);
    const n = reach.length;
    const out: WallHeat = { E: new Float64Array(n), own: new Float64Array(n), other: new Float64Array(n) };
    for (let i = 0; i < n; i++)
      for (const [r, w] of this.rowsAt(reach[i], shape[i])) {
        const alike = at('alike', r);
        out.E[i] += w * alike;
        out.own[i] += (w * (alike - at('first', r))) / WARMER;
        out.other[i] += (w * (at('second', r) - alike)) / WARMER;
      }
    return out;
  }

  /** When enough of a column is colder than the ejection temperature, s after contact, for a mean wall temperature [K]. */
  ejectableAt(reach: number, shape: number, wall: number): number {
    const { alike, warmer } = this.ejectable;
    // Times go with the square of the half gap: straight in their logarithms.
    let [a, b] = [0, 0];
    for (const [r, w] of this.rowsAt(reach, shape)) {
      if (w < 1e-9) continue;
      a += w * Math.log(alike[r]);
      b += w * Math.log(warmer[r]);
    }
    if (!Number.isFinite(a)) return Infinity;
    // One wall warmer warms the mean by half of it.
    const slope = Number.isFinite(b) ? ((b - a) / WARMER) * 2 : 0;
    return Math.exp(a + slope * (wall - this.wall));
  }
}

/** A grid of single columns of unit volume without links. */
function columnsOnly(list: { reach: number; shape: number }[]): PressureGrid {
  const n = list.length;
  return {
    n,
    spacing: 1,
    nodeOfCell: new Int32Array(0),
    position: new Float64Array(3 * n),
    centroid: new Float32Array(3 * n),
    volume: new Float64Array(n).fill(1),
    wallGap: Float64Array.from(list, (c) => c.reach / (c.shape - 1)),
    thickness: Float32Array.from(list, (c) => 2 * c.reach),
    shape: Float64Array.from(list, (c) => c.shape),
    linkFrom: new Int32Array(0),
    linkTo: new Int32Array(0),
    linkAxis: new Uint8Array(0),
    transmissibility: new Float64Array(0),
    rowStart: new Int32Array(n + 1),
    rowNode: new Int32Array(0),
    rowLink: new Int32Array(0),
  };
}
