import { Pencil, Trash2 } from 'lucide-react';
import { useMemo } from 'react';
import { linesOf, polylinesOfTrace } from '@/core/feed/polylines';
import type { Feed, RunnerLine } from '@/core/model/feed';
import { formatCoordinate, shownUnit } from '@/core/units/reader';
import { presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, Row, Select } from '../ui/controls';
import { LineImport } from './LineImport';
import { QuantityField } from '../ui/QuantityField';
import { PlaceFields } from '../ui/PlaceFields';
import { SortedTable, type TableColumn } from '../ui/SortedTable';
import { SectionFields, sizeOfSection } from './SectionFields';
import { Called, NameField } from '../study/names';

const placeOf = ([x, y]: readonly number[]) => `${formatCoordinate(x)}, ${formatCoordinate(y)}`;
const lineColumns = (): TableColumn<RunnerLine>[] => [
  { id: 'line', head: 'Line', value: (l) => l.id, cell: (l) => <Called kind="runner" id={l.id} /> },
  { id: 'from', head: 'From X, Y', number: true, value: (l) => l.from[0], cell: (l) => placeOf(l.from) },
  { id: 'to', head: 'To X, Y', number: true, value: (l) => l.to[0], cell: (l) => placeOf(l.to) },
  {
    id: 'size',
    head: `⌀ ${shownUnit('mm')}`,
    number: true,
    value: (l) => sizeOfSection(l.section),
    cell: (l) => formatCoordinate(sizeOfSection(l.section)),
  },
];

/** Runners as lines: drawn in their plane, typed, traced from a body or read from a file. */
export function DrawnRunners({ feed, update }: { feed: Feed; update: (label: string, patch: Partial<Feed>) => void }) {
  const axes = useStudy((s) => presentInputs(s).axes);
  const drawing = useAim('runner');
  const selected = useBench((s) => s.selectedLine);
  const set = useBench((s) => s.set);
  const { lines = [] } = feed;
  const line = lines.find((l) => l.id === selected);
  const columns = useMemo(lineColumns, []);
  const setLines = (label: string, next: RunnerLine[]) => update(label, { lines: next });
  return (
    <>
      <Button
        look={drawing ? 'primary' : 'plain'}
        className="w-full"
        aria-pressed={drawing !== null}
        onClick={() => set({ aim: drawing ? null : { for: 'runner', from: null } })}
      >
        <Pencil size={13} /> {drawing ? 'Click points, Esc when done' : 'Draw runners'}
      </Button>
      <LineImport
        name="runner lines"
        onLines={(file, polylines) =>
          setLines(`Runners from ${file}`, [...lines, ...linesOf(polylines, feed.runner, lines)])
        }
      />
      {axes.map((trace) => (
        <Button
          key={trace.id}
          className="w-full"
          onClick={() =>
            setLines(`Runners from ${trace.name}`, [...lines, ...linesOf(polylinesOfTrace(trace), feed.runner, lines)])
          }
        >
          Take the axis trace “{trace.name}”
        </Button>
      ))}
      {lines.length > 0 ? (
        <SortedTable
          label="Runner lines"
          rows={lines}
          columns={columns}
          selected={selected}
          onSelect={(selectedLine) => set({ selectedLine })}
        />
      ) : (
        <p className="text-soft text-[12px]">No runner yet: draw, read a file, or start from a layout above.</p>
      )}
      {line && (
        <LineForm
          key={line.id}
          line={line}
          hot={feed.hot !== null}
          onChange={(next) =>
            setLines(
              `Runner ${line.id}`,
              lines.map((l) => (l.id === line.id ? next : l)),
            )
          }
          onDelete={() => {
            setLines(
              `Delete runner ${line.id}`,
              lines.filter((l) => l.id !== line.id),
            );
            set({ selectedLine: null });
          }}
        />
      )}
    </>
  );
}

function LineForm({
  line,
  hot,
  onChange,
  onDelete,
}: {
  line: RunnerLine;
  hot: boolean;
  onChange: (next: RunnerLine) => void;
  onDelete: () => void;
}) {
  return (
    <div className="space-y-1.5 border-l-2 pl-2.5">
      <div className="flex items-center justify-between">
        <span className="text-soft text-[12px]">Runner {line.id}</span>
        <button
          type="button"
          aria-label={`Delete runner ${line.id}`}
          className="text-soft hover:text-problem"
          onClick={onDelete}
        >
          <Trash2 size={13} />
        </button>
      </div>
      <NameField kind="runner" id={line.id} />
      <PlaceFields name="From" place={line.from} onChange={(from) => onChange({ ...line, from })} />
      <PlaceFields name="To" place={line.to} onChange={(to) => onChange({ ...line, to })} />
      <SectionFields
        name="Line"
        section={line.section}
        onChange={(section) => onChange({ ...line, section, endSection: null })}
      />
      {line.section.shape === 'round' && (
        <QuantityField
          of="runnerEnd"
          label="Diameter at its end"
          value={line.endSection && 'diameter' in line.endSection ? line.endSection.diameter : null}
          emptyHint="the same"
          onChange={(diameter) =>
            onChange({ ...line, endSection: diameter === null ? null : { shape: 'round', diameter } })
          }
        />
      )}
      <Row label="Temperature">
        <Select
          label="Cold or hot line"
          value={line.hot === null ? 'feed' : line.hot ? 'hot' : 'cold'}
          options={[
            { value: 'feed', label: hot ? 'Hot, as the feed' : 'Cold, as the feed' },
            { value: 'cold', label: 'Cold' },
            { value: 'hot', label: 'Hot' },
          ]}
          onChange={(v) => onChange({ ...line, hot: v === 'feed' ? null : v === 'hot' })}
        />
      </Row>
    </div>
  );
}
