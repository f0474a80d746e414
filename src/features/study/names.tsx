'use client';

import { useMemo } from 'react';
import { inNames, inTheirNames, nameOf, withName, type NamedKind } from '@/core/model/names';
import { LONGEST_NAME, type Gate, type Inputs } from '@/core/model/study';
import { reworded } from '@/core/units/reader';
import { Row } from '../ui/controls';
import type { RunView } from '@/runtime/wire';
import { inputsAs } from './shots';
import { changeInputs, presentInputs, useStudy, type StudyState } from './store';

/** What a thing of the present study is called: its name, else its id; the id stays at hand where there is a name. */
export function Called({ kind, id, className = '' }: { kind: NamedKind; id: string; className?: string }) {
  const name = useStudy((s) => nameOf(presentInputs(s), kind, id));
  return (
    <span className={`min-w-0 truncate ${className}`} title={name === id ? undefined : `${id}, “${name}”`}>
      {name}
    </span>
  );
}

/** Name of a thing; without one it goes by its id. */
export function NameField({ kind, id }: { kind: NamedKind; id: string }) {
  const name = useStudy((s) => nameOf(presentInputs(s), kind, id));
  const shown = name === id ? '' : name;
  const field = `name-${kind}-${id}`;
  const keep = (typed: string) => {
    if (typed.trim() === shown) return;
    changeInputs(`Name ${kind} ${id}`, (inputs) => ({ names: withName(inputs, kind, id, typed) }));
  };
  return (
    <Row label="Name" htmlFor={field}>
      <input
        // A name that is set elsewhere, or taken back, shows at once.
        key={name}
        id={field}
        defaultValue={shown}
        placeholder={id}
        maxLength={LONGEST_NAME}
        className="placeholder:text-soft w-full rounded border px-2 py-0.5"
        onBlur={(e) => keep(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key === 'Escape') {
            e.currentTarget.value = shown;
            e.currentTarget.blur();
          }
        }}
      />
    </Row>
  );
}

/** Texts of the core as the reader is told them: in the units of the reader, by the names of these inputs. */
const tellsOf = (inputs: Inputs): ((text: string) => string) => {
  const named = inNames(inputs);
  return (text) => named(reworded(text));
};

export function useTold(): (text: string) => string {
  const inputs = useStudy((s) => presentInputs(s));
  return useMemo(() => tellsOf(inputs), [inputs]);
}

/** Gates of a run as its variant calls them now: a name that was given after the run counts for it. */
export function gatesOf(run: RunView | null, { variants, shot }: Pick<StudyState, 'variants' | 'shot'>): Gate[] {
  if (!run) return [];
  const now = variants.find((v) => v.id === run.variantId)?.inputs;
  return inTheirNames(now ? inputsAs(now, shot) : run.inputs, 'gate', run.inputs.gates);
}

export function useGatesOf(run: RunView | null): Gate[] {
  const variants = useStudy((s) => s.variants);
  const shot = useStudy((s) => s.shot);
  return useMemo(() => gatesOf(run, { variants, shot }), [run, variants, shot]);
}

/** Probes of the present study by their names. */
export function useNamedProbes() {
  const inputs = useStudy((s) => presentInputs(s));
  return useMemo(() => inTheirNames(inputs, 'probe', inputs.probes), [inputs]);
}

/** What things of the present study are called. */
export function useNameOf(): (kind: NamedKind, id: string) => string {
  const inputs = useStudy((s) => presentInputs(s));
  return (kind, id) => nameOf(inputs, kind, id);
}

/** What stands beside one of so many gates in the view: its name, and its id where there are others. */
export const labelled = (name: string, id: string, n: number): string | undefined =>
  name !== id || n > 1 ? name : undefined;
