import type { Resin } from '../model/resin';
import type { Curve } from './curve';
import { ROOM, TAIT_C, type Tait } from './pvt';
import type { Relaxing } from './relaxation';

/**
 * What the plastics of a family have in common: values typical of textbooks (Osswald & Menges, Materials
 * Science of Polymers for Engineers; van Krevelen, Properties of Polymers), made up in their digits.
 * Temperatures in degrees Celsius here, for they are read so; everything else SI.
 */
export interface Family {
  structure: Resin['structure'];
  /** Melt and mould: lowest, recommended, highest. */
  melt: [number, number, number];
  mould: [number, number, number];
  transition: number;
  noFlow: number;
  ejection: number;
  /** Cross-WLF: n, tau*, zero-shear viscosity at the recommended melt, reference temperature, A1, D3. */
  flow: [n: number, tauStar: number, eta0: number, D2: number, A1: number, D3: number];
  /** Density in the room and of the recommended melt, kg/m3. */
  solidDensity: number;
  meltDensity: number;
  /** Volume expansion of the melt, and of the solid where crystals leave it free, 1/K. */
  expansion: [melt: number, solid: number];
  /** b6 [K/Pa], b3m, b3s [Pa], b4m, b4s [1/K], b8 [1/K] of the Tait form. */
  pressure: [b6: number, b3m: number, b3s: number, b4m: number, b4s: number, b8: number];
  /** J/(kg K): in the room, just below the transition, just above it, of the melt; and latent heat, J/kg. */
  heat: [room: number, below: number, above: number, melt: number, latent: number];
  /** W/(m K): solid and melt. */
  conductivity: [solid: number, melt: number];
  maxShearRate: number;
  maxShearStress: number;
  /** Pa, and Poisson's ratio; linear expansion of the solid, 1/K. */
  modulus: number;
  poisson: number;
  linearExpansion: number;
  /** How stress fades: see `relaxationOf`; where missing, as is typical of the structure. */
  relaxing?: Relaxing;
  /** Share of the crystals' volume that shrinks along the wall; 0 of amorphous plastics. */
  crystalShare?: number;
}

const AMORPHOUS = (b6: number, b3: number): Family['pressure'] => [b6, b3, 1.4 * b3, 4.2e-3, 3.4e-3, 0];
/** `stiffer`: what pressure finds the solid over the melt; little where few crystals form. */
const CRYSTALLINE = (b6: number, b3: number, b8 = 0.08, stiffer = 1.7): Family['pressure'] => [
  b6,
  b3,
  stiffer * b3,
  4.6e-3,
  4.1e-3,
  b8,
];

