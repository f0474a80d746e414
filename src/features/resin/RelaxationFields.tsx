import { helpOfTable } from '@/core/help/constantHelp';
import { solidLawOf } from '@/core/material/solid';
import type { Relaxation } from '@/core/material/relaxation';
import type { Resin } from '@/core/model/resin';
import { Button, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { PairTable } from '../ui/PairTable';

/**
 * How the stress of a resin fades, to be changed: where it has no spectrum of its own, the one of its structure is
 * shown, and becomes its own with the first change.
 */
export function RelaxationFields({
  resin,
  onChange,
}: {
  resin: Resin;
  onChange: (relaxation: Relaxation | undefined) => void;
}) {
  const law = resin.relaxation ?? solidLawOf(resin).relaxation;
  const set = (patch: Partial<Relaxation>) => onChange({ ...law, ...patch });
  const constant = (
    id: 'c1' | 'c2' | 'activation',
    label: string,
    suffix: string,
    value: number,
    most: number,
    to: (v: number) => void,
  ) => (
    <NumberField
      label={label}
      help={helpOfTable(id)}
      unit=""
      suffix={suffix}
      value={value}
      min={1e-3}
      max={most}
      step={1}
      onChange={(v) => v !== null && to(v)}
    />
  );
  return (
    <>
      <fieldset className="min-w-0 pt-4">
        <SectionTitle>How its stress fades</SectionTitle>
        <div className="space-y-1.5">
          <NumberField
            label="Times hold at"
            help={helpOfTable('reference')}
            unit="°C"
            value={law.reference}
            min={200}
            max={800}
            step={1}
            onChange={(reference) => reference !== null && set({ reference })}
          />
          {constant('c1', 'Above it, WLF c1', '', law.wlf.c1, 100, (c1) => set({ wlf: { ...law.wlf, c1 } }))}
          {constant('c2', 'WLF c2', 'K', law.wlf.c2, 500, (c2) => set({ wlf: { ...law.wlf, c2 } }))}
          {constant('activation', 'Below it, activation', 'J/mol', law.activation, 5e6, (activation) =>
            set({ activation }),
          )}
        </div>
        <p className="text-soft pt-2 text-[12px]" data-testid="relaxation-origin">
          {resin.relaxation
            ? 'Its own spectrum. Shares count by their sum.'
            : `What ${resin.structure === 'amorphous' ? 'amorphous' : 'semi-crystalline'} plastics do in general, an estimate. A change makes it this resin’s own.`}
        </p>
        {resin.relaxation && (
          <Button className="mt-2 w-full" onClick={() => onChange(undefined)}>
            Back to that of its structure
          </Button>
        )}
      </fieldset>
      <fieldset className="min-w-0 pt-4">
        <SectionTitle>Spectrum: time and share</SectionTitle>
        <PairTable
          title="Spectrum"
          help={helpOfTable('spectrum')}
          columns={[
            { label: 'Time', unit: 's', min: 1e-12, max: 1e15, step: 1 },
            { label: 'Share', unit: '%', min: 0, max: 1, step: 1 },
          ]}
          pairs={law.terms.map(({ time, share }) => [time, share] as const)}
          next={([time]) => [10 * time, 0.01]}
          onChange={(pairs) => set({ terms: pairs.map(([time, share]) => ({ time, share })) })}
        />
      </fieldset>
    </>
  );
}
