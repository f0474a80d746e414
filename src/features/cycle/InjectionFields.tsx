import { helpOf } from '@/core/help/inputHelp';
import { Plus, X } from 'lucide-react';
import { WAY_NUMBERS } from '@/core/model/wayNumbers';
import type { Injection, Inputs } from '@/core/model/study';
import { resolveSettings, type PartSize } from '@/core/setup/settings';
import { Button, Choice, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { ParameterField } from '../ui/ParameterField';
import type { CycleProps } from './cycleProps';

const WAYS = [
  { value: 'time', label: 'Time' },
  { value: 'flow-rate', label: 'Flow rate' },
  { value: 'profile', label: 'Profile' },
] as const;

const AGAINST = [
  { value: 'share', label: 'Share filled' },
  { value: 'stroke', label: 'Screw travel' },
] as const;

type Profile = Extract<Injection, { by: 'profile' }>;
const MOST_STEPS = 20;

/** How the melt is pushed: in a time, at a flow rate, or step by step. */
export function InjectionFields({
  cycle,
  update,
  marked,
  inputs,
  size,
}: CycleProps & { inputs: Inputs; size: PartSize }) {
  const { injection } = cycle;
  const defaults = resolveSettings(
    { ...inputs, cycle: { ...inputs.cycle, injection: { by: 'time', time: null } } },
    size,
  );
  const flowRate = Number(defaults.flowRate.toPrecision(3));
  const start: Record<Injection['by'], Injection> = {
    time: { by: 'time', time: null },
    'flow-rate': { by: 'flow-rate', flowRate },
    profile: {
      by: 'profile',
      against: 'share',
      points: [
        { at: 0, flowRate: Number((0.5 * flowRate).toPrecision(3)) },
        { at: 0.1, flowRate: Number((1.1 * flowRate).toPrecision(3)) },
        { at: 0.9, flowRate: Number((0.5 * flowRate).toPrecision(3)) },
      ],
    },
  };
  return (
    <>
      <SectionTitle>Injection</SectionTitle>
      <Choice
        label="Injection by"
        value={injection.by}
        options={WAYS}
        onChange={(by) => update('Injection', { injection: start[by] })}
      />
      <div className="mt-1.5 space-y-1.5">
        {injection.by === 'time' && (
          <ParameterField
            of={WAY_NUMBERS.injectionTime}
            value={injection.time}
            fallback={defaults.injectionTime}
            marked={marked('injection')}
            onChange={(time) => update('Injection time', { injection: { by: 'time', time } })}
          />
        )}
        {injection.by === 'flow-rate' && (
          <ParameterField
            of={WAY_NUMBERS.flowRate}
            value={injection.flowRate}
            marked={marked('injection')}
            onChange={(rate) =>
              rate !== null && update('Flow rate', { injection: { by: 'flow-rate', flowRate: rate } })
            }
          />
        )}
        {injection.by === 'profile' && (
          <ProfileSteps
            profile={injection}
            stroke={(4 * size.volume) / (Math.PI * defaults.machine.screwDiameter ** 2)}
            onChange={(next) => update('Injection profile', { injection: next })}
          />
        )}
      </div>
    </>
  );
}

/** From each place on with its flow rate. `stroke`: travel of the screw that fills the part, m. */
function ProfileSteps({
  profile,
  stroke,
  onChange,
}: {
  profile: Profile;
  stroke: number;
  onChange: (p: Profile) => void;
}) {
  const { against, points } = profile;
  const whole = against === 'share' ? 1 : stroke;
  const set = (k: number, patch: Partial<Profile['points'][0]>) =>
    onChange({ ...profile, points: points.map((p, i) => (i === k ? { ...p, ...patch } : p)) });
  const add = () => {
    const last = points[points.length - 1];
    const at = Number((last.at + 0.5 * Math.max(0.02 * whole, whole - last.at)).toPrecision(3));
    onChange({ ...profile, points: [...points, { ...last, at }] });
  };
  return (
    <div>
      <Choice
        label="Profile against"
        value={against}
        options={AGAINST}
        onChange={(next) => {
          const factor = next === 'share' ? 1 / stroke : stroke;
          if (next !== against)
            onChange({
              ...profile,
              against: next,
              points: points.map((p) => ({ ...p, at: Number((p.at * factor).toPrecision(4)) })),
            });
        }}
      />
      <ol className="mt-2 space-y-2">
        {points.map((point, k) => (
          <li key={k} className="flex items-start gap-1 border-t pt-1.5 first:border-0 first:pt-0">
            <div className="flex-1 space-y-1">
              {k > 0 && (
                <NumberField
                  label="From"
                  help={helpOf('profileFrom')}
                  unit={against === 'share' ? '%' : 'mm'}
                  value={point.at}
                  min={points[k - 1].at + 1e-4 * whole}
                  max={points[k + 1] ? points[k + 1].at - 1e-4 * whole : 2}
                  step={5}
                  onChange={(at) => at !== null && set(k, { at })}
                />
              )}
              <ParameterField
                of={WAY_NUMBERS.flowRate}
                label={k === 0 ? 'From the start' : 'Flow rate'}
                value={point.flowRate}
                onChange={(rate) => rate !== null && set(k, { flowRate: rate })}
              />
            </div>
            <Button
              look="quiet"
              className="px-1"
              off={k === 0 && 'A profile begins with this step'}
              aria-label={`Remove step ${k + 1}`}
              onClick={() => onChange({ ...profile, points: points.filter((_, i) => i !== k) })}
            >
              <X size={13} />
            </Button>
          </li>
        ))}
      </ol>
      <Button
        className="mt-2 w-full"
        off={points.length >= MOST_STEPS && `A profile has at most ${MOST_STEPS} steps`}
        onClick={add}
      >
        <Plus size={13} /> Add a step
      </Button>
    </div>
  );
}
