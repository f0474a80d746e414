/**
 * Specific volume of a polymer against temperature and pressure. SI: T in K, p in Pa, v in m3/kg.
 * Pressures here are what goes into the Tait formula: above vacuum; the difference of an atmosphere to a
 * gauge pressure is 1e-4 of the bulk modulus, and solvers add it.
 */
export interface Tait {
  /** Transition of the solid at no pressure [K], and its rise with pressure [K/Pa]. */
  b5: number;
  b6: number;
  /** Volume at the transition [m3/kg], its rise with T [m3/(kg K)], b3 [Pa] and b4 [1/K]: melt. */
  b1m: number;
  b2m: number;
  b3m: number;
  b4m: number;
  /** The same of the solid. */
  b1s: number;
  b2s: number;
  b3s: number;
  b4s: number;
  /** What crystals have not yet taken: b7 [m3/kg] exp(b8 [1/K] (T - b5) - b9 [1/Pa] p). */
  b7: number;
  b8: number;
  b9: number;
}

/** Universal constant of the Tait equation (Zoller & Walsh 1995). */
export const TAIT_C = 0.0894;

export const ATMOSPHERE = 101325;
/** Room that parts are measured in, K. */
export const ROOM = 296.15;

/** Temperature [K] at which a melt turns solid at pressure p [Pa]. */
export const transitionAt = (m: Tait, p: number): number => m.b5 + m.b6 * p;

/**
 * Specific volume [m3/kg], two-domain modified Tait form:
 * v = v0(T) (1 - C ln(1 + p/B(T))) + vt(T, p), with the melt's constants from b5 + b6 p on upwards and
 * the solid's below it. Where b6 or b9 are not 0 the branches do not quite meet above no pressure.
 * Source: Zoller & Walsh, Standard Pressure-Volume-Temperature Data for Polymers (1995).
 */
export function specificVolume(m: Tait, T: number, p: number): number {
  const x = T - m.b5;
  if (T >= m.b5 + m.b6 * p) return (m.b1m + m.b2m * x) * (1 - TAIT_C * Math.log1p(p / (m.b3m * Math.exp(-m.b4m * x))));
  const solid = (m.b1s + m.b2s * x) * (1 - TAIT_C * Math.log1p(p / (m.b3s * Math.exp(-m.b4s * x))));
  return solid + m.b7 * Math.exp(m.b8 * x - m.b9 * p);
}

/** dv/dp at constant T within a branch [m3/(kg Pa)]. */
export function volumeSlope(m: Tait, T: number, p: number): number {
  const x = T - m.b5;
  if (T >= m.b5 + m.b6 * p) return (-TAIT_C * (m.b1m + m.b2m * x)) / (m.b3m * Math.exp(-m.b4m * x) + p);
  const B = m.b3s * Math.exp(-m.b4s * x);
  return (-TAIT_C * (m.b1s + m.b2s * x)) / (B + p) - m.b9 * m.b7 * Math.exp(m.b8 * x - m.b9 * p);
}

/** Isothermal compressibility -(1/v) dv/dp [1/Pa]. */
export const compressibility = (m: Tait, T: number, p: number): number =>
  -volumeSlope(m, T, p) / specificVolume(m, T, p);

/** Volume expansion (1/v) dv/dT at constant p [1/K] within a branch. */
export function volumeExpansion(m: Tait, T: number, p: number): number {
  const x = T - m.b5;
  const branch = (b1: number, b2: number, b3: number, b4: number) => {
    const B = b3 * Math.exp(-b4 * x);
    // d ln(1 + p/B) / dT = b4 p / (B + p).
    return b2 * (1 - TAIT_C * Math.log1p(p / B)) - ((b1 + b2 * x) * TAIT_C * b4 * p) / (B + p);
  };
  const slope =
    T >= m.b5 + m.b6 * p
      ? branch(m.b1m, m.b2m, m.b3m, m.b4m)
      : branch(m.b1s, m.b2s, m.b3s, m.b4s) + m.b8 * m.b7 * Math.exp(m.b8 * x - m.b9 * p);
  return slope / specificVolume(m, T, p);
}

/** Share of its volume that plastic frozen in at (T, p) loses until it lies in the room. */
export const volumetricShrinkage = (m: Tait, T: number, p: number): number =>
  1 - specificVolume(m, ROOM, ATMOSPHERE) / specificVolume(m, T, p);

/** Linear shrinkage when it is alike in all directions. */
export const linearShrinkage = (volumetric: number): number => 1 - Math.cbrt(1 - volumetric);

/**
 * Pressure [Pa] at which plastic of temperature T has the specific volume v; 0 when it fills the volume
 * with no pressure at all. Bisection: where branches do not meet there is no slope to follow.
 */
export function pressureAt(m: Tait, T: number, v: number, highest = 1e9): number {
  if (specificVolume(m, T, 0) <= v) return 0;
  let [low, high] = [0, highest];
  for (let k = 0; k < 60; k++) {
    const p = 0.5 * (low + high);
    if (specificVolume(m, T, p) > v) low = p;
    else high = p;
  }
  return 0.5 * (low + high);
}

/** A melt whose density is density0 exp(compressibility p) at any temperature: the solver's exact case. */
export interface PlainDensity {
  density0: number;
  compressibility: number;
}

export type DensityModel = Tait | PlainDensity;

export const isPlain = (m: DensityModel): m is PlainDensity => 'density0' in m;

/** Density [kg/m3] and its slope with pressure [kg/(m3 Pa)] at T and p. The result is overwritten by the next call. */
export function densityInto(m: DensityModel, T: number, p: number, out: { density: number; slope: number }): void {
  if (isPlain(m)) {
    out.density = m.density0 * Math.exp(m.compressibility * p);
    out.slope = m.compressibility * out.density;
    return;
  }
  const v = specificVolume(m, T, p);
  out.density = 1 / v;
  out.slope = -volumeSlope(m, T, p) / (v * v);
}
