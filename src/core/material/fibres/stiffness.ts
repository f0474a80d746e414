import type { Mechanics } from '../../model/fibres';
import { COLUMNS, PLACE, ROWS, type Sym } from './tensor';

/** An isotropic solid: Young's modulus [Pa], Poisson's ratio, linear expansion [1/K]. */
export interface Phase {
  young: number;
  poisson: number;
  expansion: number;
}

/** Fibres of one length over diameter, all along direction 1, at a share of the volume. */
export interface Aligned {
  fibre: Phase;
  matrix: Phase;
  share: number;
  aspect: number;
}

/**
 * A solid that is alike in all directions across 1: stiffness of pairs of indices (11, 22, 33, 12, 23, 13), 6 x 6, row major, whose shear
 * entries are C1212 and so on [Pa]; expansion along and across [1/K].
 */
export interface Solid {
  stiffness: Float64Array;
  expansion: { along: number; across: number };
}

/** Constants of a solid that is alike across 1. */
export interface Engineering {
  E1: number;
  E2: number;
  G12: number;
  nu12: number;
  nu23: number;
}

/** Aligned fibres after the chosen micromechanics. */
export function alignedSolid(by: Mechanics, a: Aligned): Solid {
  if (by === 'mori-tanaka') return moriTanaka(a);
  const constants = by === 'halpin-tsai' ? halpinTsai(a) : mixture(a);
  return { stiffness: stiffnessOf(constants), expansion: schapery(a, constants.nu12) };
}

const shearOf = ({ young, poisson }: Pick<Phase, 'young' | 'poisson'>) => young / (2 * (1 + poisson));
const bulkOf = ({ young, poisson }: Phase) => young / (3 * (1 - 2 * poisson));

/** Halpin & Kardos, Polym. Eng. Sci. 16 (1976) 344; nu23 from the plane bulk modulus of the same rule. */
export function halpinTsai({ fibre, matrix, share, aspect }: Aligned): Engineering {
  const rule = (f: number, m: number, zeta: number) => {
    const e = (f / m - 1) / (f / m + zeta);
    return (m * (1 + zeta * e * share)) / (1 - e * share);
  };
  const E1 = rule(fibre.young, matrix.young, 2 * aspect);
  const E2 = rule(fibre.young, matrix.young, 2);
  const G12 = rule(shearOf(fibre), shearOf(matrix), 1);
  const nu12 = fibre.poisson * share + matrix.poisson * (1 - share);
  const bulk = 1 / (share / bulkOf(fibre) + (1 - share) / bulkOf(matrix));
  const nu23 = Math.min(0.6, Math.max(0, 1 - (nu12 * E2) / E1 - E2 / (3 * bulk)));
  return { E1, E2, G12, nu12, nu23 };
}

/** Parallel and series rules of mixtures: upper and lower bound of each direction. */
export function mixture({ fibre, matrix, share }: Aligned): Engineering {
  const series = (f: number, m: number) => 1 / (share / f + (1 - share) / m);
  const nu12 = fibre.poisson * share + matrix.poisson * (1 - share);
  const E1 = fibre.young * share + matrix.young * (1 - share);
  const E2 = series(fibre.young, matrix.young);
  return { E1, E2, G12: series(shearOf(fibre), shearOf(matrix)), nu12, nu23: matrix.poisson };
}

/** Schapery, J. Compos. Mater. 2 (1968) 380. */
export function schapery({ fibre, matrix, share }: Aligned, nu12: number): Solid['expansion'] {
  const m = 1 - share;
  const along =
    (fibre.young * fibre.expansion * share + matrix.young * matrix.expansion * m) /
    (fibre.young * share + matrix.young * m);
  const across =
    (1 + fibre.poisson) * fibre.expansion * share + (1 + matrix.poisson) * matrix.expansion * m - along * nu12;
  return { along, across };
}

/** Stiffness of pairs of indices from engineering constants. */
export function stiffnessOf({ E1, E2, G12, nu12, nu23 }: Engineering): Float64Array {
  const normal = inverse3([
    1 / E1,
    -nu12 / E1,
    -nu12 / E1,
    -nu12 / E1,
    1 / E2,
    -nu23 / E2,
    -nu12 / E1,
    -nu23 / E2,
    1 / E2,
  ]);
  const C = new Float64Array(36);
  for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) C[6 * i + j] = normal[3 * i + j];
  C[21] = C[35] = G12;
  C[28] = E2 / (2 * (1 + nu23));
  return C;
}

