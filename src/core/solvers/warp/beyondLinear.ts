import { bestFit, without } from '../../geometry/alignment';
import type { StructureGrid } from '../../grid/structureGrid';
import type { LargeChoice } from '../../model/warpage';
import type { StageContext } from '../../stage/context';
import { lowestBuckling } from './buckling';
import type { BeyondLinear } from './elastic';
import { LANES, lanesTogether, type Solid, type StiffnessAt, type StrainAt } from './solid';
import { GeometricModel } from './geometric';
import { largeDeflection } from './largeDeflection';

/** Bends of this share of the wall are large deflections. */
export const LARGE_FROM = 0.5;
/** So near to buckling the iteration begins this share of a wall along the mode, which symmetry may hide. */
const NEAR_BUCKLING = 1.5;
const NUDGE = 0.01;

/** What lies beyond small deflections. */
export interface Beyond {
  /** Largest bend beside even shrinkage over the usual wall. */
  bend: number;
  /** Load that would buckle the part over the one it has; null: far from it; absent where nobody looked. */
  buckling?: number | null;
  /** Balance with large deflections: whether it came to rest; null where small ones do. */
  large: { settled: boolean; iterations: number } | null;
}

export interface BeyondInput {
  structure: StructureGrid;
  solids: readonly Solid[];
  strainAt: StrainAt;
  stiffnessAt?: StiffnessAt;
  /** Usual wall, m. */
  wall: number;
  choice: LargeChoice;
}

/**
 * Buckling factor and large deflections of a structure where its linear solution asks for them. `found` is told what
 * came of it, with displacements as of the linear solution: all in the first lane; null where small ones stand.
 */
export const beyondLinear =
  (
    input: BeyondInput,
    ctx: StageContext,
    found: (beyond: Beyond, displacement: Float64Array | null) => void,
  ): BeyondLinear =>
  async (system, solution, loads) => {
    const { structure, solids, strainAt, stiffnessAt, wall, choice } = input;
    const linear = Float64Array.from(loads, (_, i) => lanesTogether(solution.displacement, i));
    const bendAt = bendOf(structure, linear);
    const bend = largest(bendAt) / wall;
    // In cells of two materials strain jumps: their energy is not that of displacements alone.
    if (choice === 'never' || solution.jumps.size || (choice === 'where-it-matters' && bend < LARGE_FROM)) {
      found({ bend, large: null }, null);
      return;
    }
    const model = await GeometricModel.of(structure, solids, strainAt, ctx, stiffnessAt);
    const length = LANES * loads.length;
    const buckling = await lowestBuckling(system, model.softening(linear), length, ctx);
    const { factor } = buckling;
    const from = new Float64Array(linear.length);
    if (factor != null && factor < NEAR_BUCKLING) {
      const most = largest(buckling.mode);
      buckling.mode.forEach((u, i) => (from[i] += (NUDGE * wall * u) / most));
    }
    const { displacement, settled, iterations } = await largeDeflection(system, model, loads, from, bendAt, ctx);
    const wide = new Float64Array(length);
    displacement.forEach((u, i) => (wide[LANES * i] = u));
    found({ bend, buckling: factor, large: { settled, iterations } }, settled ? wide : null);
  };

/** Displacements beside the nearest rigid motion and even growth, m. */
export function bendOf({ position, nNodes }: StructureGrid, displacement: Float64Array): Float64Array {
  const even = new Float64Array(nNodes).fill(1);
  return Float64Array.from(without(position, displacement, bestFit(position, displacement, even, true)));
}

function largest(bend: Float64Array): number {
  let most = 0;
  for (let k = 0; k < bend.length; k += 3) most = Math.max(most, Math.hypot(bend[k], bend[k + 1], bend[k + 2]));
  return most;
}
