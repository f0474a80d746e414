import type { FourthMoment } from './closure';
import { eigenOf, frame } from '../../numerics/eigen';
import { determinant, double, intoFrame, outOfFrame, ROWS, COLUMNS, sym, symProduct, trace, type Sym } from './tensor';

/**
 * What fibres do to each other: diffusion of their directions by even chance, C_I (Folgar & Tucker, J. Reinf. Plast.
 * Compos. 3 (1984) 98); by a tensor of the orientation and the rate of deformation, with five numbers (Phelps & Tucker, J.
 * Non-Newtonian Fluid Mech. 156 (2009) 165); or with two, less across the planes that shear (after Tseng, Chang & Hsu, J. Thermoplast.
 * Compos. Mater. 29 (2016)): C_I (1 - C_M d.d / |d.d|).
 */
export type Interaction =
  { by: 'even'; CI: number } | { by: 'five'; b: readonly number[] } | { by: 'two'; CI: number; CM: number };

export interface FibreModel {
  /** Length over diameter; below 1 for flakes. */
  aspect: number;
  interaction: Interaction;
  /** 0 .. 1: share of its rate at which the spread of directions follows; 1: all of it (Wang, O'Gara & Tucker, J. Rheol. 52 (2008) 1179). */
  slowing: number;
}

/** xi of Jeffery's equation: 1 for slender fibres, 0 for spheres, -1 for flakes. */
export const slenderness = (aspect: number): number => (aspect * aspect - 1) / (aspect * aspect + 1);

/**
 * Error of a step that is let be, root of the sum of its squares; first step and longest one, as strain. What would change by less in all
 * the strain that is left has come to rest.
 */
const TOLERANCE = 3e-4;
const STEP = { first: 0.3, longest: 4, least: 1e-3 };
const AT_REST = 1e-4;
/** How a step follows from the error of the one before. */
const SAFETY = 0.8;
const GROWTH = { most: 3, least: 0.25 };
/** Eigenvalues stay above this. */
const LEAST = 1e-9;

/** Orientation that follows a flow: rate and steps. */
export class Orientation {
  private readonly d = sym();
  private readonly w = new Float64Array(3);
  private readonly fourth = sym();
  private readonly product = sym();
  private readonly square = sym();
  private readonly diffusion = sym();
  private readonly own = frame();
  private readonly stages = [sym(), sym(), sym(), sym()];
  private readonly next = sym();
  private readonly xi: number;

  constructor(
    private readonly model: FibreModel,
    private readonly moment: FourthMoment,
  ) {
    this.xi = slenderness(model.aspect);
  }

  /** Takes the velocity gradient L_ij = du_i/dx_j, 3 x 3, row major, 1/s; returns its shear rate sqrt(2 d : d). */
  private split(L: ArrayLike<number>): number {
    const { d, w } = this;
    for (let k = 0; k < 6; k++) d[k] = 0.5 * (L[3 * ROWS[k] + COLUMNS[k]] + L[3 * COLUMNS[k] + ROWS[k]]);
    w[0] = 0.5 * (L[1] - L[3]);
    w[1] = 0.5 * (L[2] - L[6]);
    w[2] = 0.5 * (L[5] - L[7]);
    return Math.sqrt(2 * double(d, d));
  }

  /** Rates that were asked for since it was made. */
  rates = 0;

  /** da/dt for the gradient last split, into `out`. */
  private rateOf(a: Sym, shearRate: number, out: Sym): Sym {
    this.rates++;
    const { d, w, fourth, product, moment, xi } = this;
    moment.contract(a, d, fourth);
    symProduct(d, a, product);
    // Spin: W a - a W, with W12, W13, W23 in w.
    const p = w[0];
    const q = w[1];
    const r = w[2];
    out[0] = 2 * (p * a[3] + q * a[5]);
    out[1] = 2 * (r * a[4] - p * a[3]);
    out[2] = -2 * (q * a[5] + r * a[4]);
    out[3] = p * (a[1] - a[0]) + q * a[4] + r * a[5];
    out[4] = r * (a[2] - a[1]) - p * a[5] - q * a[3];
    out[5] = q * (a[2] - a[0]) + p * a[4] - r * a[3];
    for (let k = 0; k < 6; k++) out[k] += xi * (2 * product[k] - 2 * fourth[k]);
    this.spread(a, shearRate, out);
    if (this.model.slowing < 1) this.slow(a, out);
    return out;
  }

