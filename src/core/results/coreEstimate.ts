import type { Resin } from '../model/resin';
import { filmOfPowerLaw } from '../solvers/core/film';

/**
 * Share of a section that stays as skin by the film of the resin alone, in a wide slit and in a round section: what melt it
 * takes at least. What freezes before the fluid comes is on top of that.
 */
export function skinEstimate({ viscosity }: Pick<Resin, 'viscosity'>): { slit: number; round: number } {
  const n = viscosity.kind === 'newtonian' ? 1 : viscosity.n;
  return { slit: filmOfPowerLaw(n, 2), round: filmOfPowerLaw(n, 3) };
}

/** Share of the cavity above which the fluid has next to nothing left to displace. */
export const NOTHING_LEFT = 0.99;
