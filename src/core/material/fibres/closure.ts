import { INVARIANT, MONOMIALS, ORTHOTROPIC } from './coefficients';
import { eigenOf, frame } from '../../numerics/eigen';
import {
  determinant,
  double,
  intoFrame,
  outOfFrame,
  secondInvariant,
  sym,
  symProduct,
  symTriple,
  trace,
  type Sym,
} from './tensor';

/**
 * How the fourth moment of the directions follows from the second. `quadratic` and `hybrid`: Advani & Tucker, J. Rheol. 31
 * (1987) 751 and 34 (1990) 367; the others: see `coefficients.ts`.
 */
export const CLOSURES = ['quadratic', 'hybrid', 'orthotropic', 'orthotropic-wide', 'invariant'] as const;
export type Closure = (typeof CLOSURES)[number];

/** A : d of the fourth moment A that a closure has for a, for a symmetric d; into `out`. Values live in it: one a thread. */
export class FourthMoment {
  private readonly own = frame();
  private readonly inFrame = sym();
  private readonly square = sym();
  private readonly work = sym();

  constructor(readonly closure: Closure) {}

  contract(a: Sym, d: Sym, out: Sym): Sym {
    switch (this.closure) {
      case 'quadratic':
        return scaled(a, double(a, d), out);
      case 'hybrid':
        return this.hybrid(a, d, out);
      case 'invariant':
        return this.invariant(a, d, out);
      default:
        return this.orthotropic(a, d, out);
    }
  }

  private hybrid(a: Sym, d: Sym, out: Sym): Sym {
    const f = 1 - 27 * determinant(a);
    const linear = 1 - f;
    const [ad, dd] = [double(a, d), trace(d)];
    symProduct(a, d, this.work);
    for (let k = 0; k < 6; k++) {
      const unit = k < 3 ? 1 : 0;
      // Linear closure: -1/35 of the units, 1/7 of the pairs of units and a.
      const l = -(unit * dd + 2 * d[k]) / 35 + (unit * ad + a[k] * dd + 4 * this.work[k]) / 7;
      out[k] = linear * l + f * a[k] * ad;
    }
    return out;
  }

  private orthotropic(a: Sym, d: Sym, out: Sym): Sym {
    const { own, inFrame, work } = this;
    eigenOf(a, own);
    const A = inOwnFrame(ORTHOTROPIC[this.closure as keyof typeof ORTHOTROPIC], own.values);
    intoFrame(d, own, inFrame);
    const [x, y, z] = inFrame;
    work[0] = A[0] * x + A[3] * y + A[5] * z;
    work[1] = A[3] * x + A[1] * y + A[4] * z;
    work[2] = A[5] * x + A[4] * y + A[2] * z;
    for (let k = 3; k < 6; k++) work[k] = 2 * A[k] * inFrame[k];
    return outOfFrame(work, own, out);
  }

  private invariant(a: Sym, d: Sym, out: Sym): Sym {
    const { square, work } = this;
    const [II, III] = [secondInvariant(a), determinant(a)];
    const [b1, b2, b3, b4, b5, b6] = weights(II, III);
    symProduct(a, a, square);
    const [dd, ad, sd] = [trace(d), double(a, d), double(square, d)];
    out.fill(0);
    const add = (w: number, of: Sym) => {
      for (let k = 0; k < 6; k++) out[k] += w * of[k];
    };
    for (let k = 0; k < 3; k++) out[k] += (b1 * dd) / 3 + (b2 * ad) / 6 + (b4 * sd) / 6;
    add((2 / 3) * b1, d);
    add((b2 / 6) * dd + (b3 / 3) * ad + (b5 / 6) * sd, a);
    add((b4 / 6) * dd + (b5 / 6) * ad + (b6 / 3) * sd, square);
    add((2 / 3) * b2, symProduct(a, d, work));
    add((2 / 3) * b4, symProduct(square, d, work));
    add((2 / 3) * b3, symTriple(a, d, a, work));
    add((2 / 3) * b5, symTriple(a, d, square, work));
    add((2 / 3) * b6, symTriple(square, d, square, work));
    return out;
  }
}

function scaled(a: Sym, by: number, out: Sym): Sym {
  for (let k = 0; k < 6; k++) out[k] = by * a[k];
  return out;
}

/** A1111, A2222, A3333, A1122, A2233, A1133 in the frame of the eigenvectors, whose values fall. */
function inOwnFrame(
  rows: readonly (readonly number[])[],
  [l1, l2, l3]: ArrayLike<number> & Iterable<number>,
): number[] {
  const [x, y, z] = rows.map((c) => c[0] + c[1] * l1 + c[2] * l1 * l1 + c[3] * l2 + c[4] * l2 * l2 + c[5] * l1 * l2);
  // What is left of every eigenvalue is shared by the two others.
  const [p, q, r] = [l1 - x, l2 - y, l3 - z];
  return [x, y, z, (p + q - r) / 2, (q + r - p) / 2, (p + r - q) / 2];
}

const powers = [new Float64Array(6).fill(1), new Float64Array(6).fill(1)];
const terms = new Float64Array(MONOMIALS.length);

/** Weights of the symmetric products of unit, a and its square; the three that are not fitted follow from A : 1 = a. */
function weights(II: number, III: number): number[] {
  for (let k = 1; k < 6; k++) {
    powers[0][k] = powers[0][k - 1] * II;
    powers[1][k] = powers[1][k - 1] * III;
  }
  for (let k = 0; k < MONOMIALS.length; k++) terms[k] = powers[0][MONOMIALS[k][0]] * powers[1][MONOMIALS[k][1]];
  const of = (c: readonly number[]) => {
    let sum = 0;
    for (let k = 0; k < c.length; k++) sum += c[k] * terms[k];
    return sum;
  };
  const [b3, b4, b6] = [of(INVARIANT.beta3), of(INVARIANT.beta4), of(INVARIANT.beta6)];
  const t = 1 - 2 * II;
  const b5 = -(6 / 5) * ((2 / 3) * b3 + (7 / 6) * b4 + (b6 * (t + 2 * (1 - II))) / 3);
  const b2 = (6 / 7) * (1 - b3 / 3 - (b5 * (t - 4 * II)) / 6 - (2 * b6 * (III - II)) / 3);
  const b1 = -(3 / 5) * (b2 / 6 + (b4 * t) / 6 + (2 * b5 * III) / 3 + (2 * b6 * III) / 3);
  return [b1, b2, b3, b4, b5, b6];
}

/** Pairs of indices, as rows and columns of a stiffness: 11, 22, 33, 12, 23, 13. */
const UNITS = Array.from({ length: 6 }, (_, k) =>
  Float64Array.from({ length: 6 }, (_, m) => (m === k ? (k < 3 ? 1 : 0.5) : 0)),
);

/** All components A_ijkl of pairs ij and kl, 6 x 6, row major. */
export function fourthMoment(moment: FourthMoment, a: Sym): Float64Array {
  const A = new Float64Array(36);
  const column = sym();
  UNITS.forEach((unit, k) => {
    moment.contract(a, unit, column);
    for (let m = 0; m < 6; m++) A[6 * m + k] = column[m];
  });
  return A;
}
