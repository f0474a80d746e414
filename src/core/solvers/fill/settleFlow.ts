import type { FlowSolver, Storage } from '../melt/pressure';
import type { MachineDrive } from '../melt/drive';

/** Fluidities are followed until inlet pressure (or flow) moves by less than this in one pass. */
const PICARD_TOLERANCE = 2e-3;
const MAX_PICARD = 6;
const FIRST_PASSES = 25;
/** Most passes of a step, made while pressure (or flow) still moves by more than this share in one. */
const MOST_PASSES = 25;
const UNSETTLED = 0.02;
/** A pass that would change the fluidities by less than this (rms of ln M) is not followed by another. */
const FLUIDITY_TOLERANCE = 0.08;
/**
 * Over-relaxation of ln M. For flow at a set rate the pass converges at once, for shares between
 * parallel paths with ratio 1 - n; 1.3 balances the two for the usual n of 0.2 to 0.4.
 */
const RELAXATION = 1.3;
const SOLVER_TOLERANCE = 1e-4;

/** How closely a flow is followed; see FillInput. */
export interface Following {
  passes?: number;
  tolerance?: number;
  fluidityTolerance?: number;
}

/** The moment that is solved for: nodes with melt (1), the air's pressure [Pa] in the others, m3 that have come in, s. */
export interface Moment {
  active: Uint8Array;
  air: Float64Array;
  injected: number;
  time: number;
  /** Nothing has been solved before. */
  first: boolean;
  /** What the walls drive out of the nodes; absent: nothing. */
  source?: Storage;
  /** What is watched, where neither pressure nor flow at the inlet tells: settled when it no longer moves. */
  watch?: () => number;
}

/**
 * Flow field and fluidities that belong together, at the machine's setting and within what it can. Returns whether they
 * settled.
 */
export function settleFlow(
  solver: FlowSolver,
  drive: Pick<MachineDrive, 'wanted' | 'corrected' | 'settled'>,
  moment: Moment,
  following: Following,
): boolean {
  const { active, air, injected, time, first, source = null, watch } = moment;
  const { fluidityTolerance = FLUIDITY_TOLERANCE, tolerance = SOLVER_TOLERANCE } = following;
  const passes = first ? FIRST_PASSES : (following.passes ?? MAX_PICARD);
  // Where the usual passes do not do, more are made as long as the pressure still moves.
  const most = following.passes ?? MOST_PASSES;
  let wanted = drive.wanted(injected);
  const present = () => watch?.() ?? ('flow' in wanted ? solver.inletPressure : solver.inletFlow);
  let same = false;
  let moved = Infinity;
  for (let pass = 0; pass < passes || (moved > UNSETTLED && pass < most); pass++) {
    const previous = present();
    solver.solve(active, air, wanted, tolerance, same, source);
    same = true;
    const change = solver.updateFluidity(active, pass === 0 ? 1 : RELAXATION);
    const corrected = pass > 0 || !first ? drive.corrected(injected, solver.inletPressure, solver.inletFlow) : null;
    if (corrected) {
      wanted = corrected;
      same = false;
      continue;
    }
    // The very first pass knows no fluidity: it neither settles nor says what the machine must do.
    if (pass === 0 && first) continue;
    moved = Math.abs(present() - previous) / Math.abs(present());
    if (change < fluidityTolerance) moved = Math.min(moved, UNSETTLED);
    if (moved <= UNSETTLED && change < fluidityTolerance) break;
    if (pass > 0 && moved < PICARD_TOLERANCE) break;
  }
  drive.settled(injected, solver.inletFlow, time);
  return !(moved > UNSETTLED) || following.passes !== undefined;
}
