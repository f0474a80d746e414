import { packArrays, unpackArrays } from './arrays';

/** A tree of plain data: what can be stored, sent to another thread and named by its content. */
export type Plain =
  | null
  | undefined
  | boolean
  | number
  | string
  | Float32Array
  | Float64Array
  | Int16Array
  | Int32Array
  | Uint8Array
  | Uint32Array
  | readonly Plain[]
  | { readonly [key: string]: Plain };

/** Numbers that JSON has no word for. */
const ODD: Record<string, number> = { NaN, Infinity, '-Infinity': -Infinity, '-0': -0 };
const oddName = (x: number) => (Object.is(x, -0) ? '-0' : String(x));

type Numeric = Parameters<typeof packArrays>[1][string];

/**
 * Bytes of a tree: equal trees give equal bytes, whatever the order in which their keys were set, and `unpackTree`
 * gives back the very numbers. Keys that hold undefined are left out.
 * @throws TypeError at anything that is no plain data: a function, a map, an object with a class.
 */
export function packTree(tree: unknown): Uint8Array {
  const arrays: Record<string, Numeric> = {};
  let n = 0;
  const plain = (value: unknown, at: string): unknown => {
    if (value === null || typeof value === 'boolean' || typeof value === 'string') return value;
    if (typeof value === 'number') {
      if (Number.isFinite(value) && !Object.is(value, -0)) return value;
      return { $number: oddName(value) };
    }
    if (ArrayBuffer.isView(value)) {
      arrays[String(n)] = value as Numeric;
      return { $array: n++ };
    }
    if (Array.isArray(value)) return value.map((v, i) => (v === undefined ? null : plain(v, `${at}[${i}]`)));
    if (typeof value === 'object' && Object.getPrototypeOf(value) === Object.prototype)
      return Object.fromEntries(
        Object.entries(value)
          .filter(([, v]) => v !== undefined)
          .sort(([a], [b]) => (a < b ? -1 : 1))
          .map(([key, v]) => [key, plain(v, `${at}.${key}`)]),
      );
    throw new TypeError(`${at || 'the tree'} is no plain data`);
  };
  const meta = plain(tree, '');
  return packArrays(meta, arrays);
}

/** The tree that `packTree` has made bytes of, with arrays of its own. */
export function unpackTree(bytes: Uint8Array): unknown {
  const own = bytes.slice();
  const { meta, arrays } = unpackArrays(own.buffer as ArrayBuffer);
  const tree = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(tree);
    if (typeof value !== 'object' || value === null) return value;
    const node = value as Record<string, unknown>;
    if ('$number' in node) return ODD[node.$number as string];
    if ('$array' in node) return arrays[String(node.$array)];
    return Object.fromEntries(Object.entries(node).map(([key, v]) => [key, tree(v)]));
  };
  return tree(meta);
}

/** Name of a tree by its content: SHA-256 in hexadecimal. */
export async function treeKey(tree: unknown): Promise<string> {
  const digest = await crypto.subtle.digest('SHA-256', packTree(tree) as Uint8Array<ArrayBuffer>);
  return Array.from(new Uint8Array(digest), (b) => b.toString(16).padStart(2, '0')).join('');
}
