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
  advanceLayers(n: number): void;
}

/** Pages of 64 KiB: the kernel's own numbers fill a part of the first. */
const PAGES = 1;
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

  constructor() {
    const memory = new WebAssembly.Memory({ initial: PAGES });
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(FIBRES_KERNEL), (c) => c.charCodeAt(0)));
    const { exports } = new WebAssembly.Instance(compiled, { env: { memory } });
    this.calls = exports as unknown as Calls;
    const most = this.calls.mostLayers();
    const lengths = [6, 9, 6, 6 * most, most, most, most, 9, 3, 3];
    const places = new Uint32Array(memory.buffer, this.calls.places(), lengths.length);
    const views = lengths.map((length, k) => new Float64Array(memory.buffer, places[k], length));
    [this.tensor, this.gradient, this.result, this.layers, this.shear] = views;
    [this.faster, this.stay, this.meanGradient, this.along, this.across] = views.slice(5);
  }
}
