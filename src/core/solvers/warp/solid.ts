/** Load cases that are solved side by side. */
export const LANES = 4;
/** Components of a strain or stress: xx yy zz xy yz xz, tensor shear. */
export const COMPONENTS = 6;

/** Number k of all load cases together, from numbers with the lanes side by side. */
export function lanesTogether(values: ArrayLike<number>, k: number): number {
  let sum = 0;
  for (let lane = 0; lane < LANES; lane++) sum += values[LANES * k + lane];
  return sum;
}

/** Isotropic elastic solid. */
export interface Solid {
  /** Young's modulus, Pa. */
  young: number;
  poisson: number;
}

/** Lame's constants, Pa. */
export const lame = ({ young, poisson }: Solid) => ({
  lambda: (young * poisson) / ((1 + poisson) * (1 - 2 * poisson)),
  mu: young / (2 * (1 + poisson)),
});

/**
 * Stress-free strain of each load case at a point (m) of a body: writes COMPONENTS x LANES numbers, lanes
 * side by side.
 */
export type StrainAt = (x: number, y: number, z: number, body: number, out: Float64Array) => void;

/**
 * Stiffness at a point (m) of a body whose directions are not alike: writes 6 x 6 numbers of pairs xx yy zz xy yz xz, shear entries
 * C_xyxy and so on, Pa; false where it is the body's solid.
 */
export type StiffnessAt = (x: number, y: number, z: number, body: number, out: Float64Array) => boolean;
export const PAIRS = COMPONENTS * COMPONENTS;

/** Stress of a stiffness for a strain of tensor shear, both at a place of their own. */
export function stressOf(C: ArrayLike<number>, from: number, e: ArrayLike<number>, out: Float64Array): void {
  for (let k = 0; k < COMPONENTS; k++) {
    const at = from + COMPONENTS * k;
    const normal = C[at] * e[0] + C[at + 1] * e[1] + C[at + 2] * e[2];
    out[k] = normal + 2 * (C[at + 3] * e[3] + C[at + 4] * e[4] + C[at + 5] * e[5]);
  }
}

/** Stress of an isotropic solid for the strain at `from`. */
export function hooke(e: ArrayLike<number>, from: number, lambda: number, mu: number, out: Float64Array): void {
  const volume = lambda * (e[from] + e[from + 1] + e[from + 2]);
  for (let c = 0; c < COMPONENTS; c++) out[from + c] = 2 * mu * e[from + c] + (c < 3 ? volume : 0);
}

/** Stress at `k` times the strain whose components stand `stride` apart from `at` on. */
export const work = (s: ArrayLike<number>, k: number, e: ArrayLike<number>, at: number, stride: number) =>
  s[k] * e[at] +
  s[k + 1] * e[at + stride] +
  s[k + 2] * e[at + 2 * stride] +
  2 * (s[k + 3] * e[at + 3 * stride] + s[k + 4] * e[at + 4 * stride] + s[k + 5] * e[at + 5 * stride]);
