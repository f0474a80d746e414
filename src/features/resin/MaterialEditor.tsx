'use client';

import { Plus, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { CONSTANTS, constantAt, materialWarnings, withConstant, type Constant } from '@/core/material/constants';
import { solidLawOf } from '@/core/material/solid';
import { MATERIAL_SCHEMAS, type Material, type MaterialKind } from '@/core/model/material';
import type { Resin } from '@/core/model/resin';
import { describeIssues } from '@/core/model/studyFile';
import { ApiError } from '../study/api';
import { Button, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { useMaterials } from './materials';

/** Every constant of a material, to be looked at or, in a draft, changed. */
export function MaterialEditor({
  kind,
  material,
  onDone,
}: {
  kind: MaterialKind;
  material: Material;
  /** With the saved material, or null when the work was dropped. */
  onDone: (saved: Material | null) => void;
}) {
  const [work, setWork] = useState(material);
  const [refusal, setRefusal] = useState<string | null>(null);
  const save = useMaterials((s) => s.save);
  const parsed = useMemo(() => MATERIAL_SCHEMAS[kind].safeParse(work), [kind, work]);
  const warnings = useMemo(() => materialWarnings(kind, work), [kind, work]);
  const set = (path: string, value: number | null) => setWork((w) => withConstant(w, path, value ?? undefined));
  const store = async () => {
    if (!parsed.success) return;
    try {
      await save(kind, work);
      onDone(work);
    } catch (error) {
      setRefusal(error instanceof ApiError ? `${error.message} ${error.remedy}` : 'It could not be saved. Try again.');
    }
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="grid grid-cols-2 gap-x-4 border-b px-5 py-2.5">
        <Named label="Name" value={work.name} onChange={(name) => setWork({ ...work, name })} />
        <Named label="Supplier" value={work.supplier} onChange={(supplier) => setWork({ ...work, supplier })} />
      </div>
      <div className="grid min-h-0 flex-1 content-start grid-cols-2 gap-x-6 overflow-y-auto px-5 py-3">
        {CONSTANTS[kind].map(({ title, constants }) => (
          <fieldset key={title} className="min-w-0 pb-4">
            <SectionTitle>{title}</SectionTitle>
            <div className="space-y-1.5">
              {constants
                .filter((constant) => asked(constant, work))
                .map((constant) => (
                  <ConstantField
                    key={constant.path}
                    constant={constant}
                    value={constantAt(work, constant.path)}
                    fallback={
                      constant.optional && 'pvt' in work ? constantAt(withSolidLaw(work), constant.path) : undefined
                    }
                    note={warnings.find((w) => w.path === constant.path)?.message ?? null}
                    onChange={(value) => set(constant.path, value)}
                  />
                ))}
            </div>
          </fieldset>
        ))}
        {kind === 'resin' && (
          <>
            <CurveTable
              title="Specific heat"
              unit="J/(kg·K)"
              curve={(work as Resin).specificHeat}
              onChange={(specificHeat) => setWork({ ...work, specificHeat } as Material)}
            />
            <CurveTable
              title="Conductivity"
              unit="W/(m·K)"
              curve={(work as Resin).conductivity}
              onChange={(conductivity) => setWork({ ...work, conductivity } as Material)}
            />
          </>
        )}
      </div>
      <footer className="flex items-center gap-3 border-t px-5 py-2.5">
        <div className="min-w-0 flex-1 text-[12px]" role="status">
          {!parsed.success ? (
            <p className="text-problem whitespace-pre-line">{describeIssues(parsed.error)}</p>
          ) : refusal ? (
            <p className="text-problem">{refusal}</p>
          ) : warnings.length ? (
            <p className="text-watch truncate">
              {warnings.length === 1 ? warnings[0].message : `${warnings.length} remarks: ${warnings[0].message}`}
            </p>
          ) : (
            <p className="text-soft">All values are within what is usual.</p>
          )}
        </div>
        <Button onClick={() => onDone(null)}>Drop</Button>
        <Button look="primary" disabled={!parsed.success} onClick={() => void store()}>
          Save
        </Button>
      </footer>
    </div>
  );
}

function Named({ label, value, onChange }: { label: string; value: string; onChange: (v: string) => void }) {
  return (
    <label className="flex items-center gap-2">
      <span className="text-soft">{label}</span>
      <input
        className="bg-sheet focus:border-petrol h-7 min-w-0 flex-1 rounded border px-2 outline-none"
        value={value}
        maxLength={80}
        onChange={(e) => onChange(e.target.value)}
      />
    </label>
  );
}

function ConstantField({
  constant,
  value,
  fallback,
  note,
  onChange,
}: {
  constant: Constant;
  value: number;
  fallback?: number;
  note: string | null;
  onChange: (value: number | null) => void;
}) {
  const { label, unit, si, min, max, optional } = constant;
  return (
    <NumberField
      label={label}
      unit={unit ?? ''}
      suffix={si}
      value={Number.isNaN(value) ? null : value}
      fallback={fallback}
      min={min}
      max={max}
      step={unit === '°C' ? 1 : 0.05}
      note={note}
      onChange={(v) => (v !== null || optional) && onChange(v)}
    />
  );
}

/** Amorphous plastics have no crystals. */
const asked = ({ optional }: Constant, material: Material) =>
  optional !== 'crystalline' || !('pvt' in material) || material.structure !== 'amorphous';

const withSolidLaw = (resin: Resin): Resin => ({ ...resin, ...solidLawOf(resin) });

type Points = Resin['specificHeat'];

function CurveTable({
  title,
  unit,
  curve,
  onChange,
}: {
  title: string;
  unit: 'J/(kg·K)' | 'W/(m·K)';
  curve: Points;
  onChange: (c: Points) => void;
}) {
  const set = (k: number, patch: Partial<Points[0]>) =>
    onChange(curve.map((p, i) => (i === k ? { ...p, ...patch } : p)));
  return (
    <fieldset className="min-w-0">
      <SectionTitle>{title} against temperature</SectionTitle>
      <table className="w-full" aria-label={title}>
        <tbody>
          {curve.map((p, k) => (
            <tr key={k}>
              <td className="w-2/5 py-0.5 pr-1">
                <NumberField
                  label={`${title}, temperature ${k + 1}`}
                  hideLabel
                  unit="°C"
                  value={p.T}
                  min={100}
                  max={900}
                  step={5}
                  onChange={(T) => T !== null && set(k, { T })}
                />
              </td>
              <td className="py-0.5">
                <NumberField
                  label={`${title} ${k + 1}`}
                  hideLabel
                  unit={unit}
                  value={p.value}
                  min={1e-6}
                  max={1e6}
                  step={unit === 'W/(m·K)' ? 0.01 : 50}
                  onChange={(value) => value !== null && set(k, { value })}
                />
              </td>
              <td className="w-6">
                <Button
                  look="quiet"
                  className="px-1"
                  disabled={curve.length < 2}
                  aria-label={`Remove point ${k + 1} of ${title}`}
                  onClick={() => onChange(curve.filter((_, i) => i !== k))}
                >
                  <X size={13} />
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button
        className="mt-1 w-full"
        onClick={() => {
          const last = curve[curve.length - 1];
          onChange([...curve, { T: last.T + 20, value: last.value }]);
        }}
      >
        <Plus size={13} /> Add a point
      </Button>
    </fieldset>
  );
}
