'use client';

import { helpOfTable } from '@/core/help/constantHelp';
import { CategoryScale, Chart, LinearScale, LineElement, PointElement, type ChartOptions } from 'chart.js';
import { useMemo } from 'react';
import { Line } from 'react-chartjs-2';
import { cavityPressureOf } from '@/core/material/familyLaw';
import { firstBackwards, pressureAsked, type Packing } from '@/core/model/packing';
import { WAY_NUMBERS } from '@/core/model/wayNumbers';
import type { FillSettings } from '@/core/setup/settings';
import { format, formatShown, told } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { useColours } from '../ui/useColours';
import { latestResult, useStudy } from '../study/store';
import { Choice, SectionTitle } from '../ui/controls';
import { chartStyle, PLAIN_CHART } from '../ui/chartStyle';
import { PairTable } from '../ui/PairTable';
import { ParameterField } from '../ui/ParameterField';
import type { CycleProps } from './cycleProps';

Chart.register(LineElement, PointElement, LinearScale, CategoryScale);

const WAYS = [
  { value: 'constant', label: 'One pressure' },
  { value: 'profile', label: 'Profile' },
] as const;
const AS = [
  { value: 'pressure', label: 'MPa' },
  { value: 'share', label: '% of switchover' },
] as const;
const MOST_POINTS = 20;

type Profile = Extract<Packing, { by: 'profile' }>;

/** Pressure after switchover, and for how long. */
export function PackingFields({ settings, ...block }: CycleProps & { settings: FillSettings }) {
  const { update, marked } = block;
  const { packing } = block.cycle;
  const atSwitch = useStudy((s) => latestResult(s)?.summary?.switchoverPressure_Pa ?? null);
  const last = useStudy((s) => latestResult(s)?.summary?.pack ?? null);
  const set = (next: Packing) => update('Packing', { packing: next });
  const start = (by: Packing['by']): Packing => {
    if (by === 'constant') return { by, pressure: null, time: null };
    const { as, points, end } = settings.packing;
    // Without a run to go by, the way to the cavity is taken for nothing.
    const asked = (value: number) => (as === 'cavity' ? pressureAsked({ as }, value, atSwitch ?? 0) : value);
    return {
      by,
      as: as === 'share' ? as : 'pressure',
      points: points
        .filter((p) => p.at <= end)
        .map((p) => ({
          at: Number(p.at.toPrecision(3)),
          value: Number(asked(p.value).toPrecision(3)),
        })),
    };
  };
  return (
    <>
      <SectionTitle>Packing</SectionTitle>
      <Choice
        label="Packing"
        value={packing.by}
        options={WAYS}
        onChange={(by) => by !== packing.by && set(start(by))}
      />
      <div className="mt-2 space-y-1.5">
        {packing.by === 'constant' ? (
          <>
            <ParameterField
              of={WAY_NUMBERS.packingPressure}
              value={packing.pressure}
              emptyHint={`in cavity ${formatShown(cavityPressureOf(settings.resin), 'MPa', 2)}`}
              marked={marked('packing')}
              note={
                packing.pressure !== null && packing.pressure > settings.pressureLimit
                  ? `Above the limit of ${format(settings.pressureLimit, 'MPa', 3)}.`
                  : null
              }
              onChange={(pressure) => set({ ...packing, pressure })}
            />
            <ParameterField
              of={WAY_NUMBERS.packingTime}
              value={packing.time}
              emptyHint="until frozen"
              marked={marked('packing')}
              onChange={(time) => set({ ...packing, time })}
            />
          </>
        ) : (
          <ProfilePoints profile={packing} atSwitch={atSwitch} limit={settings.pressureLimit} onChange={set} />
        )}
      </div>
      {last && (
        <p className="text-soft mt-1.5 text-[12px]">
          In the last run the nozzle held up to {format(last.packingPressure_Pa, 'MPa', 2)};{' '}
          {last.lastGateFrozenAt_s === null
            ? 'a gate stayed open.'
            : `the gate froze ${format(last.lastGateFrozenAt_s, 's', 2)} after the start of the shot.`}
        </p>
      )}
    </>
  );
}

function ProfilePoints({
  profile,
  atSwitch,
  limit,
  onChange,
}: {
  profile: Profile;
  atSwitch: number | null;
  limit: number;
  onChange: (p: Packing) => void;
}) {
  const { as, points } = profile;
  const backwards = firstBackwards(points);
  const change = (next: Profile['as']) => {
    if (next === as) return;
    // Without a run to go by, full pressure at switchover is taken for half of the limit.
    const scale = atSwitch ?? 0.5 * limit;
    const factor = next === 'share' ? 1 / scale : scale;
    onChange({
      ...profile,
      as: next,
      points: points.map((p) => ({ ...p, value: Number((p.value * factor).toPrecision(3)) })),
    });
  };
  return (
    <div>
      <Choice label="Profile in" value={as} options={AS} onChange={change} />
      <ProfileCurve profile={profile} />
      <PairTable
        title="packing profile"
        help={helpOfTable('packingPoints')}
        columns={[
          { label: 'Time', head: 's from switchover', unit: 's', min: 0, max: 600, step: 0.5 },
          as === 'share'
            ? { label: 'Pressure', head: '% of the pressure then', unit: '%', min: 0, max: 3, step: 5 }
            : { label: 'Pressure', head: 'MPa', unit: 'MPa', min: 0, max: 5e8, step: 2 },
        ]}
        pairs={points.map(({ at, value }) => [at, value] as const)}
        least={2}
        most={MOST_POINTS}
        marked={backwards}
        next={([at, value]) => [Number((at + 1).toPrecision(4)), value]}
        onChange={(pairs) => onChange({ ...profile, points: pairs.map(([at, value]) => ({ at, value })) })}
      />
      {backwards !== null && (
        <p role="alert" className="text-problem mt-1 text-[12px]">
          Point {backwards + 1} lies before point {backwards}: time cannot go back. Two points at one time make a step.
        </p>
      )}
    </div>
  );
}

/** The profile as the machine follows it. */
function ProfileCurve({ profile }: { profile: Profile }) {
  const colours = useColours();
  const { as, points } = profile;
  const data = useMemo(
    () => ({
      datasets: [
        {
          data: points.map((p) => ({ x: p.at, y: told(p.value, as === 'share' ? '%' : 'MPa') })),
          borderColor: colours.accent,
          backgroundColor: colours.accent,
          borderWidth: 1.8,
        },
      ],
    }),
    [points, as, colours],
  );
  const options = useMemo(() => curveOptions(), []);
  return (
    <div className="mt-2 h-24">
      <Line data={data} options={options} aria-label="Packing pressure against time" />
    </div>
  );
}

function curveOptions(): ChartOptions<'line'> {
  const { soft, line, font } = chartStyle();
  const ticks = { color: soft, font, maxTicksLimit: 5 };
  return {
    ...PLAIN_CHART,
    elements: { point: { radius: 2.5 }, line: { tension: 0 } },
    scales: {
      x: {
        type: 'linear',
        min: 0,
        grid: { color: line },
        ticks: { ...ticks, callback: (v) => `${formatNumber(Number(v), 2)} s` },
      },
      y: { type: 'linear', beginAtZero: true, grid: { color: line }, border: { display: false }, ticks },
    },
  };
}
