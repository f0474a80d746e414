import type { SecondThread } from '../../stage/context';
import { ELASTIC_KERNEL } from './elasticKernel';

type Pointer = number;

/** Loops of `assembly/elastic.ts`; what they take is told there. */
interface Exports {
  makeElements(n: number, batch: Pointer, system: Pointer, scratch: Pointer, marker: Pointer, ...scale: Triple): void;
  addElement(e: number, K: Pointer, f: Pointer, system: Pointer, scratch: Pointer, marker: Pointer): void;
  gradients(local: Pointer, n: number, sx: number, sy: number, sz: number, out: Pointer): void;
  rankUpdate(G: Pointer, g: Pointer, weights: Pointer, n: number): void;
  stiffness(K: Pointer, G: Pointer, lambda: number, mu: number): void;
  fullStiffness(K: Pointer, G: Pointer, T: Pointer, g: Pointer, weights: Pointer, C: Pointer, n: number): void;
  fullLoads(f: Pointer, T: Pointer, g: Pointer, weights: Pointer, strain: Pointer, C: Pointer, n: number): void;
  loads(f: Pointer, g: Pointer, weights: Pointer, strain: Pointer, n: number, lambda: number, mu: number): void;
  factorBlocks(
    from: number,
    to: number,
    nodes: Pointer,
    rows: Pointer,
    columns: Pointer,
    values: Pointer,
    marker: Pointer,
    scratch: Pointer,
    factors: Pointer,
  ): number;
  schwarz(from: number, to: number, nodes: Pointer, factors: Pointer, r: Pointer, z: Pointer, work: Pointer): void;
  multiply(
    from: number,
    to: number,
    rows: Pointer,
    columns: Pointer,
    values: Pointer,
    x: Pointer,
    y: Pointer,
    beyond: Pointer,
    end: number,
  ): void;
  multiplySingle: Exports['multiply'];
  combineSingle(y: Pointer, x: Pointer, p: number, q: number, n: number): void;
  demote(from: Pointer, to: Pointer, n: number): void;
  promote(from: Pointer, to: Pointer, n: number): void;
  dot(a: Pointer, b: Pointer, n: number, out: Pointer): void;
  combine(y: Pointer, x: Pointer, p: Pointer, q: Pointer, n: number): void;
  restrict(n: number, parents: Pointer, fine: Pointer, coarse: Pointer): void;
  prolong(n: number, parents: Pointer, coarse: Pointer, fine: Pointer): void;
  factorFronts(
    table: Pointer,
    from: number,
    to: number,
    F: Pointer,
    index: Pointer,
    place: Pointer,
    nodes: Pointer,
    perElement: number,
    matrices: Pointer,
  ): number;
  forwardFronts(table: Pointer, from: number, to: number, x: Pointer, work: Pointer): void;
  backwardFronts(table: Pointer, from: number, to: number, x: Pointer, work: Pointer): void;
  fitStrains(from: number, to: number, given: Pointer, reach: number, scratch: Pointer, seen: Pointer): void;
}
type Triple = [number, number, number];
type Loop = keyof Exports;

/** Words that both threads watch, at the start of the memory; arguments and result follow as f64. */
const READY = 0;
const ASKED = 1;
const DONE = 2;
const LOOP = 3;
const FAILED = 4;
const CONTROL_WORDS = 8;
const RESULT = CONTROL_WORDS / 2;
const ARGUMENTS = RESULT + 1;
const MOST_ARGUMENTS = 16;
const FIRST_FREE = 256;
/** Every allocation begins here: two threads that write to one line of a cache wait for each other. */
const LINE = 128;
/** A loop takes seconds at most; a second thread silent for so long [ms] is gone. */
const PATIENCE = 300_000;

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

function instantiate(memory: WebAssembly.Memory): Exports {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(ELASTIC_KERNEL), (c) => c.charCodeAt(0)));
  return new WebAssembly.Instance(compiled, { env: { memory } }).exports as unknown as Exports;
}

/** Loops by number, the same in both threads. */
const loopsOf = (run: Exports): Loop[] => Object.keys(run).sort() as Loop[];

/**
 * The second thread's part: runs the loops an ElasticKernel asks for in the same memory. Does not return; the
 * thread is ended from outside.
 */
