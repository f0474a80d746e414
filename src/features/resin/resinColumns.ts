import { solidDensity } from '@/core/material/properties';
import { viscosity } from '@/core/material/viscosity';
import type { Resin } from '@/core/model/resin';
import { formatShown, shownUnit } from '@/core/units/reader';
import { formatNumber, type Unit } from '@/core/units/units';

/** A column of the table of resins. */
export interface ResinColumn {
  id: string;
  title: string;
  /** Of its numbers; absent: it holds words. */
  unit?: Unit;
  /** What is compared: words, or SI; NaN where a resin has none. */
  value: (resin: Resin) => string | number;
  /** How a number is written, where that is not in its unit. */
  text?: (value: number) => string;
}

/** Shear rate at which melts are compared, 1/s: usual in walls while they fill. */
export const COMPARED_RATE = 1000;

export const fillerOf = ({ filler }: Resin): string =>
  filler ? `${Math.round(100 * filler.share)} % ${filler.kind}` : '';

export const RESIN_COLUMNS: readonly ResinColumn[] = [
  { id: 'name', title: 'Name', value: (r) => r.name },
  { id: 'family', title: 'Family', value: (r) => r.family },
  { id: 'filler', title: 'Filler', value: fillerOf },
  { id: 'melt', title: 'Melt', unit: '°C', value: (r) => r.melt.recommended },
  { id: 'mould', title: 'Mould', unit: '°C', value: (r) => r.mould.recommended },
  { id: 'ejection', title: 'Ejection', unit: '°C', value: (r) => r.ejectionTemperature },
  {
    id: 'viscosity',
    title: 'Viscosity',
    unit: 'Pa·s',
    value: (r) => viscosity(r.viscosity, r.melt.recommended, 0, COMPARED_RATE),
  },
  { id: 'density', title: 'Density', unit: 'kg/m³', value: solidDensity },
  { id: 'modulus', title: 'Modulus', unit: 'GPa', value: (r) => r.elastic.E1 },
  { id: 'strength', title: 'Strength', unit: 'MPa', value: (r) => r.strength ?? NaN },
  {
    id: 'expansion',
    title: 'Expands by, 1e−6/K',
    unit: '',
    value: (r) => r.expansion.along,
    text: (v) => formatNumber(1e6 * v, 3),
  },
  { id: 'supplier', title: 'Supplier', value: (r) => r.supplier },
];

/** Head of a column, with the reader's unit. */
export const headOf = ({ title, unit }: ResinColumn): string => (unit ? `${title}, ${shownUnit(unit)}` : title);

export function cellOf({ unit, value, text }: ResinColumn, resin: Resin): string {
  const of = value(resin);
  if (typeof of === 'string') return of || '–';
  return text ? text(of) : formatShown(of, unit ?? '');
}

const quoted = (text: string) => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);

/** The table as CSV, in the order given. */
export const resinsCsv = (resins: readonly Resin[]): string =>
  [RESIN_COLUMNS.map(headOf), ...resins.map((r) => RESIN_COLUMNS.map((c) => cellOf(c, r)))]
    .map((row) => row.map((t) => quoted(t.replace('−', '-'))).join(','))
    .join('\n');