export const FAMILIES = {
  PP: {
    structure: 'semi-crystalline',
    melt: [205, 230, 270],
    mould: [20, 40, 65],
    transition: 118,
    noFlow: 135,
    ejection: 92,
    flow: [0.29, 24200, 800, 263.15, 29.9, 8e-8],
    solidDensity: 903,
    meltDensity: 740,
    expansion: [6.9e-4, 4.2e-4],
    pressure: CRYSTALLINE(1.5e-7, 8.4e7),
    heat: [1700, 2300, 2400, 2850, 88e3],
    conductivity: [0.23, 0.17],
    maxShearRate: 1e5,
    maxShearStress: 2.5e5,
    modulus: 1.45e9,
    poisson: 0.41,
    linearExpansion: 1.05e-4,
    crystalShare: 0.45,
  },
  'PE-HD': {
    structure: 'semi-crystalline',
    melt: [190, 220, 270],
    mould: [20, 35, 60],
    transition: 112,
    noFlow: 126,
    ejection: 88,
    flow: [0.38, 52000, 2600, 233.15, 22.5, 3e-8],
    solidDensity: 954,
    meltDensity: 752,
    expansion: [7.4e-4, 4.8e-4],
    pressure: CRYSTALLINE(1.6e-7, 9.6e7, 0.1),
    heat: [1950, 2500, 2350, 2650, 185e3],
    conductivity: [0.42, 0.26],
    maxShearRate: 4e4,
    maxShearStress: 2e5,
    modulus: 1.05e9,
    poisson: 0.43,
    linearExpansion: 1.5e-4,
    crystalShare: 0.4,
  },
  'PE-LD': {
    structure: 'semi-crystalline',
    melt: [170, 205, 250],
    mould: [15, 30, 50],
    transition: 96,
    noFlow: 108,
    ejection: 72,
    flow: [0.36, 26000, 2300, 233.15, 24.5, 4e-8],
    solidDensity: 921,
    meltDensity: 754,
    expansion: [7.2e-4, 5.6e-4],
    pressure: CRYSTALLINE(1.7e-7, 9e7, 0.07),
    heat: [2200, 2800, 2300, 2600, 108e3],
    conductivity: [0.33, 0.23],
    maxShearRate: 4e4,
    maxShearStress: 1e5,
    modulus: 2.2e8,
    poisson: 0.45,
    linearExpansion: 1.9e-4,
    crystalShare: 0.55,
  },
  PS: {
    structure: 'amorphous',
    melt: [190, 220, 260],
    mould: [20, 45, 65],
    transition: 96,
    noFlow: 126,
    ejection: 80,
    flow: [0.25, 25800, 1700, 373.15, 26.5, 1.3e-7],
    solidDensity: 1047,
    meltDensity: 953,
    expansion: [5.7e-4, 2.4e-4],
    pressure: AMORPHOUS(2.9e-7, 1.7e8),
    heat: [1250, 1650, 1900, 2200, 0],
    conductivity: [0.16, 0.15],
    maxShearRate: 4e4,
    maxShearStress: 2.4e5,
    modulus: 3.1e9,
    poisson: 0.35,
    linearExpansion: 7.5e-5,
  },
  'PS-HI': {
    structure: 'amorphous',
    melt: [190, 225, 260],
    mould: [20, 45, 65],
    transition: 93,
    noFlow: 124,
    ejection: 76,
    flow: [0.29, 22500, 1900, 373.15, 25.4, 1.2e-7],
    solidDensity: 1036,
    meltDensity: 941,
    expansion: [5.8e-4, 2.6e-4],
    pressure: AMORPHOUS(2.8e-7, 1.65e8),
    heat: [1300, 1700, 1950, 2250, 0],
    conductivity: [0.165, 0.155],
    maxShearRate: 4e4,
    maxShearStress: 2.4e5,
    modulus: 2.1e9,
    poisson: 0.38,
    linearExpansion: 8.5e-5,
  },
  ABS: {
    structure: 'amorphous',
    melt: [215, 240, 265],
    mould: [40, 60, 80],
    transition: 101,
    noFlow: 134,
    ejection: 86,
    flow: [0.265, 39500, 1670, 375.15, 26.2, 1.4e-7],
    solidDensity: 1045,
    meltDensity: 948,
    expansion: [5.8e-4, 2.6e-4],
    pressure: AMORPHOUS(2.5e-7, 1.75e8),
    heat: [1350, 1800, 2050, 2400, 0],
    conductivity: [0.19, 0.18],
    maxShearRate: 5e4,
    maxShearStress: 3e5,
    modulus: 2.25e9,
    poisson: 0.39,
    linearExpansion: 8.6e-5,
  },
  ASA: {
    structure: 'amorphous',
    melt: [225, 250, 275],
    mould: [40, 60, 80],
    transition: 103,
    noFlow: 137,
    ejection: 87,
    flow: [0.28, 42000, 2000, 375.15, 26.9, 1.4e-7],
    solidDensity: 1070,
    meltDensity: 964,
    expansion: [5.9e-4, 2.6e-4],
    pressure: AMORPHOUS(2.4e-7, 1.7e8),
    heat: [1400, 1850, 2050, 2400, 0],
    conductivity: [0.185, 0.175],
    maxShearRate: 5e4,
    maxShearStress: 3e5,
    modulus: 2.3e9,
    poisson: 0.39,
    linearExpansion: 9e-5,
  },
  PMMA: {
    structure: 'amorphous',
    melt: [220, 245, 265],
    mould: [40, 65, 85],
    transition: 105,
    noFlow: 142,
    ejection: 90,
    flow: [0.25, 98000, 3100, 377.15, 31.5, 2.2e-7],
    solidDensity: 1185,
    meltDensity: 1076,
    expansion: [5.8e-4, 2.5e-4],
    pressure: AMORPHOUS(2.3e-7, 2.1e8),
    heat: [1450, 1950, 2150, 2450, 0],
    conductivity: [0.2, 0.19],
    maxShearRate: 4e4,
    maxShearStress: 4e5,
    modulus: 3.15e9,
    poisson: 0.37,
    linearExpansion: 7.5e-5,
  },
  PC: {
    structure: 'amorphous',
    melt: [280, 300, 320],
    mould: [80, 95, 120],
    transition: 144,
    noFlow: 184,
    ejection: 127,
    flow: [0.18, 540000, 425, 417.15, 28.1, 2.2e-7],
    solidDensity: 1196,
    meltDensity: 1066,
    expansion: [6.1e-4, 2.6e-4],
    pressure: AMORPHOUS(3.4e-7, 1.8e8),
    heat: [1180, 1600, 1800, 2000, 0],
    conductivity: [0.22, 0.24],
    maxShearRate: 4e4,
    maxShearStress: 5e5,
    modulus: 2.35e9,
    poisson: 0.38,
    linearExpansion: 6.8e-5,
  },
  'PC+ABS': {
    structure: 'amorphous',
    melt: [245, 265, 285],
    mould: [55, 75, 95],
    transition: 122,
    noFlow: 158,
    ejection: 105,
    flow: [0.27, 140000, 900, 397.15, 28.6, 1.8e-7],
    solidDensity: 1135,
    meltDensity: 1022,
    expansion: [6e-4, 2.6e-4],
    pressure: AMORPHOUS(2.9e-7, 1.75e8),
    heat: [1300, 1720, 1920, 2150, 0],
    conductivity: [0.205, 0.2],
    maxShearRate: 4e4,
    maxShearStress: 4e5,
    modulus: 2.3e9,
    poisson: 0.38,
    linearExpansion: 7.6e-5,
  },
  'PPE+PS': {
    structure: 'amorphous',
    melt: [260, 285, 305],
    mould: [65, 80, 105],
    transition: 136,
    noFlow: 172,
    ejection: 116,
    flow: [0.3, 90000, 1500, 409.15, 30.2, 2e-7],
    solidDensity: 1075,
    meltDensity: 963,
    expansion: [6e-4, 2.5e-4],
    pressure: AMORPHOUS(3e-7, 1.75e8),
    heat: [1230, 1680, 1900, 2150, 0],
    conductivity: [0.17, 0.165],
    maxShearRate: 4e4,
    maxShearStress: 3.8e5,
    modulus: 2.45e9,
    poisson: 0.37,
    linearExpansion: 7e-5,
  },
  PA6: {
    structure: 'semi-crystalline',
    melt: [245, 265, 290],
    mould: [60, 80, 100],
    transition: 176,
    noFlow: 195,
    ejection: 140,
    flow: [0.35, 162000, 237, 323.15, 30.4, 5e-8],
    solidDensity: 1130,
    meltDensity: 968,
    expansion: [5.3e-4, 3.2e-4],
    pressure: CRYSTALLINE(1.1e-7, 1.5e8, 0.06),
    heat: [1550, 2350, 2500, 2750, 60e3],
    conductivity: [0.29, 0.22],
    maxShearRate: 6e4,
    maxShearStress: 5e5,
    modulus: 2.8e9,
    poisson: 0.39,
    linearExpansion: 8.5e-5,
    crystalShare: 0.1,
  },
  PA66: {
    structure: 'semi-crystalline',
    melt: [275, 290, 305],
    mould: [60, 80, 110],
    transition: 222,
    noFlow: 238,
    ejection: 176,
    flow: [0.38, 190000, 190, 323.15, 36.5, 5e-8],
    solidDensity: 1140,
    meltDensity: 968,
    expansion: [5.6e-4, 3.2e-4],
    pressure: CRYSTALLINE(1.1e-7, 1.55e8, 0.06),
    heat: [1600, 2550, 2550, 2800, 66e3],
    conductivity: [0.3, 0.22],
    maxShearRate: 6e4,
    maxShearStress: 5e5,
    modulus: 3e9,
    poisson: 0.39,
    linearExpansion: 8.5e-5,
    crystalShare: 0.1,
  },
  POM: {
    structure: 'semi-crystalline',
    melt: [185, 200, 220],
    mould: [60, 90, 110],
    transition: 146,
    noFlow: 156,
    ejection: 118,
    flow: [0.33, 130000, 403, 223.15, 27.1, 6e-8],
    solidDensity: 1408,
    meltDensity: 1172,
    expansion: [6.2e-4, 3.2e-4],
    pressure: CRYSTALLINE(1.5e-7, 1.45e8, 0.12),
    heat: [1480, 2050, 2150, 2300, 140e3],
    conductivity: [0.31, 0.21],
    maxShearRate: 4e4,
    maxShearStress: 4.5e5,
    modulus: 2.75e9,
    poisson: 0.38,
    linearExpansion: 1.1e-4,
    crystalShare: 0.75,
  },
  PBT: {
    structure: 'semi-crystalline',
    melt: [240, 255, 275],
    mould: [40, 70, 95],
    transition: 190,
    noFlow: 208,
    ejection: 150,
    flow: [0.34, 230000, 420, 323.15, 30.8, 5e-8],
    solidDensity: 1305,
    meltDensity: 1108,
    expansion: [5.6e-4, 3e-4],
    pressure: CRYSTALLINE(1.3e-7, 1.5e8, 0.07),
    heat: [1300, 1900, 1950, 2150, 48e3],
    conductivity: [0.27, 0.2],
    maxShearRate: 5e4,
    maxShearStress: 4e5,
    modulus: 2.5e9,
    poisson: 0.39,
    linearExpansion: 9e-5,
    crystalShare: 0.3,
  },
  PPS: {
    structure: 'semi-crystalline',
    melt: [305, 325, 340],
    mould: [130, 140, 150],
    transition: 232,
    noFlow: 256,
    ejection: 190,
    flow: [0.42, 210000, 300, 363.15, 31.5, 6e-8],
    solidDensity: 1350,
    meltDensity: 1165,
    expansion: [5.2e-4, 2.6e-4],
    pressure: CRYSTALLINE(2e-7, 1.6e8, 0.05),
    heat: [1100, 1600, 1650, 1800, 42e3],
    conductivity: [0.29, 0.24],
    maxShearRate: 5e4,
    maxShearStress: 5e5,
    modulus: 3.7e9,
    poisson: 0.37,
    linearExpansion: 5.2e-5,
    crystalShare: 0.3,
  },
  TPE: {
    structure: 'semi-crystalline',
    melt: [180, 205, 235],
    mould: [15, 30, 50],
    transition: 88,
    noFlow: 112,
    ejection: 64,
    flow: [0.27, 31000, 2900, 243.15, 26.4, 7e-8],
    solidDensity: 895,
    meltDensity: 782,
    expansion: [7e-4, 5.6e-4],
    pressure: CRYSTALLINE(1.6e-7, 9e7, 0.05, 1.45),
    heat: [1900, 2150, 2250, 2550, 22e3],
    conductivity: [0.2, 0.17],
    maxShearRate: 4e4,
    maxShearStress: 2e5,
    modulus: 2.6e7,
    poisson: 0.48,
    linearExpansion: 1.5e-4,
    crystalShare: 1,
  },
  TPU: {
    structure: 'semi-crystalline',
    melt: [190, 210, 230],
    mould: [15, 35, 60],
    transition: 98,
    noFlow: 130,
    ejection: 70,
    flow: [0.34, 110000, 1500, 243.15, 31.2, 9e-8],
    solidDensity: 1190,
    meltDensity: 1046,
    expansion: [6.4e-4, 4.8e-4],
    pressure: CRYSTALLINE(1.4e-7, 1.3e8, 0.05, 1.3),
    heat: [1700, 1950, 2050, 2300, 16e3],
    conductivity: [0.22, 0.19],
    maxShearRate: 3e4,
    maxShearStress: 2.8e5,
    modulus: 6e7,
    poisson: 0.48,
    linearExpansion: 1.4e-4,
    crystalShare: 0.4,
  },
} as const satisfies Record<string, Family>;

export type FamilyName = keyof typeof FAMILIES;

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
