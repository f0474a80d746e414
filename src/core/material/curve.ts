/** A property against temperature: points in ascending T [K]; held beyond the ends, linear in between. */
export type Curve = readonly { T: number; value: number }[];

export function valueAt(curve: Curve, T: number): number {
  let k = 1;
  while (k < curve.length - 1 && curve[k].T < T) k++;
  if (curve.length === 1 || T <= curve[0].T) return curve[0].value;
  const [a, b] = [curve[k - 1], curve[k]];
  if (T >= b.T) return b.value;
  return a.value + ((b.value - a.value) * (T - a.T)) / (b.T - a.T);
}

/** Integral of the curve from 0 K at its first value on: of a specific heat, the enthalpy. */
export function integralTo(curve: Curve, T: number): number {
  let sum = Math.min(T, curve[0].T) * curve[0].value;
  for (let k = 1; k < curve.length && curve[k - 1].T < T; k++) {
    const end = Math.min(T, curve[k].T);
    sum += 0.5 * (curve[k - 1].value + valueAt(curve, end)) * (end - curve[k - 1].T);
  }
  const last = curve[curve.length - 1];
  return T > last.T ? sum + (T - last.T) * last.value : sum;
}

/** Mean over a range of temperatures; the value there when the range is empty. */
export function meanOver(curve: Curve, from: number, to: number): number {
  if (!(Math.abs(to - from) > 1e-9)) return valueAt(curve, from);
  return (integralTo(curve, to) - integralTo(curve, from)) / (to - from);
}
