'use client';

import { Camera, Clock, Layers, Scissors } from 'lucide-react';
import type { ReactNode } from 'react';
import { useFieldGroups } from '../answers/useFieldGroups';
import { FieldLegend } from '../study/FieldLegend';
import { chooseField } from '../study/chooseField';
import { fieldInfo } from '../study/fields';
import { mainView, useView, type Link } from '../study/view';
import { Choice, SectionTitle, Select } from '../ui/controls';
import { useCompare, type Arrangement, type ComparedRun } from './compared';
import { commonRange, useScales, type PaneScale } from './panes';
import { useGatesOf } from '../study/names';

const LINKS: readonly { link: Exclude<Link, 'marks'>; label: string; Icon: typeof Camera }[] = [
  { link: 'camera', label: 'Camera', Icon: Camera },
  { link: 'section', label: 'Section', Icon: Scissors },
  { link: 'clock', label: 'Clock', Icon: Clock },
  { link: 'field', label: 'Field', Icon: Layers },
];

const ARRANGEMENTS: readonly { value: Arrangement; label: string }[] = [
  { value: 'row', label: 'Row' },
  { value: 'stack', label: 'Stack' },
  { value: 'divider', label: 'Divider' },
];

/** What the views of the compared runs show and share, with the legend of the first. */
export function ViewFields({ runs }: { runs: readonly ComparedRun[] }) {
  const { shown, arrangement, links, scale, set } = useCompare();
  const field = useView((s) => s.field);
  const setView = useView((s) => s.set);
  const groups = useFieldGroups(runs[0].run);
  const gates = useGatesOf(runs[0].run);
  const arrangements = runs.length > 2 ? ARRANGEMENTS.slice(0, 2) : ARRANGEMENTS;
  const toggle = (link: Link) =>
    set({ links: links.includes(link) ? links.filter((l) => l !== link) : [...links, link] });
  return (
    <>
      <SectionTitle>Views</SectionTitle>
      <div className="space-y-1.5">
        <Line label="Field">
          <Select
            label="Field compared"
            value={field}
            options={groups.flatMap((g) => g.ids).map((value) => ({ value, label: fieldInfo(value, gates).label }))}
            onChange={(value) => chooseField(mainView, value, runs[0].run)}
          />
        </Line>
        <Line label="Shown">
          <Choice
            label="Shown in the views"
            value={shown}
            options={[
              { value: 'values', label: 'Values' },
              { value: 'difference', label: 'Difference' },
            ]}
            onChange={(value) => {
              setView({ brush: null });
              set({ shown: value });
            }}
          />
        </Line>
        <Line label="Arranged">
          <Choice
            label="Arrangement of the views"
            value={arrangements.some((a) => a.value === arrangement) ? arrangement : 'row'}
            options={arrangements}
            onChange={(value) => set({ arrangement: value })}
          />
        </Line>
        <Line label="Scale">
          <Choice
            label="Scale of the views"
            value={scale}
            options={[
              { value: 'one', label: 'In common' },
              { value: 'own', label: 'Own' },
            ]}
            onChange={(value) => set({ scale: value })}
          />
        </Line>
        <Line label="Linked">
          <div className="grid grid-cols-2 gap-1" role="group" aria-label="What the views share">
            {LINKS.map(({ link, label, Icon }) => (
              <button
                key={link}
                type="button"
                aria-pressed={links.includes(link)}
                title={links.includes(link) ? 'Let the views go their own way in it' : 'Link the views in it'}
                onClick={() => toggle(link)}
                className={`flex h-7 items-center gap-1.5 rounded border px-2 text-[12px] ${links.includes(link) ? 'border-petrol bg-petrol-wash' : 'text-soft bg-sheet'}`}
              >
                <Icon size={12} /> {label}
              </button>
            ))}
          </div>
        </Line>
      </div>
      <PaneLegend />
    </>
  );
}

function Line({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex items-start gap-2">
      <span className="flex h-7 w-[4.5rem] shrink-0 items-center">{label}</span>
      <div className="min-w-0 flex-1">{children}</div>
    </div>
  );
}

/** Legend of the differences where they are shown, else of the first view. */
function PaneLegend() {
  const list = useScales((s) => s.list);
  const one = useCompare((s) => s.scale === 'one');
  const scales = list.filter((s): s is PaneScale => s !== null);
  const own = scales.find((s) => s.map === 'diverging') ?? scales[0];
  if (!own) return null;
  const range = one ? commonRange(scales.filter((s) => s.name === own.name)) : null;
  return (
    <div className="-mx-4 mt-3">
      <FieldLegend
        label={own.label}
        unit={own.unit}
        field={own.field}
        volumes={own.volumes}
        range={range ?? own.range}
        map={own.map}
        fixed={own.map === 'diverging'}
      />
    </div>
  );
}
