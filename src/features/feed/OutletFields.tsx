import { Crosshair, Trash2 } from 'lucide-react';
import { defaultVent, type Tab, type VentInput } from '@/core/model/outlet';
import { freshOutletId } from '@/core/results/answer';
import type { Inputs } from '@/core/model/study';
import { format } from '@/core/units/reader';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, Row, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { Called, NameField } from '../study/names';

/** Ways out for air. */
const VENTING: { value: Inputs['cycle']['venting']; label: string; note?: string }[] = [
  { value: 'parting-line', label: 'Parting line', note: 'free, and vents' },
  { value: 'vents', label: 'Vents only' },
  { value: 'sealed', label: 'Nowhere' },
  { value: 'open', label: 'Everywhere', note: 'as if steel let it through' },
];

/** Vents and overflow tabs: how air leaves, and where cold melt may go. */
export function OutletFields() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const change = useStudy((s) => s.change);
  const placing = useAim('outlet')?.kind ?? null;
  const selected = useBench((s) => s.selectedOutlet);
  const set = useBench((s) => s.set);
  const { vents = [], tabs = [] } = inputs;
  const place = (kind: 'vent' | 'tab') => set({ aim: placing === kind ? null : { for: 'outlet', kind } });
  const vent = vents.find((v) => v.id === selected);
  const tab = tabs.find((t) => t.id === selected);
  const choose = (id: string) => set({ selectedOutlet: id === selected ? null : id });
  const setVents = (label: string, next: VentInput[]) => change(label, { ...inputs, vents: next });
  return (
    <>
      <SectionTitle>Vents and overflow tabs</SectionTitle>
      <Row label="Air gets out at">
        <Select
          label="Air gets out at"
          value={inputs.cycle.venting}
          options={VENTING}
          onChange={(v) =>
            change('Where air gets out', {
              ...inputs,
              cycle: { ...inputs.cycle, venting: v as Inputs['cycle']['venting'] },
            })
          }
        />
      </Row>
      <div className="mt-1.5 grid grid-cols-3 gap-1">
        <Button
          aria-pressed={placing === 'vent'}
          off={!part && 'Bring in a part first'}
          onClick={() => place('vent')}
          className={pressed(placing === 'vent')}
        >
          <Crosshair size={13} /> Vent
        </Button>
        <Button
          off={
            part
              ? vents.some((v) => v.at.kind === 'rim')
                ? 'The rim has its vent already'
                : null
              : 'Bring in a part first'
          }
          title="A vent all along the parting line"
          onClick={() => {
            const id = freshOutletId('V', vents);
            setVents(`Vent ${id} along the rim`, [...vents, defaultVent(id, { kind: 'rim' })]);
            set({ selectedOutlet: id });
          }}
        >
          Rim vent
        </Button>
        <Button
          aria-pressed={placing === 'tab'}
          off={!part && 'Bring in a part first'}
          onClick={() => place('tab')}
          className={pressed(placing === 'tab')}
        >
          <Crosshair size={13} /> Tab
        </Button>
      </div>
      {placing && <p className="text-soft mt-1 text-[12px]">Click on the part, Esc when done.</p>}
      {(vents.length > 0 || tabs.length > 0) && (
        <ul className="mt-1.5 divide-y border-y" aria-label="Vents and tabs">
          {vents.map((v) => (
            <Item key={v.id} kind="vent" id={v.id} on={v.id === selected} onClick={() => choose(v.id)}>
              {v.at.kind === 'rim' ? 'along the rim' : `${format(v.at.width, 'mm')} wide`}, gap {format(v.gap, 'mm')}
            </Item>
          ))}
          {tabs.map((t) => (
            <Item key={t.id} kind="tab" id={t.id} on={t.id === selected} onClick={() => choose(t.id)}>
              tab of {format(t.size.length * t.size.width * t.size.thickness, 'cm³', 2)}
            </Item>
          ))}
        </ul>
      )}
      {vent && (
        <VentForm
          vent={vent}
          onChange={(label, next) =>
            setVents(
              label,
              next ? vents.map((v) => (v.id === vent.id ? next : v)) : vents.filter((v) => v.id !== vent.id),
            )
          }
        />
      )}
      {tab && (
        <TabForm
          tab={tab}
          onChange={(label, next) =>
            change(label, {
              ...inputs,
              tabs: next ? tabs.map((t) => (t.id === tab.id ? next : t)) : tabs.filter((t) => t.id !== tab.id),
            })
          }
        />
      )}
    </>
  );
}

