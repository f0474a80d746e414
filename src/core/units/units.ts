/**
 * The one table of units. SI inside (no suffix), named units at the edge. A temperature (with the
 * offset to kelvin) and a temperature difference are two quantities.
 */
export type Unit =
  | 'mm'
  | 'cm'
  | 'm'
  | 'in'
  | 's'
  | 'h'
  | '°C'
  | 'K'
  | 'MPa'
  | 'Pa'
  | 'cm³'
  | 'cm³/s'
  | 'cm²'
  | 'mm²'
  | 'µm'
  | 'kg/m³'
  | 'W/(m·K)'
  | 'J/(kg·K)'
  | 'GPa'
  | '%'
  | '1/s'
  | 'Pa·s'
  | 'kPa'
  | 'kN'
  | 'm/s'
  | 'cm/s'
  | 'mm/s'
  | 'W/(m²·K)'
  | 'mm³'
  | 'g'
  | '°'
  | '×'
  | 'bar'
  | 'l/min'
  | 'W'
  | 'kJ'
  | 'kJ/m²'
  | 'N'
  | 'N·m'
  | 'psi'
  | '°F'
  | 'F°'
  | 'oz'
  | 'lb/ft³'
  | 'mil'
  | 'in²'
  | 'in³'
  | 'in³/s'
  | 'in/s'
  | 'ft/s'
  | '';

/** What a unit measures: values of one kind can be told in each other's units. */
type Kind =
  | 'length'
  | 'area'
  | 'volume'
  | 'flow'
  | 'speed'
  | 'pressure'
  | 'temperature'
  | 'temperature difference'
  | 'mass'
  | 'density'
  | 'time'
  | 'force';

interface Conversion {
  /** SI = value * factor + offset */
  factor: number;
  offset: number;
  /** Of units that a number may be typed in; none: of itself alone. */
  kind?: Kind;
}

const TABLE: Record<Unit, Conversion> = {
  mm: { factor: 1e-3, offset: 0, kind: 'length' },
  cm: { factor: 1e-2, offset: 0, kind: 'length' },
  m: { factor: 1, offset: 0, kind: 'length' },
  in: { factor: 0.0254, offset: 0, kind: 'length' },
  s: { factor: 1, offset: 0, kind: 'time' },
  h: { factor: 3600, offset: 0, kind: 'time' },
  '°C': { factor: 1, offset: 273.15, kind: 'temperature' },
  K: { factor: 1, offset: 0, kind: 'temperature difference' },
  MPa: { factor: 1e6, offset: 0, kind: 'pressure' },
  Pa: { factor: 1, offset: 0, kind: 'pressure' },
  'cm³': { factor: 1e-6, offset: 0, kind: 'volume' },
  'cm³/s': { factor: 1e-6, offset: 0, kind: 'flow' },
  'cm²': { factor: 1e-4, offset: 0, kind: 'area' },
  'mm²': { factor: 1e-6, offset: 0, kind: 'area' },
  µm: { factor: 1e-6, offset: 0, kind: 'length' },
  'kg/m³': { factor: 1, offset: 0, kind: 'density' },
  'W/(m·K)': { factor: 1, offset: 0 },
  'J/(kg·K)': { factor: 1, offset: 0 },
  GPa: { factor: 1e9, offset: 0, kind: 'pressure' },
  '%': { factor: 1e-2, offset: 0 },
  '1/s': { factor: 1, offset: 0 },
  'Pa·s': { factor: 1, offset: 0 },
  kPa: { factor: 1e3, offset: 0, kind: 'pressure' },
  kN: { factor: 1e3, offset: 0, kind: 'force' },
  'm/s': { factor: 1, offset: 0, kind: 'speed' },
  'cm/s': { factor: 1e-2, offset: 0, kind: 'speed' },
  'mm/s': { factor: 1e-3, offset: 0, kind: 'speed' },
  bar: { factor: 1e5, offset: 0, kind: 'pressure' },
  'l/min': { factor: 1e-3 / 60, offset: 0, kind: 'flow' },
  W: { factor: 1, offset: 0 },
  kJ: { factor: 1e3, offset: 0 },
  'kJ/m²': { factor: 1e3, offset: 0 },
  N: { factor: 1, offset: 0, kind: 'force' },
  'N·m': { factor: 1, offset: 0 },
  'W/(m²·K)': { factor: 1, offset: 0 },
  'mm³': { factor: 1e-9, offset: 0, kind: 'volume' },
  g: { factor: 1e-3, offset: 0, kind: 'mass' },
  psi: { factor: 6894.757293168, offset: 0, kind: 'pressure' },
  '°F': { factor: 5 / 9, offset: 273.15 - 32 * (5 / 9), kind: 'temperature' },
  // The step of that scale: a difference has no zero of its own.
  'F°': { factor: 5 / 9, offset: 0, kind: 'temperature difference' },
  oz: { factor: 0.028349523125, offset: 0, kind: 'mass' },
  'lb/ft³': { factor: 16.01846337396, offset: 0, kind: 'density' },
  mil: { factor: 2.54e-5, offset: 0, kind: 'length' },
  'in²': { factor: 0.0254 ** 2, offset: 0, kind: 'area' },
  'in³': { factor: 0.0254 ** 3, offset: 0, kind: 'volume' },
  'in³/s': { factor: 0.0254 ** 3, offset: 0, kind: 'flow' },
  'in/s': { factor: 0.0254, offset: 0, kind: 'speed' },
  'ft/s': { factor: 0.3048, offset: 0, kind: 'speed' },
  '°': { factor: Math.PI / 180, offset: 0 },
  '×': { factor: 1, offset: 0 },
  '': { factor: 1, offset: 0 },
};

