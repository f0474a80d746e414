import { FIBRES_KERNEL } from './fibresKernel';

/** What `assembly/fibres.ts` offers; what the calls take is told there. */
interface Calls {
  places(): number;
  mostLayers(): number;
  model(
    closure: number,
    interaction: number,
    b1: number,
    b2: number,
    b3: number,
    b4: number,
    b5: number,
    slenderness: number,
    slowing: number,
    tolerance: number,
  ): void;
  asked(): number;
  contract(): void;
  advance(dt: number): void;
  resistance(): number;
  bytesKept(): number;
  start(): number;
  advanceLayers(n: number, kept: number, resisting: boolean): void;
}

const PAGE = 65536;
let compiled: WebAssembly.Module | null = null;

/** Loops of the fibres with the memory they work in; views of it are named as in the kernel. One a thread. */
export class FibreKernel {
  readonly calls: Calls;
  readonly tensor: Float64Array;
  readonly gradient: Float64Array;
  readonly result: Float64Array;
  /** Six numbers a layer. */
  readonly layers: Float64Array;
  /** Signed shear rate across the wall, 1/s; speed over the mean; how long the melt stays, s. Of every layer. */
  readonly shear: Float64Array;
  readonly faster: Float64Array;
  readonly stay: Float64Array;
  readonly meanGradient: Float64Array;
  readonly along: Float64Array;
  readonly across: Float64Array;
  /** How the fibres of every layer resist the flow; -1 where that has not changed. */
  readonly resistance: Float64Array;

  private readonly start: number;
  private readonly bytesKept: number;

  /** `nLayers`: of all nodes together, that `advanceLayers` is to remember. */
  constructor(nLayers = 0) {
    const memory = new WebAssembly.Memory({ initial: 1 });
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(FIBRES_KERNEL), (c) => c.charCodeAt(0)));
    const { exports } = new WebAssembly.Instance(compiled, { env: { memory } });
    this.calls = exports as unknown as Calls;
    this.bytesKept = this.calls.bytesKept();
    this.start = (this.calls.start() + 15) & ~15;
    // Views are made after it has grown: those of before would be of nothing.
    memory.grow(Math.ceil((this.start + nLayers * this.bytesKept) / PAGE) - 1);
    const most = this.calls.mostLayers();
    const lengths = [6, 9, 6, 6 * most, most, most, most, 9, 3, 3, most];
    const places = new Uint32Array(memory.buffer, this.calls.places(), lengths.length);
    const views = lengths.map((length, k) => new Float64Array(memory.buffer, places[k], length));
    [this.tensor, this.gradient, this.result, this.layers, this.shear] = views;
    [this.faster, this.stay, this.meanGradient, this.along, this.across, this.resistance] = views.slice(5);
  }

  /** What is remembered of a layer, by its number among all. */
  keptOf(layer: number): number {
    return this.start + layer * this.bytesKept;
  }
}
