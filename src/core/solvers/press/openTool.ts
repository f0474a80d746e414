import type { PressureGrid } from '../../grid/pressureGrid';
import type { Columns } from '../melt/columns';
import type { Storage } from '../melt/pressure';

/** How the moving half closes: at a speed [m/s] from a time on [s since the start of the shot], as long as a force [N] does it. */
export interface Closing {
  from: number;
  speed: number;
  force: number;
  /** How long the force is kept up once the cavity is full, s. */
  hold: number;
}

/** Melt that is laid into the open tool. */
export interface Charge {
  /** Share of every node under it, 0..1. Length n. */
  share: Float64Array;
  /** K */
  temperature: number;
}

/** A tool whose halves stand apart while melt comes in, and close on it. SI. */
export interface PressInput {
  /** By how much of itself the wall of a node grows per gap, 1/m. Length n. */
  growth: Float64Array;
  /** Area of each node seen along the opening direction, m2. Length n. */
  area: Float64Array;
  /** Between the halves at the start of the shot, m. */
  gap: number;
  /** null while they stand. */
  closing: Closing | null;
  /** What lies in it at the start; absent: nothing. */
  charge?: Charge;
}

/** Where the press stands, as a state keeps it: m and m/s. */
export interface PressMemory {
  gap: number;
  speed: number;
}

/** Gap at which the halves have met, m. */
const MET = 1e-9;

/**
 * The cavity of a tool that stands open: the grid of the closed one with walls that are thicker by what the gap has across
 * them. A wall of s times its thickness holds s times as much and lets s^3 times as much through. The arrays of `grid` that
 * depend on it are its own, and change in place.
 */
export class OpenTool {
  readonly grid: PressureGrid;
  gap = 0;
  /** m/s, of the flow last solved for. */
  speed = 0;
  private columns: Columns | null = null;
  private readonly reach: Float64Array;
  private readonly linkGrowth: Float64Array;
  private readonly storage: Storage;

  constructor(
    private readonly closed: PressureGrid,
    readonly input: PressInput,
    before?: PressMemory | null,
  ) {
    const { n, linkFrom, linkTo } = closed;
    this.grid = {
      ...closed,
      volume: closed.volume.slice(),
      wallGap: closed.wallGap.slice(),
      thickness: closed.thickness.slice(),
      transmissibility: closed.transmissibility.slice(),
    };
    this.reach = new Float64Array(n);
    this.linkGrowth = Float64Array.from(linkFrom, (i, l) => 0.5 * (input.growth[i] + input.growth[linkTo[l]]));
    this.storage = { density: new Float64Array(n).fill(1), diagonal: new Float64Array(n), right: new Float64Array(n) };
    this.speed = before?.speed ?? 0;
    this.setGap(before?.gap ?? input.gap);
  }

  get memory(): PressMemory {
    return { gap: this.gap, speed: this.speed };
  }

  get met(): boolean {
    return this.gap <= MET;
  }

  /** Has the columns follow the gap; they were made on `grid` as it is now. */
  attach(columns: Columns): void {
    const { growth } = this.input;
    for (let i = 0; i < growth.length; i++) this.reach[i] = columns.reach[i] / (1 + growth[i] * this.gap);
    this.columns = columns;
  }

  setGap(gap: number): void {
    const { closed, grid, linkGrowth, reach, columns } = this;
    const { growth } = this.input;
    this.gap = gap;
    for (let i = 0; i < growth.length; i++) {
      const s = 1 + growth[i] * gap;
      grid.volume[i] = closed.volume[i] * s;
      grid.wallGap[i] = closed.wallGap[i] * s;
      grid.thickness[i] = closed.thickness[i] * s;
      if (columns) columns.reach[i] = reach[i] * s;
    }
    for (let l = 0; l < linkGrowth.length; l++)
      grid.transmissibility[l] = closed.transmissibility[l] * (1 + linkGrowth[l] * gap) ** 3;
  }

  /** Volume that node i loses per gap, m2. */
  opens(i: number): number {
    return this.input.growth[i] * this.closed.volume[i];
  }

  /** What closing at `speed` drives out of every node that is full. */
  source(speed: number, full: Uint8Array): Storage {
    const { right } = this.storage;
    for (let i = 0; i < right.length; i++) right[i] = full[i] ? this.opens(i) * speed : 0;
    return this.storage;
  }

  /** Force of a pressure [Pa] in every node on the moving half, N. */
  forceOf(pressure: Float64Array): number {
    const { area } = this.input;
    let sum = 0;
    for (let i = 0; i < area.length; i++) sum += area[i] * Math.max(0, pressure[i]);
    return sum;
  }
}
