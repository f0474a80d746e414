import { FitError } from './fitViscosity';
import { leastSquares } from './leastSquares';
import { specificVolume, type Tait } from './pvt';

/** A measured point, SI: K, Pa above vacuum, m3/kg. */
export interface PvtPoint {
  T: number;
  p: number;
  v: number;
}

export interface PvtFit {
  model: Tait;
  /** Standard errors of the constants that were fitted. */
  errors: Partial<Record<keyof Tait, number>>;
  /** model / measured - 1 of each point, and its robust weight. */
  residuals: number[];
  weights: number[];
  rms: number;
  notes: string[];
}

const LEAST_MELT = 6;
const LEAST_SOLID = 6;

/** @throws FitError with what is wrong with the points. */
export function checkPvtPoints(points: readonly PvtPoint[]): void {
  points.forEach((q, k) => {
    const bad = (what: string) => new FitError(`Point ${k + 1}: ${what}`, 'Correct it or leave it out.');
    if (!(q.T > 200 && q.T < 750))
      throw bad(`${Math.round(q.T - 273.15)} °C is outside what plastics are measured at.`);
    if (!(q.p >= 0 && q.p < 1e9)) throw bad('the pressure must lie between 0 and 1000 MPa.');
    if (!(q.v > 2e-4 && q.v < 3e-3)) throw bad('the specific volume must lie between 0.2 and 3 cm³/g.');
  });
  if (points.length < LEAST_MELT + LEAST_SOLID)
    throw new FitError(
      `${points.length} points are too few for the two-domain model.`,
      'Give at least 12, of melt and solid.',
    );
  const pressures = points.map((q) => q.p);
  if (Math.max(...pressures) - Math.min(...pressures) < 2e7)
    throw new FitError(
      'The pressures span less than 20 MPa.',
      'Measure at two pressures at least, up to 100 MPa or more.',
    );
}

/**
 * Two-domain Tait constants through measured points. The transition and its rise with pressure are searched
 * on a grid that narrows, for the branches do not join smoothly; between them each branch is a robust
 * least-squares fit of its own.
 *
 * @throws FitError when the points are no good.
 */
export function fitPvt(points: readonly PvtPoint[], crystalline: boolean): PvtFit {
  checkPvtPoints(points);
  const temperatures = points.map((q) => q.T);
  const [low, high] = [Math.min(...temperatures), Math.max(...temperatures)];
  let best: PvtFit | null = null;
  let least = Infinity;
  let [b5, b6] = [0.5 * (low + high), 2e-7];
  let [reach, slope] = [0.35 * (high - low), 1.8e-7];
  for (let round = 0; round < 5; round++) {
    const [mid5, mid6] = [b5, b6];
    for (let i = -3; i <= 3; i++)
      for (let j = -1; j <= 1; j++) {
        const found = branches(points, mid5 + (i / 3) * reach, Math.max(0, mid6 + j * slope), crystalline);
        // All points count in the choice of the transition: a wrong one makes good points look wild.
        const off = found ? offOf(found) : Infinity;
        if (found && off < least) {
          [best, least] = [found, off];
          [b5, b6] = [found.model.b5, found.model.b6];
        }
      }
    reach /= 3;
    slope /= 2;
  }
  if (!best)
    throw new FitError(
      'No transition can be found: there are points of the melt or of the solid only.',
      'Give points on both sides of it.',
    );
  if (!(best.rms < 0.02))
    throw new FitError(
      `The points lie ${(100 * best.rms).toFixed(1)} % off the best fit.`,
      'Check the columns and units: temperature in °C, pressure in MPa, specific volume in cm³/g.',
    );
  return best;
}

/** Mean distance of the points from the model, each up to 2 %. */
const offOf = ({ residuals }: PvtFit): number =>
  residuals.reduce((s, r) => s + Math.min(Math.abs(r), 0.02), 0) / residuals.length;

/** Both branches for a given transition; null when one of them has too few points. */
function branches(points: readonly PvtPoint[], b5: number, b6: number, crystalline: boolean): PvtFit | null {
  const isMelt = (q: PvtPoint) => q.T >= b5 + b6 * q.p;
  const melt = points.filter(isMelt);
  const solid = points.filter((q) => !isMelt(q));
  if (melt.length < LEAST_MELT || solid.length < LEAST_SOLID) return null;
  const v0 = melt.reduce((s, q) => s + q.v, 0) / melt.length;
  const base: Tait = { b5, b6, b1m: v0, b2m: 0, b3m: 1, b4m: 0, b1s: 1, b2s: 0, b3s: 1, b4s: 0, b7: 0, b8: 0, b9: 0 };
  const asMelt = (x: readonly number[]): Tait => ({
    ...base,
    b1m: x[0] * 1e-3,
    b2m: x[1] * 1e-7,
    b3m: Math.exp(x[2]),
    b4m: x[3] * 1e-3,
  });
  const m = leastSquares(
    (x, i) => specificVolume(asMelt(x), Math.max(melt[i].T, b5 + b6 * melt[i].p), melt[i].p) / melt[i].v - 1,
    melt.length,
    [v0 * 1e3, 7, Math.log(1.2e8), 4.5],
    40,
  );
  const withMelt = asMelt(m.parameters);
  // The solid joins the melt at the transition without pressure: b7 is what is missing there.
  const asSolid = (x: readonly number[]): Tait => ({
    ...withMelt,
    b1s: x[0] * 1e-3,
    b2s: x[1] * 1e-7,
    b3s: Math.exp(x[2]),
    b4s: x[3] * 1e-3,
    b7: crystalline ? Math.max(0, withMelt.b1m - x[0] * 1e-3) : 0,
    b8: crystalline ? Math.exp(x[4]) : 0,
    b9: crystalline ? Math.exp(x[5]) * 1e-8 : 0,
  });
  const s = leastSquares(
    (x, i) =>
      specificVolume(asSolid(x), Math.min(solid[i].T, b5 + b6 * solid[i].p - 1e-6), solid[i].p) / solid[i].v - 1,
    solid.length,
    [withMelt.b1m * (crystalline ? 0.93 : 1) * 1e3, 3, Math.log(2e8), 4, ...(crystalline ? [Math.log(0.07), 0.3] : [])],
    40,
  );
  const model = asSolid(s.parameters);
  if (!(model.b2m >= 0 && model.b2s >= 0 && model.b4m >= 0 && model.b4s >= 0)) return null;
  const residuals = points.map((q) => specificVolume(model, q.T, q.p) / q.v - 1);
  const weightOf = new Map<PvtPoint, number>();
  melt.forEach((q, i) => weightOf.set(q, m.weights[i]));
  solid.forEach((q, i) => weightOf.set(q, s.weights[i]));
  const weights = points.map((q) => weightOf.get(q) ?? 1);
  const total = weights.reduce((a, b) => a + b, 0);
  const rms = Math.sqrt(residuals.reduce((a, r, i) => a + weights[i] * r * r, 0) / total);
  const errors: PvtFit['errors'] = {
    b1m: m.errors[0] * 1e-3,
    b2m: m.errors[1] * 1e-7,
    b3m: m.errors[2] * model.b3m,
    b4m: m.errors[3] * 1e-3,
    b1s: s.errors[0] * 1e-3,
    b2s: s.errors[1] * 1e-7,
    b3s: s.errors[2] * model.b3s,
    b4s: s.errors[3] * 1e-3,
    ...(crystalline ? { b8: s.errors[4] * model.b8, b9: s.errors[5] * model.b9 } : {}),
  };
  return { model, errors, residuals, weights, rms, notes: [] };
}
