import { viscosity } from '../material/viscosity';
import type { Resin } from '../model/resin';
import type { BehindMaterial } from '../solvers/melt/behind';
import { CURVE_MIN, CURVE_SIZE, CURVE_STEP } from '../solvers/melt/thermalTables';

/** Shear rate [1/s] at which a melt has its zero-shear viscosity. */
const AT_REST = 1e-6;
/** Stress [Pa] at which a melt begins to thin where its model does not say: that of most plastics is near it. */
const USUAL_STRESS = 3e4;

/**
 * How fast chains cross the face of a softened plastic: over the time that its melt takes to relax, zero-shear viscosity
 * over the stress at which it thins, to which reptation is proportional (Yang & Pitchumani, Macromolecules 35 (2002)
 * 3213: share of the strength that is healed = (integral of dt / time)^(1/4) while it lasts). 0 below the transition.
 */
export function healingOf(resin: Resin): BehindMaterial['healing'] {
  const stress = thinningStress(resin);
  const rate = Float64Array.from({ length: CURVE_SIZE }, (_, i) => {
    const T = CURVE_MIN + i * CURVE_STEP;
    if (T < resin.transitionTemperature) return 0;
    const rate = stress / viscosity(resin.viscosity, T, 0, AT_REST);
    return Number.isFinite(rate) ? rate : 0;
  });
  return { rate, stress };
}

const thinningStress = ({ viscosity: model }: Resin): number =>
  'tauStar' in model && typeof model.tauStar === 'number' ? model.tauStar : USUAL_STRESS;
