import type { PressureGrid } from '../../grid/pressureGrid';
import { sectionFlow } from '../../material/sectionFlow';
import { stressForm } from '../../material/stressForm';
import type { ViscosityModel } from '../../material/viscosity';
import { Core, type CoreInput } from '../core/core';
import { FibreLengths } from '../fibres/lengths';
import { FibreShares } from '../fibres/migration';
import { OrientationField, SIX, type FibreInput } from '../fibres/orientationField';
import { Behind, copyOf, type BehindSpec } from '../melt/behind';
import type { Columns, Thermal, WallSide } from '../melt/columns';
import { CompiledColumns, CompiledHeat } from '../melt/compiledColumns';
import type { FrontState } from '../melt/front';
import type { DensityModel } from '../../material/pvt';
import { Carrier, oneLayer, type Carried, type FlowingLayers } from '../melt/carrier';
import type { Heat } from '../melt/heat';
import type { Gating } from '../melt/gating';
import { ValvePins, type ValvePin } from '../melt/pins';
import { FlowSolver, type Rheology } from '../melt/pressure';
import { OpenTool, type PressInput } from '../press/openTool';
import { checkState, type FrontMemory, type ShotState } from './state';

/** Heat exchange of the melt. null in CavitySpec: it keeps its temperature (a preview). */
export interface MeltHeat extends Thermal {
  /** One entry when both walls are alike, else upper and lower half. */
  sides: WallSide[];
  /** Entry of `sides` for first and second wall of each node (2 per node). */
  sideOf: Uint8Array | Int32Array;
  /** What lies behind sides that say so; absent: the mould, everywhere. */
  behind?: BehindSpec;
  /** K; below it the melt does not flow. 0 switches the limit off. */
  noFlowTemperature: number;
  /** K; below it the melt counts as frozen. */
  transitionTemperature: number;
}

/** What stays the same from phase to phase of a shot: where the melt is, how it comes in, what it is made of. SI. */
export interface CavitySpec {
  grid: PressureGrid;
  gating: Gating;
  viscosity: ViscosityModel;
  meltTemperature: number;
  heat: MeltHeat | null;
  /** Valve pins of a feed. */
  pins?: ValvePin[];
  /** A second melt that follows the first into its core; absent: there is one melt. Needs heat. */
  second?: SecondMeltInput;
  /** A fluid that is let into the core of the melt; absent: none. Needs heat. */
  core?: CoreInput;
  /** A tool that stands open and closes on the melt; absent: it is closed all along. */
  press?: PressInput;
  /** Fibres that the melt carries; absent: none are followed. Needs heat. */
  fibres?: FibreInput;
}

/** What there is to know of a second melt. SI. */
export interface SecondMeltInput {
  viscosity: ViscosityModel;
  noFlowTemperature: number;
  density: DensityModel;
  /** Fresh melt is of it: `viscosity` and `meltTemperature` of the cavity are then its own, `first` that of the first. */
  enters: boolean;
  first: ViscosityModel;
}

/**
 * The melt at work in cavity and feed: columns, heat, flow and pins, set up from a state and written back to one. A
 * phase has it to itself; nothing of it is handed on but the state.
 */
export class Cavity {
  readonly grid: PressureGrid;
  /** With links of its own, which pins shut. */
  readonly gating: Gating;
  readonly columns: CompiledColumns | null = null;
  readonly heat: Heat | null = null;
  readonly rheology: Rheology;
  readonly solver: FlowSolver;
  readonly pins: ValvePins;
  readonly front: FrontState;
  /** Fluid in the core of the melt; null where none is let in. */
  readonly core: Core | null = null;
  /** The tool where it stands open; `grid` is then its own, with the walls that the gap gives it. */
  readonly tool: OpenTool | null = null;
  /** Directions of the fibres in every layer; null where none are followed. */
  readonly fibres: OrientationField | null = null;
  /** Share of the volume that is fibres, of every layer; null where it is the same everywhere. */
  readonly fibreShares: FibreShares | null = null;
  /** Lengths of the fibres of every node; null where they do not break. */
  readonly fibreLengths: FibreLengths | null = null;
  /** Moves what the layers of the melt carry. */
  readonly carrier: Carrier;
  /** Moves what is followed as the mean of a wall; null: nothing is. */
  private readonly ofWalls: Carrier | null = null;

