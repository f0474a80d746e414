'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { useMemo, type ComponentProps } from 'react';
import { useForm, useWatch, type FieldErrors, type FieldValues, type Resolver } from 'react-hook-form';
import { helpOfConstant } from '@/core/help/constantHelp';
import { CONSTANTS, constantAt, materialWarnings, type Constant } from '@/core/material/constants';
import { solidLawOf, strengthOf } from '@/core/material/solid';
import { MATERIAL_SCHEMAS, type Material, type MaterialKind } from '@/core/model/material';
import type { Resin } from '@/core/model/resin';
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
  const save = useMaterials((s) => s.save);
  const form = useForm<FieldValues>({
    defaultValues: material,
    resolver: zodResolver(MATERIAL_SCHEMAS[kind] as Parameters<typeof zodResolver>[0]) as Resolver<FieldValues>,
    mode: 'onChange',
  });
  const { errors, isSubmitting } = form.formState;
  const work = useWatch({ control: form.control }) as Material;
  const warnings = useMemo(() => materialWarnings(kind, work), [kind, work]);
  const set = (path: string, value: unknown) => {
    form.setValue(path, value);
    // All of it: what is wrong with one value may be mended by another.
    void form.trigger();
  };
  const faults = faultsOf(errors);
  const store = form.handleSubmit(async () => {
    try {
      await save(kind, work);
      onDone(work);
    } catch (error) {
      const refusal =
        error instanceof ApiError ? `${error.message} ${error.remedy}` : 'It could not be saved. Try again.';
      form.setError('root', { message: refusal });
    }
  });
  return (
    // A number is taken by Enter: that does not save the material.
    <div role="form" aria-label={`Constants of ${material.name}`} className="flex min-h-0 flex-1 flex-col">
      <div className="grid grid-cols-2 gap-x-4 border-b px-5 py-2.5">
        <Named label="Name" {...form.register('name')} />
        <Named label="Supplier" {...form.register('supplier')} />
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
                    help={helpOfConstant(constant.label, title)}
                    value={constantAt(work, constant.path)}
                    fallback={
                      constant.optional && 'pvt' in work ? constantAt(withSolidLaw(work), constant.path) : undefined
                    }
                    note={
                      (faults.get(constant.path) ?? warnings.find((w) => w.path === constant.path)?.message) || null
                    }
                    onChange={(value) => set(constant.path, value ?? undefined)}
                  />
                ))}
            </div>
          </fieldset>
        ))}
        {kind === 'resin' && (
          <>
            <CurveTable
              property="specificHeat"
              title="Specific heat"
              unit="J/(kg·K)"
              curve={(work as Resin).specificHeat}
              onChange={(specificHeat) => set('specificHeat', specificHeat)}
            />
            <CurveTable
              property="conductivity"
              title="Conductivity"
              unit="W/(m·K)"
              curve={(work as Resin).conductivity}
              onChange={(conductivity) => set('conductivity', conductivity)}
            />
            <RelaxationFields resin={work as Resin} onChange={(relaxation) => set('relaxation', relaxation)} />
          </>
        )}
      </div>
      <footer className="flex items-center gap-3 border-t px-5 py-2.5">
        <div className="min-w-0 flex-1 text-[12px]" role="status">
          {faults.size > 0 ? (
            <p className="text-problem whitespace-pre-line">
              {[...faults].map(([path, message]) => (path === ROOT ? message : `${path}: ${message}`)).join('\n')}
            </p>
          ) : warnings.length ? (
            <p className="text-watch truncate">
              {warnings.length === 1 ? warnings[0].message : `${warnings.length} remarks: ${warnings[0].message}`}
            </p>
          ) : (
            <p className="text-soft">All values are within what is usual.</p>
          )}
        </div>
        <Button onClick={() => onDone(null)}>Drop</Button>
        <Button
          look="primary"
          off={
            [...faults.keys()].some((path) => path !== ROOT) && 'Some values are impossible: they are told beside it'
          }
          disabled={isSubmitting}
          onClick={() => void store()}
        >
          Save
        </Button>
      </footer>
    </div>
  );
}

/** Of what was refused as a whole. */
const ROOT = 'root';
const MOST_TOLD = 6;

/** Messages by the paths of the values that they are about; the first few. */
function faultsOf(errors: FieldErrors): Map<string, string> {
  const found = new Map<string, string>();
  const walk = (at: unknown, path: readonly string[]) => {
    if (typeof at !== 'object' || at === null || found.size >= MOST_TOLD) return;
    const { message } = at as { message?: unknown };
    if (typeof message === 'string') found.set(path.join('.'), message);
    else for (const [key, inner] of Object.entries(at)) if (key !== 'ref') walk(inner, [...path, key]);
  };
  walk(errors, []);
  return found;
}

function Named({ label, ...field }: { label: string } & ComponentProps<'input'>) {
  return (
    <label className="flex items-center gap-2">
      <span className="text-soft">{label}</span>
      <input
        className="bg-sheet focus:border-petrol h-7 min-w-0 flex-1 rounded border px-2 outline-none"
        maxLength={80}
        {...field}
      />
    </label>
  );
}

function ConstantField({
  constant,
  help,
  value,
  fallback,
  note,
  onChange,
}: {
  constant: Constant;
  help: string;
  value: number;
  fallback?: number;
  note: string | null;
  onChange: (value: number | null) => void;
}) {
  const { label, unit, si, min, max, optional } = constant;
  return (
    <NumberField
      label={label}
      help={help}
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
