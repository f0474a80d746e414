import { DEFAULT_PLAN, layOutChannels, withLayout } from '@/core/cooling/layout';
import type { Cooling, LayoutPlan } from '@/core/model/cooling';
import { presentInputs, useStudy } from '../study/store';
import { Choice, Row, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { EvenPanel } from './EvenPanel';
import { blockAround, changeCooling, useMouldSpace } from './useCooling';

const SIDES = [
  { value: 'both', label: 'Both sides' },
  { value: 'above', label: 'Above' },
  { value: 'below', label: 'Below' },
] as const;

const LAYOUT = { diameter: 'channelDiameter', pitch: 'channelPitch', distance: 'channelDistance' } as const;

/** Channels laid out from a few numbers; every change lays them out anew. */
export function LayoutFields({ cooling }: { cooling: Cooling }) {
  const inputs = useStudy((s) => presentInputs(s));
  const space = useMouldSpace();
  if (!space) return null;
  const plan = cooling.plan ?? DEFAULT_PLAN(space.part);
  const lay = (label: string, patch: Partial<LayoutPlan>) => {
    const next = { ...plan, ...patch };
    changeCooling(label, (now) =>
      withLayout(
        now,
        next,
        layOutChannels(next, space.mesh, space.part, blockAround(inputs, space.part), now.supplies[0].id),
      ),
    );
  };
  const number = (label: string, key: keyof typeof LAYOUT) => (
    <QuantityField
      of={LAYOUT[key]}
      label={label}
      value={plan[key]}
      onChange={(v) => v !== null && lay(`Layout, ${label.toLowerCase()}`, { [key]: v })}
    />
  );
  return (
    <>
      <SectionTitle>Layout</SectionTitle>
      <div className="space-y-1.5">
        <Row label="Side of the part">
          <Select
            label="Side of the part"
            value={plan.above && plan.below ? 'both' : plan.above ? 'above' : 'below'}
            options={SIDES}
            onChange={(v) => lay('Layout, sides', { above: v !== 'below', below: v !== 'above' })}
          />
        </Row>
        <Row label="Direction">
          <Choice
            label="Direction of the channels"
            value={plan.direction}
            options={[
              { value: 'x', label: 'X' },
              { value: 'y', label: 'Y' },
            ]}
            onChange={(direction) => lay('Layout, direction', { direction })}
          />
        </Row>
        <QuantityField
          of="channelCount"
          label="Channels a side"
          value={plan.count}
          onChange={(v) => v !== null && lay('Layout, count', { count: Math.round(v) })}
        />
        {number('Diameter', 'diameter')}
        {number('Pitch', 'pitch')}
        {number('From the part', 'distance')}
        <Row label="Course">
          <Select
            label="Course of the channels"
            value={plan.conformal ? 'conformal' : 'straight'}
            options={[
              { value: 'straight', label: 'Straight' },
              { value: 'conformal', label: 'Follows the part' },
            ]}
            onChange={(v) => lay('Layout, course', { conformal: v === 'conformal' })}
          />
        </Row>
        <Row label="Connected">
          <Select
            label="How channels are connected"
            value={plan.connected}
            options={[
              { value: 'series', label: 'In series' },
              { value: 'parallel', label: 'In parallel' },
            ]}
            onChange={(v) => lay('Layout, connection', { connected: v as LayoutPlan['connected'] })}
          />
        </Row>
      </div>
      <EvenPanel />
    </>
  );
}
