import { z } from 'zod';
import { formatNumber, fromSi, tidy, toSi, type Unit } from '../units/units';
import type { Machine } from './machine';
import type { Resin } from './resin';

/** What defaults follow from. SI. */
export interface Known {
  resin: Resin;
  machine: Machine;
  /** Of the upper half of the mould, K. */
  mouldTemperature: number;
  /** Moves of the press, together, s. */
  movesTime: number;
}

/** Phase of a run that reads a parameter first: a change reruns it and what comes after it. */
export type ReadingPhase = 'fill' | 'fill-up' | 'pack' | 'answers';

/** A number that is set: all that forms, study file, its page, limits and defaults need to know of it. */
export interface Parameter<Key extends string = string> {
  /** Of its field; `named`: by itself, in the list of what can be undone, where that says too little. */
  label: string;
  named?: string;
  /** What it is, in the words of the study file's page. */
  means: string;
  /** At the edge; SI inside. */
  unit: Unit;
  /** Limits, SI; `above`: the lower one itself is not allowed. */
  min: number;
  max: number;
  above?: true;
  /** Of the arrow keys, in `unit`. */
  step: number;
  /** Key in the study file, with the unit that it carries. */
  file: { key: Key; unit: Unit };
  /** What stands where none is given: SI, null where it is not one number or follows from the run; and in words. */
  fallback: (known: Known) => number | null;
  otherwise: string;
  phase: ReadingPhase;
}

const parameter = <const Key extends string>(p: Parameter<Key>): Parameter<Key> => p;

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
const SCREW_STRAIN = 1800;
export const USUAL = {
  screwStrain: SCREW_STRAIN,
  wallTransfer: WALL_TRANSFER,
  detachedTransfer: DETACHED_TRANSFER,
  solidShare: SOLID_SHARE,
};
/** When a part is measured, s after the opening of the mould. */
export const A_DAY = 86_400;

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

