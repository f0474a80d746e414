import type { Curve } from './curve';
import type { Resin } from '../model/resin';
import { FAMILIES, type Family, type FamilyName } from './families';
import { ROOM, TAIT_C, type Tait } from './pvt';

const kelvin = (celsius: number) => celsius + 273.15;
/** Width of the latent heat's peak to either side of the transition, K. */
const PEAK = 9;

/** Tait constants with which the plastic has the family's densities and expansions. */
export function taitOf(f: Family): Tait {
  const b5 = kelvin(f.transition);
  const [b6, b3m, b3s, b4m, b4s, b8] = f.pressure;
  const b1m = 1 / f.meltDensity / (1 + f.expansion[0] * (kelvin(f.melt[1]) - b5));
  const amorphous = f.structure === 'amorphous';
  const room = 1 / f.solidDensity;
  const b1s = amorphous ? b1m : room / (1 - f.expansion[1] * (b5 - ROOM));
  const b2s = (b1s - room) / (b5 - ROOM);
  const b7 = amorphous ? 0 : b1m - b1s;
  const open = { b5, b6, b1m, b2m: f.expansion[0] * b1m, b3m, b4m, b1s, b2s, b3s, b4s, b7, b8, b9: 0 };
  return amorphous ? open : { ...open, b9: closingDecay(open) };
}

/** Pressure [Pa] at which melt and solid of the made-up grades meet at the transition, as they do without any. */
const CLOSED_AT = 6e7;

/** b9 [1/Pa] with which they do: less than 0.4 % of the volume is left between them up to 100 MPa. */
function closingDecay(m: Tait): number {
  const x = m.b6 * CLOSED_AT;
  const branch = (b1: number, b2: number, b3: number, b4: number) =>
    (b1 + b2 * x) * (1 - TAIT_C * Math.log1p(CLOSED_AT / (b3 * Math.exp(-b4 * x))));
  const gap = branch(m.b1m, m.b2m, m.b3m, m.b4m) - branch(m.b1s, m.b2s, m.b3s, m.b4s);
  return Number((m.b8 * m.b6 - Math.log(gap / m.b7) / CLOSED_AT).toPrecision(4));
}

/** Specific heat against temperature: a step at a glass transition, a peak of latent heat at crystallisation. */
export function specificHeatOf(f: Family): Curve {
  const [room, below, above, melt, latent] = f.heat;
  const T = kelvin(f.transition);
  const hot = { T: kelvin(f.melt[1]), value: melt };
  if (latent === 0)
    return [{ T: ROOM, value: room }, { T: T - PEAK, value: below }, { T: T + PEAK, value: above }, hot];
  const peak = Math.round((below + above) / 2 + latent / PEAK);
  return [
    { T: ROOM, value: room },
    { T: T - PEAK, value: below },
    { T, value: peak },
    { T: T + PEAK, value: above },
    hot,
  ];
}

export function conductivityOf(f: Family): Curve {
  const T = kelvin(f.transition);
  const [solid, melt] = f.conductivity;
  return [
    { T: ROOM, value: solid },
    { T: T - PEAK, value: Number((0.96 * solid).toPrecision(3)) },
    { T: T + PEAK, value: melt },
  ];
}

/** Factor D1 [Pa s] of the WLF form with which the zero-shear viscosity at T [K] is eta0. */
export const d1For = (eta0: number, T: number, A1: number, D2: number, A2: number): number =>
  Number((eta0 * Math.exp((A1 * (T - D2)) / (A2 + T - D2))).toPrecision(3));

/** Usual pressure in the cavity while a resin of a family unknown here is packed, Pa. */
const USUAL_CAVITY_PRESSURE = { amorphous: 3.5e7, 'semi-crystalline': 4e7 };

/** Pressure in the cavity that a resin is usually packed with, Pa. */
export const cavityPressureOf = ({ family, structure }: Resin): number =>
  family in FAMILIES ? FAMILIES[family as FamilyName].cavityPressure : USUAL_CAVITY_PRESSURE[structure];
