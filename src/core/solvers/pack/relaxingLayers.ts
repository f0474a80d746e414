import { T_SIZE, strainNumbers, strainTables, type FreezingResin } from './freeStrain';
import { WALLS_KERNEL } from './wallsKernel';

type Pointer = number;

/** What `assembly/walls.ts` offers; what they take is told there. */
interface Kernel {
  start(): number;
  lay(words: Pointer): void;
  freeStrain(T: number, p: number): number;
  begin(column: number, T: number, p: number): void;
  step(column: number, second: number, dt: number, T0: Pointer, T1: Pointer, p0: number, p1: number): void;
  stretch(column: number, isApart: number, strain: number, bend: number, places: Pointer): void;
  stresses(column: number, isApart: number, out: Pointer): void;
}

const PAGE = 65536;
/** Terms to a vector of the kernel. */
const LANES = 4;
/** Shares and rates of the terms, words and the arrays of one column. */
const SMALL_ROOM = 65536;
let compiled: WebAssembly.Module | null = null;

/**
 * Stress of layers whose solid relaxes, over the modulus: sums of terms that follow d(strain - free strain) and fade in
 * reduced time, each exact over a step in which the strain goes evenly (Taylor, Pister & Goudreau, Int. J. Numer. Meth.
 * Eng. 2 (1970) 45). Without relaxation a layer is a liquid above its transition and elastic below. What a step does
 * is told for a wall that keeps its length (`rest`), and for a strain of 1 spread evenly over it (`stretched`), so that
 * whoever knows the balance of forces can choose the strain. Some columns have a second direction: what the first has
 * more than that fades alike and is kept beside. The loops are in WebAssembly.
 */
export class RelaxingLayers {
  /** Over the modulus, by layer of the column of the last step. */
  readonly rest: Float64Array;
  readonly stretched: Float64Array;
  /** What `rest` is more than in the second direction. */
  readonly restApart: Float64Array;
  /** Temperatures of the column before and after the step to come, K. */
  readonly before: Float64Array;
  readonly after: Float64Array;
  private readonly out: Float64Array;
  private readonly outApart: Float64Array;
  private readonly places: Float64Array;
  private readonly kernel: Kernel;

  /** `nSecond` columns with two directions; `places` of the layers through the wall, 1 .. -1. */
  constructor(nColumns: number, nSecond: number, places: Float64Array, resin: FreezingResin) {
    const nLayers = places.length;
    const vectors = Math.ceil((resin.relaxation?.terms.length ?? 0) / LANES);
    const nTerms = LANES * vectors;
    const tables = strainTables(resin);
    const bytes = 4 * nLayers * (nColumns * (nTerms + 9) + nSecond * (nTerms + 1)) + 8 * tables.length + SMALL_ROOM;
    const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / PAGE) + 1 });
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(WALLS_KERNEL), (c) => c.charCodeAt(0)));
    const instance = new WebAssembly.Instance(compiled, { env: { memory } });
    this.kernel = instance.exports as unknown as Kernel;
    let top = this.kernel.start();
    const room = (size: number): Pointer => {
      const at = (top + 15) & ~15;
      top = at + size;
      return at;
    };
    const floats = (length: number) => new Float64Array(memory.buffer, room(8 * length), length);
    const put = (values: Float64Array): Pointer => {
      const view = floats(values.length);
      view.set(values);
      return view.byteOffset;
    };
    const singles = (values: readonly number[]): Pointer => {
      const view = new Float32Array(memory.buffer, room(4 * nTerms), nTerms);
      view.set(values);
      return view.byteOffset;
    };
    const list = resin.relaxation?.terms ?? [];
    const law = put(strainNumbers(resin));
    const shares = singles(list.map((t) => t.share));
    const rates = singles(list.map((t) => 1 / t.time));
    const unitTerms = room(4 * nLayers * nTerms);
    const unitFresh = floats(nLayers).byteOffset;
    this.rest = floats(nLayers);
    this.stretched = floats(nLayers);
    this.restApart = floats(nLayers);
    this.before = floats(nLayers);
    this.after = floats(nLayers);
    this.out = floats(nLayers);
    this.outApart = floats(nLayers);
    this.places = floats(nLayers);
    this.places.set(places);
    const tablesAt = put(tables);
    const terms = room(4 * nColumns * nLayers * nTerms);
    const fresh = room(4 * nColumns * nLayers);
    const past = room(32 * nColumns * nLayers);
    const apart = room(4 * nSecond * nLayers * nTerms);
    const freshApart = room(4 * nSecond * nLayers);
    const words = new Uint32Array(memory.buffer, room(4 * 17), 17);
    words.set([law, tablesAt, T_SIZE, shares, rates, vectors, nLayers, terms, fresh, unitTerms, unitFresh]);
    words.set(
      [this.rest.byteOffset, this.stretched.byteOffset, past, apart, freshApart, this.restApart.byteOffset],
      11,
    );
    this.kernel.lay(words.byteOffset);
  }

  /** Linear strain of plastic that nothing holds at T [K], p [Pa above the atmosphere]; only differences mean something. */
  freeStrain(T: number, p: number): number {
    return this.kernel.freeStrain(T, p);
  }

  /** Melt of T [K] under p [Pa above the atmosphere] in every layer of a column: where its path begins. */
  begin(column: number, T: number, p: number): void {
    this.kernel.begin(column, T, p);
  }

  /**
   * Step of a column from `before` to `after`, pressures p0 to p1 [Pa above the atmosphere], `dt` [s], wall as it is;
   * `second`: its number among those with two directions, or -1.
   */
  step(column: number, second: number, dt: number, p0: number, p1: number): void {
    this.kernel.step(column, second, dt, this.before.byteOffset, this.after.byteOffset, p0, p1);
  }

  /** Adds a strain, and one that goes with the place through the wall, spread evenly over the last step of a column. */
  stretch(column: number, strain: number, bend: number): void {
    this.kernel.stretch(column, 0, strain, bend, this.places.byteOffset);
  }

  /** The same to what the first direction of column `second` has more than the other. */
  stretchApart(second: number, strain: number, bend: number): void {
    this.kernel.stretch(second, 1, strain, bend, this.places.byteOffset);
  }

  /** Stress of the layers of a column over the modulus; overwritten by the next call. */
  stresses(column: number): Float64Array {
    this.kernel.stresses(column, 0, this.out.byteOffset);
    return this.out;
  }

  /** What that is more than in the second direction of column `second`; overwritten by the next call. */
  stressesApart(second: number): Float64Array {
    this.kernel.stresses(second, 1, this.outApart.byteOffset);
    return this.outApart;
  }
}
