import { alignedOf, hasFibres, shapeOf, turningOf } from '../material/fibres/defaults';
import type { FibreModel } from '../material/fibres/orientation';
import type { Aligned } from '../material/fibres/stiffness';
import { DEFAULT_FIBRES, type Closure, type Mechanics } from '../model/fibres';
import type { Resin } from '../model/resin';
import type { ShotInputs } from '../model/study';

/** Fibres of a shot, with every default filled in. */
export interface FibreSettings {
  model: FibreModel;
  closure: Closure;
  mechanics: Mechanics;
  aligned: Aligned;
}

/** null where the resin holds none, or nobody wants them followed. */
export function fibresOf({ fibres = DEFAULT_FIBRES }: Pick<ShotInputs, 'fibres'>, resin: Resin): FibreSettings | null {
  if (!resin.filler || !hasFibres(resin) || !fibres.follow) return null;
  const { closure, mechanics } = fibres;
  const aspect = fibres.aspect ?? resin.filler.aspectRatio;
  const { interaction, slowing } = fibres.turning ?? turningOf(resin, aspect);
  return {
    model: { aspect: shapeOf(resin.filler, aspect), interaction, slowing },
    closure,
    mechanics,
    aligned: alignedOf(resin, aspect, mechanics),
  };
}
