import { integralTo, valueAt, type Curve } from '../../material/curve';

/** Temperatures of the tables, K: from CURVE_MIN in steps of CURVE_STEP. */
export const CURVE_MIN = 150;
export const CURVE_STEP = 1;
export const CURVE_SIZE = 751;

/**
 * Specific heat and conductivity against temperature, over the constants they stand beside: heat content
 * (integral of c/c_reference, K) and k/k_reference at CURVE_MIN + i CURVE_STEP; linear in between.
 */
export interface ThermalTables {
  heat: Float64Array;
  conduct: Float64Array;
}

export function thermalTables(
  specificHeat: Curve,
  conductivity: Curve,
  reference: { specificHeat: number; conductivity: number },
): ThermalTables {
  const at = (of: (T: number) => number) =>
    Float64Array.from({ length: CURVE_SIZE }, (_, i) => of(CURVE_MIN + i * CURVE_STEP));
  return {
    heat: at((T) => integralTo(specificHeat, T) / reference.specificHeat),
    conduct: at((T) => valueAt(conductivity, T) / reference.conductivity),
  };
}

/** Value of a table at T, and its slope over a step. Beyond the ends the ends go on. */
export function tableValue(table: Float64Array, T: number): number {
  const x = Math.min(CURVE_SIZE - 1.000001, Math.max(0, (T - CURVE_MIN) / CURVE_STEP));
  const i = x | 0;
  return table[i] + (x - i) * (table[i + 1] - table[i]);
}

export function tableSlope(table: Float64Array, T: number): number {
  const i = Math.min(CURVE_SIZE - 1.000001, Math.max(0, (T - CURVE_MIN) / CURVE_STEP)) | 0;
  return (table[i + 1] - table[i]) / CURVE_STEP;
}

/** Steps of the search for a temperature. */
const INVERSIONS = 40;
const LEAST_SLOPE = 1e-9;

/** Temperature [K] at which a table that rises has a value, to `close` of that value, from a guess; NaN beyond its ends. */
export function temperatureFor(table: Float64Array, wanted: number, guess: number, close: number): number {
  let [low, high] = [CURVE_MIN, CURVE_MIN + (table.length - 1.1) * CURVE_STEP];
  if (!(wanted > tableValue(table, low)) || !(wanted < tableValue(table, high))) return NaN;
  let T = guess;
  for (let k = 0; k < INVERSIONS; k++) {
    if (!(T > low && T < high)) T = (low + high) / 2;
    const off = tableValue(table, T) - wanted;
    if (Math.abs(off) < close) break;
    if (off > 0) high = T;
    else low = T;
    T -= off / Math.max(tableSlope(table, T), LEAST_SLOPE);
  }
  return T;
}
