/**
 * Units in which whoever reads wants numbers told. Inside everything is SI, files keep the units of their keys, and the
 * code names the unit that suits a quantity ("MPa" for a pressure in the melt); the reader's choice is applied here, the
 * last thing before a number is written and the first after one is typed. It is one choice for a whole page, so it is
 * state of this module; whoever never calls `readIn` (command line, server) reads in the units that the code names.
 */
import { formatNumber, fromSi, isUnit, kindOf, toSi, typedNumber, UNIT_NAMES, type Unit } from './units';

export const READER_UNITS = {
  length: ['mm', 'in'],
  pressure: ['MPa', 'bar', 'psi'],
  temperature: ['°C', '°F'],
  mass: ['g', 'oz'],
} as const satisfies Record<string, readonly Unit[]>;

export type ReaderUnits = { [Q in keyof typeof READER_UNITS]: (typeof READER_UNITS)[Q][number] };

export const METRIC: ReaderUnits = { length: 'mm', pressure: 'MPa', temperature: '°C', mass: 'g' };

/** Units told in another way by each choice that is not the plain one. A modulus is no pressure of the melt: it stays. */
const INSTEAD: { [unit in Unit]?: { [unit in Unit]?: Unit } } = {
  in: {
    mm: 'in',
    cm: 'in',
    µm: 'mil',
    'mm²': 'in²',
    'cm²': 'in²',
    'mm³': 'in³',
    'cm³': 'in³',
    'cm³/s': 'in³/s',
    'mm/s': 'in/s',
    'cm/s': 'in/s',
    'm/s': 'ft/s',
  },
  bar: { MPa: 'bar', kPa: 'bar' },
  psi: { MPa: 'psi', kPa: 'psi', bar: 'psi' },
  '°F': { '°C': '°F', K: 'F°' },
  oz: { g: 'oz', 'kg/m³': 'lb/ft³' },
};

let instead: { [unit in Unit]?: Unit } = {};

/** Sets what the reader wants; all that is written from now on follows it. */
export function readIn(units: ReaderUnits): void {
  instead = Object.assign({}, ...Object.values(units).map((u) => INSTEAD[u] ?? {}));
}

/** Unit in which the reader is told what the code calls `unit`. */
export const shownUnit = (unit: Unit): Unit => instead[unit] ?? unit;

/** SI as a number in the reader's unit. */
export const told = (si: number, unit: Unit): number => fromSi(si, shownUnit(unit));

/** A number in the reader's unit for `unit` with a sensible count of significant digits and a real minus sign. */
export function format(si: number, unit: Unit, digits = 3): string {
  const text = formatNumber(told(si, unit), digits);
  // The sign of degrees of an angle stands at its number.
  return unit === '' || unit === '°' ? text + unit : `${text} ${shownUnit(unit)}`;
}

/** A number without its unit, where that stands in a head or beside several of them. */
export const formatShown = (si: number, unit: Unit, digits = 3): string => formatNumber(told(si, unit), digits);

/** Coordinate without its unit, in steps of a tenth of a millimetre or a thousandth of an inch: none is written as tiny. */
export function formatCoordinate(si: number): string {
  const decimals = shownUnit('mm') === 'mm' ? 1 : 3;
  const rounded = Math.round(told(si, 'mm') * 10 ** decimals) / 10 ** decimals;
  return (rounded === 0 ? 0 : rounded).toFixed(decimals).replace('-', '−');
}

/** m; what is less is what rounding has left of nothing. */
const DUST = 1e-9;

/** Place with its unit. */
export const formatPlace = (place: readonly number[], separator = ', ', digits = 3): string =>
  `${place.map((x) => formatShown(Math.abs(x) < DUST ? 0 : x, 'mm', digits)).join(separator)} ${shownUnit('mm')}`;

const FRACTION = /^([-−]?)(?:(\d+)[ -])?(\d+)\/(\d+)$/;

/** Number or fraction: "8.5", "8,5", "1/8", "1 1/2"; NaN where it is neither. */
function typedAmount(text: string): number {
  const parts = FRACTION.exec(text);
  if (!parts) return typedNumber(text);
  const [, sign, whole = '0', above, below] = parts;
  return (sign ? -1 : 1) * (Number(whole) + Number(above) / Number(below));
}

/** Ways to write units on a keyboard that has no signs for them. */
const SPELT: Record<string, Unit> = {
  '"': 'in',
  inch: 'in',
  um: 'µm',
  C: '°C',
  F: '°F',
  degC: '°C',
  degF: '°F',
  cm3: 'cm³',
  mm3: 'mm³',
  in3: 'in³',
  cm2: 'cm²',
  mm2: 'mm²',
  in2: 'in²',
  'cm3/s': 'cm³/s',
  'in3/s': 'in³/s',
  deg: '°',
  x: '×',
};

/**
 * SI of what was typed in a field of `unit`: in the reader's unit where none is typed, else in the one that is ("2 in",
 * "30 bar", "1/8 in"). NaN where it is no number, or its unit measures something else.
 */
export function typedQuantity(text: string, unit: Unit): number {
  const said = /^([-−\d.,/ ]*[\d.,](?:e[-−+]?\d+)?)\s*([^\d\s.,].*)?$/i.exec(text.trim());
  if (!said) return NaN;
  const [, amount, name] = said;
  const own = shownUnit(unit);
  let typed: Unit | undefined = own;
  if (name !== undefined) {
    typed = [name, SPELT[name] ?? ''].find(isUnit);
    // Where a step of temperature is wanted, degrees are steps.
    if (kindOf(own) === 'temperature difference')
      typed = ({ '°C': 'K', '°F': 'F°' } as const)[typed as string] ?? typed;
    if (typed === undefined || kindOf(typed) !== kindOf(own)) return NaN;
  }
  return toSi(typedAmount(amount.trim()), typed);
}

/** Step of a field in the reader's unit: 1, 2 or 5 times a power of ten near `step` of `unit`. */
export function shownStep(step: number, unit: Unit): number {
  if (shownUnit(unit) === unit) return step;
  const exact = told(toSi(step, unit), unit) - told(toSi(0, unit), unit);
  const power = 10 ** Math.floor(Math.log10(exact));
  return [1, 2, 5, 10].reduce((a, b) => (Math.abs(b * power - exact) < Math.abs(a * power - exact) ? b : a)) * power;
}

const NUMBER = '[−-]?\\d+(?:\\.\\d+)?(?:e[−-]?\\d+)?';
const quoted = (text: string) => text.replace(/[/()²³°·%]/g, '\\$&');
const MEASURED = new RegExp(
  // One number; from one to another; sides of a box; a place.
  `(?<![\\w.,/])(${NUMBER}(?:(?: to | → | × | and )${NUMBER})*|${NUMBER}, ${NUMBER}, ${NUMBER}) (${UNIT_NAMES.map(quoted).join('|')})(?![\\w²³/°·])`,
  'g',
);

/** Text that was made without knowing the reader, with its measures in the reader's units. */
export function reworded(text: string): string {
  return text.replace(MEASURED, (all: string, numbers: string, name: Unit) => {
    if (shownUnit(name) === name) return all;
    const told = numbers.replace(new RegExp(NUMBER, 'g'), (n) =>
      formatShown(toSi(typedNumber(n), name), name, digitsOf(n)),
    );
    return `${told} ${shownUnit(name)}`;
  });
}

/** Digits that a number is told with: as many as it had, three at least. */
const digitsOf = (n: string): number =>
  Math.max(
    3,
    n
      .replace(/e.*$/, '')
      .replace(/^[−-]?0*\.?0*/, '')
      .replace('.', '').length,
  );