/** The same back, of any stiffness whose axes are those of its frame. */
export function engineeringOf(C: Float64Array) {
  const S = inverse3([C[0], C[1], C[2], C[6], C[7], C[8], C[12], C[13], C[14]]);
  return {
    E1: 1 / S[0],
    E2: 1 / S[4],
    E3: 1 / S[8],
    nu12: -S[1] / S[0],
    nu23: -S[5] / S[4],
    G12: C[21],
    G13: C[35],
    G23: C[28],
  };
}

/** Stiffness of a solid that is alike in all directions, 6 x 6 of pairs as in `Solid`, Pa. */
export function isotropicStiffness(p: Pick<Phase, 'young' | 'poisson'>): Float64Array {
  const G = shearOf(p);
  const lambda = (p.young * p.poisson) / ((1 + p.poisson) * (1 - 2 * p.poisson));
  const C = new Float64Array(36);
  for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) C[6 * i + j] = lambda + (i === j ? 2 * G : 0);
  C[21] = C[28] = C[35] = G;
  return C;
}

/** Eshelby's tensor of a spheroid along 1 in a matrix of Poisson's ratio nu, as pairs of indices (shear: S1212 ...). */
function eshelby(aspect: number, nu: number): Float64Array {
  // A ball has no direction: the limit from either side.
  const al = Math.abs(aspect - 1) < 1e-4 ? 1 + 1e-4 : aspect;
  const [q, m, a2] = [1 - nu, 1 - 2 * nu, al * al - 1];
  const g =
    al > 1
      ? (al / a2 ** 1.5) * (al * Math.sqrt(a2) - Math.acosh(al))
      : (al / (-a2) ** 1.5) * (Math.acos(al) - al * Math.sqrt(-a2));
  const S = new Float64Array(36);
  const set = (i: number, j: number, v: number) => (S[6 * i + j] = v);
  set(0, 0, (m + (3 * al * al - 1) / a2 - (m + (3 * al * al) / a2) * g) / (2 * q));
  const s22 = (3 * al * al) / (8 * q * a2) + ((m - 9 / (4 * a2)) * g) / (4 * q);
  set(1, 1, s22);
  set(2, 2, s22);
  const s23 = ((al * al) / (2 * a2) - (m + 3 / (4 * a2)) * g) / (4 * q);
  set(1, 2, s23);
  set(2, 1, s23);
  const s21 = -(al * al) / (2 * q * a2) + (((3 * al * al) / a2 - m) * g) / (4 * q);
  set(1, 0, s21);
  set(2, 0, s21);
  const s12 = -(m + 1 / a2) / (2 * q) + ((m + 3 / (2 * a2)) * g) / (2 * q);
  set(0, 1, s12);
  set(0, 2, s12);
  set(4, 4, ((al * al) / (2 * a2) + (m - 3 / (4 * a2)) * g) / (4 * q));
  const s1212 = (m - (al * al + 1) / a2 - ((m - (3 * (al * al + 1)) / a2) * g) / 2) / (4 * q);
  set(3, 3, s1212);
  set(5, 5, s1212);
  return S;
}

/**
 * Mori & Tanaka, Acta Metall. 21 (1973) 571, with spheroids along 1 (Tandon & Weng 1984, Benveniste 1987); expansion by Levin's
 * identity (Rosen & Hashin 1970), which is exact for two phases.
 */
function moriTanaka({ fibre, matrix, share, aspect }: Aligned): Solid {
  const [Cm, Cf] = [isotropicStiffness(matrix), isotropicStiffness(fibre)];
  const difference = Cf.map((c, k) => c - Cm[k]);
  const S = eshelby(aspect, matrix.poisson);
  // Shear pairs act alone: normal ones as 3 x 3, each shear by itself. Strains of pairs 12 are eps12, S1212 counts twice.
  const normal = (M: Float64Array) => [0, 1, 2].flatMap((i) => [0, 1, 2].map((j) => M[6 * i + j]));
  const [cm, cd] = [normal(Cm), normal(difference)];
  const dilute = inverse3(plusUnit(times3(normal(S), times3(inverse3(cm), cd))));
  const A = times3(
    dilute,
    inverse3(
      plusUnit(
        dilute.map((v) => share * v),
        1 - share,
      ),
    ),
  );
  const added = times3(cd, A);
  const C = new Float64Array(36);
  for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) C[6 * i + j] = cm[3 * i + j] + share * added[3 * i + j];
  for (const k of [3, 4, 5]) {
    const [gm, gd] = [Cm[7 * k], difference[7 * k]];
    const one = 1 / (1 + (2 * S[7 * k] * gd) / gm);
    C[7 * k] = gm + (share * gd * one) / (1 - share + share * one);
  }
  const compliance = (M: number[]) => inverse3(M);
  const [S0, S1, Sm] = [compliance(normal(C)), compliance(normal(Cf)), compliance(cm)];
  const over = times3(
    S0.map((v, k) => v - Sm[k]),
    inverse3(S1.map((v, k) => v - Sm[k])),
  );
  const step = fibre.expansion - matrix.expansion;
  const expansion = [0, 1].map((i) => matrix.expansion + step * (over[3 * i] + over[3 * i + 1] + over[3 * i + 2]));
  return { stiffness: C, expansion: { along: expansion[0], across: expansion[1] } };
}

