import { Plus, X } from 'lucide-react';
import type { Resin } from '@/core/model/resin';
import type { Unit } from '@/core/units/units';
import { Button, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';

/** A column of a table of pairs: what its numbers are called and measured in. SI but for `step`. */
interface Column {
  label: string;
  unit: Unit;
  min: number;
  max: number;
  step: number;
}
type Pair = readonly [number, number];

/** Pairs of numbers, one a row, that can be changed, added and removed. */
export function PairTable({
  title,
  columns,
  pairs,
  next,
  onChange,
}: {
  title: string;
  columns: readonly [Column, Column];
  pairs: readonly Pair[];
  /** What a new row begins with, after the last one. */
  next: (last: Pair) => Pair;
  onChange: (pairs: Pair[]) => void;
}) {
  const set = (row: number, column: number, value: number) =>
    onChange(pairs.map((p, k) => (k !== row ? p : column === 0 ? [value, p[1]] : [p[0], value])));
  return (
    <>
      <table className="w-full" aria-label={title}>
        <tbody>
          {pairs.map((pair, row) => (
            <tr key={row}>
              {columns.map(({ label, unit, ...range }, column) => (
                <td key={label} className={column === 0 ? 'w-2/5 py-0.5 pr-1' : 'py-0.5'}>
                  <NumberField
                    label={`${title}, ${label} ${row + 1}`}
                    hideLabel
                    unit={unit}
                    value={pair[column]}
                    {...range}
                    onChange={(value) => value !== null && set(row, column, value)}
                  />
                </td>
              ))}
              <td className="w-6">
                <Button
                  look="quiet"
                  className="px-1"
                  disabled={pairs.length < 2}
                  aria-label={`Remove row ${row + 1} of ${title}`}
                  onClick={() => onChange(pairs.filter((_, k) => k !== row))}
                >
                  <X size={13} />
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button className="mt-1 w-full" onClick={() => onChange([...pairs, next(pairs[pairs.length - 1])])}>
        <Plus size={13} /> Add a row
      </Button>
    </>
  );
}

/** A property of a resin at temperatures. */
export function CurveTable({
  title,
  unit,
  curve,
  onChange,
}: {
  title: string;
  unit: 'J/(kg·K)' | 'W/(m·K)';
  curve: Resin['specificHeat'];
  onChange: (c: Resin['specificHeat']) => void;
}) {
  return (
    <fieldset className="min-w-0">
      <SectionTitle>{title} against temperature</SectionTitle>
      <PairTable
        title={title}
        columns={[
          { label: 'temperature', unit: '°C', min: 100, max: 900, step: 5 },
          { label: 'value', unit, min: 1e-6, max: 1e6, step: unit === 'W/(m·K)' ? 0.01 : 50 },
        ]}
        pairs={curve.map(({ T, value }) => [T, value] as const)}
        next={([T, value]) => [T + 20, value]}
        onChange={(pairs) => onChange(pairs.map(([T, value]) => ({ T, value })))}
      />
    </fieldset>
  );
}
