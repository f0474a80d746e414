/** Most trials for the speed of a step, and how closely the force is met. */
const TRIALS = 14;
const FORCE_TOLERANCE = 5e-3;
/** Exponent of the force against the speed to begin with, and its limits: melts thin with shear. */
const EXPONENT = { first: 0.6, least: 0.1, most: 1.5 };
/** Most that the speed changes by from trial to trial. */
const LONGEST = 30;

/**
 * Speed [m/s] at which a press closes that wants `speed` and has a `force` [N]: all of it, or the one at which the melt
 * takes the whole force. `forceAt` solves for the flow at a speed; the last speed it was asked for is the one returned.
 * `start` is the speed of the step before. null where the force finds no speed.
 */
export function closingSpeed(
  { speed, force }: { speed: number; force: number },
  start: number,
  forceAt: (speed: number) => number,
): number | null {
  let v = start > 0 ? Math.min(speed, start) : speed;
  let before: { v: number; F: number } | null = null;
  let exponent = EXPONENT.first;
  for (let trial = 0; trial < TRIALS; trial++) {
    const F = forceAt(v);
    if (!Number.isFinite(F)) return null;
    const enough = F >= force * (1 - FORCE_TOLERANCE);
    if (F <= force * (1 + FORCE_TOLERANCE) && (enough || v >= speed * (1 - 1e-9))) return v;
    if (before && before.v !== v && F > 0 && before.F > 0) {
      const seen = Math.log(F / before.F) / Math.log(v / before.v);
      exponent = Math.min(EXPONENT.most, Math.max(EXPONENT.least, seen));
    }
    before = { v, F };
    const change = F > 0 ? Math.pow(force / F, 1 / exponent) : LONGEST;
    v = Math.min(speed, v * Math.min(LONGEST, Math.max(1 / LONGEST, change)));
  }
  return null;
}
