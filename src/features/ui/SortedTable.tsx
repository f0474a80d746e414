'use client';

import {
  createCoreRowModel,
  createSortedRowModel,
  rowSortingFeature,
  tableFeatures,
  useTable,
  type ColumnDef,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { useEffect, useMemo, useRef, type KeyboardEvent, type ReactNode } from 'react';
import { inOrder } from './inOrder';

const features = tableFeatures({
  rowSortingFeature,
  coreRowModel: createCoreRowModel(),
  sortedRowModel: createSortedRowModel(),
});

export interface TableColumn<Row> {
  id: string;
  head: ReactNode;
  /** What it is sorted by. */
  value: (row: Row) => string | number;
  cell: (row: Row) => ReactNode;
  /** Numbers end where their head does, the largest come first. */
  number?: boolean;
  /** Classes of a cell beside the usual ones. */
  look?: (row: Row) => string;
}

/** px */
const ROW = 25;

/**
 * A short table of many: a head sorts, a row is chosen by a click or with the arrow keys, and let go by another click. Only
 * the rows in sight are drawn. The first column names the row.
 */
export function SortedTable<Row extends { id: string }>({
  label,
  rows: data,
  columns,
  selected,
  onSelect,
  maxHeight = 224,
}: {
  label: string;
  rows: readonly Row[];
  columns: readonly TableColumn<Row>[];
  selected: string | null;
  onSelect: (id: string | null) => void;
  /** px */
  maxHeight?: number;
}) {
  const defs = useMemo(
    () =>
      columns.map((c): ColumnDef<typeof features, Row> => ({
        id: c.id,
        accessorFn: c.value,
        sortFn: (a, b, id) => inOrder(a.getValue<string | number>(id), b.getValue<string | number>(id)),
        sortDescFirst: c.number === true,
      })),
    [columns],
  );
  const table = useTable({ features, columns: defs, data, getRowId: (r) => r.id });
  const rows = table.getRowModel().rows;
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 8,
  });
  const at = rows.findIndex((r) => r.id === selected);
  useEffect(() => {
    // Chosen in the view, a row must be found in the table as well.
    if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' });
  }, [at, virtual]);
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    const next = rows[Math.min(rows.length - 1, Math.max(0, at + step))];
    if (!step || !next) return;
    event.preventDefault();
    onSelect(next.id);
    requestAnimationFrame(() => box.current?.querySelector<HTMLElement>('[aria-selected="true"] button')?.focus());
  };
  const items = virtual.getVirtualItems();
  const [above, below] = items.length ? [items[0].start, virtual.getTotalSize() - items[items.length - 1].end] : [0, 0];
  const filler = (height: number) =>
    height > 0 && (
      <tr aria-hidden>
        <td colSpan={columns.length} style={{ height }} />
      </tr>
    );
  return (
    <div ref={box} className="overflow-y-auto" style={{ maxHeight }}>
      <table className="num w-full text-[12px]" aria-label={label} aria-rowcount={rows.length + 1}>
        <thead className="text-soft bg-sheet sticky top-0 z-10">
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id} className="border-b">
              {group.headers.map((head, k) => {
                const { number, head: text } = columns[k];
                const sorted = head.column.getIsSorted();
                const Arrow = sorted === 'asc' ? ArrowUp : ArrowDown;
                return (
                  <th
                    key={head.id}
                    scope="col"
                    aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                    className={`py-1 font-normal whitespace-nowrap ${number ? 'pl-2 text-right' : 'text-left'}`}
                  >
                    <button
                      type="button"
                      className="hover:text-ink inline-flex items-center gap-0.5"
                      onClick={head.column.getToggleSortingHandler()}
                    >
                      {sorted && <Arrow size={10} />}
                      {text}
                    </button>
                  </th>
                );
              })}
            </tr>
          ))}
        </thead>
        <tbody onKeyDown={onKeyDown}>
          {filler(above)}
          {items.map(({ index }) => {
            const row = rows[index].original;
            const on = row.id === selected;
            return (
              <tr
                key={row.id}
                aria-selected={on}
                aria-rowindex={index + 2}
                style={{ height: ROW }}
                className={`cursor-default border-b last:border-0 ${on ? 'bg-petrol-wash' : 'hover:bg-well'}`}
                onClick={() => onSelect(on ? null : row.id)}
              >
                {columns.map((c, k) => (
                  <td
                    key={c.id}
                    className={`${c.number ? 'pl-2 text-right whitespace-nowrap' : 'max-w-24 truncate text-left'} ${c.look?.(row) ?? ''}`}
                  >
                    {k ? (
                      c.cell(row)
                    ) : (
                      <button
                        type="button"
                        // One stop of the tabulator for the table.
                        tabIndex={on || (at < 0 && index === 0) ? 0 : -1}
                        className="flex max-w-full font-semibold"
                      >
                        {c.cell(row)}
                      </button>
                    )}
                  </td>
                ))}
              </tr>
            );
          })}
          {filler(below)}
        </tbody>
      </table>
    </div>
  );
}
