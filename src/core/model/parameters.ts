import { parameter } from './parameter';

/**
 * Heat transfer between melt and steel while the melt flows past, W/(m2 K): contact resistances of
 * 1e-4 to 6e-4 m2 K/W were measured in moulds (Bendada, Derdouri, Lamontagne & Simard, Appl. Therm.
 * Eng. 24 (2004) 2029).
 */
const WALL_TRANSFER = 3500;
/** Where the plastic has shrunk away the gap adds to that: the upper end of the same measurements. */
const DETACHED_TRANSFER = 1500;
/** A part keeps its shape when nine tenths of it are solid: the skin then carries the rest. */
const SOLID_SHARE = 0.9;
/** What a shot has where nothing is set. */
export const USUAL = {
  wallTransfer: WALL_TRANSFER,
  detachedTransfer: DETACHED_TRANSFER,
  solidShare: SOLID_SHARE,
};

/** Settings of the cycle that are one number each, under their names in the inputs; null there means the default. */
export const CYCLE_NUMBERS = {
  meltTemperature: parameter({
    label: 'Melt',
    named: 'Melt temperature',
    means: 'temperature of the melt as it comes in',
    unit: '°C',
    min: 273.15,
    max: 773.15,
    step: 5,
    file: { key: 'melt_C', unit: '°C' },
    fallback: ({ resin }) => resin.melt.recommended,
    otherwise: "the resin's recommended one",
    phase: 'fill',
  }),
  mouldTemperature: parameter({
    label: 'Mould, upper half',
    named: 'Mould temperature',
    means: 'temperature of the mould, or of its upper half',
    unit: '°C',
    min: 223.15,
    max: 573.15,
    step: 5,
    file: { key: 'mould_C', unit: '°C' },
    fallback: ({ resin }) => resin.mould.recommended,
    otherwise: "the resin's recommended one",
    phase: 'fill',
  }),
  lowerMouldTemperature: parameter({
    label: 'Mould, lower half',
    named: 'Lower mould temperature',
    means: 'of the lower half, where it differs',
    unit: '°C',
    min: 223.15,
    max: 573.15,
    step: 5,
    file: { key: 'lowerMould_C', unit: '°C' },
    fallback: ({ mouldTemperature }) => mouldTemperature,
    otherwise: '`mould_C`',
    phase: 'fill',
  }),
  pressureLimit: parameter({
    label: 'Pressure limit',
    means: 'at the nozzle',
    unit: 'MPa',
    min: 0,
    max: 5e8,
    step: 5,
    file: { key: 'pressureLimit_MPa', unit: 'MPa' },
    fallback: ({ machine }) => machine.maxPressure,
    otherwise: 'what the machine can',
    phase: 'fill',
  }),
  coolingTime: parameter({
    label: 'Cooling after packing',
    means: 'from the end of packing to the opening of the mould',
    unit: 's',
    min: 0,
    max: 3600,
    step: 1,
    file: { key: 'coolingTime_s', unit: 's' },
    fallback: () => null,
    otherwise: 'until the part can be ejected',
    phase: 'pack',
  }),
  solidShare: parameter({
    label: 'Solid to be ejected',
    means: 'share of the part, and of each section, that must be below the ejection temperature',
    unit: '%',
    min: 0.3,
    max: 1,
    step: 5,
    file: { key: 'solidShare', unit: '' },
    fallback: () => SOLID_SHARE,
    otherwise: `${SOLID_SHARE}`,
    phase: 'pack',
  }),
  openTime: parameter({
    label: 'Open, eject, close',
    named: 'Moves of the press',
    means: 'opening, ejecting and closing together',
    unit: 's',
    min: 0,
    max: 600,
    step: 1,
    file: { key: 'openTime_s', unit: 's' },
    fallback: ({ movesTime }) => movesTime,
    otherwise: '5, or the sum of `moves_s`',
    phase: 'answers',
  }),
  wallTransfer: parameter({
    label: 'Heat to the wall',
    named: 'Heat transfer to the wall',
    means: 'between melt and mould while filling',
    unit: 'W/(m²·K)',
    min: 50,
    max: 1e5,
    step: 100,
    file: { key: 'wallTransfer_W_m2K', unit: 'W/(m²·K)' },
    fallback: () => WALL_TRANSFER,
    otherwise: `${WALL_TRANSFER}`,
    phase: 'fill',
  }),
  detachedTransfer: parameter({
    label: 'Heat where shrunk off',
    named: 'Heat transfer where shrunk off',
    means: 'the same where the plastic has shrunk off the wall',
    unit: 'W/(m²·K)',
    min: 50,
    max: 1e5,
    step: 100,
    file: { key: 'detachedTransfer_W_m2K', unit: 'W/(m²·K)' },
    fallback: () => DETACHED_TRANSFER,
    otherwise: `${DETACHED_TRANSFER}`,
    phase: 'pack',
  }),
};
export type CycleNumber = keyof typeof CYCLE_NUMBERS;
/** Their keys in the study file. */
export type CycleFileKey = (typeof CYCLE_NUMBERS)[CycleNumber]['file']['key'];
export const CYCLE_NUMBER_IDS = Object.keys(CYCLE_NUMBERS) as CycleNumber[];
