'use client';

import { RadioGroup } from 'radix-ui';
import { fieldHelpId } from '@/core/help/help';
import { useState, type ReactNode } from 'react';
import type { RunView } from '@/runtime/wire';
import { useBench } from '../study/bench';
import { chooseField, useRecentFields } from '../study/chooseField';
import { fieldInfo, fieldsFound } from '../study/fields';
import { useGatesOf } from '../study/names';
import { mainView, useView, type FieldId } from '../study/view';
import { SectionTitle } from '../ui/controls';
import { RadioItem } from '../ui/RadioItem';
import { SearchField } from '../ui/SearchField';
import { useFieldGroups } from './useFieldGroups';

/** Fields of a run by the question they help to answer, with those looked at last and a search. */
export function FieldList({ run, under }: { run: RunView; under: (ids: readonly FieldId[]) => ReactNode }) {
  const field = useView((s) => s.field);
  const groups = useFieldGroups(run);
  const recent = useRecentFields();
  const [asked, setAsked] = useState('');
  const gates = useGatesOf(run);
  const there = new Set(groups.flatMap((g) => g.ids));
  const found = asked.trim() ? fieldsFound(asked, [...there], gates) : null;
  const lately = recent.filter((id) => id !== field && there.has(id));
  const choose = (id: FieldId) => {
    chooseField(mainView, id, run);
    const question = groups.find((g) => g.ids.includes(id))?.title;
    // Its answer stands beside it.
    if (question) useBench.getState().set({ asked: { question } });
  };
  const item = (id: FieldId) => (
    <RadioItem
      key={id}
      value={id}
      data-help={fieldHelpId(id)}
      title={fieldInfo(id, gates).means}
      className="data-[state=checked]:bg-petrol-wash hover:bg-well data-[state=checked]:hover:bg-petrol-wash -mx-2 block w-[calc(100%+1rem)] rounded px-2 py-[3px] text-left data-[state=checked]:font-medium"
    >
      {fieldInfo(id, gates).label}
    </RadioItem>
  );
  return (
    <>
      <SearchField
        label="Find a field"
        placeholder="Find a field"
        value={asked}
        onChange={setAsked}
        onEnter={() => found?.length && choose(found[0])}
      />
      {!found && lately.length > 0 && (
        <div className="mt-1.5 flex flex-wrap gap-1" role="group" aria-label="Looked at lately">
          {lately.map((id) => (
            <button
              key={id}
              type="button"
              title={`${fieldInfo(id, gates).label}: looked at lately`}
              className="bg-well hover:border-petrol max-w-full truncate rounded-full border px-2 py-px text-[12px]"
              onClick={() => choose(id)}
            >
              {fieldInfo(id, gates).label}
            </button>
          ))}
        </div>
      )}
      <RadioGroup.Root
        value={field}
        onValueChange={(id) => choose(id)}
        aria-label="Field shown on the part"
        className="mt-3"
      >
        {found ? (
          found.length ? (
            <div className="border-y py-0.5">{found.map(item)}</div>
          ) : (
            <p className="text-soft">No field of this run is called so. Its names are in the list without a search.</p>
          )
        ) : (
          groups.map(({ title, ids }) => (
            <div key={title} role="group" aria-label={title} className="mt-5 first:mt-0">
              <SectionTitle>{title}</SectionTitle>
              <div className="border-y py-0.5">{ids.map(item)}</div>
              {under(ids)}
            </div>
          ))
        )}
      </RadioGroup.Root>
    </>
  );
}