const pressed = (on: boolean) => (on ? 'border-petrol! bg-petrol-wash!' : '');

function Item({
  kind,
  id,
  on,
  onClick,
  children,
}: {
  kind: 'vent' | 'tab';
  id: string;
  on: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <li>
      <button
        type="button"
        aria-pressed={on}
        onClick={onClick}
        className={`num -mx-2 flex w-[calc(100%+1rem)] items-baseline gap-2 rounded px-2 py-1.5 text-left ${on ? 'bg-petrol-wash' : 'hover:bg-well'}`}
      >
        <Called kind={kind} id={id} className="min-w-8 font-semibold" />
        <span className="text-soft flex-1">{children}</span>
      </button>
    </li>
  );
}

function Head({ children, onDelete, name }: { children: React.ReactNode; onDelete: () => void; name: string }) {
  return (
    <SectionTitle
      aside={
        <button type="button" aria-label={`Delete ${name}`} className="text-soft hover:text-problem" onClick={onDelete}>
          <Trash2 size={14} />
        </button>
      }
    >
      {children}
    </SectionTitle>
  );
}

function VentForm({ vent, onChange }: { vent: VentInput; onChange: (label: string, next: VentInput | null) => void }) {
  const { at } = vent;
  const edit = (patch: Partial<VentInput>) => onChange(`Vent ${vent.id}`, { ...vent, ...patch });
  return (
    <>
      <Head name={`vent ${vent.id}`} onDelete={() => onChange(`Delete vent ${vent.id}`, null)}>
        Vent {vent.id}
      </Head>
      <div className="space-y-1.5">
        <NameField kind="vent" id={vent.id} />
        {at.kind === 'place' && (
          <QuantityField
            of="ventWidth"
            label="Width"
            value={at.width}
            onChange={(width) => width !== null && edit({ at: { ...at, width } })}
          />
        )}
        <QuantityField of="ventGap" label="Gap" value={vent.gap} onChange={(gap) => gap !== null && edit({ gap })} />
        <QuantityField
          of="ventLand"
          label="Land"
          value={vent.land}
          onChange={(land) => land !== null && edit({ land })}
        />
        <QuantityField
          of="ventPressure"
          label="Pressure behind it"
          value={vent.exitPressure}
          onChange={(exitPressure) => exitPressure !== null && edit({ exitPressure })}
        />
      </div>
    </>
  );
}

const EDGES = [
  { key: 'length', label: 'length' },
  { key: 'width', label: 'width' },
  { key: 'thickness', label: 'thickness' },
] as const;

function TabForm({ tab, onChange }: { tab: Tab; onChange: (label: string, next: Tab | null) => void }) {
  const edit = (patch: Partial<Tab>) => onChange(`Tab ${tab.id}`, { ...tab, ...patch });
  return (
    <>
      <Head name={`tab ${tab.id}`} onDelete={() => onChange(`Delete tab ${tab.id}`, null)}>
        Overflow tab {tab.id}
      </Head>
      <div className="space-y-1.5">
        <NameField kind="tab" id={tab.id} />
        {(['land', 'size'] as const).flatMap((part) =>
          EDGES.map(({ key, label }) => (
            <QuantityField
              key={part + key}
              of="tabSize"
              help={part === 'land' ? 'tabLand' : 'tabSize'}
              label={`${part === 'land' ? 'Land' : 'Tab'} ${label}`}
              value={tab[part][key]}
              onChange={(v) => v !== null && edit({ [part]: { ...tab[part], [key]: v } })}
            />
          )),
        )}
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-petrol"
            checked={tab.vented}
            onChange={(e) => edit({ vented: e.target.checked })}
          />
          Air gets out at its end
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-petrol"
            checked={tab.opens === 'core'}
            onChange={(e) => {
              const { opens: _, ...rest } = tab;
              onChange(`Valve of tab ${tab.id}`, e.target.checked ? { ...rest, opens: 'core' } : rest);
            }}
          />
          A valve opens it for the fluid in the core
        </label>
      </div>
    </>
  );
}
