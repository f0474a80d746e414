'use client';

import { useEffect, useId, useState } from 'react';
import { formatShown, shownStep, shownUnit, told, typedQuantity } from '@/core/units/reader';
import { tidy, type Unit } from '@/core/units/units';
import { Row } from './controls';

interface Props {
  label: string;
  unit: Unit;
  /** SI; null shows the default as a hint. */
  value: number | null;
  /** SI; what null stands for. Without it or `emptyHint` the field cannot be emptied. */
  fallback?: number;
  /** What an empty field stands for where no number is known yet. */
  emptyHint?: string;
  /** SI */
  min: number;
  max: number;
  /** In `unit`, for the arrow keys; in another unit of the reader's it is a round one near it. */
  step: number;
  marked?: boolean;
  /** Called with SI or null when the field was emptied. */
  onChange: (value: number | null) => void;
  /** A remark under the field, such as a value outside the recommended range. */
  note?: string | null;
  /** In a table the column says what it is; the label is then for those who hear the page. */
  hideLabel?: boolean;
  /** Written behind the number in place of the unit: for constants that are given in SI. */
  suffix?: string;
  /** Entry of the help that explains it. */
  help?: string;
}

/** Very large and very small numbers with their power of ten: they must fit the field. */
const written = (x: number): string =>
  x !== 0 && (Math.abs(x) >= 1e7 || Math.abs(x) < 1e-3) ? x.toExponential() : String(x);

/** Number with its unit inside. Takes comma or point, fractions and other units of its kind; commits on Enter or leaving, Escape takes it back. */
export function NumberField({ label, unit, value, fallback, min, max, step, marked, onChange, note, ...rest }: Props) {
  const { emptyHint, hideLabel = false, suffix, help } = rest;
  const id = useId();
  const shown = value === null ? '' : written(tidy(told(value, unit), suffix === undefined ? 6 : 3));
  const [text, setText] = useState(shown);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    setText(shown);
    setProblem(null);
  }, [shown]);

  const range = `${formatShown(min, unit)} to ${formatShown(max, unit)} ${shownUnit(unit)}`;
  /** Whether it was taken. */
  const commit = (raw: string): boolean => {
    if (raw.trim() === '') {
      if (fallback === undefined && emptyHint === undefined) setText(shown);
      else {
        setProblem(null);
        onChange(null);
      }
      return true;
    }
    const si = typedQuantity(raw, unit);
    const wrong = !Number.isFinite(si)
      ? `“${raw}” is no value for this. Enter ${range}.`
      : si < min - 1e-12 || si > max + 1e-12
        ? `Enter ${range}.`
        : null;
    setProblem(wrong);
    if (wrong) return false;
    if (value === null || Math.abs(si - value) > 1e-12 * Math.abs(si)) onChange(si);
    return true;
  };
  const nudge = (direction: 1 | -1) => {
    const base = text.trim() === '' ? (fallback ?? min) : typedQuantity(text, unit);
    if (!Number.isFinite(base)) return;
    const moved = tidy(told(base, unit) + direction * shownStep(step, unit), 9);
    const next = Math.min(told(max, unit), Math.max(told(min, unit), moved));
    setText(String(next));
    commit(String(next));
  };

  const box = (
    <div
      className={`bg-sheet focus-within:border-petrol flex h-7 items-center rounded border pr-2 ${problem ? 'border-problem' : ''}`}
    >
      <input
        id={id}
        aria-label={hideLabel ? label : undefined}
        inputMode="decimal"
        autoComplete="off"
        data-clean={text === shown}
        className="num placeholder:text-soft h-full w-full min-w-0 bg-transparent pr-1.5 pl-2 text-right outline-none placeholder:italic"
        value={text}
        placeholder={fallback === undefined ? (emptyHint ?? '') : formatShown(fallback, unit)}
        aria-invalid={problem !== null}
        aria-describedby={problem || note ? `${id}-note` : undefined}
        onChange={(e) => setText(e.target.value)}
        onBlur={(e) => e.target.value !== shown && commit(e.target.value)}
        onKeyDown={(e) => {
          // Taken, so that the next digit goes to a station and not behind the number.
          if (e.key === 'Enter' && commit(e.currentTarget.value)) e.currentTarget.blur();
          if (e.key === 'Escape') {
            setText(shown);
            setProblem(null);
          }
          if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
            e.preventDefault();
            nudge(e.key === 'ArrowUp' ? 1 : -1);
          }
        }}
      />
      <span className="text-soft shrink-0 text-[12px]">{suffix ?? shownUnit(unit)}</span>
    </div>
  );
  return (
    <div data-help={help}>
      {hideLabel ? (
        box
      ) : (
        <Row label={label} htmlFor={id} marked={marked} help={help}>
          {box}
        </Row>
      )}
      {(problem ?? note) && (
        <p id={`${id}-note`} className={`mt-0.5 text-right text-[11.5px] ${problem ? 'text-problem' : 'text-watch'}`}>
          {problem ?? note}
        </p>
      )}
    </div>
  );
}
