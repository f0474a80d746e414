import { inputHelpId } from '@/core/help/help';
import { WAY_NUMBERS } from '@/core/model/wayNumbers';
import { Trash2 } from 'lucide-react';
import { landOf } from '@/core/feed/land';
import { ductOf } from '@/core/feed/section';
import { snapToEdge } from '@/core/geometry/snap';
import { defaultForm, GATE_KINDS, type GateForm, type GateKind } from '@/core/model/gateForm';
import type { Gate } from '@/core/model/study';
import { deleteSelectedGate } from './gateActions';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useCavity } from '../study/meshes';
import { Button, Row, SectionTitle, Select } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { QuantityField } from '../ui/QuantityField';
import { PositionFields } from './PositionFields';
import { PinFields } from './PinFields';
import { NameField } from '../study/names';

/** Dimensions of a form, as they are labelled. */
const SIZES = [
  { key: 'length', label: 'Length', of: 'gateLength' },
  { key: 'wide', label: 'At the runner', of: 'gateWide' },
  { key: 'width', label: 'Width', of: 'gateWidth' },
  { key: 'thickness', label: 'Thickness', of: 'gateThickness' },
] as const;

/** Kinds that open into the part as a round hole. */
const ROUND: GateKind[] = ['pin', 'submarine', 'sprue'];

/** Place, kind, dimensions and pin of the chosen gate. */
export function GateFields({ gate }: { gate: Gate }) {
  const inputs = useStudy((s) => presentInputs(s));
  const change = useStudy((s) => s.change);
  const { mesh } = useCavity(inputs);
  const update = (label: string, patch: Partial<Gate>) =>
    change(label, { ...inputs, gates: inputs.gates.map((g) => (g.id === gate.id ? { ...g, ...patch } : g)) });
  const snap = (to: 'point' | 'middle') => {
    const found = mesh && snapToEdge(mesh, gate.position);
    if (found)
      update(to === 'point' ? `Gate ${gate.id} to the edge` : `Gate ${gate.id} to the middle of the edge`, {
        position: found[to],
      });
  };
  const round = !gate.form || ROUND.includes(gate.form.kind);
  return (
    <>
      <SectionTitle
        aside={
          <button
            type="button"
            onClick={deleteSelectedGate}
            className="text-soft hover:text-problem"
            aria-label={`Delete gate ${gate.id}`}
            title="Delete (Del)"
          >
            <Trash2 size={14} />
          </button>
        }
      >
        Gate {gate.id}
      </SectionTitle>
      <div className="space-y-1.5">
        <NameField kind="gate" id={gate.id} />
        <PositionFields
          position={gate.position}
          onChange={(position) => update(`Move gate ${gate.id}`, { position })}
        />
        <div className="grid grid-cols-2 gap-1">
          <Button disabled={!mesh} onClick={() => snap('point')} title="Onto the nearest sharp edge">
            To the edge
          </Button>
          <Button disabled={!mesh} onClick={() => snap('middle')} title="Onto the middle of the nearest sharp edge">
            To its middle
          </Button>
        </div>
        <FormFields gate={gate} update={update} />
        {round && (
          <NumberField
            label="Diameter"
            help={inputHelpId(WAY_NUMBERS.gateDiameter)}
            unit="mm"
            value={gate.diameter}
            min={1e-4}
            max={0.05}
            step={0.25}
            onChange={(v) => v !== null && update(`Diameter of gate ${gate.id}`, { diameter: v })}
          />
        )}
        {(inputs.feed?.hot || gate.pin) && (
          <PinFields gate={gate} probes={inputs.probes} onChange={(label, pin) => update(label, { pin })} />
        )}
      </div>
    </>
  );
}

function FormFields({ gate, update }: { gate: Gate; update: (label: string, patch: Partial<Gate>) => void }) {
  const feed = useStudy((s) => presentInputs(s).feed);
  const part = useStudy(presentPart);
  const { form } = gate;
  if (!feed && !form) return null;
  // The gate hangs on what is thinner, the runner or the end of the drop.
  const runner = feed ? Math.min(ductOf(feed.runner).width, feed.drop.gate) : 0.005;
  const choose = (kind: GateKind | 'plain') => {
    const next = kind === 'plain' ? undefined : defaultForm(kind, part?.size.wall ?? 0.002, runner);
    update(`Kind of gate ${gate.id}`, { form: next });
  };
  const edit = (patch: Partial<GateForm>) =>
    form && update(`Dimensions of gate ${gate.id}`, { form: { ...form, ...patch } as GateForm });
  const land = feed ? landOf(feed, gate) : null;
  return (
    <>
      <Row label="Kind">
        <Select
          label="Kind of gate"
          value={form?.kind ?? 'plain'}
          options={[
            { value: 'plain', label: 'Round hole' },
            ...GATE_KINDS.map(({ kind, label }) => ({ value: kind, label })),
          ]}
          onChange={(v) => choose(v as GateKind | 'plain')}
        />
      </Row>
      {form &&
        SIZES.filter(({ key }) => key in form).map(({ key, label, of }) => (
          <QuantityField
            key={key}
            of={of}
            label={label}
            value={(form as Record<typeof key, number>)[key]}
            onChange={(v) => v !== null && edit({ [key]: v } as Partial<GateForm>)}
          />
        ))}
      {form?.kind === 'submarine' && (
        <QuantityField
          of="gateAngle"
          label="Angle to the plane"
          value={form.angle}
          onChange={(v) => v !== null && edit({ angle: v })}
        />
      )}
      {!form && land && <p className="text-soft text-[12px]">As long as the lands of the runners.</p>}
    </>
  );
}
