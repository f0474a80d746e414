/** Fills a vector with even noise between -1 and 1, the same at every call: where iterations begin. */
export function fillWithNoise(out: Float32Array | Float64Array): void {
  let seed = 12345;
  for (let i = 0; i < out.length; i++) {
    seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
    out[i] = seed / 0x40000000 - 1;
  }
}
