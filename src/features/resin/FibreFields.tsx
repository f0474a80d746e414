'use client';

import { hasFibres, turningOf, volumeShare } from '@/core/material/fibres/defaults';
import {
  CLOSURES,
  DEFAULT_FIBRES,
  LOAD_AXES,
  MECHANICS,
  type Closure,
  type FibreChoice,
  type Mechanics,
  type Turning,
} from '@/core/model/fibres';
import { same } from '@/core/model/mergeInputs';
import { WAY_NUMBERS } from '@/core/model/parameters';
import type { Resin } from '@/core/model/resin';
import type { Inputs } from '@/core/model/study';
import { formatNumber } from '@/core/units/units';
import { presentInputs, useStudy } from '../study/store';
import { Button, Choice, Fold, Row, SectionTitle, Select } from '../ui/controls';
import { ParameterField } from '../ui/ParameterField';

const CLOSURE_NAMES: Record<Closure, [label: string, note: string]> = {
  quadratic: ['Quadratic', 'exact where all lie alike'],
  hybrid: ['Hybrid', 'between two extremes'],
  orthotropic: ['Orthotropic', 'fitted, lively fibres'],
  'orthotropic-wide': ['Orthotropic, wide', 'fitted over more flows'],
  invariant: ['Invariant', 'fitted, by invariants'],
};
const MECHANICS_NAMES: Record<Mechanics, [label: string, note: string]> = {
  'mori-tanaka': ['Mori–Tanaka', 'spheroids in their mean stress'],
  'halpin-tsai': ['Halpin–Tsai', 'half empirical'],
  mixture: ['Mixture', 'bounds of long fibres'],
};
const INTERACTIONS = [
  { value: 'even', label: 'By even chance', note: 'C_I' },
  { value: 'two', label: 'Two numbers', note: 'less across the shear' },
  { value: 'five', label: 'Five numbers', note: 'for long fibres' },
];
/** What a choice of five numbers begins with: those of long glass in polypropylene (Phelps & Tucker 2009). */
const FIVE: [number, number, number, number, number] = [1.924e-4, 5.839e-3, 0.04, 1.168e-5, 0];

const noted = <T extends string>(ids: readonly T[], names: Record<T, [string, string]>) =>
  ids.map((value) => ({ value, label: names[value][0], note: names[value][1] }));