/** Mean over the directions of the fibres: Advani & Tucker, J. Rheol. 31 (1987) 751. `a4` of pairs of indices, 6 x 6. */
export function orientedStiffness(C: Float64Array, a: Sym, a4: Float64Array): Float64Array {
  const [C11, C12, C22, C23, C66] = [C[0], C[1], C[7], C[8], C[21]];
  const B1 = C11 + C22 - 2 * C12 - 4 * C66;
  const B2 = C12 - C23;
  const B3 = C66 + (C23 - C22) / 2;
  const B4 = C23;
  const B5 = (C22 - C23) / 2;
  const out = new Float64Array(36);
  const d = (i: number, j: number) => (i === j ? 1 : 0);
  const at = (i: number, j: number) => a[PLACE[3 * i + j]];
  for (let p = 0; p < 6; p++)
    for (let q = 0; q < 6; q++) {
      const [i, j, k, l] = [ROWS[p], COLUMNS[p], ROWS[q], COLUMNS[q]];
      out[6 * p + q] =
        B1 * a4[6 * p + q] +
        B2 * (at(i, j) * d(k, l) + at(k, l) * d(i, j)) +
        B3 * (at(i, k) * d(j, l) + at(i, l) * d(j, k) + at(j, k) * d(i, l) + at(j, l) * d(i, k)) +
        B4 * d(i, j) * d(k, l) +
        B5 * (d(i, k) * d(j, l) + d(i, l) * d(j, k));
    }
  return out;
}

/** Expansion of the same mean, 1/K: from the stress that a change of temperature would raise in held fibres. */
export function orientedExpansion({ stiffness: C, expansion }: Solid, mean: Float64Array, a: Sym): Sym {
  const along = C[0] * expansion.along + 2 * C[1] * expansion.across;
  const across = C[6] * expansion.along + (C[7] + C[8]) * expansion.across;
  const stress = Float64Array.from(a, (v, k) => (along - across) * v + (k < 3 ? across : 0));
  return solve6(mean, stress);
}

/** Strain under a stress (components 11, 22, 33, 12, 23, 13) of a stiffness of pairs of indices. */
export function solve6(C: Float64Array, stress: ArrayLike<number>): Float64Array {
  // Shear strains count twice in the sum over pairs.
  const M = Array.from({ length: 6 }, (_, i) => [
    ...Array.from({ length: 6 }, (_v, j) => C[6 * i + j] * (j < 3 ? 1 : 2)),
    stress[i],
  ]);
  for (let c = 0; c < 6; c++) {
    let best = c;
    for (let r = c + 1; r < 6; r++) if (Math.abs(M[r][c]) > Math.abs(M[best][c])) best = r;
    [M[c], M[best]] = [M[best], M[c]];
    for (let r = 0; r < 6; r++) {
      if (r === c) continue;
      const f = M[r][c] / M[c][c];
      for (let k = c; k < 7; k++) M[r][k] -= f * M[c][k];
    }
  }
  return Float64Array.from({ length: 6 }, (_, i) => M[i][6] / M[i][i]);
}

function times3(A: readonly number[], B: readonly number[]): number[] {
  return Array.from({ length: 9 }, (_, k) => {
    const [i, j] = [Math.floor(k / 3), k % 3];
    return A[3 * i] * B[j] + A[3 * i + 1] * B[3 + j] + A[3 * i + 2] * B[6 + j];
  });
}

const plusUnit = (A: readonly number[], unit = 1): number[] => A.map((v, k) => v + (k % 4 === 0 ? unit : 0));

function inverse3([a, b, c, d, e, f, g, h, i]: readonly number[]): number[] {
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  return [
    e * i - f * h,
    c * h - b * i,
    b * f - c * e,
    f * g - d * i,
    a * i - c * g,
    c * d - a * f,
    d * h - e * g,
    b * g - a * h,
    a * e - b * d,
  ].map((v) => v / det);
}
