'use client';

import type { CycleProps } from './cycleProps';
import { chargeOf } from '@/core/model/compression';
import { knownOf, resolveMachine, resolveResin, resolveSettings } from '@/core/setup/settings';
import { format, formatShown } from '@/core/units/reader';
import { latestResult, presentPart, presentInputs, useStudy } from '../study/store';
import { Choice, Fact, SectionTitle } from '../ui/controls';
import { CompressionFields } from './CompressionFields';
import { CoolingTimeFields } from './CoolingTimeFields';
import { CoreFields } from './CoreFields';
import { CycleNumberField } from './CycleNumberField';
import { InjectionFields } from './InjectionFields';
import { MachineFields } from './MachineFields';
import { PackingFields } from './PackingFields';
import { ShapeFields } from './ShapeFields';
import { SuggestPanel } from './SuggestPanel';
import { SwitchoverFields } from './SwitchoverFields';
import { TransferFields } from './TransferFields';

/** Assumed where there is no part yet, only to show a plausible hint. */
const NO_PART = { volume: 5e-5, wall: 2e-3 };

const UP_TO = [
  { value: 'fill', label: 'Filling' },
  { value: 'pack', label: 'To ejection' },
  { value: 'shape', label: 'Shape' },
] as const;

export function CycleBench() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const lastInputs = useStudy((s) => latestResult(s)?.inputs ?? null);
  const last = lastInputs?.cycle ?? null;
  const lastCore = lastInputs ? (lastInputs.core ?? null) : undefined;
  const lastPress = lastInputs ? (lastInputs.compression ?? null) : undefined;
  const change = useStudy((s) => s.change);
  const { cycle } = inputs;
  const size = part?.size ?? NO_PART;
  if (!resolveResin(inputs)) return <p className="text-soft">Choose a resin first: the defaults follow from it.</p>;
  // A machine that is not in the library any more is said at the run; the fields go by the default.
  const known = resolveMachine(inputs, size) ? inputs : { ...inputs, cycle: { ...cycle, machine: null } };
  const settings = resolveSettings(known, size);
  const { resin } = settings;
  const block: CycleProps = {
    cycle,
    known: knownOf(known, resin, settings.machine),
    update: (label, patch) => change(label, { ...inputs, cycle: { ...cycle, ...patch } }),
    marked: (...keys) => last !== null && keys.some((k) => JSON.stringify(last[k]) !== JSON.stringify(cycle[k])),
  };
  // While a fluid pushes, or the tool, the nozzle is shut; a second melt is packed like the first.
  const alone = !inputs.compression && (!inputs.core || inputs.core.fluid === 'melt');
  const injects = !chargeOf(inputs.compression);
  return (
    <>
      <SectionTitle>Calculate</SectionTitle>
      <Choice
        label="Calculate"
        value={inputs.upTo ?? 'shape'}
        options={UP_TO}
        onChange={(upTo) => {
          const { upTo: _, ...rest } = inputs;
          change('What is calculated', upTo === 'shape' ? rest : { ...rest, upTo });
        }}
      />
      <TransferFields inputs={inputs} />
      <SectionTitle>Temperatures</SectionTitle>
      <div className="space-y-1.5">
        <CycleNumberField
          {...block}
          id="meltTemperature"
          note={outside(cycle.meltTemperature, resin.melt, resin.name)}
        />
        <CycleNumberField
          {...block}
          id="mouldTemperature"
          note={outside(cycle.mouldTemperature, resin.mould, resin.name)}
        />
        <CycleNumberField
          {...block}
          id="lowerMouldTemperature"
          note={outside(cycle.lowerMouldTemperature, resin.mould, resin.name)}
        />
        <CycleNumberField {...block} id="wallTransfer" />
      </div>
      <MachineFields {...block} settings={settings} volume={part?.size.volume ?? null} />
      {injects && <InjectionFields {...block} inputs={known} size={size} />}
      <CompressionFields inputs={inputs} settings={settings} last={lastPress} />
      {(!inputs.compression || inputs.core) && <CoreFields inputs={inputs} settings={settings} last={lastCore} />}
      {alone && <SwitchoverFields {...block} settings={settings} />}
      {alone && <PackingFields {...block} settings={settings} />}
      <CoolingTimeFields {...block} />
      <SuggestPanel />
      {!inputs.upTo && <ShapeFields />}
      {part && (
        <>
          <SectionTitle>What follows</SectionTitle>
          <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
            <Fact label="Injection time" value={format(settings.injectionTime, 's')} />
            <Fact label="Mean flow rate" value={format(settings.flowRate, 'cm³/s')} />
            <Fact label="Nominal wall freezes in" value={format(settings.freezeTime, 's', 2)} />
          </dl>
        </>
      )}
      <p className="text-soft mt-3 text-[12px]">
        Values in italics are defaults from {resin.name}, the wall and the machine; empty a field to go back to them.
      </p>
    </>
  );
}

function outside(value: number | null, range: { min: number; max: number }, name: string): string | null {
  if (value === null || (value >= range.min && value <= range.max)) return null;
  const c = (t: number) => formatShown(t, '°C');
  return `Outside ${c(range.min)} to ${c(range.max)} °C for ${name}.`;
}
