import { ATMOSPHERE, isPlain, ROOM, TAIT_C, type DensityModel } from '../../material/pvt';
import { GAS_CONSTANT, type Relaxation } from '../../material/relaxation';
import { solidLawOf } from '../../material/solid';
import type { Resin } from '../../model/resin';

/** What the solid of a resin follows from. */
export interface FreezingResin {
  density: DensityModel;
  /** K, and linear expansion along the wall, 1/K: of a resin whose density does not know temperature. */
  transition: number;
  expansion: number;
  poisson: number;
  /** How stress fades; null: not at all once the layer is below its transition. */
  relaxation: Relaxation | null;
  /** Share of a third of what crystals take up in volume by which a wall shrinks along itself. */
  crystalShare: number;
  /** Share of the crystals that do not grow for each decade by which a layer is cooled faster than is usual; 0 where left out. */
  quenchLoss?: number;
  /** All of that over what pvT gives; 1 where nothing was measured. */
  shrinkageFactor?: number;
  /** Linear strain per decade of time that a part shrinks on by in the room; 0 where nothing is said. */
  afterShrinkage?: number;
}

/** Of a resin of the library or the user's own. */
export const freezingOf = (resin: Resin): FreezingResin => ({
  density: resin.pvt,
  transition: resin.transitionTemperature,
  expansion: resin.expansion.along,
  poisson: resin.elastic.nu12,
  ...solidLawOf(resin),
});

/** Temperatures of the tables, K: linear in between, 1e-7 of the strain. */
export const T_MIN = 150;
export const T_STEP = 0.25;
export const T_SIZE = 3001;

/**
 * Tables of T_SIZE each for the linear strain along the wall of plastic that nothing holds, under pressure all around: a
 * third of the logarithm of its specific volume. Logarithm of the volume [m3/kg] and Tait's B [Pa] of the solid, then of
 * the melt, whose branch joins the solid's at the transition; then what crystals have not taken up, over the solid's
 * volume; then the strain without pressure. Of the crystals only a share counts: they grow while the layer is soft, and
 * most of it goes into the thickness.
 */
export function strainTables({ density, crystalShare }: FreezingResin): Float64Array {
  if (isPlain(density)) return new Float64Array(0);
  const m = density;
  const crystals = (x: number) => (m.b7 * Math.exp(Math.min(0, m.b8 * x))) / (m.b1s + m.b2s * x);
  const columns: ((x: number) => number)[] = [
    (x) => Math.log(m.b1s + m.b2s * x),
    (x) => m.b3s * Math.exp(-m.b4s * x),
    (x) => Math.log(Math.max(LEAST_VOLUME, m.b1m + m.b2m * x)),
    (x) => m.b3m * Math.exp(-m.b4m * x),
    crystals,
    (x) => (Math.log(m.b1s + m.b2s * x) + Math.log1p(crystalShare * crystals(x))) / 3,
  ];
  const tables = new Float64Array(columns.length * T_SIZE);
  columns.forEach((value, c) => {
    for (let k = 0; k < T_SIZE; k++) tables[c * T_SIZE + k] = value(T_MIN + k * T_STEP - m.b5);
  });
  return tables;
}

/** m3/kg; no melt is read so far below its transition. */
const LEAST_VOLUME = 1e-6;

/** Cooling rate at which layers in the middle of a moulded wall turn solid, K/s: resins' crystals are told for it. */
export const USUAL_RATE = 20;

/** Numbers of the law, in the order in which `assembly/walls.ts` reads them. */
export function strainNumbers({
  density,
  transition,
  expansion,
  relaxation,
  crystalShare,
  quenchLoss = 0,
  shrinkageFactor = 1,
}: FreezingResin): Float64Array {
  const m = isPlain(density) ? null : density;
  const times = relaxation?.terms.map((t) => t.time) ?? [1];
  return Float64Array.of(
    relaxation ? 1 : 0,
    relaxation?.reference ?? ROOM,
    relaxation?.wlf.c1 ?? 0,
    relaxation?.wlf.c2 ?? 1,
    (relaxation?.activation ?? 0) / (Math.LN10 * GAS_CONSTANT),
    m?.b6 ?? 0,
    Math.min(...times),
    Math.max(...times),
    m ? 1 : 0,
    expansion,
    m?.b5 ?? transition,
    m?.b6 ?? 0,
    m?.b9 ?? 0,
    m && m.b7 > 0 ? crystalShare : 0,
    shrinkageFactor,
    TAIT_C,
    T_MIN,
    T_STEP,
    ATMOSPHERE,
    m && m.b7 > 0 ? quenchLoss : 0,
    USUAL_RATE,
  );
}
