import { z } from 'zod';
import { fromSi, tidy, type Unit } from '../units/units';

/**
 * A number of the inputs that belongs to something which there may be many of (a gate, a runner, a channel, a machine):
 * what schema and field need to know of it. Numbers that a shot has one of are parameters (see parameter.ts); what a
 * number means stands in help/inputHelp.ts.
 */
export interface Quantity {
  /** At the edge; SI inside. */
  unit: Unit;
  /** Limits, SI; `above`: the lower one itself is not allowed; `whole`: whole numbers alone. */
  min: number;
  max: number;
  above?: true;
  whole?: true;
  /** Of the arrow keys, in `unit`. */
  step: number;
  /** Where it stands in a study file, in SI; absent: it is part of a place, or of something else there. */
  file?: string;
}

/** Where it stands in a study file. */
const at = <Q extends Quantity>(q: Q, file: string) => ({ ...q, file });

const quantity = (unit: Unit, min: number, max: number, step: number, more: Pick<Quantity, 'above' | 'whole'> = {}) =>
  ({ unit, min, max, step, ...more }) satisfies Quantity;

const whole = { whole: true } as const;
const above = { above: true } as const;

/** Of a runner, or of what leads to and from it. */
const section = (step = 0.5) => quantity('mm', 2e-4, 0.06, step);
const gateSide = (step: number) => quantity('mm', 1e-4, 0.5, step);
const bore = quantity('mm', 1e-3, 0.06, 1);
const melt = quantity('°C', 273.15, 773.15, 5);
const steel = quantity('°C', 223.15, 573.15, 5);
const place = quantity('mm', -5, 5, 1);

