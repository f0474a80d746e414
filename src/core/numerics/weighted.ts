/** Values that a share `cut` of the weight lies below and above; NaN values are left out, NaN when all are. */
export function weightedRange(values: ArrayLike<number>, weights: ArrayLike<number>, cut: number): [number, number] {
  const order = Uint32Array.from({ length: values.length }, (_, i) => i).filter((i) => Number.isFinite(values[i]));
  order.sort((a, b) => values[a] - values[b]);
  const total = order.reduce((s, i) => s + weights[i], 0);
  const at = (share: number) => {
    let sum = 0;
    for (const i of order) {
      sum += weights[i];
      if (sum >= share * total) return values[i];
    }
    return order.length ? values[order[order.length - 1]] : NaN;
  };
  return [at(cut), at(1 - cut)];
}

/** Value that half of the weight lies below. */
export const weightedMedian = (values: ArrayLike<number>, weights: ArrayLike<number>): number =>
  weightedRange(values, weights, 0.5)[0];

/** Value that a share `share` of the weight lies below; NaN when no value is finite. */
export const weightedQuantile = (values: ArrayLike<number>, weights: ArrayLike<number>, share: number): number =>
  weightedRange(values, weights, share)[0];

export function weightedMean(values: ArrayLike<number>, weights: ArrayLike<number>): number {
  let [sum, total] = [0, 0];
  for (let i = 0; i < values.length; i++) {
    sum += weights[i] * values[i];
    total += weights[i];
  }
  return sum / total;
}
