import type { Vec3 } from '../../geometry/mesh';
import type { PressureGrid } from '../../grid/pressureGrid';
import type { WallSides } from '../../grid/wallSides';
import type { StressForm } from '../../material/stressForm';
import type { Thermal } from '../melt/columns';
import { spreadOver } from './lineSinks';
import type { MouldField } from './mouldField';
import { PartHeat, type WallHeat } from './partHeat';
import type { CoolSource } from './stage';

/** A length of cold runner. */
export interface FeedPiece {
  at: Vec3;
  volume: number;
  /** Half gap and shape exponent of its section. */
  reach: number;
  shape: number;
}

export interface PartSourceInput {
  grid: PressureGrid;
  sides: WallSides;
  thermal: Thermal;
  form: StressForm;
  meltTemperature: number;
  transfer: number;
  detachedTransfer: number | null;
  ejectionTemperature: number;
  solidShare: number;
  /** Times of the cycle, s: until full, until packing ends; cooling after that or null for until ejectable; the rest. */
  injectionTime: number;
  packingEnd: number;
  coolingTime: number | null;
  openTime: number;
  feed: readonly FeedPiece[];
  /** Temperature of the walls to begin from, K. */
  start: number;
}

/** What a settled mould leaves in its source: plain data. */
export interface SourceMemory {
  wallTemperature: Float64Array;
  ejectableAt: Float64Array;
  later: Float64Array;
  answer: WallHeat | null;
  /** Temperature of the walls for which the cooling of the part was followed last, K. */
  wall: number;
  openAt: number;
  cycleTime: number;
  cycleHeat: number;
  feedHeat: number;
}

/** The cooling of the part is followed anew when the mould's mean has moved by this, K. */
const MOVED = 6;
/** A place is ready at most this many times later than conduction alone says. */
const MOST_LATER = 2.5;
/** A wall that never gets cold enough keeps the mould closed this many times the packing. */
const NEVER = 20;

/** Part and cold runners between the walls of the mould: what they give it in a cycle, and how long the cycle is. */
export class PartSource implements CoolSource {
  /** Temperature of the mould at the first and second wall of every node, K. Length 2n. */
  readonly wallTemperature: Float64Array;
  /** When each node can be ejected, s from the start of the shot, as far as conduction alone tells. */
  readonly ejectableAt: Float64Array;
  openAt = 0;
  cycleTime = 0;
  /** Heat of part and of runners in a cycle, J. */
  cycleHeat = 0;
  feedHeat = 0;
  private readonly reach: Float64Array;
  private heat: PartHeat;
  private answer: WallHeat | null = null;
  /** What the packing makes of the ejectable time of each node, over that of conduction alone. */
  private readonly later: Float64Array;

  constructor(private readonly input: PartSourceInput) {
    const { grid } = input;
    this.reach = Float64Array.from({ length: grid.n }, (_, i) => grid.wallGap[i] * (grid.shape[i] - 1));
    this.wallTemperature = new Float64Array(2 * grid.n).fill(input.start);
    this.ejectableAt = new Float64Array(grid.n);
    this.later = new Float64Array(grid.n).fill(1);
    this.heat = this.follow(input.start);
  }

  /** All that changes while the mould settles. */
  get memory(): SourceMemory {
    const { wallTemperature, ejectableAt, later, answer, openAt, cycleTime, cycleHeat, feedHeat } = this;
    return {
      wallTemperature,
      ejectableAt,
      later,
      answer,
      wall: this.heat.wall,
      openAt,
      cycleTime,
      cycleHeat,
      feedHeat,
    };
  }

  /** Goes on from what was kept of a source of the same input. */
  goOn({ wallTemperature, ejectableAt, later, answer, wall, ...numbers }: SourceMemory): void {
    this.wallTemperature.set(wallTemperature);
    this.ejectableAt.set(ejectableAt);
    this.later.set(later);
    this.answer = answer;
    if (wall !== this.heat.wall) this.heat = this.follow(wall);
    Object.assign(this, numbers);
  }

  private follow(wall: number): PartHeat {
    const { input } = this;
    const gaps = [...this.reach, ...input.feed.map((f) => f.reach)].sort((a, b) => a - b);
    const at = (share: number) => gaps[Math.min(gaps.length - 1, Math.floor(share * gaps.length))];
    return new PartHeat({
      ...input,
      wall,
      detachedAt: input.packingEnd,
      reach: [Math.max(at(0.002), 1e-5), Math.max(at(0.999), 1.01 * at(0.002))],
    });
  }

