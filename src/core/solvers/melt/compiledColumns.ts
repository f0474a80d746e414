import type { PressureGrid } from '../../grid/pressureGrid';
import { LN_STRESS_MIN, LN_STRESS_STEP, T_MIN, T_STEP, type StressForm } from '../../material/stressForm';
import type { Behind } from './behind';
import { Columns, halvesOf, STEPS_TO_CENTRE, TABLE_END, type SecondMelt, type Thermal, type Walls } from './columns';
import { COLUMNS_KERNEL } from './columnsKernel';
import { Num, Shape, Tait, Word } from './columnsLayout';
import { Heat } from './heat';
import { CENTRES, HALF_LAYERS, type SectionShape } from './layers';
import type { FlowSolver } from './pressure';
import { CURVE_MIN, CURVE_STEP } from './thermalTables';

interface Kernel {
  start(): number;
  lay(words: number, numbers: number): void;
  prepare(node: number, p: number): void;
  fluidityAt(node: number, apparentShearRate: number, start: number): number;
  layFlow(node: number): void;
  followHeat(change: number): void;
  layDensity(tables: number, size: number, numbers: number): void;
  sectionDensity(node: number, p: number): number;
  sectionDensities(nodes: number, n: number, densities: number, slopes: number): void;
  fullNode(
    node: number,
    volume: number,
    dt: number,
    heating: number,
    attached: number,
    melt: number,
    scale: number,
    first: number,
    last: number,
    wall0: number,
    wall1: number,
    filling: number,
    carrying: number,
  ): number;
  carryNode(
    node: number,
    values: number,
    components: number,
    perStep: number,
    carrying: number,
    fresh: number,
    right: number,
    replaces: boolean,
    stream: number,
  ): void;
  restingNode(
    node: number,
    volume: number,
    dt: number,
    scale: number,
    first: number,
    last: number,
    wall0: number,
    wall1: number,
    filling: number,
  ): number;
}

const PAGE = 65536;
let compiled: WebAssembly.Module | null = null;

/** Memory of one kernel, handed out once from the start; it never grows, so views of it stay valid. */
class KernelMemory {
  readonly kernel: Kernel;
  private readonly buffer: ArrayBuffer;
  private top: number;

  constructor(bytes: number) {
    const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / PAGE) });
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(COLUMNS_KERNEL), (c) => c.charCodeAt(0)));
    const instance = new WebAssembly.Instance(compiled, { env: { memory } });
    this.kernel = instance.exports as unknown as Kernel;
    this.buffer = memory.buffer;
    this.top = (this.kernel.start() + 15) & ~15;
  }

  private allocate(bytes: number): number {
    const at = this.top;
    this.top = (at + bytes + 15) & ~15;
    return at;
  }

  floats(length: number): Float64Array {
    return new Float64Array(this.buffer, this.allocate(8 * length), length);
  }

  words(from: ArrayLike<number>): Int32Array {
    const view = new Int32Array(this.buffer, this.allocate(4 * from.length), from.length);
    view.set(from);
    return view;
  }

  bytes(length: number): Uint8Array {
    return new Uint8Array(this.buffer, this.allocate(length), length);
  }

  put(from: ArrayLike<number>): number {
    const view = this.floats(from.length);
    view.set(from);
    return view.byteOffset;
  }
}

/** Values in the order of a layout's entries. */
const inOrder = <Entry extends string>(layout: Record<Entry, number>, values: Record<Entry, number>): number[] =>
  Object.entries<number>(values)
    .sort(([a], [b]) => layout[a as Entry] - layout[b as Entry])
    .map(([, value]) => value);

/** Numbers of a velocity. */
const VELOCITY = 3;
/** Room for the tables of one pvT model, bytes. */
const DENSITY_ROOM = 200_000;
/** Two values and a place in a list. */
const DENSITY_PER_NODE = 20;

function bytesFor(grid: PressureGrid, form: StressForm, halves: number, components: number): number {
  const perNode = 8 * ((6 + components) * HALF_LAYERS * halves + 3 + VELOCITY) + 4 * 2 + 1;
  const links = grid.linkFrom.length;
  const tables = 8 * (form.table.length + form.zeroFluidity.length + 40 * Shape.size);
  return (
    grid.n * (perNode + DENSITY_PER_NODE) + 12 * links + 8 * grid.rowNode.length + tables + DENSITY_ROOM + 4 * PAGE
  );
}

/**
 * Columns whose hot loops run in WebAssembly (assembly/columns.ts); the same numbers as Columns, which a
 * test holds it against.
 */
