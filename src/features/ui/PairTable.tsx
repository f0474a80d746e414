import { Plus, X } from 'lucide-react';
import type { Unit } from '@/core/units/units';
import { Button } from './controls';
import { NumberField } from './NumberField';

/** A column of a table of pairs: what its numbers are and are measured in. SI but for `step`. */
interface Column {
  label: string;
  /** Over the column; absent where the units say enough. */
  head?: string;
  unit: Unit;
  min: number;
  max: number;
  step: number;
}
type Pair = readonly [number, number];

/** Points given by two numbers each, one a row, that can be changed, added and taken away. */
export function PairTable({
  title,
  help,
  columns,
  pairs,
  least = 1,
  most = Infinity,
  marked = null,
  next,
  onChange,
}: {
  title: string;
  /** Entry of the help that explains the table. */
  help: string;
  columns: readonly [Column, Column];
  pairs: readonly Pair[];
  /** How many points there are at least and at most. */
  least?: number;
  most?: number;
  /** A point that is wrong. */
  marked?: number | null;
  /** What a new point begins with, after the last one. */
  next: (last: Pair) => Pair;
  onChange: (pairs: Pair[]) => void;
}) {
  const set = (row: number, column: number, value: number) =>
    onChange(pairs.map((p, k) => (k !== row ? p : column === 0 ? [value, p[1]] : [p[0], value])));
  return (
    <>
      <table className="num w-full" aria-label={title}>
        {columns.some((c) => c.head) && (
          <thead className="text-soft text-[11px]">
            <tr>
              {columns.map(({ label, head }) => (
                <th key={label} className="py-1 text-left font-normal">
                  {head}
                </th>
              ))}
              <th />
            </tr>
          </thead>
        )}
        <tbody>
          {pairs.map((pair, row) => (
            <tr key={row} className={marked === row ? 'bg-problem/10' : ''}>
              {columns.map(({ label, head: _, ...field }, column) => (
                <td key={label} className={column === 0 ? 'w-2/5 py-0.5 pr-1' : 'py-0.5'}>
                  <NumberField
                    label={`${label} of point ${row + 1}, ${title}`}
                    help={help}
                    hideLabel
                    value={pair[column]}
                    {...field}
                    onChange={(value) => value !== null && set(row, column, value)}
                  />
                </td>
              ))}
              <td className="w-6">
                <Button
                  look="quiet"
                  className="px-1"
                  disabled={pairs.length <= least}
                  aria-label={`Remove point ${row + 1} of ${title}`}
                  onClick={() => onChange(pairs.filter((_, k) => k !== row))}
                >
                  <X size={13} />
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button
        className="mt-1.5 w-full"
        disabled={pairs.length >= most}
        onClick={() => onChange([...pairs, next(pairs[pairs.length - 1])])}
      >
        <Plus size={13} /> Add a point
      </Button>
    </>
  );
}
