'use client';

import { X } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import type { RunView } from '@/runtime/wire';
import type { ShownField } from '../study/shownField';
import { formatShown } from '@/core/units/reader';
import { cssBar } from '@/viewer/colour';
import { useFieldGroups } from '../answers/useFieldGroups';
import { useBench } from '../study/bench';
import { fieldInfo } from '../study/fields';
import { useFieldView, useShownField, useShownRun } from '../study/useShown';
import { createView, linkViews, mainView, useView, ViewContext } from '../study/view';
import { Select } from '../ui/controls';
import { RunViewer } from '../views/RunViewer';
import { useGatesOf } from '../study/names';

/** By then both viewers have their new size, ms. */
const SETTLED_MS = 250;

/** The second view: it keeps its field while the first changes its own. */
const besideView = createView();
besideView.setState({ field: 'pressure' });

/** Another field of the same result, from the same eye, at the same moment, cut by the same section. */
export function Beside() {
  // Before the viewer is there: it opens with the eye of the first.
  useState(() => besideView.setState({ pose: mainView.getState().pose }));
  useEffect(() => {
    const letGo = linkViews([mainView, besideView], ['clock', 'section', 'camera']);
    // Half the room, once both have it: all of the part is wanted in it.
    const fit = setTimeout(() => mainView.getState().look('fit'), SETTLED_MS);
    return () => {
      clearTimeout(fit);
      letGo();
    };
  }, []);
  return (
    <ViewContext.Provider value={besideView}>
      <section aria-label="Second field" className="relative min-w-0 border-l">
        <SecondField />
      </section>
    </ViewContext.Provider>
  );
}

function SecondField() {
  const { run, live } = useShownRun();
  const { data, field } = useShownField(run, live);
  const view = useFieldView(run, data, field);
  const gates = useGatesOf(run);
  const surface = data?.surface ?? null;
  const shown = useMemo(() => (surface && view ? { surface, view, field } : null), [surface, view, field]);
  return (
    <>
      {run && <RunViewer run={run} shown={shown} info={fieldInfo(field?.id ?? '', gates)} testId="second-viewport" />}
      <Picker run={run} field={field} />
    </>
  );
}

function Picker({ run, field }: { run: RunView | null; field: ShownField | null }) {
  const id = useView((s) => s.field);
  const set = useView((s) => s.set);
  const groups = useFieldGroups(run);
  const gates = useGatesOf(run);
  const { unit } = fieldInfo(id, gates);
  const text = (value: number) => formatShown(value, unit);

  return (
    <div className="absolute top-2 right-2 left-2 flex items-start gap-1.5">
      <div className="max-w-56 min-w-0 flex-1">
        <Select
          label="Second field shown"
          value={id}
          options={groups.flatMap((g) => g.ids).map((value) => ({ value, label: fieldInfo(value, gates).label }))}
          onChange={(next) => set({ field: next, brush: null })}
        />
      </div>
      {field && (
        <div className="bg-sheet/90 num flex h-7 items-center gap-1.5 rounded border px-2 text-[12px] whitespace-nowrap">
          <span>{text(field.range[0])}</span>
          <span
            className="h-2.5 w-8 rounded-sm"
            style={{ background: cssBar('to right', field.signed ? 'diverging' : 'sequential') }}
          />
          <span>
            {text(field.range[1])} {unit}
          </span>
        </div>
      )}
      <button
        type="button"
        aria-label="Close the second field"
        className="bg-sheet/90 text-soft hover:text-ink ml-auto grid size-7 shrink-0 place-items-center rounded border"
        onClick={() => useBench.getState().set({ beside: false })}
      >
        <X size={14} />
      </button>
    </div>
  );
}
