import {
  alignedOf,
  areLong,
  breakageOf,
  diameterOf,
  granuleOf,
  hasFibres,
  shapeOf,
  turningOf,
  volumeShare,
} from '../material/fibres/defaults';
import { Breaking, meanLengths } from '../material/fibres/breakage';
import { resistanceInShear } from '../material/fibres/coupling';
import type { FibreModel } from '../material/fibres/orientation';
import type { Aligned } from '../material/fibres/stiffness';
import { viscosity } from '../material/viscosity';
import { DEFAULT_FIBRES, type Closure, type FibreChoice, type Mechanics } from '../model/fibres';
import { SCREW_STRAIN } from '../model/wayNumbers';
import type { Filler, Resin } from '../model/resin';
import type { ShotInputs } from '../model/study';
import type { LengthInput } from '../solvers/fibres/lengths';
import { sphereRadius, type MigrationInput } from '../solvers/fibres/migration';
import type { CouplingInput } from '../solvers/fibres/orientationField';

/** Fibres of a shot, with every default filled in. */
export interface FibreSettings {
  model: FibreModel;
  closure: Closure;
  mechanics: Mechanics;
  aligned: Aligned;
  /** Of one fibre, m. */
  diameter: number;
  /** null: they are as long all over the part. */
  lengths: LengthInput | null;
  /** null: there are as many everywhere. */
  migration: MigrationInput | null;
  /** null: the flow knows nothing of them. */
  coupling: CouplingInput | null;
}

/** Shear rate in the screw, 1/s: an estimate. */
const SCREW_RATE = 60;

/** null where the resin holds none, or nobody wants them followed. */
export function fibresOf(
  { fibres = DEFAULT_FIBRES, cycle }: Pick<ShotInputs, 'fibres' | 'cycle'>,
  resin: Resin,
): FibreSettings | null {
  const { filler } = resin;
  if (!filler || !hasFibres(resin) || !fibres.follow) return null;
  const { closure, mechanics } = fibres;
  const given = fibres.aspect ?? filler.aspectRatio;
  const long = areLong(given) && !filler.flat;
  const diameter = diameterOf(filler);
  const melt = cycle.meltTemperature ?? resin.melt.recommended;
  const lengths = !filler.flat && (fibres.breaks ?? long) ? lengthsOf(fibres, filler, resin, given, melt) : null;
  // Those that break turn as long as they come through the nozzle.
  const aspect = lengths ? meanLengths(lengths.fresh, lengths.breakage.binLength).byWeight / diameter : given;
  const { interaction, slowing } = fibres.turning ?? turningOf(resin, aspect);
  const model = { aspect: shapeOf(filler, aspect), interaction, slowing };
  const share = volumeShare(resin);
  return {
    model,
    closure,
    mechanics,
    aligned: alignedOf(resin, given, mechanics),
    diameter,
    lengths,
    migration: (fibres.migrates ?? long) ? { share, radius: sphereRadius(diameter, aspect) } : null,
    coupling: fibres.coupled ? { aspect: model.aspect, share, resistance: resistanceInShear(model, closure) } : null,
  };
}

/** Fibres as they come through the nozzle: those of the granules, broken by the screw. */
function lengthsOf(fibres: FibreChoice, filler: Filler, resin: Resin, aspect: number, melt: number): LengthInput {
  const breakage = breakageOf(filler, fibres.granule ?? granuleOf(filler, aspect));
  const whole = new Float64Array(breakage.bins);
  whole[whole.length - 1] = 1;
  const stress = SCREW_RATE * viscosity(resin.viscosity, melt, 0, SCREW_RATE);
  const strain = fibres.screwStrain ?? SCREW_STRAIN;
  const fresh = new Breaking(breakage).after(whole, { stress, shearRate: SCREW_RATE }, strain / SCREW_RATE);
  return { breakage, fresh };
}
