import { MACHINES } from '@/core/machine/library';
import type { Machine } from '@/core/model/machine';
import type { FillSettings } from '@/core/setup/settings';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { Button, Fact, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { CycleNumberField } from './CycleNumberField';
import type { CycleProps } from './cycleProps';

const AUTOMATIC = 'automatic';
const OWN = 'own';

/** The press: from the library, chosen by the part's volume, or typed in. */
export function MachineFields({
  settings,
  volume,
  ...block
}: CycleProps & { settings: FillSettings; volume: number | null }) {
  const { cycle, update, marked } = block;
  const { machine } = settings;
  const own = typeof cycle.machine === 'object' && cycle.machine !== null ? cycle.machine : null;
  const value = typeof cycle.machine === 'string' ? cycle.machine : own ? OWN : AUTOMATIC;
  const options = [
    { value: AUTOMATIC, label: `Smallest that holds it (${cycle.machine === null ? machine.name : 'default'})` },
    ...MACHINES.map((m) => ({ value: m.id, label: m.name, note: format(m.clampForce, 'kN', 4) })),
    ...(own ? [{ value: OWN, label: own.name }] : []),
  ];
  const choose = (id: string) => {
    if (id !== OWN) update('Machine', { machine: id === AUTOMATIC ? null : id });
  };
  const edit = (patch: Partial<Machine>) => update('Machine', { machine: { ...(own ?? typedIn(machine)), ...patch } });
  return (
    <>
      <SectionTitle
        aside={
          !own && (
            <Button look="quiet" className="h-5 px-1 text-[12px]" onClick={() => edit({})}>
              Type in
            </Button>
          )
        }
      >
        Machine {marked('machine') && <span className="text-copper">·</span>}
      </SectionTitle>
      <Select label="Machine" value={value} options={options} onChange={choose} />
      {own ? (
        <div className="mt-1.5 space-y-1.5">
          <QuantityField
            of="screw"
            label="Screw diameter"
            value={own.screwDiameter}
            onChange={(v) => v !== null && edit({ screwDiameter: v })}
          />
          <QuantityField
            of="machinePressure"
            label="Largest pressure"
            value={own.maxPressure}
            onChange={(v) => v !== null && edit({ maxPressure: v })}
          />
          <QuantityField
            of="machineFlow"
            label="Largest flow rate"
            value={own.maxFlowRate}
            onChange={(v) => v !== null && edit({ maxFlowRate: v })}
          />
          <QuantityField
            of="machineClamp"
            label="Clamp force"
            value={own.clampForce}
            onChange={(v) => v !== null && edit({ clampForce: v })}
          />
          <QuantityField
            of="machineShot"
            label="Shot"
            value={own.shotVolume}
            onChange={(v) => v !== null && edit({ shotVolume: v })}
          />
        </div>
      ) : (
        <dl className="num mt-1.5 grid grid-cols-[1fr_auto] gap-y-0.5">
          <Fact label="Clamp force" value={format(machine.clampForce, 'kN', 4)} />
          <Fact label="Largest flow rate" value={format(machine.maxFlowRate, 'cm³/s')} />
          <Fact
            label="Shot"
            value={
              volume === null
                ? format(machine.shotVolume, 'cm³')
                : `${formatNumber((100 * volume) / machine.shotVolume, 2)} % of ${format(machine.shotVolume, 'cm³')}`
            }
          />
        </dl>
      )}
      <div className="mt-1.5">
        <CycleNumberField
          {...block}
          id="pressureLimit"
          note={
            cycle.pressureLimit !== null && cycle.pressureLimit > machine.maxPressure
              ? `${machine.name} can ${format(machine.maxPressure, 'MPa')}.`
              : null
          }
        />
      </div>
    </>
  );
}

const typedIn = (machine: Machine): Machine => ({
  ...machine,
  id: 'own',
  name: `${machine.name}, own`,
  maker: '',
  origin: 'typed in',
});
