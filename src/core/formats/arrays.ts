/** Named typed arrays in one buffer: a JSON directory, then the data, each array at a multiple of 8. */
type Numeric = Float32Array | Float64Array | Int16Array | Int32Array | Uint32Array | Uint8Array | Int8Array;

const KINDS = { Float32Array, Float64Array, Int16Array, Int32Array, Uint32Array, Uint8Array, Int8Array } as const;
type Kind = keyof typeof KINDS;

interface Directory {
  meta: unknown;
  arrays: { name: string; kind: Kind; length: number; offset: number }[];
}

const align = (n: number) => Math.ceil(n / 8) * 8;

export function packArrays(meta: unknown, arrays: Record<string, Numeric>): Uint8Array {
  const directory: Directory = { meta, arrays: [] };
  let size = 0;
  for (const [name, array] of Object.entries(arrays)) {
    directory.arrays.push({ name, kind: array.constructor.name as Kind, length: array.length, offset: size });
    size += align(array.byteLength);
  }
  const text = new TextEncoder().encode(JSON.stringify(directory));
  const base = align(4 + text.length);
  const bytes = new Uint8Array(base + size);
  new DataView(bytes.buffer).setUint32(0, text.length, true);
  bytes.set(text, 4);
  for (const entry of directory.arrays) {
    const a = arrays[entry.name];
    bytes.set(new Uint8Array(a.buffer, a.byteOffset, a.byteLength), base + entry.offset);
  }
  return bytes;
}

/** Views into `buffer`; nothing is copied. */
export function unpackArrays(buffer: ArrayBuffer): { meta: unknown; arrays: Record<string, Numeric> } {
  const length = new DataView(buffer).getUint32(0, true);
  const directory = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))) as Directory;
  const base = align(4 + length);
  const arrays: Record<string, Numeric> = {};
  for (const { name, kind, length: n, offset } of directory.arrays)
    arrays[name] = new KINDS[kind](buffer, base + offset, n);
  return { meta: directory.meta, arrays };
}
