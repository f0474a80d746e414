'use client';

import { Crosshair, Trash2 } from 'lucide-react';
import { A_DAY, WAY_NUMBERS } from '@/core/model/wayNumbers';
import { warpageOf, type HoldChoice, type LargeChoice, type Support } from '@/core/model/warpage';
import { heldMotions } from '@/core/pipeline/checkShape';
import { usualTolerance } from '@/core/results/shape';
import { patchWarpage } from '../study/shapeActions';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useAim, useBench } from '../study/bench';
import { Button, Choice, Fold, Row, SectionTitle, Select } from '../ui/controls';
import { QuantityField } from '../ui/QuantityField';
import { ParameterField } from '../ui/ParameterField';
import { PlaceFields } from '../ui/PlaceFields';
import { Called, NameField } from '../study/names';

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

/** What the shape is held against, and what holds the part while it cools. */
export function ShapeFields() {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const { tolerance, toolScaled, supports, detail, withFeed, hold, large, after } = warpageOf(inputs);
  const size = part ? Math.max(...part.bounds.max.map((m, d) => m - part.bounds.min[d])) : null;
  const held = supports.reduce((n, s) => n + AXES.filter((a) => s.holds[a]).length, 0);
  return (
    <>
      <SectionTitle>Shape</SectionTitle>
      <div className="space-y-1.5">
        <QuantityField
          of="tolerance"
          label="May be off by"
          value={tolerance}
          fallback={size === null ? undefined : usualTolerance(size)}
          emptyHint="by the size"
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
              <Called kind="support" id={id} className="flex-1 font-semibold" />
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
            <NameField kind="support" id={id} />
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
