'use client';

import { DEFAULT_PRESSURE_LIMIT, type Inputs } from '@/core/model/study';
import { resolveSettings } from '@/core/pipeline/settings';
import { format, formatNumber, fromSi } from '@/core/units/units';
import { Fact } from '../part/PartBench';
import { latestResult, presentPart, presentVariant, useStudy } from '../study/store';
import { Choice, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';

const WAYS = [
  { value: 'time', label: 'Time' },
  { value: 'flow-rate', label: 'Flow rate' },
] as const;

/** Assumed where there is no part yet, only to show a plausible hint. */
const NO_PART = { volume: 5e-5, wall: 2e-3 };

export function CycleBench() {
  const inputs = useStudy((s) => presentVariant(s).inputs);
  const part = useStudy(presentPart);
  const last = useStudy((s) => latestResult(s)?.inputs.cycle ?? null);
  const change = useStudy((s) => s.change);
  const { cycle } = inputs;
  const settings = resolveSettings(inputs, part?.size ?? NO_PART);
  const { resin } = settings;
  const defaults = resolveSettings(
    { ...inputs, cycle: { ...cycle, injection: { by: 'time', time: null } } },
    part?.size ?? NO_PART,
  );
  const update = (label: string, patch: Partial<Inputs['cycle']>) =>
    change(label, { ...inputs, cycle: { ...cycle, ...patch } });
  const marked = (key: keyof Inputs['cycle']) =>
    last !== null && JSON.stringify(last[key]) !== JSON.stringify(cycle[key]);
  return (
    <>
      <SectionTitle>Temperatures</SectionTitle>
      <div className="space-y-1.5">
        <NumberField
          label="Melt"
          unit="°C"
          value={cycle.meltTemperature}
          fallback={resin.melt.recommended}
          min={273.15}
          max={773.15}
          step={5}
          marked={marked('meltTemperature')}
          note={outside(cycle.meltTemperature, resin.melt, resin.name)}
          onChange={(meltTemperature) => update('Melt temperature', { meltTemperature })}
        />
        <NumberField
          label="Mould"
          unit="°C"
          value={cycle.mouldTemperature}
          fallback={resin.mould.recommended}
          min={223.15}
          max={573.15}
          step={5}
          marked={marked('mouldTemperature')}
          note={outside(cycle.mouldTemperature, resin.mould, resin.name)}
          onChange={(mouldTemperature) => update('Mould temperature', { mouldTemperature })}
        />
      </div>
      <SectionTitle>Injection</SectionTitle>
      <Choice
        label="Injection by"
        value={cycle.injection.by}
        options={WAYS}
        onChange={(by) =>
          update('Injection', {
            injection: by === 'time' ? { by, time: null } : { by, flowRate: Number(defaults.flowRate.toPrecision(3)) },
          })
        }
      />
      <div className="mt-1.5 space-y-1.5">
        {cycle.injection.by === 'time' ? (
          <NumberField
            label="Injection time"
            unit="s"
            value={cycle.injection.time}
            fallback={defaults.injectionTime}
            min={0.01}
            max={600}
            step={0.1}
            marked={marked('injection')}
            onChange={(time) => update('Injection time', { injection: { by: 'time', time } })}
          />
        ) : (
          <NumberField
            label="Flow rate"
            unit="cm³/s"
            value={cycle.injection.flowRate}
            min={1e-9}
            max={0.05}
            step={5}
            marked={marked('injection')}
            onChange={(flowRate) =>
              flowRate !== null && update('Flow rate', { injection: { by: 'flow-rate', flowRate } })
            }
          />
        )}
        <NumberField
          label="Pressure limit"
          unit="MPa"
          value={cycle.pressureLimit}
          fallback={DEFAULT_PRESSURE_LIMIT}
          min={0}
          max={5e8}
          step={5}
          marked={marked('pressureLimit')}
          onChange={(pressureLimit) => update('Pressure limit', { pressureLimit })}
        />
      </div>
      {part && (
        <>
          <SectionTitle>What follows</SectionTitle>
          <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
            <Fact label="Injection time" value={format(settings.injectionTime, 's')} />
            <Fact label="Flow rate" value={format(settings.flowRate, 'cm³/s')} />
            <Fact label="Nominal wall freezes in" value={format(settings.freezeTime, 's', 2)} />
          </dl>
        </>
      )}
      <p className="text-soft mt-3 text-[12px]">
        Values in italics are defaults from {resin.name} and the wall; empty a field to go back to them.
      </p>
    </>
  );
}

function outside(value: number | null, range: { min: number; max: number }, name: string): string | null {
  if (value === null || (value >= range.min && value <= range.max)) return null;
  const c = (t: number) => formatNumber(fromSi(t, '°C'), 3);
  return `Outside ${c(range.min)} to ${c(range.max)} °C for ${name}.`;
}
