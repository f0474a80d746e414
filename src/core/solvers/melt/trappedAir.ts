import type { PressureGrid } from '../../grid/pressureGrid';
import { AirPocket, ventFlow, volumeRatioAt, type AirState, type Vent } from '../../material/air';
import { UnionFind } from '../../numerics/unionFind';

/** State of enclosed air: m3, Pa absolute, K. */
type PocketAir = Pick<AirPocket, 'volume' | 'pressure' | 'temperature'>;
const airIn = ({ volume, pressure, temperature }: PocketAir): PocketAir => ({ volume, pressure, temperature });

/** The same while it is followed. */
interface OpenTrap extends AirTrap {
  isothermal: AirPocket;
  adiabatic: AirPocket;
}

/** Air that the melt has cut off from every vent. */
export interface AirTrap {
  /** Time at which it was cut off, s; its volume then, m3. */
  since: number;
  volume: number;
  /** Node that filled last, or is still empty. */
  node: number;
  isothermal: PocketAir;
  adiabatic: PocketAir;
  /** It has had a vent. */
  vented: boolean;
  /** Over time: s, and absolute pressure [Pa] and temperature [K] by both laws. */
  history: { time: number; isothermal: number; adiabatic: number; temperature: number }[];
}

/** A vent on the grid: it shares its width among its nodes and closes with them. */
export interface NodeVent {
  nodes: readonly number[];
  vent: Vent;
  /** Behind it, Pa absolute. */
  exitPressure: number;
}

/** Share of a node's volume below which it counts as full of melt. */
const EMPTY = 1e-6;
/** Air at a vent that stays below this never was a trap, Pa absolute. */
const FREE = 1.5e5;
/** A trap smaller than this many blocks is a corner of the grid, not a place. */
const SMALLEST = 1;

/** Air ahead of the front so far: what TrappedAir goes on from. */
export interface AirMemory {
  /** Above the atmosphere in nodes that are not full, Pa. Length n. */
  pressure: Float64Array;
  trapOf: Int32Array;
  traps: (Omit<AirTrap, 'isothermal' | 'adiabatic'> & Record<'isothermal' | 'adiabatic', PocketMemory>)[];
}
/** m3, kg, K */
type PocketMemory = Pick<AirPocket, 'volume' | 'mass' | 'temperature'>;

/**
 * The empty part of the cavity, region by region. A region that holds a vented node keeps the
 * atmosphere; one that the melt has cut off holds its air, and pushes back on the front.
 */
export class TrappedAir {
  /** Pressure above the atmosphere in nodes that are not full, Pa. Length n. */
  readonly pressure: Float64Array;
  readonly traps: OpenTrap[] = [];
  /** Number of the trap a node belongs to, -1 for none. */
  private readonly trapOf: Int32Array;

  constructor(
    private readonly grid: PressureGrid,
    private readonly vented: Uint8Array,
    private readonly air: AirState,
    private readonly reachable: Float64Array,
    private readonly vents: readonly NodeVent[] = [],
    before?: AirMemory | null,
  ) {
    this.pressure = before?.pressure.slice() ?? new Float64Array(grid.n);
    this.trapOf = before?.trapOf.slice() ?? new Int32Array(grid.n).fill(-1);
    for (const { isothermal, adiabatic, ...trap } of before?.traps ?? [])
      this.traps.push({
        ...trap,
        history: trap.history.slice(),
        isothermal: Object.assign(this.pocket('isothermal', isothermal.volume), isothermal),
        adiabatic: Object.assign(this.pocket('adiabatic', adiabatic.volume), adiabatic),
      });
  }

  get memory(): AirMemory {
    const of = ({ volume, mass, temperature }: AirPocket): PocketMemory => ({ volume, mass, temperature });
    return {
      pressure: this.pressure.slice(),
      trapOf: this.trapOf.slice(),
      traps: this.traps.map((t) => ({
        ...t,
        history: t.history.slice(),
        isothermal: of(t.isothermal),
        adiabatic: of(t.adiabatic),
      })),
    };
  }

  private pocket(law: 'isothermal' | 'adiabatic', volume: number, pressure?: number): AirPocket {
    return new AirPocket(this.air, law, volume, pressure, this.vents.length ? this.outflow : null);
  }

  /** Follows the front after a step of `dt` [s] that ended at `time`. */
  update(held: Float64Array, full: Uint8Array, time: number, dt: number, meltPressure: Float64Array): void {
    const regions = this.regions(full).filter((nodes) => !nodes.some((i) => this.vented[i]));
    const shared = this.shared(regions);
    this.pressure.fill(0);
    for (const nodes of regions) {
      this.openVents(nodes, full);
      const volume = nodes.reduce((s, i) => s + Math.max(0, this.reachable[i] - held[i]), 0);
      const parent = this.parentOf(nodes);
      // What is cut off anew, or pinched off from a trap, begins with the air it has.
      const trap =
        parent < 0 || (shared.get(parent) ?? 0) > 1
          ? this.open(nodes, volume, time, this.traps[parent])
          : this.traps[parent];
      const left = Math.max(volume, EMPTY * nodes.reduce((s, i) => s + this.grid.volume[i], 0), 1e-18);
      if (this.width > 0) trap.vented = true;
      if ((left < trap.isothermal.volume || this.width > 0) && dt > 0) {
        // The air stops shrinking where its pressure meets that of the melt.
        const limit = this.meltAround(nodes, full, meltPressure) + this.air.ambientPressure;
        this.squeeze(trap.isothermal, left, dt, limit, 1);
        this.squeeze(trap.adiabatic, left, dt, limit, this.air.gamma);
      }
      trap.node = nodes.reduce((best, i) =>
        held[i] / this.grid.volume[i] < held[best] / this.grid.volume[best] ? i : best,
      );
      const above = trap.isothermal.pressure - this.air.ambientPressure;
      trap.history.push({
        time,
        isothermal: trap.isothermal.pressure,
        adiabatic: trap.adiabatic.pressure,
        temperature: trap.adiabatic.temperature,
      });
      for (const i of nodes) this.pressure[i] = Math.max(0, above);
    }
  }

