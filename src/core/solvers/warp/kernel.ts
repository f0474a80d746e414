import { ELASTIC_KERNEL } from './elasticKernel';

type Pointer = number;

interface Exports {
  gradients(local: Pointer, n: number, sx: number, sy: number, sz: number, out: Pointer): void;
  rankUpdate(G: Pointer, g: Pointer, weights: Pointer, n: number): void;
  stiffness(K: Pointer, G: Pointer, lambda: number, mu: number): void;
  loads(f: Pointer, g: Pointer, weights: Pointer, strain: Pointer, n: number, lambda: number, mu: number): void;
  assemble(K: Pointer, nodes: Pointer, rows: Pointer, columns: Pointer, values: Pointer, marker: Pointer): void;
  onCorners(K: Pointer, C: Pointer): void;
  factorBlock(
    nodes: Pointer,
    rows: Pointer,
    columns: Pointer,
    values: Pointer,
    marker: Pointer,
    scratch: Pointer,
    factor: Pointer,
  ): number;
  schwarz(n: number, nodes: Pointer, factors: Pointer, r: Pointer, z: Pointer, work: Pointer): void;
  multiply(n: number, rows: Pointer, columns: Pointer, values: Pointer, x: Pointer, y: Pointer): void;
  multiplySingle(n: number, rows: Pointer, columns: Pointer, values: Pointer, x: Pointer, y: Pointer): void;
  combineSingle(y: Pointer, x: Pointer, p: number, q: number, n: number): void;
  demote(from: Pointer, to: Pointer, n: number): void;
  promote(from: Pointer, to: Pointer, n: number): void;
  dot(a: Pointer, b: Pointer, n: number, out: Pointer): void;
  combine(y: Pointer, x: Pointer, p: Pointer, q: Pointer, n: number): void;
  restrict(n: number, parents: Pointer, fine: Pointer, coarse: Pointer): void;
  prolong(n: number, parents: Pointer, coarse: Pointer, fine: Pointer): void;
  factorFront(F: Pointer, m: number, k: number): number;
  addFront(F: Pointer, m: number, S: Pointer, stride: number, n: number, at: Pointer): void;
  frontForward(panel: Pointer, m: number, k: number, index: Pointer, x: Pointer, work: Pointer): void;
  frontBackward(panel: Pointer, m: number, k: number, index: Pointer, x: Pointer, work: Pointer): void;
}

const PAGE = 65536;
const LARGEST = 65536;
let compiled: WebAssembly.Module | null = null;

/** The structure cannot be solved: what is wrong, and what to do about it. */
export class StructureError extends Error {
  constructor(
    message: string,
    readonly likely: string,
  ) {
    super(message);
  }
}

/** The system is larger than the memory that WebAssembly can address. */
const tooLarge = () =>
  new StructureError(
    'The structural system needs more than 4 GB of memory.',
    'Choose a coarser Detail for the shape, or make the part of fewer bodies.',
  );

/** Some piece of the structure has no stiffness. */
export const withoutStiffness = () =>
  new StructureError(
    'Some piece of the structure has no stiffness: its cells hold too little of the part.',
    'Choose a finer Detail. If it stays, the surface may cross itself there: mend it at the Part station.',
  );

/** Loops of `assembly/elastic.ts` with the memory they work in. Addresses are bytes. */
export class ElasticKernel {
  readonly run: Exports;
  private readonly memory = new WebAssembly.Memory({ initial: 16, maximum: LARGEST });
  private top = 64;

  constructor() {
    compiled ??= new WebAssembly.Module(Uint8Array.from(atob(ELASTIC_KERNEL), (c) => c.charCodeAt(0)));
    this.run = new WebAssembly.Instance(compiled, { env: { memory: this.memory } }).exports as unknown as Exports;
  }

  /** Zeroed space of so many bytes. Views made before may be detached by it. */
  allocate(bytes: number): Pointer {
    const at = this.top;
    this.top += Math.ceil(bytes / 16) * 16;
    const missing = this.top - this.memory.buffer.byteLength;
    if (missing > 0) {
      const pages = Math.max(Math.ceil(missing / PAGE), Math.ceil(this.memory.buffer.byteLength / PAGE / 4));
      try {
        this.memory.grow(Math.min(pages, LARGEST - this.memory.buffer.byteLength / PAGE));
      } catch {
        throw tooLarge();
      }
      if (this.top > this.memory.buffer.byteLength) throw tooLarge();
    }
    return at;
  }

  get mark(): Pointer {
    return this.top;
  }

  /** Gives back everything allocated since `mark` was read. */
  release(mark: Pointer): void {
    this.zero(mark, this.top - mark);
    this.top = mark;
  }

  f32(at: Pointer, length: number): Float32Array {
    return new Float32Array(this.memory.buffer, at, length);
  }

  f64(at: Pointer, length: number): Float64Array {
    return new Float64Array(this.memory.buffer, at, length);
  }

  i32(at: Pointer, length: number): Int32Array {
    return new Int32Array(this.memory.buffer, at, length);
  }

  put(values: Int32Array): Pointer {
    const at = this.allocate(4 * values.length);
    this.i32(at, values.length).set(values);
    return at;
  }

  zero(at: Pointer, bytes: number): void {
    new Uint8Array(this.memory.buffer, at, bytes).fill(0);
  }

  copy(to: Pointer, from: Pointer, bytes: number): void {
    new Uint8Array(this.memory.buffer).copyWithin(to, from, from + bytes);
  }
}
