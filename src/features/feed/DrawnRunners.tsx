import { helpOf } from '@/core/help/inputHelp';
import { Pencil, Trash2 } from 'lucide-react';
import { linesOf, polylinesOfTrace } from '@/core/feed/polylines';
import type { Feed, RunnerLine } from '@/core/model/feed';
import { formatCoordinate, shownUnit } from '@/core/units/reader';
import { presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, Row, Select } from '../ui/controls';
import { LineImport } from './LineImport';
import { NumberField } from '../ui/NumberField';
import { PlaceFields } from '../ui/PlaceFields';
import { SectionFields, sizeOfSection } from './SectionFields';
import { Called, NameField } from '../study/NameField';

/** Runners as lines: drawn in their plane, typed, traced from a body or read from a file. */
export function DrawnRunners({ feed, update }: { feed: Feed; update: (label: string, patch: Partial<Feed>) => void }) {
  const axes = useStudy((s) => presentInputs(s).axes);
  const drawing = useAim('runner');
  const selected = useBench((s) => s.selectedLine);
  const set = useBench((s) => s.set);
  const { lines = [] } = feed;
  const line = lines.find((l) => l.id === selected);
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
        <table className="num w-full text-[12px]" aria-label="Runner lines">
          <thead className="text-soft">
            <tr className="border-b">
              <th className="py-1 text-left font-normal">Line</th>
              <th className="pl-2 text-right font-normal whitespace-nowrap">From X, Y</th>
              <th className="pl-2 text-right font-normal whitespace-nowrap">To X, Y</th>
              <th className="pl-2 text-right font-normal whitespace-nowrap">⌀ {shownUnit('mm')}</th>
            </tr>
          </thead>
          <tbody>
            {lines.map((l) => (
              <tr
                key={l.id}
                aria-selected={l.id === selected}
                className={`cursor-default border-b last:border-0 ${l.id === selected ? 'bg-petrol-wash' : 'hover:bg-well'}`}
                onClick={() => set({ selectedLine: l.id === selected ? null : l.id })}
              >
                <td className="py-1 text-left">
                  <button type="button" className="flex max-w-24 font-semibold">
                    <Called kind="runner" id={l.id} />
                  </button>
                </td>
                <td className="pl-2 text-right whitespace-nowrap">
                  {formatCoordinate(l.from[0])}, {formatCoordinate(l.from[1])}
                </td>
                <td className="pl-2 text-right whitespace-nowrap">
                  {formatCoordinate(l.to[0])}, {formatCoordinate(l.to[1])}
                </td>
                <td className="pl-2 text-right whitespace-nowrap">{formatCoordinate(sizeOfSection(l.section))}</td>
              </tr>
            ))}
          </tbody>
        </table>
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
        <NumberField
          label="Diameter at its end"
          help={helpOf('runnerEnd')}
          unit="mm"
          value={line.endSection && 'diameter' in line.endSection ? line.endSection.diameter : null}
          emptyHint="the same"
          min={2e-4}
          max={0.06}
          step={0.5}
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