const TABLE = {
  gateLength: at(quantity('mm', 2e-4, 0.05, 0.25), 'gates[].form.length'),
  gateWide: at(gateSide(0.25), 'gates[].form.wide'),
  gateWidth: at(gateSide(0.5), 'gates[].form.width'),
  gateThickness: at(gateSide(0.1), 'gates[].form.thickness'),
  gateAngle: at(quantity('°', 0.2, 1.4, 5), 'gates[].form.angle'),
  pinTime: at(quantity('s', 0, 600, 0.1), 'gates[].pin.open.time'),
  pinShare: at(quantity('%', 0, 1, 5), 'gates[].pin.open.share'),
  pinPressure: at(quantity('MPa', 0, 5e8, 5, above), 'gates[].pin.open.pressure'),
  pinTakes: at(quantity('s', 0.001, 10, 0.01), 'gates[].pin.over'),

  runnerHeight: at(place, 'feed.height'),
  runnerWidth: at(section(), 'feed.runner.diameter'),
  runnerDepth: at(section(), 'feed.runner.height'),
  runnerEnd: at(section(), 'feed.lines[].endSection.diameter'),
  hotTemperature: at(melt, 'feed.hot.temperature'),
  sprueAt: place,
  sprueLength: at(quantity('mm', 1e-3, 1, 5), 'feed.sprue.length'),
  sprueNozzle: at(section(), 'feed.sprue.nozzle'),
  sprueRunner: at(section(), 'feed.sprue.runner'),
  dropRunner: at(section(), 'feed.drop.runner'),
  dropGate: at(section(0.25), 'feed.drop.gate'),
  landLength: at(quantity('mm', 2e-4, 0.05, 0.25), 'feed.land.length'),
  slug: at(quantity('mm', 0, 0.05, 1), 'feed.slug'),
  cavityColumns: at(quantity('×', 1, 32, 1, whole), 'cavities.places.columns'),
  cavityRing: at(quantity('×', 2, 48, 1, whole), 'cavities.places.count'),
  cavityPitch: at(quantity('mm', 1e-3, 5, 1), 'cavities.places.pitch'),
  cavityTurned: at(quantity('°', -7, 7, 15), 'cavities.places.copies[].turn'),
  cavityAt: place,
  place,

  ventWidth: at(quantity('mm', 1e-4, 0.3, 1), 'vents[].at.width'),
  ventGap: at(quantity('mm', 2e-6, 5e-4, 0.005), 'vents[].gap'),
  ventLand: at(quantity('mm', 2e-4, 0.05, 0.25), 'vents[].land'),
  ventPressure: at(quantity('kPa', 1000, 101_325, 5), 'vents[].exitPressure'),
  tabSize: at(quantity('mm', 1e-4, 0.3, 0.25), 'tabs[].size.length'),

  channelDiameter: at(bore, 'cooling.lines[].diameter'),
  channelCount: at(quantity('', 1, 24, 1, whole), 'cooling.plan.count'),
  channelPitch: at(quantity('mm', 3e-3, 0.5, 1), 'cooling.plan.pitch'),
  channelDistance: at(quantity('mm', 2e-3, 0.5, 1), 'cooling.plan.distance'),
  channelHeight: place,
  wellHeight: quantity('mm', 1e-3, 1, 1),
  blade: at(quantity('mm', 2e-4, 0.02, 0.1), 'cooling.lines[].kind.blade'),
  tubeOutside: at(quantity('mm', 1e-3, 0.05, 0.5), 'cooling.lines[].kind.outer'),
  tubeInside: at(quantity('mm', 5e-4, 0.05, 0.5), 'cooling.lines[].kind.inner'),
  hoseLength: at(quantity('m', 0.01, 50, 0.1), 'cooling.lines[].kind.length'),
  loss: at(quantity('', 0, 100, 0.1), 'cooling.lines[].loss'),
  glycol: at(quantity('%', 0, 0.6, 5), 'cooling.supplies[].coolant.glycol'),
  coolantSent: at(steel, 'cooling.supplies[].temperature'),
  coolantFlow: at(quantity('l/min', 0, 0.05, 1), 'cooling.supplies[].pump.flowRate'),
  coolantPressure: at(quantity('bar', 0, 5e6, 0.5), 'cooling.supplies[].pump.pressure'),
  pumpShut: at(quantity('bar', 0, 5e6, 0.5, above), 'cooling.supplies[].pump.shutOff'),
  pumpFree: at(quantity('l/min', 0, 0.05, 5, above), 'cooling.supplies[].pump.freeFlow'),
  supplyHose: at(quantity('m', 0, 50, 0.5), 'cooling.supplies[].hose.length'),
  supplyBore: at(bore, 'cooling.supplies[].hose.diameter'),
  air: at(quantity('°C', 223.15, 373.15, 1), 'cooling.ambient.temperature'),
  airTransfer: at(quantity('W/(m²·K)', 0, 500, 1), 'cooling.ambient.transfer'),
  platens: at(steel, 'cooling.platens.temperature'),
  platenTransfer: at(quantity('W/(m²·K)', 0, 1e4, 10), 'cooling.platens.transfer'),
  metalPiece: quantity('mm', 1e-3, 2, 1),
  roughness: at(quantity('µm', 0, 1e-3, 5), 'cooling.roughness'),
  startUp: at(quantity('', 1, 200, 5, whole), 'cooling.startUp'),
  keepOut: at(quantity('mm', 0, 0.5, 1, above), 'cooling.keepOut[].radius'),
  moves: at(quantity('s', 0, 200, 0.1), 'cycle.moves_s.opening'),

  screw: at(quantity('mm', 5e-3, 0.5, 1), 'cycle.machine.screwDiameter'),
  machinePressure: at(quantity('MPa', 1e6, 5e8, 5), 'cycle.machine.maxPressure'),
  machineFlow: at(quantity('cm³/s', 1e-7, 0.05, 5), 'cycle.machine.maxFlowRate'),
  machineClamp: at(quantity('kN', 1e3, 1e8, 50), 'cycle.machine.clampForce'),
  machineShot: at(quantity('cm³', 1e-7, 0.2, 5), 'cycle.machine.shotVolume'),
  coreTemperature: at(quantity('°C', 250, 480, 5), 'core.temperature'),
  meltLetIn: at(melt, 'core.second.meltTemperature'),
  insertTemperature: at(steel, 'inserts[].temperature'),
  transfer: at(quantity('s', 0, 600, 0.5), 'later[].transfer_s'),
  tolerance: at(quantity('mm', 0, 0.1, 0.05, above), 'warpage.tolerance'),
  angleTolerance: at(quantity('°', 0, 3, 0.1, above), 'warpage.measures[].tolerance'),
} as const;

export type QuantityName = keyof typeof TABLE;
export const QUANTITIES: Readonly<Record<QuantityName, Quantity>> = TABLE;

const said = (si: number, unit: Unit) => `${tidy(fromSi(si, unit), 4)}${unit === '' ? '' : ` ${unit}`}`;

/** Schema of a number within limits, SI; its faults say what they are, and what is `named` so. */
export function limited(
  { unit, min, max, above: open }: Pick<Quantity, 'unit' | 'min' | 'max' | 'above'>,
  named?: string,
): z.ZodNumber {
  const fault = (words: string, si: number) =>
    named ? `${named}: ${words} ${said(si, unit)}.` : `${words[0].toUpperCase()}${words.slice(1)} ${said(si, unit)}.`;
  const most = z.number().max(max, fault('at most', max));
  return open ? most.gt(min, fault('more than', min)) : most.min(min, fault('at least', min));
}

/** Schema of a quantity, SI. */
export function within(name: QuantityName): z.ZodNumber {
  const q = QUANTITIES[name];
  return q.whole ? limited(q).int('A whole number.') : limited(q);
}

/** Smallest value that counts where the lower limit itself is not allowed, as a share of the largest. */
const LEAST = 1e-9;

/** Smallest value that a field takes, SI. */
export const leastOf = ({ min, max, above: open }: Pick<Quantity, 'min' | 'max' | 'above'>): number =>
  open ? min + LEAST * (max - min) : min;
