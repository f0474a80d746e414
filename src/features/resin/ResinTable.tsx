'use client';

import {
  createColumnHelper,
  createCoreRowModel,
  createSortedRowModel,
  rowSortingFeature,
  tableFeatures,
  useTable,
} from '@tanstack/react-table';
import { ArrowDown, ArrowUp, Download } from 'lucide-react';
import { useMemo, useState } from 'react';
import type { Resin } from '@/core/model/resin';
import { Button } from '../ui/controls';
import { download } from '../ui/download';
import { SearchField } from '../ui/SearchField';
import { allResins, useMaterials } from './materials';
import { inOrder } from '../ui/inOrder';
import { cellOf, COMPARED_RATE, headOf, RESIN_COLUMNS, resinsCsv } from './resinColumns';

const features = tableFeatures({
  rowSortingFeature,
  coreRowModel: createCoreRowModel(),
  sortedRowModel: createSortedRowModel(),
});
const column = createColumnHelper<typeof features, Resin>();
const COLUMNS = column.columns(
  RESIN_COLUMNS.map((c) =>
    column.accessor((resin) => c.value(resin), {
      id: c.id,
      sortFn: (a, b, id) => inOrder(a.getValue(id), b.getValue(id)),
      sortDescFirst: c.unit !== undefined,
    }),
  ),
);
const IS_NUMBER = new Set(RESIN_COLUMNS.filter((c) => c.unit !== undefined).map((c) => c.id));

/** All resins with their key numbers, in any order; a row chooses, a mark compares. */
export function ResinTable({ chosen, onChoose }: { chosen: string; onChoose: (resin: Resin) => void }) {
  const { own, compared, set } = useMaterials();
  const [asked, setAsked] = useState('');
  const data = useMemo(() => {
    const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
    const textOf = (r: Resin) =>
      RESIN_COLUMNS.map((c) => cellOf(c, r))
        .join(' ')
        .toLowerCase();
    return allResins(own).filter((r) => words.every((w) => textOf(r).includes(w)));
  }, [own, asked]);
  const table = useTable({ features, columns: COLUMNS, data, getRowId: (r) => r.id });
  const rows = table.getRowModel().rows;
  return (
    <div className="flex min-h-0 flex-1 flex-col px-5 py-3">
      <div className="flex items-center gap-3">
        <div className="w-72">
          <SearchField label="Narrow the table" placeholder="Words in any column" value={asked} onChange={setAsked} />
        </div>
        <Button
          className="ml-auto"
          onClick={() =>
            download(new Blob([resinsCsv(rows.map((r) => r.original))], { type: 'text/csv' }), 'resins.csv')
          }
        >
          <Download size={13} /> CSV
        </Button>
      </div>
      <p className="text-soft mt-2 text-[12px]">
        {rows.length} resins, viscosity at {COMPARED_RATE} 1/s. A head sorts; a row chooses; the mark draws it beside
        the chosen one.
      </p>
      <div className="mt-2 min-h-0 flex-1 overflow-auto rounded border">
        <table className="num w-full text-[12.5px]" aria-label="Resins">
          <thead className="bg-sheet sticky top-0 z-10">
            {table.getHeaderGroups().map((group) => (
              <tr key={group.id} className="border-b">
                <th scope="col" className="w-8">
                  <span className="sr-only">Compared</span>
                </th>
                {group.headers.map((head) => {
                  const sorted = head.column.getIsSorted();
                  const Arrow = sorted === 'asc' ? ArrowUp : ArrowDown;
                  // Towards the middle of the column: heads of numbers end where the numbers do.
                  const mark = <Arrow size={11} className={sorted ? '' : 'opacity-0'} />;
                  return (
                    <th
                      key={head.id}
                      scope="col"
                      aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}
                      className={`font-normal ${IS_NUMBER.has(head.id) ? 'text-right' : 'text-left'}`}
                    >
                      <button
                        type="button"
                        className="text-soft hover:text-ink inline-flex items-center gap-1 px-1.5 py-1.5 whitespace-nowrap"
                        onClick={head.column.getToggleSortingHandler()}
                      >
                        {IS_NUMBER.has(head.id) && mark}
                        {headOf(RESIN_COLUMNS.find((c) => c.id === head.id)!)}
                        {!IS_NUMBER.has(head.id) && mark}
                      </button>
                    </th>
                  );
                })}
              </tr>
            ))}
          </thead>
          <tbody>
            {rows.map(({ id, original: resin }) => (
              <tr
                key={id}
                aria-selected={id === chosen}
                className={`cursor-default border-b last:border-0 ${id === chosen ? 'bg-petrol-wash' : 'hover:bg-well'}`}
                onClick={() => onChoose(resin)}
              >
                <td className="pl-2">
                  <input
                    type="checkbox"
                    aria-label={`Compare ${resin.name}`}
                    className="accent-petrol"
                    checked={id === compared}
                    onClick={(e) => e.stopPropagation()}
                    onChange={(e) => set({ compared: e.target.checked ? id : null })}
                  />
                </td>
                {RESIN_COLUMNS.map((c, k) => (
                  <td key={c.id} className={`px-1.5 py-1 whitespace-nowrap ${IS_NUMBER.has(c.id) ? 'text-right' : ''}`}>
                    {k === 0 ? (
                      <button
                        type="button"
                        className="font-medium"
                        aria-pressed={id === chosen}
                        onClick={(e) => {
                          e.stopPropagation();
                          onChoose(resin);
                        }}
                      >
                        {cellOf(c, resin)}
                      </button>
                    ) : (
                      cellOf(c, resin)
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {!rows.length && <p className="text-soft py-6 text-center">No resin has all of these words.</p>}
      </div>
    </div>
  );
}