  constructor(
    readonly spec: CavitySpec,
    start: ShotState,
    /** Values a layer that the melt will carry besides its temperature. */
    components = 0,
  ) {
    const { heat, fibres } = spec;
    if (spec.gating.gateOfNode.length !== spec.grid.n) throw new Error('the gating belongs to another grid');
    checkState(start, spec.grid, spec.gating);
    if (spec.press) this.tool = new OpenTool(spec.grid, spec.press, start.press);
    const grid = this.tool?.grid ?? spec.grid;
    this.grid = grid;
    this.gating = { ...spec.gating, linkFactor: spec.gating.linkFactor.slice() };
    const { held, full, fillTime } = start.node;
    this.front = { held: held.slice(), full: full.slice(), fillTime: fillTime.slice() };
    if (heat) {
      const { nLayers } = start;
      // Walls of their own: plastic that comes off them changes its contact.
      const walls = nLayers
        ? { sides: start.walls.sides.map((s) => ({ ...s })), sideOf: start.walls.sideOf.slice() }
        : { sides: heat.sides.map((s) => ({ ...s })), sideOf: heat.sideOf.slice() };
      const { second } = spec;
      const form = stressForm(second?.first ?? spec.viscosity, heat.noFlowTemperature);
      const room = components + (second ? 1 : 0) + (fibres ? SIX + (fibres.shares ? 1 : 0) : 0);
      const columns = new CompiledColumns(grid, form, heat, walls, spec.meltTemperature, room);
      if (second) {
        const { share } = columns.letSecond(stressForm(second.viscosity, second.noFlowTemperature));
        if (start.layer.second.length) share.set(start.layer.second);
      }
      const reference = Math.min(...heat.sides.map((s) => s.temperature));
      const behind = heat.behind ? new Behind(heat.behind, start.walls.behind ?? undefined) : null;
      this.heat = new CompiledHeat(grid, columns, heat, spec.meltTemperature, reference, behind);
      Object.assign(this.heat.balance, start.heat);
      this.columns = columns;
      this.tool?.attach(columns);
      this.rheology = withEntry(columns, spec);
      if (nLayers) take(columns.memory, start);
      if (spec.core) this.core = new Core(grid, columns, spec.core, heat.noFlowTemperature, start.core);
    } else this.rheology = isothermal(grid, spec);
    this.solver = new FlowSolver(grid, this.gating, this.rheology);
    take(this.solver.memory, start);
    this.solver.inletPressure = start.machine.pressure;
    this.solver.inletFlow = start.machine.flow;
    this.carrier = new Carrier(grid, this.layers, this.gating, this.heat, this.columns);
    this.carrier.passed.set(start.link.passed);
    const second = this.columns?.second;
    if (second) this.carrier.follow(secondShare(second.share, spec.second?.enters === true));
    if (fibres && this.columns) {
      const { columns } = this;
      if (fibres.shares) {
        const { fibreShare } = start.layer;
        this.fibreShares = new FibreShares(columns, fibres.shares, columns.layered(1), fibreShare);
        this.carrier.follow(this.fibreShares);
      }
      if (fibres.coupling && start.layer.relativeFluidity.length)
        columns.relativeFluidity.set(start.layer.relativeFluidity);
      const shares = this.fibreShares?.values ?? null;
      const { orientation } = start.layer;
      const [values, velocity] = [columns.layered(SIX), columns.work(3 * grid.n)];
      this.fibres = new OrientationField(grid, columns, fibres, values, velocity, orientation, shares);
      this.carrier.follow(this.fibres);
      if (fibres.lengths) {
        this.fibreLengths = new FibreLengths(grid, columns, fibres.lengths, start.ofWall.fibreLengths);
        this.ofWalls = new Carrier(grid, oneLayer(grid.n), this.gating);
        this.ofWalls.follow(this.fibreLengths);
      }
    }
    this.pins = new ValvePins(spec.pins ?? [], this.gating.linkFactor, start.machine.pins);
  }

  /** Layers of the melt: one where it has one temperature. */
  get layers(): FlowingLayers {
    return this.columns ?? (this.one ??= oneLayer(this.grid.n));
  }
  private one: FlowingLayers | null = null;

  /** All that moves what the melt carries. */
  get carriers(): Carrier[] {
    return this.ofWalls ? [this.carrier, this.ofWalls] : [this.carrier];
  }

  /** Moves all that the melt carries on by a step: see `Carrier.advance`. */
  carry(
    dt: number,
    full: Uint8Array,
    order: Int32Array,
    pinned: Uint8Array,
    before: Float64Array,
    after: Float64Array,
  ): void {
    for (const carrier of this.carriers) carrier.advance(dt, this.solver, full, order, pinned, before, after);
  }

