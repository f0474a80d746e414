import { helpOfTable } from '@/core/help/constantHelp';
import { Crosshair } from 'lucide-react';
import { useMemo } from 'react';
import { CORE_FLUIDS, fluidById } from '@/core/material/coreFluids';
import { defaultCore, type CoreChoice } from '@/core/model/core';
import { RESINS } from '@/core/material/library';
import { WAY_NUMBERS } from '@/core/model/wayNumbers';
import type { Parameter } from '@/core/model/parameter';
import type { Gate, Inputs } from '@/core/model/study';
import { skinEstimate } from '@/core/results/coreEstimate';
import { coreHoldOf, coreOf, type FillSettings } from '@/core/setup/settings';
import { releasedAt } from '@/core/solvers/core/fluid';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { coreNotes } from '@/core/pipeline/checkCore';
import { useCavity } from '../study/meshes';
import { presentPart, useStudy } from '../study/store';
import { changeCore, removeCore } from '../feed/needleActions';
import { useAim, useBench } from '../study/bench';
import { Button, Choice, Fact, Row, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { ParameterField } from '../ui/ParameterField';
import { PairTable } from '../ui/PairTable';
import { useNameOf } from '../study/names';

const FLUIDS = [
  { value: 'none', label: 'None' },
  ...CORE_FLUIDS.map((f) => ({ value: f.id, label: f.name })),
  { value: 'melt', label: 'Second melt' },
];
const MELT: { value: CoreChoice['melt']['by']; label: string }[] = [
  { value: 'share', label: 'At a share' },
  { value: 'time', label: 'At a time' },
  { value: 'front', label: 'By its front' },
];
/** No gate has this name: names begin with a letter. */
const FIRST_WAY = '-';
const DRIVES: { value: CoreChoice['drive']['by']; label: string }[] = [
  { value: 'pressure', label: 'Pressure' },
  { value: 'profile', label: 'Profile' },
  { value: 'volume', label: 'Volume' },
];

/** What pushes the melt from inside, and when; `last` is that of the newest result, null: without, undefined: no result. */
export function CoreFields({
  inputs,
  settings,
  last,
}: {
  inputs: Inputs;
  settings: FillSettings;
  last: CoreChoice | null | undefined;
}) {
  const { core } = inputs;
  const marked = (key: keyof CoreChoice) =>
    last !== undefined && JSON.stringify(last?.[key]) !== JSON.stringify(core?.[key]);
  return (
    <>
      <SectionTitle>Fluid in the core</SectionTitle>
      <Row label="Fluid">
        <Select
          label="Fluid in the core"
          value={core?.fluid ?? 'none'}
          options={FLUIDS}
          onChange={(fluid) =>
            fluid === 'none'
              ? removeCore()
              : changeCore('Fluid in the core', () => ({ fluid: fluid as CoreChoice['fluid'], temperature: null }))
          }
        />
      </Row>
      {core && (
        <div className="mt-1.5 space-y-1.5">
          {core.fluid === 'melt' && (
            <SecondResin core={core} gates={inputs.gates} settings={settings} marked={marked('second')} />
          )}
          {core.fluid !== 'melt' && (
            <QuantityField
              of="coreTemperature"
              help="fluidTemperature"
              label="Temperature"
              value={core.temperature}
              fallback={fluidById(core.fluid)?.temperature}
              marked={marked('temperature')}
              onChange={(temperature) => changeCore('Temperature of the fluid', () => ({ temperature }))}
            />
          )}
          <Melt core={core} settings={settings} marked={marked('melt')} />
          {core.fluid !== 'melt' && (
            <>
              <ParameterField
                of={WAY_NUMBERS.coreDelay}
                value={core.delay}
                marked={marked('delay')}
                onChange={(delay) => delay !== null && changeCore('Delay of the core', () => ({ delay }))}
              />
              <Drive core={core} settings={settings} marked={marked('drive')} />
              <Estimate inputs={inputs} core={core} settings={settings} />
            </>
          )}
        </div>
      )}
    </>
  );
}

interface Block {
  core: CoreChoice;
  settings: FillSettings;
  marked: boolean;
}

/** What follows the first melt: any resin, the way of the first or through a gate of its own. */
function SecondResin({ core: { second }, gates, settings, marked }: Block & { gates: readonly Gate[] }) {
  const options = RESINS.map((r) => ({ value: r.id, label: `${r.family} ${r.name}` }));
  const now = settings.second;
  const nameOf = useNameOf();
  const put = (next: Partial<NonNullable<CoreChoice['second']>>) =>
    changeCore('Second melt', () => ({
      second: { resin: settings.resin.id, meltTemperature: null, ...second, ...next },
    }));
  return (
    <>
      <Row label="Resin">
        <Select
          label="Resin of the second melt"
          value={now?.resin.id ?? settings.resin.id}
          options={options}
          onChange={(id) => put({ resin: id })}
        />
      </Row>
      <QuantityField
        of="meltLetIn"
        help="fluidTemperature"
        label="Second melt"
        value={second?.meltTemperature ?? null}
        fallback={now?.resin.melt.recommended}
        marked={marked}
        onChange={(meltTemperature) => put({ meltTemperature })}
      />
      {(gates.length > 1 || second?.gate) && (
        <Row label="Comes through">
          <Select
            label="Gate of the second melt"
            value={second?.gate ?? FIRST_WAY}
            options={[
              { value: FIRST_WAY, label: 'As the first' },
              ...gates.map((g) => ({ value: g.id, label: `Gate ${nameOf('gate', g.id)} alone` })),
            ]}
            onChange={(id) => put({ gate: id === FIRST_WAY ? undefined : id })}
          />
        </Row>
      )}
    </>
  );
}

/** When the melt ends and the nozzle shuts. */
function Melt({ core: { melt }, settings, marked }: Block) {
  const aiming = useAim('core')?.what === 'melt';
  const set = useBench((s) => s.set);
  const put = (next: CoreChoice['melt']) => changeCore('End of the melt', () => ({ melt: next }));
  const start = {
    share: { by: 'share', share: 0.8 },
    time: { by: 'time', time: Number((0.8 * settings.injectionTime).toPrecision(2)) },
  } as const;
  return (
    <>
      <p className="text-soft pt-1 text-[12px]">The melt ends</p>
      <Choice
        label="The melt ends"
        value={melt.by}
        options={MELT}
        onChange={(by) => (by === 'front' ? set({ aim: { for: 'core', what: 'melt' } }) : put(start[by]))}
      />
      {melt.by === 'share' && (
        <ParameterField
          of={WAY_NUMBERS.coreShare}
          value={melt.share}
          marked={marked}
          onChange={(share) => share !== null && put({ by: 'share', share })}
        />
      )}
      {melt.by === 'time' && (
        <ParameterField
          of={WAY_NUMBERS.switchoverTime}
          value={melt.time}
          marked={marked}
          onChange={(time) => time !== null && put({ by: 'time', time })}
        />
      )}
      {(melt.by === 'front' || aiming) && (
        <Button
          className="w-full"
          aria-pressed={aiming}
          onClick={() => set({ aim: aiming ? null : { for: 'core', what: 'melt' } })}
        >
          <Crosshair size={13} /> {aiming ? 'Click where the front has to be' : 'Another place of the front'}
        </Button>
      )}
    </>
  );
}

/** Pressure or volume of the fluid over time. */
function Drive({ core: { drive }, settings, marked }: Block) {
  const put = (next: CoreChoice['drive']) => changeCore('What drives the core', () => ({ drive: next }));
  const plain = defaultCore().drive;
  const choose = (by: CoreChoice['drive']['by']) => {
    if (by === 'profile') {
      const points = profilePoints(drive, settings);
      return put({ by, points });
    }
    if (by === 'volume') return put({ by, volume: 5e-4, over: 1, hold: null, most: 3e7 });
    put(plain);
  };
  const number = (of: Parameter, value: number, next: (value: number) => CoreChoice['drive'], label?: string) => (
    <ParameterField of={of} label={label} value={value} marked={marked} onChange={(v) => v !== null && put(next(v))} />
  );
  const hold = (held: Exclude<CoreChoice['drive'], { by: 'profile' }>) => (
    <ParameterField
      of={WAY_NUMBERS.coreHold}
      value={held.hold}
      fallback={coreHoldOf(settings.freezeTime)}
      marked={marked}
      onChange={(next) => put({ ...held, hold: next })}
    />
  );
  return (
    <>
      <p className="text-soft pt-1 text-[12px]">The fluid is driven by</p>
      <Choice label="The fluid is driven by" value={drive.by} options={DRIVES} onChange={choose} />
      {drive.by === 'pressure' && (
        <>
          {number(WAY_NUMBERS.corePressure, drive.pressure, (pressure) => ({ ...drive, pressure }))}
          {number(WAY_NUMBERS.coreRise, drive.rise, (rise) => ({ ...drive, rise }))}
          {hold(drive)}
          {number(WAY_NUMBERS.coreRelease, drive.release, (release) => ({ ...drive, release }))}
        </>
      )}
      {drive.by === 'profile' && (
        <PairTable
          title="core pressure"
          help={helpOfTable('corePoints')}
          columns={[
            { label: 'Time', head: 's from its start', unit: 's', min: 0, max: 600, step: 0.5 },
            { label: 'Pressure', head: 'MPa', unit: 'MPa', min: 0, max: 1e8, step: 1 },
          ]}
          pairs={drive.points.map(({ at, pressure }) => [at, pressure] as const)}
          least={2}
          most={20}
          next={([at, pressure]) => [Number((at + 1).toPrecision(4)), pressure]}
          onChange={(pairs) => put({ by: 'profile', points: inOrder(pairs) })}
        />
      )}
      {drive.by === 'volume' && (
        <>
          {number(WAY_NUMBERS.coreVolume, drive.volume, (volume) => ({ ...drive, volume }))}
          {number(WAY_NUMBERS.coreRise, drive.over, (over) => ({ ...drive, over }), 'Pushed in over')}
          {hold(drive)}
          {number(WAY_NUMBERS.corePressure, drive.most, (most) => ({ ...drive, most }), 'Source presses up to')}
        </>
      )}
    </>
  );
}

/** Points as a profile takes them: from nothing on, each later than the one before. */
function inOrder(pairs: readonly (readonly [number, number])[]) {
  const points: { at: number; pressure: number }[] = [];
  for (const [at, pressure] of pairs) {
    const last = points.at(-1);
    points.push({ at: last ? Math.max(at, last.at + 0.01) : 0, pressure });
  }
  return points;
}

/** What a pressure that is held comes to as points; from another drive, those of the default. */
function profilePoints(drive: CoreChoice['drive'], { freezeTime }: FillSettings) {
  const core = drive.by === 'pressure' ? { ...defaultCore(), drive } : defaultCore();
  return coreOf(core, freezeTime).control.points.map(({ at, value }) => ({ at, pressure: value }));
}

/** What the film of the resin, and the needles, say before a run. */
function Estimate({ inputs, core, settings }: { inputs: Inputs; core: CoreChoice; settings: FillSettings }) {
  const { slit, round } = skinEstimate(settings.resin);
  const percent = (x: number) => `${formatNumber(100 * x, 2)} %`;
  const { control } = coreOf(core, settings.freezeTime);
  const { mesh } = useCavity(inputs);
  const wall = useStudy(presentPart)?.size.wall;
  const notes = useMemo(() => coreNotes(inputs, settings, mesh, wall ?? 0), [inputs, settings, mesh, wall]);
  return (
    <>
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Skin of what flows, at least" value={`${percent(slit)} to ${percent(round)}`} />
        <Fact label="Let out after" value={format(core.delay + releasedAt(control), 's', 3)} />
      </dl>
      <p className="text-soft text-[12px]">Of a wide wall and of a round section; what freezes first is on top.</p>
      {notes.map((note) => (
        <p key={note} className="text-watch text-[12px]">
          {note}
        </p>
      ))}
    </>
  );
}
