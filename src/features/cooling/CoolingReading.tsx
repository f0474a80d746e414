import { useMemo } from 'react';
import type { LineFacts, LineFlow } from '@/core/solvers/cool/lineResults';
import type { CoolFacts } from '@/core/results/coolFacts';
import type { PackSummary } from '@/core/results/packFacts';
import { format, formatShown, shownUnit } from '@/core/units/reader';
import { formatNumber, type Unit } from '@/core/units/units';
import { presentInputs, useStudy } from '../study/store';
import { useShownRun } from '../study/useShown';
import { useBench } from '../study/bench';
import { useView } from '../study/view';
import { Fact, SectionTitle } from '../ui/controls';
import { mostAlong } from './useCoolingMarks';
import { useNetwork } from './useCooling';
import { Called, useNameOf } from '../study/names';
import { SortedTable, type TableColumn } from '../ui/SortedTable';

const REGIME = { still: 'still', laminar: 'laminar', transition: 'in transition', turbulent: 'turbulent' } as const;

/** What coolant and mould do: live as the lines are, and settled where a run has them. */
export function CoolingReading() {
  const inputs = useStudy((s) => presentInputs(s));
  const { run, live, outdated } = useShownRun();
  const network = useNetwork();
  const nameOf = useNameOf();
  const seeThrough = useView((s) => s.seeThrough);
  const set = useView((s) => s.set);
  const settled = !live && run?.summary?.cool ? run.summary.cool : null;
  const same = settled && JSON.stringify(run?.inputs.cooling) === JSON.stringify(inputs.cooling);
  return (
    <aside aria-label="Reading" className="bg-sheet h-full overflow-y-auto px-4 py-3.5">
      {!inputs.cooling ? (
        <p className="text-soft">No block and no circuits yet.</p>
      ) : (
        <>
          <label className="mb-3 flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-petrol"
              checked={seeThrough}
              onChange={(e) => set({ seeThrough: e.target.checked })}
            />
            See through the part
          </label>
          <h2 className="text-[15px] font-semibold">Coolant</h2>
          <p className="text-soft mb-1.5 text-[12px]">
            As the lines are now; the heat is what the part should give off, spread evenly until a run tells.
          </p>
          {!network && <p className="text-problem text-[12px]">No circuit has an inlet and an outlet yet.</p>}
          {network?.coolant.supplies.map((s) => (
            <dl key={s.id} className="num grid grid-cols-[1fr_auto] gap-y-1" data-testid={`network-${s.id}`}>
              <Fact
                label={`${nameOf('supply', s.id)} pumps`}
                value={`${format(s.flow, 'l/min', 3)} at ${format(s.pressure, 'bar', 3)}`}
              />
              <Fact label="Sent, back" value={`${celsius(s.sent)} → ${format(s.returned, '°C', 3)}`} />
              <Fact label="Takes up" value={format(s.heat, 'W', 3)} />
              <Fact label="Pump power" value={format(s.power, 'W', 3)} />
            </dl>
          ))}
          {network && <LineTable lines={network.lines} />}
          {settled && <Settled cool={settled} stale={outdated !== null || !same} />}
          {settled && run?.summary?.pack && <CycleSplit pack={run.summary.pack} />}
        </>
      )}
    </aside>
  );
}

const celsius = (T: number) => formatShown(T, '°C');
const known = (value: number | null, unit: Unit, digits = 3) =>
  value === null || !Number.isFinite(value) ? '–' : format(value, unit, digits);