  private readWalls(facetTemperature: Float64Array): number {
    const { grid, sides } = this.input;
    let [sum, all] = [0, 0];
    for (let k = 0; k < 2 * grid.n; k++) {
      let T = 0;
      for (let m = sides.start[k]; m < sides.start[k + 1]; m++) T += sides.weight[m] * facetTemperature[sides.facet[m]];
      if (sides.start[k + 1] > sides.start[k]) this.wallTemperature[k] = T;
      sum += grid.volume[k >> 1] * this.wallTemperature[k];
      all += grid.volume[k >> 1];
    }
    return sum / all;
  }

  adjust(field: MouldField): number {
    const { input } = this;
    const mean = this.readWalls(field.facetTemperature);
    if (Math.abs(mean - this.heat.wall) > MOVED) this.heat = this.follow(mean);
    const before = this.cycleTime;
    this.openAt = this.opening();
    this.cycleTime = this.openAt + input.openTime;
    const contact = this.openAt - input.injectionTime / 2;
    this.answer = this.heat.heat(contact, this.reach, input.grid.shape);
    this.warmByRunners(field, contact);
    return Math.abs(this.cycleTime - before) / this.cycleTime;
  }

  /** When the mould opens: as set, or when packing is over and the part can be ejected. */
  private opening(): number {
    const { grid, injectionTime, packingEnd, coolingTime, solidShare } = this.input;
    const half = injectionTime / 2;
    for (let i = 0; i < grid.n; i++) {
      const wall = (this.wallTemperature[2 * i] + this.wallTemperature[2 * i + 1]) / 2;
      this.ejectableAt[i] = half + this.later[i] * this.heat.ejectableAt(this.reach[i], grid.shape[i], wall);
    }
    if (coolingTime !== null) return packingEnd + coolingTime;
    const longest = NEVER * Math.max(packingEnd, 1);
    const all = grid.volume.reduce((s, v) => s + v, 0);
    const coldShare = (time: number) => {
      let cold = 0;
      for (let i = 0; i < grid.n; i++)
        cold += grid.volume[i] * this.heat.shareAfter((time - half) / (this.ejectableAt[i] - half));
      return cold / all;
    };
    let [low, high] = [packingEnd, longest];
    if (coldShare(low) >= solidShare) return low;
    for (let pass = 0; pass < 24; pass++) {
      const middle = (low + high) / 2;
      if (coldShare(middle) >= solidShare) high = middle;
      else low = middle;
    }
    return high;
  }

  /** Takes over when places could be ejected in a shot: fresh melt comes in, and plastic stands off the wall, before. */
  correct(ejectableAt: ArrayLike<number>): void {
    const half = this.input.injectionTime / 2;
    for (let i = 0; i < this.later.length; i++) {
      const ratio = (ejectableAt[i] - half) / ((this.ejectableAt[i] - half) / this.later[i]);
      // Slivers of the grid have times of their own.
      if (ratio > 0) this.later[i] = Math.min(MOST_LATER, Math.max(1 / MOST_LATER, ratio));
    }
  }

  /** Cold runners give their heat to the steel around them. */
  private warmByRunners(field: MouldField, contact: number): void {
    const { feed } = this.input;
    this.feedHeat = 0;
    field.extra.fill(0);
    if (!feed.length) return;
    const { E, own, other } = this.heat.heat(
      contact,
      feed.map((f) => f.reach),
      feed.map((f) => f.shape),
    );
    feed.forEach(({ at, volume }, k) => {
      const centre = field.grid.nodeAt(...at);
      if (centre < 0) return;
      const nodes: number[] = [];
      const weights: number[] = [];
      spreadOver(field.grid, at, centre, nodes, weights);
      const T = nodes.reduce((s, node, m) => s + weights[m] * field.temperature[node], 0);
      const heat = 2 * volume * (E[k] - (own[k] - other[k]) * (T - this.heat.wall));
      this.feedHeat += heat;
      nodes.forEach((node, m) => (field.extra[node] += (weights[m] * heat) / this.cycleTime));
    });
  }

  evaluate(temperature: Float64Array, heat: Float64Array, slope: Float64Array): void {
    const { grid, sides } = this.input;
    const { E, own, other } = this.answer as WallHeat;
    this.readWalls(temperature);
    heat.fill(0);
    slope.fill(0);
    this.cycleHeat = 0;
    const { wall } = this.heat;
    for (let k = 0; k < 2 * grid.n; k++) {
      const i = k >> 1;
      const given =
        grid.volume[i] *
        (E[i] - own[i] * (this.wallTemperature[k] - wall) + other[i] * (this.wallTemperature[k ^ 1] - wall));
      const power = given / this.cycleTime;
      const g = (grid.volume[i] * own[i]) / this.cycleTime;
      this.cycleHeat += given;
      for (let m = sides.start[k]; m < sides.start[k + 1]; m++) {
        heat[sides.facet[m]] += sides.weight[m] * power;
        slope[sides.facet[m]] += sides.weight[m] * g;
      }
    }
  }
}
