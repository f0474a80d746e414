import { leastSquares, type Fit } from './leastSquares';
import { viscosity, type ViscosityModel } from './viscosity';

/** A measured point, SI: K, Pa above the atmosphere, 1/s, Pa s. */
export interface ViscosityPoint {
  T: number;
  p: number;
  shearRate: number;
  viscosity: number;
}

export type CrossWlf = Extract<ViscosityModel, { kind: 'cross-wlf' }>;

export interface ViscosityFit {
  model: CrossWlf;
  /** Standard errors; that of D1 as a share of it. */
  errors: Partial<Record<'n' | 'tauStar' | 'D1' | 'A1' | 'D3', number>>;
  /** ln(model / measured) of each point, and its robust weight. */
  residuals: number[];
  weights: number[];
  /** Root mean square of the residuals: the scatter, as a share. */
  rms: number;
  notes: string[];
}

/** Points are of no use, or too few or too much alike to say anything. */
export class FitError extends Error {
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message);
    this.name = 'FitError';
  }
}

const A2 = 51.6;
const LEAST_POINTS = 6;
/** Pressures must span this much before the influence of pressure is fitted, Pa. */
const PRESSURE_SPAN = 2e7;

/** @throws FitError with what is wrong with the points. */
export function checkViscosityPoints(points: readonly ViscosityPoint[]): void {
  points.forEach((q, k) => {
    const bad = (what: string) => new FitError(`Point ${k + 1}: ${what}`, 'Correct it or leave it out.');
    if (!(q.shearRate > 0)) throw bad('the shear rate must be above zero.');
    if (!(q.viscosity > 0)) throw bad('the viscosity must be above zero.');
    if (!(q.T > 250 && q.T < 750)) throw bad(`${Math.round(q.T - 273.15)} °C is no temperature of a melt.`);
    if (!(q.p >= 0 && q.p < 1e9)) throw bad('the pressure must lie between 0 and 1000 MPa.');
  });
  if (points.length < LEAST_POINTS)
    throw new FitError(
      `${points.length} points are too few for the Cross-WLF model.`,
      `Give at least ${LEAST_POINTS}.`,
    );
  const span = (of: (q: ViscosityPoint) => number) => Math.max(...points.map(of)) - Math.min(...points.map(of));
  if (span((q) => q.T) < 5)
    throw new FitError(
      'All points are at one temperature.',
      'Measure at two temperatures at least, 20 K apart or more.',
    );
  if (span((q) => Math.log10(q.shearRate)) < 1)
    throw new FitError(
      'The shear rates span less than a factor of ten.',
      'Measure over two orders of magnitude or more.',
    );
}

/**
 * Cross-WLF constants through measured points, robust against wild ones, by the logarithm of the viscosity.
 * `reference` is D2 [K], which the points alone cannot tell from A1 and D1; near the glass transition is
 * usual. D3 is fitted when the pressures span 20 MPa, else kept at `D3`.
 *
 * @throws FitError when the points are no good, or the fit ends at constants of no real melt.
 */
export function fitViscosity(points: readonly ViscosityPoint[], reference: number, D3 = 0): ViscosityFit {
  checkViscosityPoints(points);
  const lowest = Math.min(...points.map((q) => q.T));
  if (reference - A2 >= lowest - 1)
    throw new FitError(
      'The reference temperature lies too far above the points.',
      'Give one near the glass transition.',
    );
  const pressures = points.map((q) => q.p);
  const withPressure = Math.max(...pressures) - Math.min(...pressures) >= PRESSURE_SPAN;
  const middle = points.reduce((s, q) => s + q.T, 0) / points.length;
  const arm = (T: number) => (T - reference) / (A2 + T - reference);
  const modelOf = (x: readonly number[]): CrossWlf => {
    const A1 = x[3];
    // ln eta0 in the middle of the points is what they know best; D1 follows from it.
    const lnD1 = x[2] + A1 * arm(middle);
    return {
      kind: 'cross-wlf',
      n: 1 / (1 + Math.exp(-x[0])),
      tauStar: Math.exp(x[1]),
      D1: Math.exp(Math.min(lnD1, 300)),
      D2: reference,
      D3: withPressure ? x[4] * 1e-7 : D3,
      A1,
      A2,
    };
  };
  const residual = (x: readonly number[], i: number) => {
    const q = points[i];
    return Math.log(viscosity(modelOf(x), q.T, q.p, q.shearRate) / q.viscosity);
  };
  const highest = Math.max(...points.map((q) => q.viscosity));
  const tries = [0.25, 0.45].map((n) => {
    const start = [Math.log(n / (1 - n)), Math.log(5e4), Math.log(highest), 28, ...(withPressure ? [1] : [])];
    return leastSquares(residual, points.length, start);
  });
  const fit = tries.reduce((best, t) => (t.rms < best.rms ? t : best));
  return told(fit, modelOf(fit.parameters), withPressure);
}

function told(fit: Fit, model: CrossWlf, withPressure: boolean): ViscosityFit {
  if (!(fit.rms < 0.5))
    throw new FitError(
      `The points scatter by ${Math.round(100 * fit.rms)} % around the best fit.`,
      'Check the units and the columns: shear rate in 1/s, temperature in °C, viscosity in Pa·s.',
    );
  if (!(model.A1 > 0))
    throw new FitError('The viscosity rises with temperature in these points.', 'Check the columns and units.');
  const notes: string[] = [];
  if (!(model.n > 0.05 && model.n < 0.9))
    notes.push(`n of ${model.n.toFixed(2)} is unusual: the points may not reach the power law.`);
  if (!(model.tauStar > 500 && model.tauStar < 2e6))
    notes.push('tau* is unusual: the points may not reach the plateau of low shear rates.');
  const [eN, eTau, eEta, eA1, eD3] = fit.errors;
  const { n, tauStar } = model;
  const errors: ViscosityFit['errors'] = { n: n * (1 - n) * eN, tauStar: tauStar * eTau, D1: eEta, A1: eA1 };
  if (withPressure) errors.D3 = 1e-7 * eD3;
  return { model, errors, residuals: fit.residuals, weights: fit.weights, rms: fit.rms, notes };
}
