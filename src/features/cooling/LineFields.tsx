import { Pencil, Trash2 } from 'lucide-react';
import { useMemo } from 'react';
import { freshLineId } from '@/core/cooling/layout';
import type { Polyline } from '@/core/formats/dxf';
import { polylinesOfTrace } from '@/core/feed/polylines';
import type { Cooling, CoolingLine, LineKind } from '@/core/model/cooling';
import { hoseLength, isWell } from '@/core/solvers/cool/passages';
import { formatShown, shownUnit } from '@/core/units/reader';
import { LineImport } from '../feed/LineImport';
import { presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, SectionTitle } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { PlaceFields } from '../ui/PlaceFields';
import { SortedTable, type TableColumn } from '../ui/SortedTable';
import { addWell, deleteLine } from './lineActions';
import { patchCooling, useMouldSpace, useNetwork } from './useCooling';
import { Called, NameField } from '../study/names';

const KIND: Record<LineKind['as'], string> = { channel: 'Channel', baffle: 'Baffle', bubbler: 'Bubbler', hose: 'Hose' };

/** Lines as they are listed, with what flows in them where a circuit is closed. */
function lineColumns(network: ReturnType<typeof useNetwork>): TableColumn<CoolingLine>[] {
  const flows = new Map(network?.lines.flatMap((l) => (l.regime === 'still' ? [] : [[l.id, l] as const])));
  return [
    { id: 'line', head: 'Line', value: (l) => l.id, cell: (l) => <Called kind="line" id={l.id} /> },
    { id: 'kind', head: 'Kind', value: (l) => KIND[l.kind.as], cell: (l) => KIND[l.kind.as] },
    {
      id: 'bore',
      head: `⌀ ${shownUnit('mm')}`,
      number: true,
      value: (l) => l.diameter,
      cell: (l) => formatShown(l.diameter, 'mm'),
    },
    {
      id: 'flow',
      head: 'l/min',
      number: true,
      value: (l) => flows.get(l.id)?.flow_m3_s ?? NaN,
      cell: (l) => (flows.has(l.id) ? formatShown(flows.get(l.id)!.flow_m3_s, 'l/min') : '–'),
    },
    {
      id: 'reynolds',
      head: 'Re',
      number: true,
      value: (l) => flows.get(l.id)?.reynolds ?? NaN,
      cell: (l) => (flows.has(l.id) ? Math.round(flows.get(l.id)!.reynolds).toLocaleString('en-GB') : '–'),
      look: (l) => (flows.get(l.id)?.regime === 'laminar' ? 'text-watch' : ''),
    },
  ];
}

/** Lines of the circuits: drawn, read, traced; wells on them. */
export function LineFields({ cooling }: { cooling: Cooling }) {
  const axes = useStudy((s) => presentInputs(s).axes);
  const space = useMouldSpace();
  const drawing = useAim('channel');
  const selected = useBench((s) => s.selectedChannel);
  const set = useBench((s) => s.set);
  const network = useNetwork();
  const line = cooling.lines.find((l) => l.id === selected);
  const setLines = (label: string, lines: CoolingLine[]) => patchCooling(label, { lines });
  const add = (label: string, polylines: Polyline[]) =>
    setLines(label, [...cooling.lines, ...channelsOf(polylines, cooling)]);
  const columns = useMemo(() => lineColumns(network), [network]);
  const level = line?.from[2] ?? cooling.lines[0]?.from[2] ?? 0;
  return (
    <>
      <SectionTitle>Lines</SectionTitle>
      <div className="grid grid-cols-2 gap-1">
        <Button
          look={drawing ? 'primary' : 'plain'}
          className="col-span-2"
          aria-pressed={drawing !== null}
          onClick={() => set({ aim: drawing ? null : { for: 'channel', height: level, from: null } })}
        >
          <Pencil size={13} /> {drawing ? 'Click points, Esc when done' : 'Draw channels'}
        </Button>
        {drawing && (
          <div className="col-span-2">
            <QuantityField
              of="channelHeight"
              label="Height they lie at"
              value={drawing.height}
              onChange={(height) => height !== null && set({ aim: { for: 'channel', height, from: null } })}
            />
          </div>
        )}
        {(['baffle', 'bubbler'] as const).map((as) => (
          <Button
            key={as}
            disabled={line?.kind.as !== 'channel' || !space}
            title={line?.kind.as === 'channel' ? `Stand a ${as} on ${line.id}` : 'Choose a channel first'}
            onClick={() => line && space && addWell(as, line, space.mesh)}
          >
            Add {as}
          </Button>
        ))}
      </div>
      <div className="mt-1.5 space-y-1.5">
        <LineImport name="channel lines" onLines={(file, lines) => add(`Channels from ${file}`, lines)} />
        {axes.map((trace) => (
          <Button
            key={trace.id}
            className="w-full"
            onClick={() => add(`Channels from ${trace.name}`, polylinesOfTrace(trace))}
          >
            Take the axis trace “{trace.name}”
          </Button>
        ))}
      </div>
      {cooling.lines.length > 0 && (
        <div className="mt-2">
          <SortedTable
            label="Circuit lines"
            rows={cooling.lines}
            columns={columns}
            selected={selected}
            onSelect={(selectedChannel) => set({ selectedChannel })}
          />
        </div>
      )}
      {!cooling.lines.length && (
        <p className="text-soft mt-1 text-[12px]">No line yet: lay channels out above, or draw.</p>
      )}
      {line && (
        <LineForm
          key={line.id}
          line={line}
          onChange={(next) =>
            setLines(
              `Line ${line.id}`,
              cooling.lines.map((l) => (l.id === line.id ? next : l)),
            )
          }
        />
      )}
    </>
  );
}

