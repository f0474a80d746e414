'use client';

import { useMemo, useState } from 'react';
import { CONSTANTS, constantAt, materialWarnings, withConstant, type Constant } from '@/core/material/constants';
import { solidLawOf, strengthOf } from '@/core/material/solid';
import { MATERIAL_SCHEMAS, type Material, type MaterialKind } from '@/core/model/material';
import type { Resin } from '@/core/model/resin';
import { describeIssues } from '@/core/model/studyFile';
import { ApiError } from '../study/api';
import { Button, SectionTitle } from '../ui/controls';
import { NumberField } from '../ui/NumberField';
import { useMaterials } from './materials';
import { CurveTable } from './CurveTable';
import { RelaxationFields } from './RelaxationFields';

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
            <RelaxationFields
              resin={work as Resin}
              onChange={(relaxation) => setWork({ ...work, relaxation } as Material)}
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

const withSolidLaw = (resin: Resin): Resin => ({ ...resin, ...solidLawOf(resin), strength: strengthOf(resin) });