/** How the fibres of a filled resin are followed; nothing where it holds none. */
export function FibreFields({ resin }: { resin: Resin }) {
  const inputs = useStudy((s) => presentInputs(s));
  const change = useStudy((s) => s.change);
  const { filler } = resin;
  if (!filler || !hasFibres(resin)) return null;
  const fibres = inputs.fibres ?? DEFAULT_FIBRES;
  const put = (said: string, patch: Partial<FibreChoice>) => change(said, withFibres(inputs, { ...fibres, ...patch }));
  const aspect = fibres.aspect ?? filler.aspectRatio;
  const own = turningOf(resin, aspect);
  const turning = fibres.turning ?? own;
  const turn = (said: string, patch: Partial<Turning>) => put(said, { turning: { ...turning, ...patch } });
  return (
    <>
      <SectionTitle>Fibres</SectionTitle>
      <Choice
        label="Fibres"
        value={fibres.follow ? 'follow' : 'alike'}
        options={[
          { value: 'follow', label: 'Followed' },
          { value: 'alike', label: 'Alike all over' },
        ]}
        onChange={(v) => put(v === 'follow' ? 'Fibres followed' : 'Fibres alike all over', { follow: v === 'follow' })}
      />
      {fibres.follow && (
        <div className="mt-1.5 space-y-1.5">
          <Row label="Load along">
            <Choice
              label="Load along"
              value={fibres.load}
              options={LOAD_AXES.map((value) => ({ value, label: value }))}
              onChange={(load) => put(`Load along ${load}`, { load })}
            />
          </Row>
          <ParameterField
            of={WAY_NUMBERS.fibreAspect}
            label={filler.flat ? 'Diameter over thickness' : undefined}
            value={fibres.aspect}
            fallback={filler.aspectRatio}
            onChange={(value) => put('Length over diameter', { aspect: value })}
          />
          <Fold title="How they turn" said={saidOf(turning, fibres.turning === null)}>
            <Select
              label="Interaction"
              value={turning.interaction.by}
              options={INTERACTIONS}
              onChange={(by) => turn('Interaction of the fibres', { interaction: startOf(by, turning) })}
            />
            <InteractionFields
              turning={turning}
              change={(interaction) => turn('Interaction of the fibres', { interaction })}
            />
            <ParameterField
              of={WAY_NUMBERS.fibreSlowing}
              value={turning.slowing}
              onChange={(slowing) => slowing !== null && turn('Rate at which fibres follow', { slowing })}
            />
            <Select
              label="Closure"
              value={fibres.closure}
              options={noted(CLOSURES, CLOSURE_NAMES)}
              onChange={(closure) => put('Closure', { closure: closure as Closure })}
            />
            <Select
              label="Stiffness by"
              value={fibres.mechanics}
              options={noted(MECHANICS, MECHANICS_NAMES)}
              onChange={(mechanics) => put('Stiffness by', { mechanics: mechanics as Mechanics })}
            />
            {fibres.turning && (
              <Button onClick={() => put('Fibres as of the resin', { turning: null })}>As of the resin</Button>
            )}
          </Fold>
          <p className="text-soft text-[12px]">
            {formatNumber(100 * volumeShare(resin), 3)} % of the volume. Shrinkage, shape and stiffness follow their
            directions.
          </p>
        </div>
      )}
    </>
  );
}

function InteractionFields({
  turning: { interaction },
  change,
}: {
  turning: Turning;
  change: (i: Turning['interaction']) => void;
}) {
  if (interaction.by === 'five')
    return (
      <div className="grid grid-cols-1 gap-1.5">
        {interaction.b.map((b, k) => (
          <ParameterField
            key={k}
            of={{ ...WAY_NUMBERS.fibreInteraction, min: -1, max: 1 }}
            label={`b${k + 1}`}
            value={b}
            onChange={(value) =>
              value !== null &&
              change({ by: 'five', b: interaction.b.map((x, i) => (i === k ? value : x)) as typeof FIVE })
            }
          />
        ))}
      </div>
    );
  return (
    <>
      <ParameterField
        of={WAY_NUMBERS.fibreInteraction}
        value={interaction.CI}
        onChange={(CI) => CI !== null && change({ ...interaction, CI })}
      />
      {interaction.by === 'two' && (
        <ParameterField
          of={{ ...WAY_NUMBERS.fibreInteraction, max: 1 }}
          label="C_M"
          value={interaction.CM}
          onChange={(CM) => CM !== null && change({ ...interaction, CM })}
        />
      )}
    </>
  );
}

function startOf(by: string, { interaction: now }: Turning): Turning['interaction'] {
  const CI = now.by === 'five' ? 0.01 : now.CI;
  if (by === 'five') return { by, b: FIVE };
  return by === 'two' ? { by, CI, CM: 0.8 } : { by: 'even', CI };
}

const saidOf = ({ interaction, slowing }: Turning, own: boolean): string => {
  const number = interaction.by === 'five' ? 'five numbers' : `C_I ${formatNumber(interaction.CI, 2)}`;
  return `${own ? 'of the resin: ' : ''}${number}, ${formatNumber(100 * slowing, 2)} %`;
};

/** A study whose fibres are as they would be anyway says nothing of them. */
function withFibres(inputs: Inputs, fibres: FibreChoice): Inputs {
  const { fibres: _, ...rest } = inputs;
  return same(fibres, DEFAULT_FIBRES) ? rest : { ...rest, fibres };
}
