import type { Resin } from '../model/resin';
import { relaxationOf, type Relaxation } from './relaxation';

/** Share of the volume that crystals take up by which walls shrink along themselves, where nothing is known of it. */
export const TYPICAL_CRYSTAL_SHARE = 0.3;

/** What the shrinkage of a resin along its walls follows from, with what is missing filled in by its structure. */
export interface SolidLaw {
  relaxation: Relaxation;
  crystalShare: number;
  shrinkageFactor: number;
}

export const solidLawOf = (resin: Resin): SolidLaw => ({
  relaxation: resin.relaxation ?? relaxationOf(resin.structure, resin.transitionTemperature),
  crystalShare: resin.structure === 'amorphous' ? 0 : (resin.crystalShare ?? TYPICAL_CRYSTAL_SHARE),
  shrinkageFactor: resin.shrinkageFactor ?? 1,
});