  /** What follows the first melt in its core, fluid or second melt: share of each node's section, of a node. */
  coreShare(i: number): number {
    const { core, columns, grid } = this;
    if (core) return core.memory.volume[i] / grid.volume[i];
    const second = columns?.second;
    if (!second) return 0;
    const { share } = columns.layersOf(i);
    let sum = 0;
    for (let t = 0; t < columns.nLayers; t++) sum += share[t] * second.share[i * columns.nLayers + t];
    return sum;
  }

  /** The same of all nodes, m3. */
  get coreVolume(): number {
    if (this.core) return this.core.volume;
    if (!this.columns?.second) return 0;
    return this.front.held.reduce((s, v, i) => s + (v > 0 ? v * this.coreShare(i) : 0), 0);
  }

  /** What it holds now, in arrays of its own. */
  state(time: number, ahead: FrontMemory | null = null): ShotState {
    const { columns, solver, front, heat, pins, core, tool } = this;
    for (const field of [this.fibreShares, this.fibres, this.fibreLengths]) field?.finish();
    const own = <T extends Record<string, Float64Array | Uint8Array>>(values: T): T =>
      Object.fromEntries(Object.entries(values).map(([key, v]) => [key, v.slice()])) as unknown as T;
    const none = new Float64Array(0);
    const inColumns = columns?.memory ?? {
      node: { wallStress: none, peakRate: none, neutral: none },
      layer: { temperature: none, flowShare: none, shearHeat: none, zeroFluidity: none },
    };
    return {
      time,
      nLayers: columns?.nLayers ?? 0,
      node: own({ ...front, ...solver.memory.node, ...inColumns.node }),
      layer: {
        ...own(inColumns.layer),
        second: columns?.second?.share.slice() ?? none,
        orientation: this.fibres?.values.slice() ?? none,
        fibreShare: this.fibreShares?.values.slice() ?? none,
        relativeFluidity: columns && this.spec.fibres?.coupling ? columns.relativeFluidity.slice() : none,
      },
      ofWall: { fibreLengths: this.fibreLengths?.values.slice() ?? none },
      link: own({ ...solver.memory.link, passed: this.carrier.passed }),
      star: own(solver.memory.star),
      walls: columns
        ? {
            sides: columns.sides.map((s) => ({ ...s })),
            sideOf: Int32Array.from(columns.sideOf),
            behind: heat?.behind ? copyOf(heat.behind.memory) : null,
          }
        : { sides: [], sideOf: new Int32Array(0), behind: null },
      machine: { pressure: solver.inletPressure, flow: solver.inletFlow, pins: pins.places() },
      heat: heat ? { ...heat.balance } : { carriedIn: 0, sheared: 0, lost: 0 },
      core: core && own({ ...core.memory }),
      press: tool && tool.memory,
      front: ahead,
    };
  }
}

/** Share of a second melt in the layers: all of what comes in, or nothing. */
const secondShare = (values: Float64Array, enters: boolean): Carried => ({
  name: 'second melt',
  components: 1,
  values,
  sharp: true,
  freshOf: () => [enters ? 1 : 0],
});

type Groups = Record<string, Record<string, Float64Array>>;

/** Sets every array of `memory` to that of the same place in the state. */
function take(memory: Groups, state: ShotState): void {
  for (const [place, values] of Object.entries(memory))
    for (const [name, array] of Object.entries(values)) array.set((state as unknown as Groups)[place][name]);
}

/** Shape exponent of the section that a gate's entry is reckoned with: a slab's. */
const ENTRY_SHAPE = 2;

/** What the columns say, and melt of the temperature of its source in the gates. */
function withEntry(columns: Columns, { viscosity, meltTemperature }: CavitySpec): Rheology {
  return {
    fluidityAt: (node, rate, p, start) => columns.fluidityAt(node, rate, p, start),
    enteringAt: (gateNode, rate, p) => {
      const T = gateNode < 0 ? meltTemperature : columns.bulkTemperature(gateNode);
      return 1 / sectionFlow(viscosity, T).effectiveViscosity(rate, ENTRY_SHAPE, Math.max(0, p));
    },
  };
}

/** A melt of one temperature: no columns, the section's closed relation serves every node. */
function isothermal(grid: PressureGrid, { viscosity, meltTemperature }: CavitySpec): Rheology {
  const flow = sectionFlow(viscosity, meltTemperature);
  return { fluidityAt: (node, rate, p) => 1 / flow.effectiveViscosity(rate, grid.shape[node], p) };
}