  private spread(a: Sym, shearRate: number, out: Sym): void {
    const { interaction } = this.model;
    if (interaction.by === 'even') {
      for (let k = 0; k < 6; k++) out[k] += 2 * interaction.CI * shearRate * ((k < 3 ? 1 : 0) - 3 * a[k]);
      return;
    }
    const { diffusion: C, square, product, fourth, d } = this;
    if (!(shearRate > 0)) return;
    if (interaction.by === 'five') {
      const [b1, b2, b3, b4, b5] = interaction.b;
      symProduct(a, a, square);
      symProduct(d, d, product);
      for (let k = 0; k < 6; k++)
        C[k] =
          (k < 3 ? b1 : 0) + b2 * a[k] + b3 * square[k] + (b4 * d[k]) / shearRate + (b5 * product[k]) / shearRate ** 2;
    } else {
      symProduct(d, d, product);
      const size = Math.sqrt(double(product, product));
      for (let k = 0; k < 6; k++) C[k] = interaction.CI * ((k < 3 ? 1 : 0) - (interaction.CM * product[k]) / size);
    }
    this.moment.contract(a, C, fourth);
    symProduct(C, a, product);
    const t = trace(C);
    for (let k = 0; k < 6; k++) out[k] += shearRate * (2 * C[k] - 2 * t * a[k] - 10 * product[k] + 10 * fourth[k]);
  }

  /** Eigenvalues change more slowly, their axes turn as they do. */
  private slow(a: Sym, rate: Sym): void {
    const { own, product } = this;
    eigenOf(a, own);
    intoFrame(rate, own, product);
    for (let k = 0; k < 3; k++) product[k] *= this.model.slowing;
    outOfFrame(product, own, rate);
  }

  /**
   * Moves a on by `dt` s in a steady velocity gradient, in steps of its own: third order with an error of second order
   * beside it (Bogacki & Shampine, Appl. Math. Lett. 2 (1989) 321). Sheared melt comes to rest, and costs next to nothing then.
   */
  advance(a: Sym, L: ArrayLike<number>, dt: number): void {
    const shearRate = this.split(L);
    const speed = Math.max(shearRate, Math.hypot(...this.w));
    if (!(speed * dt > 0)) return;
    const { stages, next } = this;
    const [, k2, k3] = stages;
    let [k1, , , k4] = stages;
    let left = dt;
    let h = Math.min(left, STEP.first / speed);
    this.rateOf(a, shearRate, k1);
    while (left > 1e-12 * dt) {
      if (Math.sqrt(double(k1, k1)) * left < AT_REST) return this.keep(this.add(a, left, k1));
      for (let k = 0; k < 6; k++) next[k] = a[k] + 0.5 * h * k1[k];
      this.rateOf(next, shearRate, k2);
      for (let k = 0; k < 6; k++) next[k] = a[k] + 0.75 * h * k2[k];
      this.rateOf(next, shearRate, k3);
      for (let k = 0; k < 6; k++) next[k] = a[k] + (h / 9) * (2 * k1[k] + 3 * k2[k] + 4 * k3[k]);
      this.keep(next);
      this.rateOf(next, shearRate, k4);
      for (let k = 0; k < 6; k++) k2[k] = (h * (-5 * k1[k] + 6 * k2[k] + 8 * k3[k] - 9 * k4[k])) / 72;
      const error = Math.sqrt(double(k2, k2));
      const taken = error < TOLERANCE || h * speed <= STEP.least;
      const grown = SAFETY * Math.cbrt(TOLERANCE / Math.max(error, 1e-12));
      const wanted = h * Math.min(GROWTH.most, Math.max(GROWTH.least, grown));
      if (taken) {
        left -= h;
        a.set(next);
        // The last rate of a step is the first one of the next.
        [k1, k4] = [k4, k1];
      }
      h = Math.min(left, STEP.longest / speed, Math.max(STEP.least / speed, wanted));
    }
  }

  private add(a: Sym, h: number, rate: Sym): Sym {
    for (let k = 0; k < 6; k++) a[k] += h * rate[k];
    return a;
  }

  /** Trace 1 and no eigenvalue below 0. */
  private keep(a: Sym): void {
    const t = trace(a);
    for (let k = 0; k < 6; k++) a[k] /= t;
    if (a[0] >= 0 && a[1] >= 0 && a[2] >= 0 && minorsHold(a)) return;
    const { own, product } = this;
    eigenOf(a, own);
    let sum = 0;
    for (let k = 0; k < 3; k++) sum += own.values[k] = Math.max(LEAST, own.values[k]);
    product.fill(0);
    for (let k = 0; k < 3; k++) product[k] = own.values[k] / sum;
    outOfFrame(product, own, a);
  }
}

const minorsHold = (a: Sym): boolean =>
  a[0] * a[1] - a[3] * a[3] >= 0 &&
  a[1] * a[2] - a[4] * a[4] >= 0 &&
  a[0] * a[2] - a[5] * a[5] >= 0 &&
  determinant(a) >= 0;
