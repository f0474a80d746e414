import type { Turning } from '../../model/fibres';
import { FitError } from '../fitViscosity';
import { leastSquares } from '../leastSquares';
import { Orientation } from './orientation';
import { isotropic } from './tensor';

/** Directions measured in a plate that was filled through a film along one edge. */
export interface OrientationPoint {
  /** From the edge with the gate, and wall, m. */
  distance: number;
  wall: number;
  /** Through the wall: 0 in its middle, 1 at its face. */
  place: number;
  /** Share along the flow. */
  along: number;
}

export interface TurningFit {
  turning: Turning & { interaction: { by: 'even' } };
  /** Standard errors: of C_I as a share of it, of the rate at which fibres follow as it is. */
  errors: { CI?: number; slowing?: number };
  /** Model less measured, of each point, and its robust weight. */
  residuals: number[];
  weights: number[];
  rms: number;
  notes: string[];
}

const LEAST_POINTS = 6;
/** At the face itself the melt stands, and what lies there is the front's. */
const SKIN = 0.95;
/** The closure that runs use where nobody chooses. */
const CLOSURE = 'orthotropic-wide';
/** Scatter of a fit that says little, as a share of all fibres. */
const ROUGH = 0.08;

/** Share along the flow of a plate between parallel walls, melt of power-law index n, none before another at the gate. */
export function alongInPlate(
  { interaction, slowing }: Turning,
  aspect: number,
  n: number,
): (at: Pick<OrientationPoint, 'distance' | 'wall' | 'place'>) => number {
  const follow = new Orientation({ aspect, interaction, slowing }, CLOSURE);
  return ({ distance, wall, place }) => {
    const zeta = Math.min(Math.abs(place), SKIN);
    // Speed over the mean, and its slope over the half wall.
    const speed = ((2 * n + 1) / (n + 1)) * (1 - zeta ** (1 + 1 / n));
    const slope = ((2 * n + 1) / n) * zeta ** (1 / n);
    const strain = (slope / speed) * (distance / (wall / 2));
    const a = isotropic();
    follow.advance(a, [0, 1, 0, 0, 0, 0, 0, 0, 0], strain);
    return a[0];
  };
}

/** @throws FitError with what is wrong with the points. */
export function checkOrientationPoints(points: readonly OrientationPoint[]): void {
  points.forEach((q, k) => {
    const bad = (what: string) => new FitError(`Point ${k + 1}: ${what}`, 'Correct it or leave it out.');
    if (!(q.distance > 0 && q.distance < 2)) throw bad('the distance from the gate must lie between 0 and 2000 mm.');
    if (!(q.wall > 1e-4 && q.wall < 0.05)) throw bad('the wall must lie between 0.1 and 50 mm.');
    if (!(Math.abs(q.place) <= 1)) throw bad('the place must lie between the middle (0 %) and the face (100 %).');
    if (!(q.along >= 0 && q.along <= 1)) throw bad('the share along the flow must lie between 0 and 100 %.');
  });
  if (points.length < LEAST_POINTS)
    throw new FitError(
      `${points.length} points are too few for how fibres turn.`,
      `Give at least ${LEAST_POINTS}, through the wall at two distances or more.`,
    );
  const places = points.map((q) => Math.abs(q.place));
  if (Math.max(...places) - Math.min(...places) < 0.3)
    throw new FitError(
      'All points lie at nearly one place of the wall.',
      'Measure from the middle to near the face: sheared and unsheared fibres tell the two numbers apart.',
    );
}

/**
 * Even interaction and the rate at which fibres follow, through measured shares along the flow, robust against wild ones.
 * `aspect`: length over diameter; `n`: power-law index of the melt.
 *
 * @throws FitError when the points are no good.
 */
export function fitTurning(points: readonly OrientationPoint[], aspect: number, n: number): TurningFit {
  checkOrientationPoints(points);
  const turningOf = (x: readonly number[]): TurningFit['turning'] => ({
    interaction: { by: 'even', CI: Math.min(0.1, Math.exp(x[0])) },
    slowing: Math.max(0.005, 1 / (1 + Math.exp(-x[1]))),
  });
  let of: { x: readonly number[]; at: ReturnType<typeof alongInPlate> } | null = null;
  const residual = (x: readonly number[], i: number) => {
    if (of?.x !== x) of = { x, at: alongInPlate(turningOf(x), aspect, n) };
    return of.at(points[i]) - points[i].along;
  };
  const starts = [0.003, 0.02].flatMap((CI) => [0.05, 0.5].map((s) => [Math.log(CI), Math.log(s / (1 - s))]));
  const fits = starts.map((start) => leastSquares(residual, points.length, start, 40));
  const fit = fits.reduce((a, b) => (b.rms < a.rms ? b : a));
  const turning = turningOf(fit.parameters);
  const { slowing } = turning;
  const notes: string[] = [];
  if (!Number.isFinite(fit.errors[1]) || fit.errors[1] > 2)
    notes.push('How slowly the fibres follow is hardly told: measure nearer to the gate as well.');
  if (fit.rms > ROUGH)
    notes.push('The points scatter far about the curve: the plate may not have been filled evenly from one edge.');
  const error = (value: number) => (Number.isFinite(value) ? value : undefined);
  return {
    turning,
    errors: { CI: error(fit.errors[0]), slowing: error(fit.errors[1] * slowing * (1 - slowing)) },
    residuals: points.map((_, i) => residual(fit.parameters, i)),
    weights: fit.weights,
    rms: fit.rms,
    notes,
  };
}
