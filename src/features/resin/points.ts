import Papa from 'papaparse';
import { ATMOSPHERE } from '@/core/material/pvt';
import type { OrientationPoint } from '@/core/material/fibres/fitTurning';
import type { PvtPoint } from '@/core/material/fitPvt';
import { FitError, type ViscosityPoint } from '@/core/material/fitViscosity';
import { measuredShrinkageSchema, type MeasuredShrinkage } from '@/core/model/resin';
import { fromSi, tidy, toSi } from '@/core/units/units';

/** Rows of numbers from pasted text or a file: commas, semicolons or tabs between, a head line or none. */
function rowsOf(text: string, columns: number, said: string, or = 'or ask the lab'): number[][] {
  const trimmed = text.trim();
  if (!trimmed) throw new FitError('There are no points yet.', `Paste lines of ${said}, ${or}.`);
  const european = /;/.test(trimmed) || /\t/.test(trimmed);
  const { data } = Papa.parse<string[]>(trimmed, {
    delimiter: trimmed.includes('\t') ? '\t' : trimmed.includes(';') ? ';' : ',',
    skipEmptyLines: 'greedy',
  });
  const rows: number[][] = [];
  data.forEach((cells, k) => {
    const numbers = cells.slice(0, columns).map((c) => Number((european ? c.replace(',', '.') : c).trim()));
    const complete = numbers.length >= Math.min(columns, 3) && numbers.every((x) => Number.isFinite(x));
    // The first line may name the columns.
    if (!complete && k === 0) return;
    if (!complete)
      throw new FitError(
        `Line ${k + 1} is not made of ${Math.min(columns, 3)} numbers: "${cells.join(', ')}".`,
        `Each line holds ${said}.`,
      );
    rows.push(numbers);
  });
  return rows;
}

export const VISCOSITY_COLUMNS =
  'shear rate [1/s], temperature [°C], viscosity [Pa·s] and, if you like, pressure [MPa]';
export const PVT_COLUMNS = 'temperature [°C], pressure [MPa], specific volume [cm³/g]';

/** @throws FitError with the line that is wrong. */
export function viscosityPoints(text: string): ViscosityPoint[] {
  return rowsOf(text, 4, VISCOSITY_COLUMNS).map(([shearRate, T, viscosity, p = 0]) => ({
    T: toSi(T, '°C'),
    p: toSi(p, 'MPa'),
    shearRate,
    viscosity,
  }));
}

export const FIBRE_COLUMNS =
  'distance from the film gate [mm], wall [mm], place from the middle to the face [%], share along the flow [%]';

/** @throws FitError with the line that is wrong. */
export function fibrePoints(text: string): OrientationPoint[] {
  return rowsOf(text, 4, FIBRE_COLUMNS).map(([distance, wall, place, along], k) => {
    if (along === undefined)
      throw new FitError(`Line ${k + 1} has no share along the flow.`, `Each line holds ${FIBRE_COLUMNS}.`);
    return {
      distance: toSi(distance, 'mm'),
      wall: toSi(wall, 'mm'),
      place: toSi(place, '%'),
      along: toSi(along, '%'),
    };
  });
}

export const fibreText = (points: readonly OrientationPoint[]): string =>
  ['distance mm, wall mm, place %, along %']
    .concat(
      points.map((q) =>
        [fromSi(q.distance, 'mm'), fromSi(q.wall, 'mm'), fromSi(q.place, '%'), fromSi(q.along, '%')]
          .map((x) => tidy(x))
          .join(', '),
      ),
    )
    .join('\n');

export const SHRINKAGE_COLUMNS =
  'thickness [mm], packing pressure [MPa], shrinkage along [%] and, where it differs, across [%]';

/** @throws FitError with the line that is wrong. */
export function shrinkagePoints(text: string): MeasuredShrinkage[] {
  const rows = rowsOf(text, 4, SHRINKAGE_COLUMNS, 'or type them in');
  if (!rows.length) throw new FitError('There are no plates yet.', `Each line holds ${SHRINKAGE_COLUMNS}.`);
  return rows.map(([thickness, pressure, along, across = along], k) => {
    const point = {
      thickness: toSi(thickness, 'mm'),
      pressure: toSi(pressure, 'MPa'),
      along: toSi(along, '%'),
      across: toSi(across, '%'),
    };
    const parsed = measuredShrinkageSchema.safeParse(point);
    if (parsed.success) return parsed.data;
    throw new FitError(
      `Plate ${k + 1} can not be: ${thickness} mm, ${pressure} MPa, ${along} %, ${across} %.`,
      'Plates are up to 50 mm thick, pressures up to 500 MPa, shrinkages between -2 and 20 %.',
    );
  });
}

export const shrinkageText = (points: readonly MeasuredShrinkage[]): string =>
  ['thickness mm, packing pressure MPa, along %, across %']
    .concat(
      points.map((q) =>
        [fromSi(q.thickness, 'mm'), fromSi(q.pressure, 'MPa'), fromSi(q.along, '%'), fromSi(q.across, '%')]
          .map((x) => tidy(x))
          .join(', '),
      ),
    )
    .join('\n');

/** @throws FitError with the line that is wrong. */
export function pvtPoints(text: string): PvtPoint[] {
  return rowsOf(text, 3, PVT_COLUMNS).map(([T, p, v]) => ({
    T: toSi(T, '°C'),
    p: toSi(p, 'MPa') + ATMOSPHERE,
    v: v * 1e-3,
  }));
}

export const viscosityText = (points: readonly ViscosityPoint[]): string =>
  ['shear rate 1/s, temperature °C, viscosity Pa·s, pressure MPa']
    .concat(points.map((q) => [q.shearRate, tidy(fromSi(q.T, '°C')), q.viscosity, tidy(fromSi(q.p, 'MPa'))].join(', ')))
    .join('\n');

export const pvtText = (points: readonly PvtPoint[]): string =>
  ['temperature °C, pressure MPa, specific volume cm³/g']
    .concat(
      points.map((q) =>
        [tidy(fromSi(q.T, '°C')), tidy(fromSi(q.p - ATMOSPHERE, 'MPa')), tidy(q.v * 1e3, 7)].join(', '),
      ),
    )
    .join('\n');