type Line = LineFlow & { id: string; heat_W: number };
const flows = ({ regime }: Line) => regime !== 'still';
const lineColumns = (): TableColumn<Line>[] => [
  { id: 'line', head: 'Line', value: (l) => l.id, cell: (l) => <Called kind="line" id={l.id} /> },
  {
    id: 'velocity',
    head: shownUnit('m/s'),
    number: true,
    value: (l) => (flows(l) ? l.velocity_m_s : NaN),
    cell: (l) => (flows(l) ? formatShown(l.velocity_m_s, 'm/s', 2) : '–'),
  },
  {
    id: 'flow',
    head: 'Flow',
    number: true,
    value: (l) => l.reynolds,
    cell: (l) => REGIME[l.regime],
    look: (l) => (l.regime === 'turbulent' ? '' : 'text-watch'),
  },
  {
    id: 'pressure',
    head: shownUnit('kPa'),
    number: true,
    value: (l) => l.pressureDrop_Pa,
    cell: (l) => formatShown(l.pressureDrop_Pa, 'kPa', 2),
  },
  {
    id: 'outlet',
    head: `${shownUnit('°C')} out`,
    number: true,
    value: (l) => l.outlet_K,
    cell: (l) => (Number.isFinite(l.outlet_K) ? celsius(l.outlet_K) : '–'),
  },
];

/** All lines, and everything about the chosen one. */
function LineTable({ lines }: { lines: Line[] }) {
  const columns = useMemo(lineColumns, []);
  const selected = useBench((s) => s.selectedChannel);
  const set = useBench((s) => s.set);
  const line = lines.find((l) => l.id === selected);
  return (
    <>
      <div className="mt-3">
        <SortedTable
          label="Coolant in the lines"
          rows={lines}
          columns={columns}
          selected={selected}
          onSelect={(selectedChannel) => set({ selectedChannel })}
          maxHeight={240}
        />
      </div>
      {line && (
        <>
          <SectionTitle>
            Line <Called kind="line" id={line.id} />
          </SectionTitle>
          <dl className="num grid grid-cols-[1fr_auto] gap-y-1" data-testid="line-facts">
            <Fact label="Flow" value={format(line.flow_m3_s, 'l/min', 3)} />
            <Fact label="Velocity" value={format(line.velocity_m_s, 'm/s', 3)} />
            <Fact
              label="Reynolds number"
              value={`${Math.round(line.reynolds).toLocaleString('en-GB')}, ${REGIME[line.regime]}`}
            />
            <Fact label="Pressure drop" value={format(line.pressureDrop_Pa, 'kPa', 3)} />
            <Fact label="Friction factor" value={formatNumber(line.frictionFactor, 3)} />
            <Fact label="Loss coefficient" value={formatNumber(line.loss, 3)} />
            <Fact label="Heat transfer" value={line.film_W_m2K > 0 ? format(line.film_W_m2K, 'W/(m²·K)', 3) : '–'} />
            <Fact label="In, out" value={`${known(line.inlet_K, '°C')} → ${known(line.outlet_K, '°C')}`} />
            <Fact label="Takes up" value={format(line.heat_W, 'W', 3)} />
          </dl>
        </>
      )}
    </>
  );
}

