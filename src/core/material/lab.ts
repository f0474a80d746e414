import type { Resin } from '../model/resin';
import type { PvtPoint } from './fitPvt';
import type { ViscosityPoint } from './fitViscosity';
import { hasFibres, turningOf } from './fibres/defaults';
import { alongInPlate, type OrientationPoint } from './fibres/fitTurning';
import { ATMOSPHERE, specificVolume } from './pvt';
import { viscosity } from './viscosity';

/**
 * A stand-in for a material laboratory: measures a grade with scatter, and now and then a reading that is far
 * off, as a capillary rheometer and a piston dilatometer do. The same seed gives the same readings.
 */
export interface LabReport {
  viscosity: ViscosityPoint[];
  pvt: PvtPoint[];
  /** Through the wall of a plate; none of a grade without fibres. */
  fibres: OrientationPoint[];
}

const RATES = [5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000];
const PRESSURES = [0, 4e7, 8e7, 1.2e8];
/** Scatter of viscosity and of specific volume, as shares. */
const SCATTER = { viscosity: 0.03, volume: 0.0008 };
/** One reading in this many is wild, by this factor. */
const WILD = { every: 17, factor: 1.6 };

export function measure(resin: Resin, seed: number): LabReport {
  const random = generator(seed);
  const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const { min, recommended, max } = resin.melt;
  const points: ViscosityPoint[] = [];
  for (const T of [min, recommended, max])
    for (const shearRate of RATES) {
      const wild = Math.floor(random() * WILD.every) === 0 ? WILD.factor : 1;
      const value = viscosity(resin.viscosity, T, 0, shearRate) * Math.exp(SCATTER.viscosity * normal()) * wild;
      points.push({ T, p: 0, shearRate, viscosity: Number(value.toPrecision(4)) });
    }
  const pvt: PvtPoint[] = [];
  for (const p of PRESSURES)
    for (let T = 303.15; T <= max; T += 12) {
      const v = specificVolume(resin.pvt, T, p + ATMOSPHERE) * (1 + SCATTER.volume * normal());
      pvt.push({ T, p: p + ATMOSPHERE, v: Number(v.toPrecision(6)) });
    }
  return { viscosity: points, pvt, fibres: hasFibres(resin) ? fibresOf(resin, random, normal) : [] };
}

/** Places through the wall, distances from the gate and wall of the plate that is cut up. */
const PLATE = { places: [0, 0.15, 0.3, 0.45, 0.6, 0.7, 0.8, 0.9], distances: [0.015, 0.06], wall: 0.003 };
/** Scatter of a share that is counted on a polished section. */
const COUNTED = 0.02;

function fibresOf(resin: Resin, random: () => number, normal: () => number): OrientationPoint[] {
  const aspect = resin.filler?.aspectRatio ?? 1;
  const usual = turningOf(resin, aspect);
  // What a maker's fibres do is about what is usual.
  const CI = 'CI' in usual.interaction ? usual.interaction.CI : 0.01;
  const own = {
    interaction: { by: 'even' as const, CI: CI * (0.6 + 0.8 * random()) },
    slowing: Math.min(1, usual.slowing * (0.7 + 1.6 * random())),
  };
  const at = alongInPlate(own, aspect, 'n' in resin.viscosity ? resin.viscosity.n : 1);
  return PLATE.distances.flatMap((distance) =>
    PLATE.places.map((place) => {
      const point = { distance, wall: PLATE.wall, place };
      const along = Math.min(1, Math.max(0, at(point) + COUNTED * normal()));
      return { ...point, along: Number(along.toPrecision(3)) };
    }),
  );
}

/** Numbers 0..1 from a seed (Mulberry32). */
function generator(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t ^= t + Math.imul(t ^ (t >>> 7), 61 | t);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