export class CompiledColumns extends Columns {
  readonly kernel: Kernel;
  /** Copies of what a step brings: flow of every link [m3/s] and nodes under gates. */
  readonly linkFlow: Float64Array;
  readonly pinned: Uint8Array;
  /** After a full node: heat made by shear over the capacity [K m3/s] and flow from gates [m3/s]. */
  readonly out: Float64Array;
  /** Conductances of the edges of the column that was solved last, 1/s. */
  readonly conduction: Float64Array;
  private readonly room: KernelMemory;

  /** Lets a second melt into the layers, with its share in each of them: room for one component. */
  letSecond(form: StressForm): SecondMelt {
    const n = this.grid.n * this.nLayers;
    this.second = { form, share: this.layered(1), zeroFluidity: new Float64Array(n) };
    return this.second;
  }

  /** `components`: values a layer that will be asked for by `layered`. */
  constructor(grid: PressureGrid, form: StressForm, thermal: Thermal, walls: Walls, initial: number, components = 0) {
    const memory = new KernelMemory(bytesFor(grid, form, halvesOf(walls), components));
    super(grid, form, thermal, walls, initial, (length) => memory.floats(length));
    this.kernel = memory.kernel;
    this.linkFlow = memory.floats(grid.linkFrom.length);
    this.pinned = memory.bytes(grid.n);
    this.out = memory.floats(2);
    this.conduction = memory.floats(this.nLayers + 1);
    const { tables } = thermal;
    const work = () => memory.floats(this.nLayers + 1).byteOffset;
    const words: Record<keyof typeof Word, number> = {
      nLayers: this.nLayers,
      nHalves: this.nHalves,
      temperature: this.temperature.byteOffset,
      flowShare: this.flowShare.byteOffset,
      shearHeat: this.shearHeat.byteOffset,
      zeroFluidity: this.zeroFluidity.byteOffset,
      relativeFluidity: this.relativeFluidity.byteOffset,
      layerRate: this.layerRate.byteOffset,
      wallStress: this.wallStress.byteOffset,
      peakRate: this.peakRate.byteOffset,
      neutral: this.neutral.byteOffset,
      shapeOf: memory.words(this.placeShapes(memory)).byteOffset,
      centres: memory.put(CENTRES),
      stepsToCentre: memory.put(STEPS_TO_CENTRE),
      layerFlow: work(),
      stressTable: memory.put(form.table),
      zeroTable: memory.put(form.zeroFluidity),
      rowStart: memory.words(grid.rowStart).byteOffset,
      rowNode: memory.words(grid.rowNode).byteOffset,
      rowLink: memory.words(grid.rowLink).byteOffset,
      linkFrom: memory.words(grid.linkFrom).byteOffset,
      linkFlow: this.linkFlow.byteOffset,
      pinned: this.pinned.byteOffset,
      inflow: work(),
      inflowHeat: work(),
      conduction: this.conduction.byteOffset,
      eliminated: work(),
      out: this.out.byteOffset,
      made: work(),
      relative: memory.put(new Float64Array(this.nLayers + 1).fill(1)),
      start: work(),
      heatTable: tables ? memory.put(tables.heat) : 0,
      conductTable: tables ? memory.put(tables.conduct) : 0,
    };
    const numbers: Record<keyof typeof Num, number> = {
      tableEnd: TABLE_END,
      lnStressMin: LN_STRESS_MIN,
      lnStressStep: LN_STRESS_STEP,
      zeroEnd: form.zeroFluidity.length - 1.000001,
      tMin: T_MIN,
      tStep: T_STEP,
      pressureSlope: form.pressureSlope,
      pressureShift: form.pressureShift,
      curveEnd: (tables?.heat.length ?? 0) - 1.000001,
      curveMin: CURVE_MIN,
      curveStep: CURVE_STEP,
      inside: 1 - CENTRES[HALF_LAYERS - 1],
    };
    this.kernel.lay(memory.words(inOrder(Word, words)).byteOffset, memory.put(inOrder(Num, numbers)));
    this.room = memory;
  }

  /**
   * Tables of a pvT model for `sectionDensity`: `size` values each of v0 and B of the melt, v0 and B of the
   * solid, and the crystals' part, in steps of temperature; `numbers` as the kernel takes them.
   */
  layDensity(tables: Float64Array, size: number, numbers: Record<keyof typeof Tait, number>): void {
    this.kernel.layDensity(this.room.put(tables), size, this.room.put(inOrder(Tait, numbers)));
  }

  /** Room for something that the layers carry, `components` values each, and for the work on it. */
  layered(components: number): Float64Array {
    return this.room.floats(this.grid.n * this.nLayers * components);
  }

  work(length: number): Float64Array {
    return this.room.floats(length);
  }