/** What the last run came to: the mould, where its heat goes, and what each line does of it. */
function Settled({ cool, stale }: { cool: CoolFacts; stale: boolean }) {
  const { heat_W: heat, surface_K: surface } = cool;
  const flyTo = useView((s) => s.flyTo);
  const given = heat.part + heat.runners;
  const share = (q: number) => `${format(q, 'W', 3)}, ${formatNumber((100 * q) / given, 2)} %`;
  const lines = cool.lines.filter((l) => l.as !== 'hose');
  const most = Math.max(1e-9, ...lines.map((l) => Math.abs(l.share)));
  return (
    <>
      <SectionTitle>The mould in the last run</SectionTitle>
      {stale && <p className="text-copper mb-1 text-[12px]">Inputs have changed since then.</p>}
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1" data-testid="mould-facts">
        <Fact label="Surface" value={`${celsius(surface.low)} to ${format(surface.high, '°C', 3)}`} />
        <dt className="text-soft">Hottest place</dt>
        <dd className="text-right">
          <button
            type="button"
            className="text-petrol hover:underline"
            onClick={() =>
              flyTo(cool.hotSpot.place_m, `Hottest place of the mould, ${format(cool.hotSpot.temperature_K, '°C', 3)}`)
            }
          >
            {format(cool.hotSpot.temperature_K, '°C', 3)}, show
          </button>
        </dd>
        <Fact label="On average" value={format(surface.mean, '°C', 3)} />
        <Fact label="Between both sides, up to" value={format(cool.difference_K.high, 'K', 3)} />
        <Fact label="Part gives off" value={format(heat.part, 'W', 3)} />
        {heat.runners > 0 && <Fact label="Runners give off" value={format(heat.runners, 'W', 3)} />}
        <Fact label="To the coolant" value={share(heat.coolant)} />
        <Fact label="To the air" value={share(heat.air)} />
        <Fact label="To the press" value={share(heat.press)} />
        <Fact label="Balance off by" value={`${formatNumber(100 * cool.balanceError, 2)} %`} />
      </dl>
      {lines.length > 0 && (
        <>
          <SectionTitle>Heat by line, and for its wall</SectionTitle>
          {!stale && (
            <p className="text-soft mb-1 text-[12px]">
              Drawn in the colours of the heat they take up per length, pale from {formatNumber(mostAlong(lines), 3)}{' '}
              W/m on.
            </p>
          )}
          <ul className="num space-y-1 text-[12px]" aria-label="Heat by line">
            {[...lines]
              .sort((a, b) => b.heat_W - a.heat_W)
              .map((l) => (
                <HeatRow key={l.id} line={l} most={most} />
              ))}
          </ul>
        </>
      )}
    </>
  );
}

/** The parts of the cycle as one bar, with their lengths. */
function CycleSplit({ pack }: { pack: PackSummary }) {
  const cooling = Math.max(0, pack.openTime_s - pack.packingEnd_s);
  const parts = [
    { label: 'Filling', time: pack.switchoverTime_s, look: 'bg-copper' },
    { label: 'Packing', time: pack.packingEnd_s - pack.switchoverTime_s, look: 'bg-copper/60' },
    { label: 'Cooling', time: cooling, look: 'bg-petrol' },
    { label: 'Press moves', time: pack.cycleTime_s - pack.openTime_s, look: 'bg-line' },
  ];
  return (
    <>
      <SectionTitle>The cycle, {format(pack.cycleTime_s, 's', 3)}</SectionTitle>
      <div className="flex h-2.5 overflow-hidden rounded-sm" aria-hidden>
        {parts.map((p) => (
          <span key={p.label} className={p.look} style={{ width: `${(100 * p.time) / pack.cycleTime_s}%` }} />
        ))}
      </div>
      <dl className="num mt-1 grid grid-cols-[1fr_auto] gap-y-0.5" data-testid="cycle-split">
        {parts.map((p) => (
          <Fact
            key={p.label}
            label={p.label}
            value={`${format(p.time, 's', 3)}, ${Math.round((100 * p.time) / pack.cycleTime_s)} %`}
          />
        ))}
      </dl>
    </>
  );
}

function HeatRow({ line, most }: { line: LineFacts; most: number }) {
  const set = useBench((s) => s.set);
  return (
    <li
      className="grid cursor-default grid-cols-[34px_1fr_78px] items-center gap-2"
      onClick={() => set({ selectedChannel: line.id })}
    >
      <Called kind="line" id={line.id} className="font-semibold" />
      <span className="bg-well h-2 overflow-hidden rounded-sm">
        <span className="bg-petrol block h-full" style={{ width: `${Math.max(0, (100 * line.share) / most)}%` }} />
      </span>
      <span className="text-right" title="Share of the heat; its share over that of the wetted wall">
        {formatNumber(100 * line.share, 2)} % <span className="text-soft">×{line.efficiency.toFixed(2)}</span>
      </span>
    </li>
  );
}
