import { WAY_NUMBERS } from '@/core/model/wayNumbers';
import type { Inputs } from '@/core/model/study';
import type { FillSettings } from '@/core/setup/settings';
import { AUTOMATIC_SHARE } from '@/core/solvers/melt/drive';
import { SectionTitle, Select } from '../ui/controls';
import { ParameterField } from '../ui/ParameterField';
import type { CycleProps } from './cycleProps';

type Switchover = Inputs['cycle']['switchover'];

const WAYS: { value: Switchover['by']; label: string }[] = [
  { value: 'automatic', label: `Automatic (${Math.round(100 * AUTOMATIC_SHARE)} % filled)` },
  { value: 'share', label: 'At a share filled' },
  { value: 'pressure', label: 'At a pressure' },
  { value: 'time', label: 'At a time' },
];

/** When the machine stops setting the flow and sets the pressure. */
export function SwitchoverFields({ cycle, update, marked, settings }: CycleProps & { settings: FillSettings }) {
  const { switchover } = cycle;
  const start: Record<Switchover['by'], Switchover> = {
    automatic: { by: 'automatic' },
    share: { by: 'share', share: 0.98 },
    pressure: { by: 'pressure', pressure: Math.round(0.6e-6 * settings.pressureLimit) * 1e6 || 1e6 },
    time: { by: 'time', time: Number((0.98 * settings.injectionTime).toPrecision(2)) },
  };
  const set = (next: Switchover) => update('Switchover', { switchover: next });
  return (
    <>
      <SectionTitle>Switchover</SectionTitle>
      <div className="space-y-1.5">
        <Select
          label="Switchover"
          value={switchover.by}
          options={WAYS}
          onChange={(by) => set(start[by as Switchover['by']])}
        />
        {switchover.by === 'share' && (
          <ParameterField
            of={WAY_NUMBERS.switchoverShare}
            value={switchover.share}
            marked={marked('switchover')}
            onChange={(share) => share !== null && set({ by: 'share', share })}
          />
        )}
        {switchover.by === 'pressure' && (
          <ParameterField
            of={WAY_NUMBERS.switchoverPressure}
            value={switchover.pressure}
            marked={marked('switchover')}
            note={
              switchover.pressure > settings.pressureLimit ? 'Above the pressure limit: it would never come.' : null
            }
            onChange={(pressure) => pressure !== null && set({ by: 'pressure', pressure })}
          />
        )}
        {switchover.by === 'time' && (
          <ParameterField
            of={WAY_NUMBERS.switchoverTime}
            value={switchover.time}
            marked={marked('switchover')}
            onChange={(time) => time !== null && set({ by: 'time', time })}
          />
        )}
      </div>
    </>
  );
}