export function serveKernel(memory: WebAssembly.Memory): never {
  const run = instantiate(memory);
  const loops = loopsOf(run);
  const control = new Int32Array(memory.buffer, 0, CONTROL_WORDS);
  const numbers = new Float64Array(memory.buffer, 0, ARGUMENTS + MOST_ARGUMENTS);
  Atomics.store(control, READY, 1);
  for (let done = 0; ;) {
    while (Atomics.load(control, ASKED) === done) Atomics.wait(control, ASKED, done);
    const loop = run[loops[control[LOOP]]] as (...args: number[]) => number | undefined;
    try {
      numbers[RESULT] = loop(...numbers.subarray(ARGUMENTS, ARGUMENTS + loop.length)) ?? 0;
    } catch {
      control[FAILED] = 1;
    }
    Atomics.store(control, DONE, ++done);
    Atomics.notify(control, DONE);
  }
}

/**
 * Loops of `assembly/elastic.ts` with the memory they work in. Addresses are bytes. With a second thread a loop
 * may run there beside one here; without one the same loops run one after the other, with the same result.
 */
export class ElasticKernel {
  readonly run: Exports;
  private readonly memory = new WebAssembly.Memory({ initial: 16, maximum: LARGEST, shared: true });
  private readonly control = new Int32Array(this.memory.buffer, 0, CONTROL_WORDS);
  private readonly numbers = new Float64Array(this.memory.buffer, 0, ARGUMENTS + MOST_ARGUMENTS);
  private readonly loops: Loop[];
  private asked = 0;
  /** Result of a loop that had to run here. */
  private own = 0;
  private top = FIRST_FREE;
  /** Below this are numbers of what was given back. */
  private used = 0;

  /** `second` is sent the memory; it is to call `serveKernel` with it. */
  constructor(second: SecondThread | null = null) {
    this.run = instantiate(this.memory);
    this.loops = loopsOf(this.run);
    second?.post(this.memory);
  }

  /** Whether a second thread serves. */
  get isServed(): boolean {
    return Atomics.load(this.control, READY) === 1;
  }

  /** Starts a loop in the second thread, or runs it here while there is none. `wait` must follow. */
  start<L extends Loop>(loop: L, ...args: Parameters<Exports[L]>): void {
    if (!this.isServed) {
      this.own = (this.run[loop] as (...args: number[]) => number | undefined)(...args) ?? 0;
      return;
    }
    this.numbers.set(args, ARGUMENTS);
    this.control[LOOP] = this.loops.indexOf(loop);
    Atomics.store(this.control, ASKED, ++this.asked);
    Atomics.notify(this.control, ASKED);
  }

  /** Waits for the loop last started and returns its result. */
  wait(): number {
    const { control } = this;
    if (Atomics.load(control, ASKED) === 0) return this.own;
    for (;;) {
      const done = Atomics.load(control, DONE);
      if (done === this.asked) break;
      if (Atomics.wait(control, DONE, done, PATIENCE) === 'timed-out') throw new Error('The second thread is silent.');
    }
    if (control[FAILED]) throw new Error('A loop failed in the second thread.');
    return this.numbers[RESULT];
  }

  /** The same loop twice at once: here and in the second thread. */
  both<L extends Loop>(loop: L, here: Parameters<Exports[L]>, there: Parameters<Exports[L]>): [number, number] {
    this.start(loop, ...there);
    const own = (this.run[loop] as (...args: number[]) => number | undefined)(...here) ?? 0;
    return [own, this.wait()];
  }

  /** Zeroed space of so many bytes. Views made before may be detached by it. */
  allocate(bytes: number): Pointer {
    const at = this.top;
    this.top += Math.ceil(bytes / LINE) * LINE;
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
    if (at < this.used) this.zero(at, Math.min(this.top, this.used) - at);
    return at;
  }

  get mark(): Pointer {
    return this.top;
  }

  /** Gives back everything allocated since `mark` was read. */
  release(mark: Pointer): void {
    this.used = Math.max(this.used, this.top);
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

  put(values: Int32Array | Float64Array): Pointer {
    const at = this.allocate(values.byteLength);
    (values instanceof Int32Array ? this.i32(at, values.length) : this.f64(at, values.length)).set(values);
    return at;
  }

  zero(at: Pointer, bytes: number): void {
    new Uint8Array(this.memory.buffer, at, bytes).fill(0);
  }

  copy(to: Pointer, from: Pointer, bytes: number): void {
    new Uint8Array(this.memory.buffer).copyWithin(to, from, from + bytes);
  }
}
