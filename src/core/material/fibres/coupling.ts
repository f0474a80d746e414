import type { Closure } from '../../model/fibres';
import { Orientation, type FibreModel } from './orientation';
import { isotropic } from './tensor';

/** Strain after which sheared fibres have long come to rest, over the rate at which they follow. */
const AT_REST = 300;
/** Shear in a plane, 1/s. */
const SHEAR = [0, 1, 0, 0, 0, 0, 0, 0, 0];

/**
 * Stress that fibres add, over that of the melt between them, for a resistance of 1: N of sigma = 2 eta (d + N A:d), for slender
 * fibres that lie alike, a mean distance apart (Dinh & Armstrong, J. Rheol. 28 (1984) 207). 0 for what is not slender.
 */
export function fibreDrag(share: number, aspect: number): number {
  const apart = Math.log(Math.sqrt(Math.PI / Math.min(share, 0.9)));
  return aspect > 1 && share > 0 ? (share * aspect * aspect) / (3 * apart) : 0;
}

/**
 * Resistance of fibres to a flow, d:A:d / d:d, when it is simple shear that they have come to rest in: that is how they lie where a
 * viscosity is measured, so that the data hold for it.
 */
export function resistanceInShear(model: FibreModel, closure: Closure): number {
  const orientation = new Orientation(model, closure);
  const a = isotropic();
  orientation.advance(a, SHEAR, AT_REST / model.slowing);
  return orientation.resistance(a, SHEAR);
}

/**
 * Fluidity of melt with its fibres, of resistance `now`, over that of the resin's data, whose fibres lay as in shear (`asData`): the
 * scalar that dissipates as much as the tensor does (Favaloro, Tseng & Pipes, Compos. A 109 (2018)). Taken at the same stress, at which the
 * relative viscosity of a filled melt hardly depends on it (Kitano, Kataoka & Shirota, Rheol. Acta 20 (1981) 207).
 */
export const relativeFluidity = (
  now: { drag: number; resistance: number },
  asData: { drag: number; resistance: number },
): number => (1 + asData.drag * asData.resistance) / (1 + now.drag * now.resistance);
