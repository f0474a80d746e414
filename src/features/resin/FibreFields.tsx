'use client';

import { helpOf } from '@/core/help/inputHelp';
import { meanLengths } from '@/core/material/fibres/breakage';
import { granuleOf, hasFibres, turningOf, volumeShare } from '@/core/material/fibres/defaults';
import {
  CLOSURES,
  DEFAULT_FIBRES,
  LOAD_AXES,
  loadOf,
  MECHANICS,
  type Closure,
  type FibreChoice,
  type Mechanics,
  type Turning,
} from '@/core/model/fibres';
import { same } from '@/core/model/mergeInputs';
import { SCREW_STRAIN, WAY_NUMBERS } from '@/core/model/wayNumbers';
import type { Resin } from '@/core/model/resin';
import type { Inputs } from '@/core/model/study';
import { fibresOf, type FibreSettings } from '@/core/setup/fibres';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { presentInputs, useStudy } from '../study/store';
import { Button, Choice, Fold, Row, SectionTitle, Select } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
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
  const own = fibresOf(inputs, resin);
  const turning = fibres.turning ?? turningOf(resin, own ? Math.max(own.model.aspect, 1 / own.model.aspect) : aspect);
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
          <LoadFields fibres={fibres} put={put} />
          <ParameterField
            of={WAY_NUMBERS.fibreAspect}
            label={filler.flat ? 'Diameter over thickness' : undefined}
            value={fibres.aspect}
            fallback={filler.aspectRatio}
            onChange={(value) => put('Length over diameter', { aspect: value })}
          />
          {!filler.flat && (
            <Fold title="Length" said={lengthSaid(own)}>
              <LengthFields resin={resin} fibres={fibres} own={own} put={put} />
            </Fold>
          )}
          <Fold title="In the flow" said={flowSaid(own)}>
            <FlowFields own={own} put={put} />
          </Fold>
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

type Put = (said: string, patch: Partial<FibreChoice>) => void;

const OTHER = 'other';

/** Axis of the part that a load runs along, or its direction. */
function LoadFields({ fibres: { load }, put }: { fibres: FibreChoice; put: Put }) {
  const direction = typeof load === 'string' ? null : load;
  return (
    <>
      <Row label="Load along">
        <Choice
          label="Load along"
          value={typeof load === 'string' ? load : OTHER}
          options={[...LOAD_AXES, OTHER].map((value) => ({ value, label: value }))}
          onChange={(v) => {
            const axis = LOAD_AXES.find((a) => a === v);
            put(axis ? `Load along ${axis}` : 'Load along a direction', { load: axis ?? loadOf({ load }) });
          }}
        />
      </Row>
      {direction?.map((value, d) => (
        <NumberField
          key={d}
          label={`Load ${LOAD_AXES[d]}`}
          help={helpOf('load')}
          unit=""
          value={value}
          min={-1000}
          max={1000}
          step={0.1}
          onChange={(v) => {
            const next = direction.map((x, k) => (k === d ? (v ?? 0) : x)) as [number, number, number];
            if (Math.hypot(...next) > 0) put('Direction of the load', { load: next });
          }}
        />
      ))}
    </>
  );
}

const YES_NO = [
  { value: 'yes', label: 'On' },
  { value: 'no', label: 'Off' },
] as const;

function lengthSaid(own: FibreSettings | null): string {
  if (!own?.lengths) return 'as in the part';
  const { breakage, fresh } = own.lengths;
  return `${format(meanLengths(fresh, breakage.binLength).byWeight, 'mm', 2)} at the nozzle`;
}

/** How long fibres come in, and whether they are followed as they break. */
function LengthFields({
  resin,
  fibres,
  own,
  put,
}: {
  resin: Resin;
  fibres: FibreChoice;
  own: FibreSettings | null;
  put: Put;
}) {
  const { filler } = resin;
  if (!filler) return null;
  const breaks = own?.lengths != null;
  return (
    <>
      <Row label="How they break">
        <Choice
          label="How they break"
          value={breaks ? 'yes' : 'no'}
          options={YES_NO}
          onChange={(v) => put('How fibres break', { breaks: v === 'yes' })}
        />
      </Row>
      {breaks ? (
        <>
          <ParameterField
            of={WAY_NUMBERS.fibreGranule}
            value={fibres.granule}
            fallback={granuleOf(filler, fibres.aspect ?? filler.aspectRatio)}
            onChange={(granule) => put('Length in the granules', { granule })}
          />
          <ParameterField
            of={WAY_NUMBERS.fibreScrewStrain}
            value={fibres.screwStrain}
            fallback={SCREW_STRAIN}
            onChange={(screwStrain) => put('Strain in the screw', { screwStrain })}
          />
          <p className="text-soft text-[12px]">
            Broken by the stress of the flow in screw, runners, gates and walls; the screw leaves {lengthSaid(own)}.
          </p>
        </>
      ) : (
        <p className="text-soft text-[12px]">As long all over as length over diameter says.</p>
      )}
    </>
  );
}

const flowSaid = (own: FibreSettings | null): string =>
  [own?.migration ? 'move across it' : null, own?.coupling ? 'slow it down' : null].filter(Boolean).join(', ') ||
  'go along';

/** What fibres do in the flow, and it feels of them. */
function FlowFields({ own, put }: { own: FibreSettings | null; put: Put }) {
  return (
    <>
      <Row label="Move across it">
        <Choice
          label="Move across it"
          value={own?.migration ? 'yes' : 'no'}
          options={YES_NO}
          onChange={(v) => put('Fibres that move across the flow', { migrates: v === 'yes' })}
        />
      </Row>
      <Row label="Slow it down">
        <Choice
          label="Slow it down"
          value={own?.coupling ? 'yes' : 'no'}
          options={YES_NO}
          onChange={(v) => put('Flow that feels the fibres', { coupled: v === 'yes' })}
        />
      </Row>
      <p className="text-soft text-[12px]">
        They leave layers that are sheared much for the middle of the wall; where they lie otherwise than in steady
        shear, which the viscosity was measured in, the melt is stiffer or thinner.
      </p>
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
