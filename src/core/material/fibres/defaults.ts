import { type Mechanics } from '../../model/fibres';
import type { Filler, Resin } from '../../model/resin';
import type { Turning } from '../../model/fibres';
import { FILLERS } from '../compound';
import { solidDensity } from '../properties';
import type { Breakage } from './breakage';
import { fourthMoment, FourthMoment } from './closure';
import { alignedSolid, engineeringOf, orientedStiffness, type Aligned, type Phase } from './stiffness';

/** Fillers that are rounder than this have no direction to speak of. */
const LEAST_ASPECT = 1.5;
/** From this length over diameter on fibres are long: they turn more slowly, and less out of the plane that shears. */
const LONG = 60;

/** Whether fibres of this length over diameter are long: how they break then counts for what the part bears. */
export const areLong = (aspect: number): boolean => aspect >= LONG;

/** Whether a resin holds something that lies in directions. */
export const hasFibres = ({ filler }: Pick<Resin, 'filler'>): boolean =>
  filler !== null && filler.aspectRatio >= LEAST_ASPECT;

/** Volume of the filler over that of the resin, in the room. */
export function volumeShare(resin: Resin): number {
  const { filler } = resin;
  return filler ? Math.min(0.9, (filler.share * solidDensity(resin)) / filler.density) : 0;
}

export const diameterOf = ({ diameter, kind }: Filler): number => diameter ?? FILLERS[kind].diameter;

/** Granules of long fibres are cut to this, m. */
const CUT = 0.011;
/** Short ones are so many times as long before the screw as in the part: an estimate. */
const BEFORE_SCREW = 1.5;

/** Length of fibres in the granules, m, where nobody says. */
export const granuleOf = (filler: Filler, aspect: number): number =>
  areLong(aspect) ? CUT : BEFORE_SCREW * aspect * diameterOf(filler);

/** How fibres break where the resin does not say: as long glass in polypropylene does (Phelps et al. 2013). */
const BREAKAGE = { drag: 3, chance: 0.002, spread: 0.25 };
const BINS = 32;

/** Fibres of a resin that are `longest` [m] at the most, as they break. */
export function breakageOf(filler: Filler, longest: number): Breakage {
  const { modulus: young, breakage = BREAKAGE } = filler;
  return { ...breakage, young, diameter: diameterOf(filler), bins: BINS, binLength: longest / BINS };
}

/** Weight of fibres over that of a resin of which they take up `share` of the volume. */
export function weightShare(share: number, resin: Resin): number {
  const { filler } = resin;
  if (!filler) return 0;
  const plastic = (1 - filler.share) / (1 / solidDensity(resin) - filler.share / filler.density);
  return (share * filler.density) / (share * filler.density + (1 - share) * plastic);
}

/**
 * How fibres turn where the resin does not say. C_I of Phan-Thien, Fan, Tanner & Zheng, J. Non-Newtonian Fluid Mech. 103
 * (2002) 251; short glass follows at about a tenth of the rate (Wang, O'Gara & Tucker 2008), long glass at a twentieth.
 */
export function turningOf(resin: Resin, aspect: number): Turning {
  if (resin.filler?.turning) return resin.filler.turning;
  const CI = Number((0.03 * (1 - Math.exp(-0.224 * volumeShare(resin) * aspect))).toPrecision(2));
  if (areLong(aspect)) return { interaction: { by: 'two', CI, CM: 0.8 }, slowing: 0.05 };
  return { interaction: { by: 'even', CI }, slowing: 0.1 };
}

/** Aligned fibres of a resin; `aspect` as they are in the part. */
export function alignedOf(resin: Resin, aspect: number, by: Mechanics): Aligned {
  const { filler } = resin;
  if (!filler) throw new Error(`${resin.name} holds no fibres`);
  const { modulus: young, poisson, expansion } = filler;
  const own = { fibre: { young, poisson, expansion }, share: volumeShare(resin), aspect: shapeOf(filler, aspect) };
  return { ...own, matrix: filler.matrix ?? matrixOf(resin, own, by) };
}

/** Length over diameter of a spheroid: of flakes below 1. */
export const shapeOf = (filler: Filler, aspect: number): number => (filler.flat ? 1 / aspect : aspect);

/** Mean over the wall of a moulded plate, 11 along the flow and 33 across the wall. */
const PLATE = Float64Array.of(0.72, 0.25, 0.03, 0, 0, 0);

/** The plastic between the fibres, such that a moulded plate is as stiff along the flow as the resin's data say. */
function matrixOf(resin: Resin, own: Omit<Aligned, 'matrix'>, by: Mechanics): Phase {
  const poisson = resin.elastic.nu12;
  const a4 = fourthMoment(new FourthMoment('orthotropic-wide'), PLATE);
  const alongOf = (young: number) => {
    const { stiffness } = alignedSolid(by, { ...own, matrix: { young, poisson, expansion: 0 } });
    return engineeringOf(orientedStiffness(stiffness, PLATE, a4)).E1;
  };
  let [low, high] = [1e-3 * resin.elastic.E1, resin.elastic.E1];
  for (let k = 0; k < 60; k++) {
    const middle = Math.sqrt(low * high);
    if (alongOf(middle) < resin.elastic.E1) low = middle;
    else high = middle;
  }
  // Fibres hardly expand: across them the plastic does it all, in the room that they leave it.
  const { along, across } = resin.expansion;
  const expansion = Math.max(across, along) / (1 - own.share);
  return { young: low, poisson, expansion };
}