  private squeeze(pocket: AirPocket, volume: number, dt: number, limit: number, gamma: number): void {
    const least = pocket.volume * volumeRatioAt(limit, pocket.pressure, gamma);
    if (this.width > 0) {
      // What leaves at that pressure makes room for more melt than the pressing alone.
      const drained = (dt * this.outflow(limit, pocket.temperature)) / pocket.mass;
      const floor = least * Math.max(1e-3, 1 - drained);
      pocket.squeeze(Math.min(pocket.volume, Math.max(volume, floor)), dt);
    } else if (least < pocket.volume) pocket.squeeze(Math.max(volume, least), dt);
  }

  /** Open width of every vent in the region at hand, m, and their sum. */
  private readonly openWidth: number[] = [];
  private width = 0;

  private openVents(nodes: readonly number[], full: Uint8Array): void {
    this.width = 0;
    if (!this.vents.length) return;
    const inside = new Set(nodes);
    this.vents.forEach(({ nodes: own, vent }, k) => {
      const left = own.filter((i) => inside.has(i) && !full[i]).length;
      this.openWidth[k] = (vent.width * left) / own.length;
      this.width += this.openWidth[k];
    });
  }

  /** Through all vents of the region at hand, kg/s. */
  private readonly outflow = (p: number, T: number): number => {
    let sum = 0;
    this.vents.forEach(({ vent, exitPressure }, k) => {
      if (!(this.openWidth[k] > 0)) return;
      sum += ventFlow({ ...vent, width: this.openWidth[k] }, { ...this.air, ambientPressure: exitPressure }, p, T);
    });
    return sum;
  };

  private meltAround(nodes: number[], full: Uint8Array, melt: Float64Array): number {
    const { grid } = this;
    let most = 0;
    for (const i of nodes)
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++)
        if (full[grid.rowNode[k]]) most = Math.max(most, melt[grid.rowNode[k]]);
    return most;
  }

  private parentOf(nodes: number[]): number {
    for (const i of nodes) if (this.trapOf[i] >= 0) return this.trapOf[i];
    return -1;
  }

  /** How many regions each trap is now in. */
  private shared(regions: number[][]): Map<number, number> {
    const counts = new Map<number, number>();
    for (const nodes of regions) {
      const parent = this.parentOf(nodes);
      if (parent >= 0) counts.set(parent, (counts.get(parent) ?? 0) + 1);
    }
    return counts;
  }

  private open(nodes: number[], volume: number, time: number, parent: OpenTrap | undefined): OpenTrap {
    const p = parent ? parent.isothermal.pressure : this.air.ambientPressure;
    const trap: OpenTrap = {
      since: time,
      volume: Math.max(volume, 1e-18),
      node: nodes[0],
      isothermal: this.pocket('isothermal', Math.max(volume, 1e-18), p),
      adiabatic: this.pocket('adiabatic', Math.max(volume, 1e-18), p),
      vented: false,
      history: [],
    };
    for (const i of nodes) this.trapOf[i] = this.traps.length;
    this.traps.push(trap);
    return trap;
  }

  /** Connected sets of nodes with space left that can be reached at all. */
  private regions(full: Uint8Array): number[][] {
    const { grid, reachable } = this;
    const empty = new Uint8Array(grid.n);
    for (let i = 0; i < grid.n; i++) if (!full[i] && reachable[i] > 0) empty[i] = 1;
    const sets = new UnionFind(grid.n);
    for (let l = 0; l < grid.linkFrom.length; l++)
      if (empty[grid.linkFrom[l]] && empty[grid.linkTo[l]]) sets.union(grid.linkFrom[l], grid.linkTo[l]);
    const byRoot = new Map<number, number[]>();
    for (let i = 0; i < grid.n; i++) {
      if (!empty[i]) continue;
      const root = sets.find(i);
      const list = byRoot.get(root);
      if (list) list.push(i);
      else byRoot.set(root, [i]);
    }
    return [...byRoot.values()];
  }

  /** Traps worth telling: not the leftovers of single cut cells, nor what closed within one step. */
  found(): AirTrap[] {
    return this.traps
      .filter(
        (t) =>
          t.volume > SMALLEST * this.grid.spacing ** 3 &&
          t.isothermal.volume < t.volume &&
          !(t.vented && t.history.every((h) => h.isothermal < FREE)),
      )
      .map((t) => ({ ...t, isothermal: airIn(t.isothermal), adiabatic: airIn(t.adiabatic) }));
  }
}
