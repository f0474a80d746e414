import { format, shownUnit } from '../units/reader';
import { differenceUnit } from '../units/units';
import type { Answer } from './answer';
import type { Verdict } from './rules';
import { KEY_IDS, KEY_NUMBERS, type KeyEntry, type KeyId } from './keyNumbers';
import type { Summary } from './summary';

/** A run as it is compared: its numbers, and how far some of them would still move with the grid. */
export interface Compared {
  name: string;
  summary: Summary;
  answers: readonly Answer[];
  /** In the units of the numbers; missing: not estimated. */
  errors: Partial<Record<KeyId, number>>;
}

/** Runs that are looked at together at most. */
export const MOST_COMPARED = 4;

/** What became of a number against the first run: inside the error of the grid there is no difference. */
export type Change = 'none' | 'better' | 'worse' | 'other';

export interface ComparedCell {
  /** SI; null: not calculated. */
  value: number | null;
  /** null: not estimated. */
  error: number | null;
  /** Against the first run; null for itself, and where one of both has no value. */
  difference: number | null;
  change: Change | null;
}

export interface ComparedRow {
  id: KeyId;
  entry: KeyEntry;
  cells: ComparedCell[];
}

/** Where nobody has said how far a number would move with the grid, differences below this share of it say nothing. */
export const UNTOLD = 5e-3;
const ROUNDING = 1e-9;

/** Key numbers of two runs or more side by side, each held against the first. Rows that no run has are left out. */
export function compareRuns(runs: readonly Compared[]): ComparedRow[] {
  return KEY_IDS.flatMap((id) => {
    const entry: KeyEntry = KEY_NUMBERS[id];
    const values = runs.map((r) => finite(entry.of(r.summary)));
    if (values.every((v) => v === null)) return [];
    const errors = runs.map((r) => r.errors[id] ?? null);
    const cells = values.map((value, k): ComparedCell => {
      const error = errors[k];
      if (k === 0 || value === null || values[0] === null) return { value, error, difference: null, change: null };
      const difference = value - values[0];
      const told = error !== null || errors[0] !== null;
      const least = (told || entry.unit === '' ? ROUNDING : UNTOLD) * Math.abs(values[0]);
      const within = Math.max(error ?? 0, errors[0] ?? 0, least);
      return { value, error, difference, change: changeOf(difference, within, entry.better) };
    });
    return [{ id, entry, cells }];
  });
}

/** Rows by how much a run differs from the first, of what they are, the most first; what is no difference comes last. */
export const sortedRows = (rows: readonly ComparedRow[], run: number): ComparedRow[] => {
  const share = ({ cells }: ComparedRow): number => {
    const { difference, change } = cells[run];
    if (difference === null || change === 'none') return -1;
    return Math.abs(difference) / Math.max(Math.abs(cells[0].value ?? 0), Math.abs(cells[run].value ?? 0), 1e-300);
  };
  return [...rows].sort((a, b) => share(b) - share(a));
};

const finite = (v: number | null): number | null => (v !== null && Number.isFinite(v) ? v : null);

function changeOf(difference: number, within: number, better: KeyEntry['better']): Change {
  if (Math.abs(difference) <= within) return 'none';
  if (better === null) return 'other';
  return difference < 0 === (better === 'less') ? 'better' : 'worse';
}

/** A value in the unit of its number; counts are whole. */
export const valueText = ({ unit }: Pick<KeyEntry, 'unit'>, si: number, digits = 3): string =>
  unit === '' && Number.isInteger(si) ? String(si).replace('-', '−') : format(si, unit, digits);

export const differenceText = (entry: KeyEntry, difference: number, digits = 3): string =>
  `${difference > 0 ? '+' : ''}${valueText({ unit: differenceUnit(entry.unit) }, difference, digits)}`;

export const CHANGE_WORDS: Record<Change, string> = {
  none: 'no difference',
  better: 'better',
  worse: 'worse',
  other: 'different',
};

/** The table as CSV, or with another separator: numbers in the unit of their row, errors and differences beside them. */
export function comparedCsv(runs: readonly Compared[], rows: readonly ComparedRow[], separator = ','): string {
  const quoted = (text: string) => (/[",\n\t]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
  const text = (si: number | null, entry: KeyEntry) => (si === null ? '' : format(si, entry.unit, 6).split(' ')[0]);
  const head = [
    'number',
    'unit',
    ...runs.flatMap((r, k) => [r.name, `${r.name} ±`, ...(k ? [`${r.name} difference`, `${r.name} is`] : [])]),
  ];
  const lines = rows.map(({ entry, cells }) =>
    [
      entry.label,
      shownUnit(entry.unit),
      ...cells.flatMap((c, k) => [
        text(c.value, entry),
        text(c.error, entry),
        ...(k ? [text(c.difference, entry), c.change ? CHANGE_WORDS[c.change] : ''] : []),
      ]),
    ]
      .map(quoted)
      .join(separator),
  );
  return `${[head.map(quoted).join(separator), ...lines].join('\n').replaceAll('−', '-')}\n`;
}

/** Words for the verdicts of a run. */
export const VERDICT_WORDS: Record<Verdict, string> = { good: 'Good', watch: 'Watch', problem: 'Problem' };

/** Verdict of every run on every question that one of them answers; null where it does not. */
export function compareVerdicts(
  runs: readonly Pick<Compared, 'answers'>[],
): { question: string; verdicts: (Verdict | null)[] }[] {
  const questions = [...new Set(runs.flatMap((r) => r.answers.map((a) => a.question)))];
  const of = ({ answers }: Pick<Compared, 'answers'>, question: string) =>
    answers.find((a) => a.question === question)?.verdict ?? null;
  return questions.map((question) => ({ question, verdicts: runs.map((r) => of(r, question)) }));
}

/** The table as text, in columns: verdicts first, then the numbers. */
export function comparedText(runs: readonly Compared[], rows: readonly ComparedRow[]): string {
  const lines = [
    ['', ...runs.map((r) => r.name)],
    ...compareVerdicts(runs).map(({ question, verdicts }) => [
      question,
      ...verdicts.map((v) => (v ? VERDICT_WORDS[v] : '–')),
    ]),
    ...rows.map(({ entry, cells }) => [entry.label, ...cells.map((c) => cellText(entry, c))]),
  ];
  const widths = lines[0].map((_, k) => Math.max(...lines.map((l) => [...l[k]].length)));
  return lines
    .map((l) =>
      l
        .map((text, k) => text.padEnd(widths[k]))
        .join('  ')
        .trimEnd(),
    )
    .join('\n');
}

/** "14.2 MPa ± 0.3 (+1.4 MPa, worse)". */
export function cellText(entry: KeyEntry, { value, error, difference, change }: ComparedCell): string {
  if (value === null) return '–';
  const own = valueText(entry, value);
  const margin = error === null ? '' : ` ± ${format(error, entry.unit, 2).split(' ')[0]}`;
  if (difference === null || change === null) return own + margin;
  const against =
    change === 'none' ? CHANGE_WORDS.none : `${differenceText(entry, difference, 2)}, ${CHANGE_WORDS[change]}`;
  return `${own}${margin} (${against})`;
}