/** Unit of the difference of two values: that of temperatures has no offset. */
export const differenceUnit = (unit: Unit): Unit => (unit === '°C' ? 'K' : unit === '°F' ? 'F°' : unit);

/** Number as people type it, with comma or point and either minus; NaN where it is none. */
export function typedNumber(text: string): number {
  const plain = text.trim().replace(',', '.').replace('−', '-');
  return plain === '' ? NaN : Number(plain);
}

export const toSi = (value: number, unit: Unit): number => value * TABLE[unit].factor + TABLE[unit].offset;
export const fromSi = (value: number, unit: Unit): number => (value - TABLE[unit].offset) / TABLE[unit].factor;

/** Rounds away the binary dust of a conversion, for files people read: 0.0022 m -> 2.2, not 2.2000000000000002. */
export const tidy = (value: number, digits = 12): number => Number(value.toPrecision(digits));

/** What a unit measures, or itself where nothing else measures the same. */
export const kindOf = (unit: Unit): string => TABLE[unit].kind ?? unit;

export const isUnit = (text: string): text is Unit => text !== '' && Object.hasOwn(TABLE, text);

/** Names of the units, longest first. */
export const UNIT_NAMES: readonly Unit[] = (Object.keys(TABLE) as Unit[])
  .filter((u) => u !== '')
  .sort((a, b) => b.length - a.length);

export function formatNumber(value: number, digits = 3): string {
  if (!Number.isFinite(value)) return '–';
  if (value === 0) return '0';
  const magnitude = Math.floor(Math.log10(Math.abs(value)));
  if (magnitude >= 6 || magnitude < -4) return value.toExponential(digits - 1).replace('-', '−');
  const decimals = Math.max(0, digits - 1 - magnitude);
  return value.toFixed(Math.min(6, decimals)).replace('-', '−');
}

/** Significant digits that tell the values of a range apart that lie one of `steps` from each other: three at least, six at most. */
export function digitsApart(low: number, high: number, steps: number): number {
  const step = Math.abs(high - low) / steps;
  const most = Math.max(Math.abs(low), Math.abs(high));
  if (!(step > 0) || !Number.isFinite(most)) return 3;
  return Math.min(6, Math.max(3, Math.ceil(Math.log10(most / step)) + 1));
}

export const LENGTH_UNITS = ['mm', 'cm', 'm', 'in'] as const;
export type LengthUnit = (typeof LENGTH_UNITS)[number];

/**
 * The unit a part of this size (largest extent, in file numbers) most likely has: the first of mm, cm,
 * in, m that makes it between 5 mm and 3 m. Parts of this trade are rarely outside.
 */
export function guessLengthUnit(extent: number): LengthUnit {
  const units: LengthUnit[] = ['mm', 'in', 'cm', 'm'];
  const sized = (unit: LengthUnit, low: number, high: number) => {
    const metres = toSi(extent, unit);
    return metres >= low && metres <= high;
  };
  return units.find((unit) => sized(unit, 0.02, 2)) ?? units.find((unit) => sized(unit, 0.002, 5)) ?? 'mm';
}
