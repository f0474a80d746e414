import { formatNumber, fromSi, kindOf, toSi, type Unit } from '@/core/units/units';
import { shownUnit } from '@/core/units/reader';

/** Lines of equal value: SI step between them, and a value that one of them has. */
export interface Isolines {
  step: number;
  from: number;
}

/** Lines over a scale at the least. */
const LEAST = 7;

/** 1, 2 or 5 times a power of ten, at least x; 0 of nothing. */
export function niceStep(x: number): number {
  if (!(x > 0)) return 0;
  const power = 10 ** Math.floor(Math.log10(x));
  return [1, 2, 5, 10].map((f) => f * power).find((s) => s >= x * (1 - 1e-9)) as number;
}

/** Step of the isolines over a scale [SI], in the reader's unit for `unit`; 0 where the scale has no length. */
function stepIn([low, high]: readonly [number, number], unit: Unit): number {
  const shown = shownUnit(unit);
  return niceStep(Math.abs(fromSi(high, shown) - fromSi(low, shown)) / (2 * LEAST));
}

/** Lines at round values of the reader's unit; null where there are none to draw. */
export function isolinesOver(range: readonly [number, number], unit: Unit): Isolines | null {
  const step = stepIn(range, unit);
  if (!(step > 0)) return null;
  const zero = toSi(0, shownUnit(unit));
  return { step: Math.abs(toSi(step, shownUnit(unit)) - zero), from: zero };
}

/** The step as text, with the unit of a difference. */
export function isolinesText(range: readonly [number, number], unit: Unit): string {
  const step = stepIn(range, unit);
  if (!(step > 0)) return '';
  const shown = shownUnit(unit);
  const of = kindOf(shown) === 'temperature' ? (shown === '°F' ? 'F°' : 'K') : shown;
  return `lines every ${formatNumber(step, 2)}${of && ` ${of}`}`;
}