  /** Arrays of one value a node, and of node numbers, in the kernel's memory. */
  perNode(): Float64Array {
    return this.room.floats(this.grid.n);
  }

  nodeList(nodes: ArrayLike<number>): Int32Array {
    return this.room.words(nodes);
  }

  /** Address of every node's section shape. */
  private placeShapes(memory: KernelMemory): Int32Array {
    const placed = new Map<SectionShape, number>();
    return Int32Array.from(this.shapes, (shape) => {
      let at = placed.get(shape);
      if (at === undefined) {
        const { share, edgeFactor } = this.nHalves === 1 ? shape.half : shape.whole;
        const record = new Float64Array(Shape.size);
        record[Shape.s] = shape.s;
        for (const part of ['stress', 'first', 'one', 'lever', 'below', 'inner'] as const)
          record.set(shape[part], Shape[part]);
        record.set(share, Shape.share);
        record.set(edgeFactor, Shape.edgeFactor);
        placed.set(shape, (at = memory.put(record)));
      }
      return at;
    });
  }

  // The kernel knows one melt.
  override prepare(node: number, p: number): void {
    if (this.second) return super.prepare(node, p);
    this.kernel.prepare(node, p);
  }

  override fluidityAt(node: number, apparentShearRate: number, _pressure: number, start: number): number {
    if (this.second) return super.fluidityAt(node, apparentShearRate, _pressure, start);
    return this.kernel.fluidityAt(node, apparentShearRate, start);
  }

  override layFlow(node: number): void {
    if (this.second) return super.layFlow(node);
    this.kernel.layFlow(node);
  }
}

/** Heat of CompiledColumns: the columns are solved where they lie. */
export class CompiledHeat extends Heat {
  /** Conductance of the last half layer at the wall over one without a film, first and second wall. */
  private first = 1;
  private last = 1;

  constructor(
    grid: PressureGrid,
    private readonly compiled: CompiledColumns,
    thermal: Thermal,
    meltTemperature: number,
    reference: number,
    behind: Behind | null = null,
  ) {
    super(grid, compiled, thermal, meltTemperature, reference, behind);
  }

  protected override wallEdge(half: number, node: number): number {
    if (this.compiled.isHollow(node)) return super.wallEdge(half, node);
    return this.compiled.conduction[half === 0 ? 0 : this.compiled.nLayers];
  }

  override followHeat(change: number): void {
    super.followHeat(change);
    this.compiled.kernel.followHeat(change);
  }

  override begin(solver: FlowSolver, pinned: Uint8Array): void {
    this.compiled.linkFlow.set(solver.linkFlow);
    this.compiled.pinned.set(pinned);
  }

  protected override fullNode(i: number, dt: number, solver: FlowSolver): void {
    const { compiled, capacity, balance } = this;
    const volume = this.grid.volume[i];
    const heating = (volume * compiled.wallStress[i] ** 2) / capacity;
    const scale = this.walls(i);
    const loss = compiled.kernel.fullNode(
      i,
      volume,
      dt,
      heating,
      solver.attachedFlow[i],
      this.meltTemperature,
      scale,
      this.first,
      this.last,
      compiled.side(i, 0).temperature,
      compiled.side(i, compiled.nHalves - 1).temperature,
      this.fillingOf(i),
      this.carryingOf(i),
    );
    const [made, fresh] = compiled.out;
    balance.sheared += dt * made * capacity;
    if (fresh > 0) this.admit(fresh * dt * this.carryingOf(i));
    balance.lost += dt * volume * capacity * loss;
  }

  protected override atRest(i: number, volume: number, dt: number): void {
    const { compiled } = this;
    if (compiled.isHollow(i)) return super.atRest(i, volume, dt);
    const scale = this.walls(i);
    const loss = compiled.kernel.restingNode(
      i,
      volume,
      dt,
      scale,
      this.first,
      this.last,
      compiled.side(i, 0).temperature,
      compiled.side(i, compiled.nHalves - 1).temperature,
      this.fillingOf(i),
    );
    this.balance.lost += dt * volume * this.capacity * loss;
  }

  /** Sets what the films do to the conductances at both walls; returns the scale of all of them. */
  private walls(i: number): number {
    const { compiled, thermal } = this;
    const reach = compiled.reach[i];
    const inside = 1 - CENTRES[HALF_LAYERS - 1];
    this.first = inside + thermal.conductivity / (compiled.side(i, 0).transfer * reach);
    this.last = inside + thermal.conductivity / (compiled.side(i, compiled.nHalves - 1).transfer * reach);
    return thermal.conductivity / (reach * reach * this.capacity);
  }
}