/** Numbers that belong to one way of doing a thing: they are there with it, and have no default of their own. */
export const WAY_NUMBERS = {
  injectionTime: parameter({
    label: 'Injection time',
    means: 'one of this,',
    unit: 's',
    min: 0,
    max: 600,
    above: true,
    step: 0.1,
    file: { key: 'injectionTime_s', unit: 's' },
    fallback: () => null,
    otherwise: 'a fifth of the freezing time of the nominal wall',
    phase: 'fill',
  }),
  flowRate: parameter({
    label: 'Flow rate',
    means: 'this,',
    unit: 'cm³/s',
    min: 0,
    max: 0.05,
    above: true,
    step: 5,
    file: { key: 'flowRate_cm3_s', unit: 'cm³/s' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  switchoverShare: parameter({
    label: 'Share filled',
    means: 'share filled at which the machine switches over',
    unit: '%',
    min: 0.3,
    max: 1,
    step: 1,
    file: { key: 'share', unit: '' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  switchoverPressure: parameter({
    label: 'Pressure',
    means: 'pressure at the nozzle at which it does',
    unit: 'MPa',
    min: 0,
    max: 5e8,
    above: true,
    step: 5,
    file: { key: 'pressure_MPa', unit: 'MPa' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  switchoverTime: parameter({
    label: 'Time',
    means: 'time at which it does',
    unit: 's',
    min: 0,
    max: 600,
    above: true,
    step: 0.1,
    file: { key: 'time_s', unit: 's' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  packingPressure: parameter({
    label: 'Packing pressure',
    means: 'after switchover',
    unit: 'MPa',
    min: 0,
    max: 5e8,
    step: 2,
    file: { key: 'packingPressure_MPa', unit: 'MPa' },
    fallback: () => null,
    otherwise: "the family's pressure in the cavity, see docs/packing.md",
    phase: 'fill-up',
  }),
  packingTime: parameter({
    label: 'Packing time',
    means: 'from switchover on; then the pressure is let go',
    unit: 's',
    min: 0,
    max: 600,
    step: 0.5,
    file: { key: 'packingTime_s', unit: 's' },
    fallback: () => null,
    otherwise: 'until the gates have frozen',
    phase: 'pack',
  }),
  coreShare: parameter({
    label: 'Melt up to',
    named: 'Melt before the core',
    means: 'share of the cavity at which the melt ends and the nozzle shuts',
    unit: '%',
    min: 0.1,
    max: 1,
    step: 1,
    file: { key: 'share', unit: '' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  coreDelay: parameter({
    label: 'Delay',
    named: 'Delay of the core',
    means: 'from the end of the melt until the fluid is let in',
    unit: 's',
    min: 0,
    max: 120,
    step: 0.1,
    file: { key: 'delay', unit: 's' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill-up',
  }),
  corePressure: parameter({
    label: 'Pressure',
    named: 'Pressure in the core',
    means: 'pressure of the fluid in the core',
    unit: 'MPa',
    min: 0,
    max: 1e8,
    above: true,
    step: 1,
    file: { key: 'pressure', unit: 'Pa' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill-up',
  }),
  coreRise: parameter({
    label: 'Rises in',
    means: 'time in which the pressure of the core rises',
    unit: 's',
    min: 0.01,
    max: 60,
    step: 0.1,
    file: { key: 'rise', unit: 's' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill-up',
  }),
  coreHold: parameter({
    label: 'Held for',
    named: 'Hold of the core',
    means: 'time for which the pressure of the core is held',
    unit: 's',
    min: 0,
    max: 600,
    step: 1,
    file: { key: 'hold', unit: 's' },
    fallback: () => null,
    otherwise: 'a third of the time that the nominal wall takes to freeze',
    phase: 'fill-up',
  }),
  coreRelease: parameter({
    label: 'Let out in',
    means: 'time in which the core is let out',
    unit: 's',
    min: 0.05,
    max: 60,
    step: 0.5,
    file: { key: 'release', unit: 's' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill-up',
  }),
  coreVolume: parameter({
    label: 'Volume',
    named: 'Volume of the core',
    means: 'volume that is pushed into every cavity; of a gas at 0 °C and the pressure of the atmosphere',
    unit: 'cm³',
    min: 1e-9,
    max: 1,
    step: 10,
    file: { key: 'volume', unit: '' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill-up',
  }),
  pressGap: parameter({
    label: 'Gap',
    named: 'Gap of the tool',
    means: 'between the halves while the melt comes in',
    unit: 'mm',
    min: 1e-5,
    max: 0.1,
    step: 0.1,
    file: { key: 'gap', unit: 'm' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  chargeSize: parameter({
    label: 'Size',
    named: 'Size of the charge',
    means: 'of a piece of the charge, seen along the opening direction',
    unit: 'mm',
    min: 1e-3,
    max: 2,
    step: 1,
    file: { key: 'size', unit: 'm' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  chargeTurned: parameter({
    label: 'Turned',
    named: 'Turn of the charge',
    means: 'of a piece of the charge, about the opening direction',
    unit: '°',
    min: -3.2,
    max: 3.2,
    step: 5,
    file: { key: 'turned', unit: '' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  pressDose: parameter({
    label: 'Melt',
    named: 'Melt in the open tool',
    means: 'volume of the melt over that of the closed cavity; what is too much keeps the halves apart',
    unit: '%',
    min: 0.2,
    max: 2,
    step: 1,
    file: { key: 'dose', unit: '' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  fibreAspect: parameter({
    label: 'Length over diameter',
    named: 'Length over diameter of the fibres',
    means:
      'of the fibres as they are in the part: screw and gates break them; of flakes the diameter over the thickness',
    unit: '',
    min: 1,
    max: 1000,
    step: 1,
    file: { key: 'aspect', unit: '' },
    fallback: () => null,
    otherwise: 'that of the resin',
    phase: 'fill',
  }),
  fibreGranule: parameter({
    label: 'In the granules',
    named: 'Length of the fibres in the granules',
    means: 'before the screw; long ones are as long as the granules are cut',
    unit: 'mm',
    min: 5e-5,
    max: 0.05,
    step: 1,
    file: { key: 'granule', unit: 'm' },
    fallback: () => null,
    otherwise: '11 mm of long fibres; of short ones half as much again as in the part',
    phase: 'fill',
  }),
  fibreScrewStrain: parameter({
    label: 'Strain in the screw',
    named: 'Strain in the screw',
    means: 'shear rate times time that the melt goes through before the nozzle, at 60 1/s',
    unit: '',
    min: 0,
    max: 20000,
    step: 100,
    file: { key: 'screwStrain', unit: '' },
    fallback: () => SCREW_STRAIN,
    otherwise: `${SCREW_STRAIN}`,
    phase: 'fill',
  }),
  fibreInteraction: parameter({
    label: 'C_I',
    named: 'Interaction of the fibres',
    means: 'how much fibres throw each other out of line, by rate of shear; above 0.1 nothing would ever line up',
    unit: '',
    min: 0,
    max: 0.1,
    step: 0.001,
    file: { key: 'CI', unit: '' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  fibreSlowing: parameter({
    label: 'Follows at',
    named: 'Rate at which fibres follow',
    means: 'share of the rate of single fibres at which those of a crowd line up; 100 %: all of it',
    unit: '%',
    min: 0.005,
    max: 1,
    step: 1,
    file: { key: 'slowing', unit: '' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
  pressDelay: parameter({
    label: 'Waits',
    named: 'Delay of the press',
    means: 'from the end of the melt until the tool closes',
    unit: 's',
    min: 0,
    max: 120,
    step: 0.1,
    file: { key: 'delay', unit: 's' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill-up',
  }),
  pressSpeed: parameter({
    label: 'Closes with',
    named: 'Closing speed',
    means: 'speed of the moving half, as long as the force does it',
    unit: 'mm/s',
    min: 1e-5,
    max: 0.5,
    step: 1,
    file: { key: 'speed', unit: 'm/s' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill-up',
  }),
  pressForce: parameter({
    label: 'Force up to',
    named: 'Closing force',
    means: 'what the press has against the melt',
    unit: 'kN',
    min: 10,
    max: 1e8,
    step: 10,
    file: { key: 'force', unit: 'N' },
    fallback: () => null,
    otherwise: '0.8 of the clamp force of the machine',
    phase: 'fill-up',
  }),
  pressHold: parameter({
    label: 'Held for',
    named: 'Hold of the press',
    means: 'time for which the force is kept up once the cavity is full',
    unit: 's',
    min: 0,
    max: 600,
    step: 1,
    file: { key: 'hold', unit: 's' },
    fallback: () => null,
    otherwise: 'until the nominal wall has frozen',
    phase: 'fill-up',
  }),
  partingHeight: parameter({
    label: 'Parting height',
    means: 'height of the parting plane along the opening direction',
    unit: 'mm',
    min: -10,
    max: 10,
    step: 1,
    file: { key: 'partingHeight_mm', unit: 'mm' },
    fallback: () => null,
    otherwise: 'where the halves meet',
    phase: 'fill',
  }),
  measuredAfter: parameter({
    label: 'Measured after',
    means: 'time from the opening of the mould to the measurement of the part',
    unit: 'h',
    min: 60,
    max: 3.2e8,
    step: 1,
    file: { key: 'after', unit: 's' },
    fallback: () => A_DAY,
    otherwise: `${A_DAY}`,
    phase: 'pack',
  }),
  gateDiameter: parameter({
    label: 'Diameter',
    means: 'of a round gate',
    unit: 'mm',
    min: 1e-4,
    max: 0.05,
    step: 0.1,
    file: { key: 'diameter_mm', unit: 'mm' },
    fallback: () => null,
    otherwise: '',
    phase: 'fill',
  }),
};

const said = ({ label, unit }: Parameter, si: number) =>
  `${label}: ${formatNumber(fromSi(si, unit), 4)}${unit ? ` ${unit}` : ''}`;

/** Schema of a parameter, SI. */
export function numberSchema(p: Parameter) {
  const { min, max, above } = p;
  const base = z.number().max(max, `${said(p, max)} at most.`);
  return above ? base.gt(min, `${said(p, min)} is too little.`) : base.min(min, `${said(p, min)} at least.`);
}

/** Schema of a parameter as the study file writes it. */
export function fileNumberSchema({ min, max, above, file }: Parameter) {
  const at = (si: number) => tidy(fromSi(si, file.unit));
  const base = z.number().max(at(max));
  return above ? base.gt(at(min)) : base.min(at(min));
}

/** SI value as the study file writes it, and back. */
export const toFile = ({ file }: Parameter, si: number): number => tidy(fromSi(si, file.unit));
export const fromFile = ({ file }: Parameter, value: number): number => toSi(value, file.unit);
