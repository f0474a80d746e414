import { helpOfTable } from '@/core/help/constantHelp';
import type { Resin } from '@/core/model/resin';
import { SectionTitle } from '../ui/controls';
import { PairTable } from '../ui/PairTable';

/** A property of a resin at temperatures. */
export function CurveTable({
  property,
  title,
  unit,
  curve,
  onChange,
}: {
  property: 'specificHeat' | 'conductivity';
  title: string;
  unit: 'J/(kg·K)' | 'W/(m·K)';
  curve: Resin['specificHeat'];
  onChange: (c: Resin['specificHeat']) => void;
}) {
  return (
    <fieldset className="min-w-0">
      <SectionTitle>{title} against temperature</SectionTitle>
      <PairTable
        title={title}
        help={helpOfTable(property)}
        columns={[
          { label: 'Temperature', unit: '°C', min: 100, max: 900, step: 5 },
          { label: 'Value', unit, min: 1e-6, max: 1e6, step: unit === 'W/(m·K)' ? 0.01 : 50 },
        ]}
        pairs={curve.map(({ T, value }) => [T, value] as const)}
        next={([T, value]) => [T + 20, value]}
        onChange={(pairs) => onChange(pairs.map(([T, value]) => ({ T, value })))}
      />
    </fieldset>
  );
}
