import { ArrowLeftRight, Plus, Trash2 } from 'lucide-react';
import { COOLANTS } from '@/core/material/others';
import { coolantLaw } from '@/core/solvers/cool/circuit';
import { DEFAULT_SUPPLY, type Cooling, type Pump, type Supply } from '@/core/model/cooling';
import { format } from '@/core/units/reader';
import { Button, Row, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { turnedRound } from './ends';
import { patchCooling, useNetwork } from './useCooling';
import { Called, NameField } from '../study/names';

const PUMPS: Record<Pump['by'], Pump> = {
  'flow-rate': { by: 'flow-rate', flowRate: 10 / 60000 },
  pressure: { by: 'pressure', pressure: 2e5 },
  curve: { by: 'curve', shutOff: 4.5e5, freeFlow: 40 / 60000 },
};

/** Pumps with their coolants. */
export function SupplyFields({ cooling }: { cooling: Cooling }) {
  const network = useNetwork();
  const update = (id: string, patch: Partial<Supply>) =>
    patchCooling(`Supply ${id}`, { supplies: cooling.supplies.map((s) => (s.id === id ? { ...s, ...patch } : s)) });
  return (
    <>
      <SectionTitle
        aside={
          <button
            type="button"
            className="text-petrol flex items-center gap-1 text-[12px]"
            onClick={() => {
              let n = cooling.supplies.length + 1;
              while (cooling.supplies.some((s) => s.id === `U${n}`)) n++;
              patchCooling(`Add supply U${n}`, { supplies: [...cooling.supplies, { ...DEFAULT_SUPPLY, id: `U${n}` }] });
            }}
          >
            <Plus size={12} /> Supply
          </button>
        }
      >
        Coolant supply
      </SectionTitle>
      <div className="space-y-3">
        {cooling.supplies.map((supply) => (
          <SupplyForm
            key={supply.id}
            supply={supply}
            alone={cooling.supplies.length === 1}
            state={network?.coolant.supplies.find((s) => s.id === supply.id)}
            onChange={(patch) => update(supply.id, patch)}
            onTurn={
              cooling.ends.some((e) => e.supply === supply.id)
                ? () =>
                    patchCooling(`Turn the coolant of ${supply.id} round`, {
                      ends: turnedRound(cooling.ends, supply.id),
                    })
                : undefined
            }
            onDelete={() =>
              patchCooling(`Delete supply ${supply.id}`, {
                supplies: cooling.supplies.filter((s) => s.id !== supply.id),
                ends: cooling.ends.filter((e) => e.supply !== supply.id),
              })
            }
          />
        ))}
      </div>
    </>
  );
}

function SupplyForm({
  supply,
  alone,
  state,
  onChange,
  onTurn,
  onDelete,
}: {
  supply: Supply;
  alone: boolean;
  state: { flow: number; pressure: number; returned: number } | undefined;
  onChange: (patch: Partial<Supply>) => void;
  /** Absent where no end of a line has this supply. */
  onTurn?: () => void;
  onDelete: () => void;
}) {
  const { coolant, pump, hose, id } = supply;
  const kind = typeof coolant === 'string' ? coolant : 'glycol' in coolant ? 'mix' : 'own';
  const law = coolantLaw(coolant);
  const cold =
    law && supply.temperature <= law.freezing ? `${law.name} freezes at ${format(law.freezing, '°C', 3)}.` : null;
  return (
    <div className="space-y-1.5">
      {!alone && (
        <div className="flex items-center justify-between">
          <Called kind="supply" id={id} className="font-semibold" />
          <button
            type="button"
            aria-label={`Delete supply ${id}`}
            className="text-soft hover:text-problem"
            onClick={onDelete}
          >
            <Trash2 size={13} />
          </button>
        </div>
      )}
      <NameField kind="supply" id={id} />
      <Row label="Coolant">
        <Select
          label={`Coolant of ${id}`}
          value={kind}
          options={[
            ...COOLANTS.filter((c) => !c.id.startsWith('glycol')).map((c) => ({ value: c.id, label: c.name })),
            { value: 'mix', label: 'Water and glycol' },
            ...(kind === 'own' && typeof coolant !== 'string' && 'name' in coolant
              ? [{ value: 'own', label: coolant.name }]
              : []),
          ]}
          onChange={(v) => v !== 'own' && onChange({ coolant: v === 'mix' ? { glycol: 0.3 } : v })}
        />
      </Row>
      {typeof coolant !== 'string' && 'glycol' in coolant && (
        <QuantityField
          of="glycol"
          label="Glycol by mass"
          value={coolant.glycol}
          onChange={(glycol) => glycol !== null && onChange({ coolant: { glycol } })}
        />
      )}
      <QuantityField
        of="coolantSent"
        label="Sent at"
        value={supply.temperature}
        note={cold}
        onChange={(temperature) => temperature !== null && onChange({ temperature })}
      />
      <Row label="Pump gives">
        <Select
          label={`Pump of ${id}`}
          value={pump.by}
          options={[
            { value: 'flow-rate', label: 'A set flow' },
            { value: 'pressure', label: 'A set pressure' },
            { value: 'curve', label: 'Its curve' },
          ]}
          onChange={(by) => onChange({ pump: PUMPS[by as Pump['by']] })}
        />
      </Row>
      {pump.by === 'flow-rate' && (
        <QuantityField
          of="coolantFlow"
          label="Flow"
          value={pump.flowRate}
          onChange={(flowRate) => flowRate !== null && onChange({ pump: { by: 'flow-rate', flowRate } })}
        />
      )}
      {pump.by === 'pressure' && (
        <QuantityField
          of="coolantPressure"
          label="Pressure"
          value={pump.pressure}
          onChange={(pressure) => pressure !== null && onChange({ pump: { by: 'pressure', pressure } })}
        />
      )}
      {pump.by === 'curve' && (
        <>
          <QuantityField
            of="pumpShut"
            label="At no flow"
            value={pump.shutOff}
            onChange={(shutOff) => shutOff !== null && onChange({ pump: { ...pump, shutOff } })}
          />
          <QuantityField
            of="pumpFree"
            label="Flow at no pressure"
            value={pump.freeFlow}
            onChange={(freeFlow) => freeFlow !== null && onChange({ pump: { ...pump, freeFlow } })}
          />
        </>
      )}
      <QuantityField
        of="supplyHose"
        label="Hose to the mould"
        value={hose.length}
        onChange={(length) => length !== null && onChange({ hose: { ...hose, length } })}
      />
      <QuantityField
        of="supplyBore"
        label="Its inside"
        value={hose.diameter}
        onChange={(diameter) => diameter !== null && onChange({ hose: { ...hose, diameter } })}
      />
      {state && (
        <p className="num text-soft text-[12px]" data-testid={`supply-${id}`}>
          {format(state.flow, 'l/min', 3)} at {format(state.pressure, 'bar', 3)}, back at{' '}
          {format(state.returned, '°C', 3)}
        </p>
      )}
      {onTurn && (
        <Button className="w-full" title="Where it came in it goes out, and the other way round" onClick={onTurn}>
          <ArrowLeftRight size={13} /> Turn it round
        </Button>
      )}
    </div>
  );
}
