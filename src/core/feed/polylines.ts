import type { Polyline } from '../formats/dxf';
import type { Vec3 } from '../geometry/mesh';
import { FormatError } from '../formats/formatError';
import type { AxisTrace } from '../model/body';
import type { RunnerLine } from '../model/feed';
import type { LaidFeed } from './builder';
import { areaOf, type Section } from './section';

const distance = (a: Vec3, b: Vec3) => Math.hypot(...a.map((x, d) => x - b[d]));

/** A free name of a runner line, L1, L2, … */
export function freshLineId(taken: readonly { id: string }[]): string {
  for (let n = taken.length + 1; ; n++) if (!taken.some((t) => t.id === `L${n}`)) return `L${n}`;
}

/** Runner lines of polylines; where there is no diameter they get `section`. */
export function linesOf(polylines: readonly Polyline[], section: Section, taken: readonly RunnerLine[]): RunnerLine[] {
  const lines: RunnerLine[] = [];
  const round = (d: number | null): Section => (d === null ? section : { shape: 'round', diameter: d });
  for (const { points, diameters } of polylines)
    for (let k = 1; k < points.length; k++) {
      if (distance(points[k - 1], points[k]) < 1e-6) continue;
      const [first, last] = [round(diameters[k - 1]), round(diameters[k])];
      const tapers = diameters[k] !== null && Math.abs(areaOf(first) / areaOf(last) - 1) > 1e-3;
      lines.push({
        id: freshLineId([...taken, ...lines]),
        from: points[k - 1],
        to: points[k],
        section: first,
        endSection: tapers ? last : null,
        hot: null,
      });
    }
  return lines;
}

/** Places are kept to this, m: what turning leaves behind the comma is no place. */
const ROUNDED = 1e-7;

/** Runners and drops of a laid-out feed as lines that can be moved one by one. */
export function linesOfNetwork({ points, segments, kinds }: LaidFeed): RunnerLine[] {
  const lines: RunnerLine[] = [];
  segments.forEach(({ from, to, section, endSection }, k) => {
    if (kinds[k] !== 'runner' && kinds[k] !== 'drop') return;
    const [a, b] = [points[from], points[to]].map((p) => p.map((x) => Math.round(x / ROUNDED) * ROUNDED) as Vec3);
    lines.push({ id: freshLineId(lines), from: a, to: b, section, endSection, hot: null });
  });
  return lines;
}

/** A traced centre line as polylines, one a segment. */
export const polylinesOfTrace = ({ nodes, segments }: AxisTrace): Polyline[] =>
  segments.map(([a, b]) => ({
    points: [nodes[a].position, nodes[b].position],
    diameters: [nodes[a].diameter, nodes[b].diameter],
  }));

/**
 * Rows of a table as polylines: columns x, y, z and if there are any, diameter and line, by name or in
 * this order, in `unit` metres. A new value of line, or an empty row, begins a new polyline.
 */
export function polylinesOfRows(rows: readonly (readonly string[])[], unit: number): Polyline[] {
  const filled = rows.findIndex((r) => r.some((c) => c.trim() !== ''));
  if (filled < 0) throw new FormatError('The file is empty.', 'Give rows of x, y, z and, if wanted, a diameter.');
  const head = rows[filled].map((c) => c.trim().toLowerCase());
  const named = head.some((c) => c !== '' && Number.isNaN(Number(c.replace(',', '.'))));
  const column = (names: string[], index: number) => {
    const found = named
      ? head.findIndex((h) => names.some((n) => h === n || h.startsWith(`${n}_`) || h.startsWith(`${n} `)))
      : index;
    return found;
  };
  const [x, y, z] = [column(['x'], 0), column(['y'], 1), column(['z'], 2)];
  const [d, line] = [column(['diameter', 'd'], 3), column(['line', 'id'], 4)];
  if (x < 0 || y < 0 || z < 0)
    throw new FormatError('The columns x, y and z are not all there.', 'Name them x, y, z in the first row.');
  const polylines: Polyline[] = [];
  let name: string | null = null;
  let open: Polyline | null = null;
  rows.slice(named ? filled + 1 : filled).forEach((row, k) => {
    if (row.every((c) => c.trim() === '')) return void (open = null);
    const at = [x, y, z].map((c) => Number((row[c] ?? '').trim().replace(',', '.')));
    if (at.some((v) => !Number.isFinite(v)) || [x, y, z].some((c) => (row[c] ?? '').trim() === ''))
      throw new FormatError(
        `Row ${filled + k + (named ? 2 : 1)} holds no point: "${row.join(', ')}".`,
        'Give three numbers in every row.',
      );
    const own = line >= 0 ? (row[line] ?? '').trim() : '';
    if (!open || own !== name) polylines.push((open = { points: [], diameters: [] }));
    name = own;
    const diameter = d >= 0 ? Number((row[d] ?? '').trim().replace(',', '.')) : NaN;
    open.points.push(at.map((v) => v * unit) as Vec3);
    open.diameters.push(diameter > 0 ? diameter * unit : null);
  });
  const kept = polylines.filter((p) => p.points.length > 1);
  if (!kept.length)
    throw new FormatError('The file holds no line: every line has only one point.', 'Give two points or more a line.');
  return kept;
}
