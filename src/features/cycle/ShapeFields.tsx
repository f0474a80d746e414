'use client';

import { Crosshair, Trash2 } from 'lucide-react';
import { METALS } from '@/core/material/others';
import { A_DAY, WAY_NUMBERS } from '@/core/model/parameters';
import { warpageOf, type BondedInsert, type HoldChoice, type LargeChoice, type Support } from '@/core/model/warpage';
import { heldMotions } from '@/core/pipeline/checkShape';
import { usualTolerance } from '@/core/results/shape';
import { formatNumber } from '@/core/units/units';
import { patchWarpage } from '../study/shapeActions';
import { presentPart, presentVariant, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, Choice, Fold, Row, SectionTitle, Select } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { ParameterField } from '../ui/ParameterField';
import { PlaceFields } from '../ui/PlaceFields';

const TOOL = [
  { value: 'larger', label: 'Tool scaled' },
  { value: 'drawn', label: 'Tool as drawn' },
] as const;
const FEED = [
  { value: 'off', label: 'Feed cut off' },
  { value: 'on', label: 'Feed left on' },
] as const;
const DETAILS = [
  { value: 'run', label: 'As the run' },
  { value: 'quick', label: 'quick' },
  { value: 'normal', label: 'normal' },
  { value: 'fine', label: 'fine' },
] as const;
const HOLD = [
  { value: 'tool', label: 'Pressure and steel' },
  { value: 'pressure', label: 'Pressure alone' },
  { value: 'ejection', label: 'Until it opens' },
] as const;
const LARGE_LOOKS = [
  { value: 'where-it-matters', label: 'Where they matter' },
  { value: 'always', label: 'Always' },
  { value: 'never', label: 'Never' },
] as const;
const AXES = ['x', 'y', 'z'] as const;

/** What the shape is held against, and what holds the part and lies in it while it cools. */
export function ShapeFields() {
  const inputs = useStudy((s) => presentVariant(s).inputs);
  const part = useStudy(presentPart);
  const { tolerance, toolScaled, supports, inserts, detail, withFeed, hold, large, after } = warpageOf(inputs);
  const size = part ? Math.max(...part.bounds.max.map((m, d) => m - part.bounds.min[d])) : null;
  const held = supports.reduce((n, s) => n + AXES.filter((a) => s.holds[a]).length, 0);
  return (
    <>
      <SectionTitle>Shape</SectionTitle>
      <div className="space-y-1.5">
        <NumberField
          label="May be off by"
          unit="mm"
          value={tolerance}
          fallback={size === null ? undefined : usualTolerance(size)}
          emptyHint="by the size"
          min={1e-6}
          max={0.1}
          step={0.05}
          onChange={(value) => patchWarpage('Tolerance of the shape', () => ({ tolerance: value }))}
        />
        <Choice
          label="Tool is cut"
          value={toolScaled ? 'larger' : 'drawn'}
          options={TOOL}
          onChange={(v) => patchWarpage('How the tool is cut', () => ({ toolScaled: v === 'larger' }))}
        />
        {inputs.feed && (
          <Choice
            label="Feed while it cools"
            value={withFeed ? 'on' : 'off'}
            options={FEED}
            onChange={(v) => patchWarpage('Feed while it cools', () => ({ withFeed: v === 'on' }))}
          />
        )}
        <Row label="Walls held in the tool">
          <Select
            label="Walls held in the tool"
            value={hold}
            options={HOLD}
            onChange={(v) => patchWarpage('What holds walls in the tool', () => ({ hold: v as HoldChoice }))}
          />
        </Row>
        <ParameterField
          of={WAY_NUMBERS.measuredAfter}
          value={after}
          onChange={(value) => patchWarpage('When it is measured', () => ({ after: value ?? A_DAY }))}
        />
        <Row label="Large deflections">
          <Select
            label="Large deflections"
            value={large}
            options={LARGE_LOOKS}
            onChange={(v) => patchWarpage('Large deflections', () => ({ large: v as LargeChoice }))}
          />
        </Row>
        <Row label="Detail of the structure">
          <Select
            label="Detail of the structure"
            value={detail ?? 'run'}
            options={DETAILS}
            onChange={(v) =>
              patchWarpage('Detail of the structure', () => ({ detail: v === 'run' ? null : (v as 'quick') }))
            }
          />
        </Row>
        <Fold title="Held while it cools" said={supports.length ? `${held} motions` : 'free'}>
          <Supports supports={supports} size={size} />
        </Fold>
        <Fold title="Inserts in the plastic" said={inserts.length ? formatNumber(inserts.length, 2) : 'none'}>
          <Inserts inserts={inserts} />
        </Fold>
      </div>
    </>
  );
}