/** Channels of polylines, of the width they come with or that of the layout. */
function channelsOf(polylines: Polyline[], cooling: Cooling): CoolingLine[] {
  const made: CoolingLine[] = [];
  for (const { points, diameters } of polylines)
    for (let k = 0; k + 1 < points.length; k++) {
      const id = freshLineId('L', [...cooling.lines, ...made]);
      const diameter = diameters[k] ?? cooling.plan?.diameter ?? 0.008;
      made.push({ id, from: [...points[k]], to: [...points[k + 1]], diameter, kind: { as: 'channel' }, loss: null });
    }
  return made;
}

function LineForm({ line, onChange }: { line: CoolingLine; onChange: (next: CoolingLine) => void }) {
  const { kind } = line;
  const well = isWell(line);
  return (
    <div className="mt-2 space-y-1.5 border-l-2 pl-2.5">
      <div className="flex items-center justify-between">
        <span className="text-soft text-[12px]">
          {KIND[kind.as]} {line.id}
        </span>
        <button
          type="button"
          aria-label={`Delete line ${line.id}`}
          className="text-soft hover:text-problem"
          onClick={() => deleteLine(line.id)}
        >
          <Trash2 size={13} />
        </button>
      </div>
      <NameField kind="line" id={line.id} />
      <QuantityField
        of="channelDiameter"
        label={well ? 'Bore' : 'Diameter'}
        value={line.diameter}
        onChange={(diameter) => diameter !== null && onChange({ ...line, diameter })}
      />
      {well && (
        <QuantityField
          of="wellHeight"
          label="Height"
          value={Math.hypot(...line.to.map((x, d) => x - line.from[d]))}
          onChange={(height) => height !== null && onChange({ ...line, to: tipAt(line, height) })}
        />
      )}
      {kind.as === 'baffle' && (
        <QuantityField
          of="blade"
          label="Blade thickness"
          value={kind.blade}
          onChange={(blade) => blade !== null && onChange({ ...line, kind: { ...kind, blade } })}
        />
      )}
      {kind.as === 'bubbler' && (
        <>
          <QuantityField
            of="tubeOutside"
            label="Tube outside"
            value={kind.outer}
            onChange={(outer) => outer !== null && onChange({ ...line, kind: { ...kind, outer } })}
          />
          <QuantityField
            of="tubeInside"
            label="Tube inside"
            value={kind.inner}
            onChange={(inner) => inner !== null && onChange({ ...line, kind: { ...kind, inner } })}
          />
        </>
      )}
      {kind.as === 'hose' && (
        <QuantityField
          of="hoseLength"
          label="Length"
          value={kind.length}
          fallback={hoseLength({ ...line, kind: { as: 'hose', length: null } })}
          onChange={(length) => onChange({ ...line, kind: { ...kind, length } })}
        />
      )}
      <QuantityField
        of="loss"
        label="Loss coefficient"
        value={line.loss}
        emptyHint="from its shape"
        onChange={(loss) => onChange({ ...line, loss })}
      />
      {kind.as !== 'hose' && (
        <>
          <PlaceFields
            name={well ? 'Foot' : 'From'}
            place={line.from}
            onChange={(from) => onChange({ ...line, from })}
          />
          <PlaceFields name={well ? 'Tip' : 'To'} place={line.to} onChange={(to) => onChange({ ...line, to })} />
        </>
      )}
    </div>
  );
}

/** The tip of a well of this height, in its direction. */
function tipAt({ from, to }: CoolingLine, height: number): CoolingLine['to'] {
  const length = Math.hypot(...to.map((x, d) => x - from[d])) || 1;
  return from.map((x, d) => x + ((to[d] - x) / length) * height) as CoolingLine['to'];
}
