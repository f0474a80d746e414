import type { Coolant, Gas, Metal } from '../model/material';

const C = (celsius: number) => celsius + 273.15;
const DUNWICK = 'Dunwick Ceramics';
const metal = (
  id: string,
  name: string,
  [density, specificHeat, conductivity, modulus, poisson, expansion]: [number, number, number, number, number, number],
  supplier = 'Hartwick Toolsteels',
): Metal => ({
  id,
  name,
  supplier,
  origin: 'sample',
  kind: 'metal',
  density,
  specificHeat,
  conductivity,
  modulus: modulus * 1e9,
  poisson,
  expansion: expansion * 1e-6,
});

/** Ceramics and glass that inserts are made of: values typical of their kind. */
export const CERAMICS: readonly Metal[] = [
  metal('ceramic-dw-a', 'Alumina DW A, dense', [3850, 880, 27, 370, 0.22, 8.1], DUNWICK),
  metal('ceramic-dw-z', 'Zirconia DW Z, toughened', [6050, 470, 2.6, 205, 0.31, 10.4], DUNWICK),
  metal('ceramic-dw-f', 'Ferrite DW F, for magnets', [4900, 750, 4, 150, 0.28, 10], DUNWICK),
  metal('glass-dw-b', 'Borosilicate glass DW B', [2230, 830, 1.15, 63, 0.2, 3.3], DUNWICK),
];

/** Metals that moulds and inserts are made of: values typical of their kind. */
export const METALS: readonly Metal[] = [
  metal('steel-hw-30', 'Tool steel HW 30, prehardened', [7800, 460, 34, 205, 0.3, 12.3]),
  metal('steel-hw-52', 'Tool steel HW 52, through-hardened', [7750, 460, 25, 210, 0.29, 11.2]),
  metal('steel-hw-s', 'Stainless tool steel HW S', [7740, 470, 21, 200, 0.29, 10.8]),
  metal('steel-hw-c', 'Plain carbon steel HW C', [7850, 480, 48, 207, 0.29, 12]),
  metal('copper-hw-b', 'Copper alloy HW B, with beryllium', [8350, 420, 130, 130, 0.3, 17.2]),
  metal('copper-hw-k', 'Copper alloy HW K, high conductivity', [8800, 400, 240, 125, 0.33, 17.5]),
  metal('alu-hw-7', 'Aluminium HW 7, for prototypes', [2810, 890, 150, 71, 0.33, 23.4]),
  metal('brass-hw', 'Brass HW', [8450, 380, 115, 103, 0.34, 19.5]),
];

const gas = (id: string, name: string, [M, ratio, mu, T, S]: [number, number, number, number, number]): Gas => ({
  id,
  name,
  supplier: '',
  origin: 'sample',
  kind: 'gas',
  molarMass: M * 1e-3,
  heatRatio: ratio,
  viscosity: mu * 1e-6,
  at: T,
  sutherland: S,
});

/** Viscosities and Sutherland constants: White, Viscous Fluid Flow, 3rd ed., table 1-2. */
export const GASES: readonly Gas[] = [
  gas('air', 'Air', [28.96, 1.4, 17.16, 273, 111]),
  gas('nitrogen', 'Nitrogen', [28.01, 1.4, 16.63, 273, 107]),
  gas('carbon-dioxide', 'Carbon dioxide', [44.01, 1.3, 13.7, 273, 222]),
  gas('argon', 'Argon', [39.95, 1.667, 21.25, 273, 144]),
];

type State = [celsius: number, density: number, specificHeat: number, conductivity: number, viscosity: number];
const coolant = (id: string, name: string, freezing: number, boiling: number, cold: State, hot: State): Coolant => {
  const state = ([T, density, specificHeat, conductivity, mPas]: State) => ({
    T: C(T),
    density,
    specificHeat,
    conductivity,
    viscosity: mPas * 1e-3,
  });
  return {
    id,
    name,
    supplier: '',
    origin: 'sample',
    kind: 'coolant',
    freezing: C(freezing),
    boiling: C(boiling),
    cold: state(cold),
    hot: state(hot),
  };
};

/** Coolants at two temperatures: values typical of each; glycol by weight. */
export const COOLANTS: readonly Coolant[] = [
  coolant('water', 'Water', 0, 100, [10, 999.7, 4192, 0.58, 1.306], [90, 965.3, 4205, 0.675, 0.3145]),
  coolant('glycol-25', 'Water with 25 % glycol', -12, 103, [0, 1041, 3780, 0.49, 3.3], [90, 993, 3930, 0.54, 0.51]),
  coolant('glycol-50', 'Water with 50 % glycol', -37, 107, [-10, 1089, 3240, 0.38, 11.5], [90, 1030, 3600, 0.41, 0.78]),
  coolant('oil-220', 'Heat-transfer oil 220', -25, 330, [20, 870, 1900, 0.134, 62], [180, 768, 2480, 0.118, 1.6]),
];

export const metalById = (id: string): Metal | undefined => METALS.find((m) => m.id === id);
/** Metal or ceramic of the library. */
export const solidById = (id: string): Metal | undefined => metalById(id) ?? CERAMICS.find((m) => m.id === id);
export const coolantById = (id: string): Coolant | undefined => COOLANTS.find((c) => c.id === id);