function Supports({ supports, size }: { supports: readonly Support[]; size: number | null }) {
  const picking = useAim('support') !== null;
  const set = useBench((s) => s.set);
  const put = (label: string, id: string, next: (s: Support) => Support | null) =>
    patchWarpage(label, (w) => ({ supports: w.supports.flatMap((s) => (s.id === id ? (next(s) ?? []) : [s])) }));
  const { motions } = heldMotions(supports, size ?? 1);
  return (
    <>
      <Button
        className="w-full"
        look={picking ? 'primary' : 'plain'}
        aria-pressed={picking}
        onClick={() => set({ aim: picking ? null : { for: 'support' } })}
      >
        <Crosshair size={13} /> {picking ? 'Click on the part, Esc ends it' : 'Add support'}
      </Button>
      {supports.map((support) => {
        const { id, position, holds } = support;
        return (
          <div key={id} className="space-y-1 border-t pt-1.5">
            <div className="flex items-center gap-1">
              <span className="flex-1 font-semibold">{id}</span>
              {AXES.map((axis) => (
                <Button
                  key={axis}
                  aria-pressed={holds[axis]}
                  aria-label={`${id} holds ${axis}`}
                  className={`w-7 px-0 ${holds[axis] ? 'border-petrol bg-petrol-wash' : ''}`}
                  onClick={() =>
                    put(`What ${id} holds`, id, (s) => ({ ...s, holds: { ...s.holds, [axis]: !s.holds[axis] } }))
                  }
                >
                  {axis}
                </Button>
              ))}
              <button
                type="button"
                className="text-soft hover:text-problem p-1"
                aria-label={`Delete support ${id}`}
                onClick={() => put(`Delete support ${id}`, id, () => null)}
              >
                <Trash2 size={13} />
              </button>
            </div>
            <PlaceFields
              name={id}
              place={position}
              onChange={(place) => put(`Move support ${id}`, id, (s) => ({ ...s, position: place }))}
            />
          </div>
        );
      })}
      {supports.length > 0 && (
        <p className={`text-[12px] ${motions < 6 ? 'text-watch' : 'text-soft'}`}>
          {motions < 6
            ? `Holds ${motions} of the six motions: the part could still move or turn.`
            : 'All six motions are held; more supports bend the part while it cools.'}
        </p>
      )}
    </>
  );
}

function Inserts({ inserts }: { inserts: readonly BondedInsert[] }) {
  const bodies = useStudy((s) => presentVariant(s).inputs.bodies);
  const put = (label: string, body: string, next: Partial<BondedInsert> | null) =>
    patchWarpage(label, (w) => ({
      inserts: w.inserts.flatMap((i) => (i.body === body ? (next ? [{ ...i, ...next }] : []) : [i])),
    }));
  const free = bodies.filter((b) => b.role === 'insert' && !inserts.some((i) => i.body === b.id));
  const [steel] = METALS;
  return (
    <>
      {free.map((b) => (
        <Button
          key={b.id}
          className="w-full"
          onClick={() =>
            patchWarpage(`Bond ${b.name}`, (w) => ({
              inserts: [
                ...w.inserts,
                { body: b.id, young: steel.modulus, poisson: steel.poisson, expansion: steel.expansion },
              ],
            }))
          }
        >
          <span className="truncate">Bond “{b.name}”</span>
        </Button>
      ))}
      {!free.length && !inserts.length && (
        <p className="text-soft text-[12px]">Give a body the role Insert at the Part station to bond it here.</p>
      )}
      {inserts.map((insert) => {
        const name = bodies.find((b) => b.id === insert.body)?.name ?? insert.body;
        const metal = METALS.find((m) => m.modulus === insert.young && m.expansion === insert.expansion);
        return (
          <div key={insert.body} className="space-y-1 border-t pt-1.5">
            <div className="flex items-center gap-1">
              <span className="min-w-0 flex-1 truncate font-semibold">{name}</span>
              <button
                type="button"
                className="text-soft hover:text-problem p-1"
                aria-label={`Leave insert ${name} out`}
                onClick={() => put(`Leave ${name} out`, insert.body, null)}
              >
                <Trash2 size={13} />
              </button>
            </div>
            <Select
              label={`Metal of ${name}`}
              value={metal?.id ?? 'own'}
              options={[
                ...METALS.map((m) => ({ value: m.id, label: m.name })),
                ...(metal ? [] : [{ value: 'own', label: 'Own values' }]),
              ]}
              onChange={(id) => {
                const m = METALS.find((o) => o.id === id);
                if (m)
                  put(`Metal of ${name}`, insert.body, {
                    young: m.modulus,
                    poisson: m.poisson,
                    expansion: m.expansion,
                  });
              }}
            />
            <NumberField
              label="Modulus"
              unit="GPa"
              value={insert.young}
              min={1e6}
              max={2e12}
              step={5}
              onChange={(v) => v !== null && put(`Modulus of ${name}`, insert.body, { young: v })}
            />
            <NumberField
              label="Expansion"
              unit=""
              suffix="µm/(m·K)"
              value={1e6 * insert.expansion}
              min={-100}
              max={1000}
              step={1}
              onChange={(v) => v !== null && put(`Expansion of ${name}`, insert.body, { expansion: 1e-6 * v })}
            />
          </div>
        );
      })}
    </>
  );
}
