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
    means: 'Temperature of the melt as it comes in.',
    more: 'Hotter melt is thinner: pressure falls, weld lines get stronger, and cooling takes longer. Stay inside the range of the resin: above it, it degrades.',
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
    means: 'Temperature of the mould, or of its upper half.',
    more: 'A warmer mould needs less pressure, lets crystals grow and gives more shrinkage and a longer cycle. With cooling lines it is what their coolant makes of it.',
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
    means: 'Temperature of the lower half of the mould, where it differs.',
    more: 'Two temperatures bend a free wall, hollow on its warm side: a way to take bow out of a part, or the reason for it.',
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
    means: 'Pressure at the nozzle that the machine does not pass.',
    more: 'Once it is reached the flow slows down. A part that fills at the limit alone is a part near a short shot: more gates, thicker walls, hotter or thinner melt.',
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
    means: 'Time from the end of packing to the opening of the mould.',
    more: 'Shorter than needed, the part comes out soft and bends; longer costs cycle time and nothing else.',
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
    means: 'Share of the part, and of each section, that must be below the ejection temperature.',
    more: 'A skin of nine tenths carries the rest. Less is quicker and dents under the ejectors.',
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
    means: 'Time in which the press opens, ejects and closes together.',
    more: 'It counts in the cycle, and the mould cools meanwhile.',
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
    means: 'Heat transfer between melt and mould while the melt is pressed on.',
    more: 'More of it freezes thin walls sooner. A rough or coated wall takes up less.',
    source: 'Bendada, Derdouri, Lamontagne & Simard, Appl. Therm. Eng. 24 (2004) 2029',
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
    means: 'Heat transfer where the plastic has shrunk off the wall.',
    more: 'Less of it, and cooling takes longer where nothing presses the part on.',
    source: 'Bendada, Derdouri, Lamontagne & Simard, Appl. Therm. Eng. 24 (2004) 2029',
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
