declare const LOCATED: unique symbol;

/**
 * Values on the nodes of a grid, one or more a node: layers, components, gates. Made by `perNode` alone, so that an
 * array of another length is no such thing.
 */
export type PerNode<A extends Float32Array | Float64Array = Float32Array> = A & { readonly [LOCATED]: 'node' };

/** Values of which none is known yet: NaN, unless another is given. */
export const perNode = (n: number, width = 1, value = NaN): PerNode =>
  new Float32Array(n * width).fill(value) as Float32Array as PerNode;

/** A copy of values that lie on the nodes of a grid of `n`. @throws RangeError when they do not. */
export function onNodes<A extends Float32Array | Float64Array>(values: A, n: number): PerNode<A> {
  if (n > 0 && values.length % n) throw new RangeError(`${values.length} values do not lie on ${n} nodes`);
  return values.slice() as A as PerNode<A>;
}

/** Results by what they are, each on the nodes of one grid; a list holds them over time. */
export type Located = Readonly<Record<string, PerNode | PerNode<Float64Array> | readonly PerNode[]>>;

/** The same results on other nodes: those of node i are what `from[i]` of the `n` nodes has. */
export function takenFrom<T extends Located>(results: T, from: Int32Array, n: number): T {
  const take = <A extends PerNode | PerNode<Float64Array>>(values: A): A => {
    const width = values.length / n;
    if (!Number.isInteger(width)) throw new RangeError(`${values.length} values do not lie on ${n} nodes`);
    const out = new (values.constructor as new (length: number) => A)(from.length * width);
    for (let i = 0; i < from.length; i++)
      for (let k = 0; k < width; k++) out[i * width + k] = values[from[i] * width + k];
    return out;
  };
  return Object.fromEntries(
    Object.entries(results).map(([id, v]) => [id, Array.isArray(v) ? v.map(take) : take(v as PerNode)]),
  ) as T;
}
