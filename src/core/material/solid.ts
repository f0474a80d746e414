import type { Resin } from '../model/resin';
import { relaxationOf, type Relaxation } from './relaxation';

/** Share of the volume that crystals take up by which walls shrink along themselves, where nothing is known of it. */
export const TYPICAL_CRYSTAL_SHARE = 0.3;

/** What the shrinkage of a resin along its walls follows from, with what is missing filled in by its structure. */
export interface SolidLaw {
  relaxation: Relaxation;
  crystalShare: number;
  quenchLoss: number;
  shrinkageFactor: number;
  /** Per decade of time in the room. */
  afterShrinkage: number;
}

/**
 * Share of the crystals that a tenfold cooling rate leaves out: polypropylene's density falls by 1 % a decade from 1 to
 * 100 K/s, a tenth of what its crystals take up (Brucato, Piccarolo & La Carrubba, Chem. Eng. Sci. 57 (2002) 4129). An
 * estimate for the others: less where crystals grow fast, more where they grow slowly.
 */
export const TYPICAL_QUENCH_LOSS = 0.08;

/**
 * Linear strain per decade of time by which crystalline plastics shrink on in the room: their volume falls with the
 * logarithm of time, for polypropylene by about 1e-3 a decade (Struik, Polymer 28 (1987) 1521). An estimate for all.
 */
const TYPICAL_AFTER_SHRINKAGE = 3e-4;

export const solidLawOf = (resin: Resin): SolidLaw => ({
  relaxation: resin.relaxation ? summed(resin.relaxation) : relaxationOf(resin.structure, resin.transitionTemperature),
  crystalShare: resin.structure === 'amorphous' ? 0 : (resin.crystalShare ?? TYPICAL_CRYSTAL_SHARE),
  quenchLoss: resin.structure === 'amorphous' ? 0 : (resin.quenchLoss ?? TYPICAL_QUENCH_LOSS),
  shrinkageFactor: resin.shrinkageFactor ?? 1,
  afterShrinkage: resin.afterShrinkage ?? (resin.structure === 'amorphous' ? 0 : TYPICAL_AFTER_SHRINKAGE),
});

/** With shares that sum to 1. */
function summed(relaxation: Relaxation): Relaxation {
  const sum = relaxation.terms.reduce((s, t) => s + t.share, 0);
  return { ...relaxation, terms: relaxation.terms.map((t) => ({ ...t, share: t.share / sum })) };
}

/** Elasticity of the plastic, alike in all directions: the mean of along and across the flow. */
export const plasticSolid = ({ elastic }: Resin) => ({
  young: (elastic.E1 + elastic.E2) / 2,
  poisson: elastic.nu12,
});

/** Strain at which filled and plain thermoplastics yield or break, about: a rule of thumb where the data say nothing. */
export const STRAIN_AT_YIELD = 0.02;

/** Tensile strength along the flow, Pa. */
export const strengthOf = ({ strength, elastic }: Resin): number => strength ?? STRAIN_AT_YIELD * elastic.E1;
