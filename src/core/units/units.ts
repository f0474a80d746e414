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
  | '';

interface Conversion {
  /** SI = value * factor + offset */
  factor: number;
  offset: number;
}

const TABLE: Record<Unit, Conversion> = {
  mm: { factor: 1e-3, offset: 0 },
  cm: { factor: 1e-2, offset: 0 },
  m: { factor: 1, offset: 0 },
  in: { factor: 0.0254, offset: 0 },
  s: { factor: 1, offset: 0 },
  h: { factor: 3600, offset: 0 },
  '°C': { factor: 1, offset: 273.15 },
  K: { factor: 1, offset: 0 },
  MPa: { factor: 1e6, offset: 0 },
  Pa: { factor: 1, offset: 0 },
  'cm³': { factor: 1e-6, offset: 0 },
  'cm³/s': { factor: 1e-6, offset: 0 },
  'cm²': { factor: 1e-4, offset: 0 },
  'mm²': { factor: 1e-6, offset: 0 },
  µm: { factor: 1e-6, offset: 0 },
  'kg/m³': { factor: 1, offset: 0 },
  'W/(m·K)': { factor: 1, offset: 0 },
  'J/(kg·K)': { factor: 1, offset: 0 },
  GPa: { factor: 1e9, offset: 0 },
  '%': { factor: 1e-2, offset: 0 },
  '1/s': { factor: 1, offset: 0 },
  'Pa·s': { factor: 1, offset: 0 },
  kPa: { factor: 1e3, offset: 0 },
  kN: { factor: 1e3, offset: 0 },
  'm/s': { factor: 1, offset: 0 },
  'cm/s': { factor: 1e-2, offset: 0 },
  'mm/s': { factor: 1e-3, offset: 0 },
  bar: { factor: 1e5, offset: 0 },
  'l/min': { factor: 1e-3 / 60, offset: 0 },
  W: { factor: 1, offset: 0 },
  kJ: { factor: 1e3, offset: 0 },
  'kJ/m²': { factor: 1e3, offset: 0 },
  N: { factor: 1, offset: 0 },
  'N·m': { factor: 1, offset: 0 },
  'W/(m²·K)': { factor: 1, offset: 0 },
  'mm³': { factor: 1e-9, offset: 0 },
  g: { factor: 1e-3, offset: 0 },
  '°': { factor: Math.PI / 180, offset: 0 },
  '×': { factor: 1, offset: 0 },
  '': { factor: 1, offset: 0 },
};

/** Unit of the difference of two values: that of temperatures has no offset. */
export const differenceUnit = (unit: Unit): Unit => (unit === '°C' ? 'K' : unit);

/** Number as people type it, with comma or point and either minus; NaN where it is none. */
export function typedNumber(text: string): number {
  const plain = text.trim().replace(',', '.').replace('−', '-');
  return plain === '' ? NaN : Number(plain);
}

export const toSi = (value: number, unit: Unit): number => value * TABLE[unit].factor + TABLE[unit].offset;
export const fromSi = (value: number, unit: Unit): number => (value - TABLE[unit].offset) / TABLE[unit].factor;

/** Rounds away the binary dust of a conversion, for files people read: 0.0022 m -> 2.2, not 2.2000000000000002. */
export const tidy = (value: number, digits = 12): number => Number(value.toPrecision(digits));

/** A number in `unit` with a sensible count of significant digits and a real minus sign. */
export function format(si: number, unit: Unit, digits = 3): string {
  const text = formatNumber(fromSi(si, unit), digits);
  return unit === '' ? text : `${text} ${unit}`;
}

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
