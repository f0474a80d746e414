import { WEIGHTS, type PointMap } from '@/core/grid/surfaceMap';

/** Stands for "no value" in vertex attributes; NaN is not safe to interpolate on every GPU. */
export const NO_VALUE = 1e30;

/** The weights of a map that are not 0, those of point p from `start[p]` to `start[p + 1]`, adding up to 1. */
export interface Sparse {
  start: Uint32Array;
  nodes: Uint32Array;
  weights: Float32Array;
}

/** Worked out once a map: it is read at every frame. */
const sparse = new WeakMap<PointMap, Sparse>();
export function sparseOf(map: PointMap): Sparse {
  let known = sparse.get(map);
  if (known) return known;
  const n = map.weights.length / WEIGHTS;
  const count = map.weights.reduce((sum, w) => sum + (w ? 1 : 0), 0);
  known = { start: new Uint32Array(n + 1), nodes: new Uint32Array(count), weights: new Float32Array(count) };
  let k = 0;
  for (let p = 0; p < n; p++) {
    let total = 0;
    for (let s = WEIGHTS * p; s < WEIGHTS * (p + 1); s++) {
      const w = map.weights[s];
      if (w === 0) continue;
      known.nodes[k] = map.nodes[s];
      known.weights[k++] = w;
      total += w;
    }
    for (let j = known.start[p]; j < k; j++) known.weights[j] /= total;
    known.start[p + 1] = k;
  }
  sparse.set(map, known);
  return known;
}

/** Node values at the points of a map: weighted mean over nodes with a value; NO_VALUE where most have none. */
export const valuesAt = (map: PointMap, values: Float32Array, out: Float32Array): Float32Array =>
  meansAt(sparseOf(map), values, out);

/** The same from the weights themselves. */
export function meansAt({ start, nodes, weights }: Sparse, values: Float32Array, out: Float32Array): Float32Array {
  for (let p = 0; p < out.length; p++) {
    let sum = 0;
    let valid = 0;
    for (let k = start[p], end = start[p + 1]; k < end; k++) {
      const v = values[nodes[k]];
      if (v !== v) continue;
      sum += weights[k] * v;
      valid += weights[k];
    }
    out[p] = valid > 0.5 ? sum / valid : NO_VALUE;
  }
  return out;
}

/**
 * Fill times with those of empty nodes set a little past the end: interpolated over a triangle they
 * then draw the front as a line instead of a row of teeth. Always a new array, so that everything
 * downstream sees the change.
 */
export function timesToDraw(times: Float32Array, end: number): Float32Array {
  return times.map((t) => (t === t ? t : 1.04 * end + 1e-9));
}
