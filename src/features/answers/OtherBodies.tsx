'use client';

import { Blend, Box, EyeOff } from 'lucide-react';
import { shotOf } from '@/core/model/body';
import { shotNumber } from '@/core/model/shots';
import { presentInputs, useStudy } from '../study/store';
import { mainView, useView, type BodyLook } from '../study/view';
import { SectionTitle } from '../ui/controls';
import { colourOf } from '../part/bodyColours';

const LOOKS: { how: BodyLook; label: string; Icon: typeof Box }[] = [
  { how: 'hidden', label: 'Hide', Icon: EyeOff },
  { how: 'faded', label: 'Fade', Icon: Blend },
  { how: 'solid', label: 'Show', Icon: Box },
];

/** Inserts and what other shots fill, around the result: hidden, faded or as they are; and each by itself. */
export function OtherBodies() {
  const inputs = useStudy(presentInputs);
  const bodyView = useView((s) => s.bodyView);
  const partHidden = useView((s) => s.partHidden);
  const set = useView((s) => s.set);
  const others = inputs.bodies.filter(
    (b) => b.role === 'insert' || (shotOf(b) > 0 && shotOf(b) !== shotNumber(inputs)),
  );
  if (!others.length) return null;
  const look = (id: string, how: BodyLook) => set({ bodyView: { ...mainView.getState().bodyView, [id]: how } });
  return (
    <>
      <SectionTitle
        aside={
          <button
            type="button"
            aria-pressed={partHidden}
            title="The plastic of this shot is left away: what stands around it is seen alone"
            className={`rounded border px-1.5 text-[11.5px] ${partHidden ? 'border-petrol bg-petrol-wash' : 'bg-sheet hover:bg-well'}`}
            onClick={() => set({ partHidden: !partHidden })}
          >
            Alone
          </button>
        }
      >
        Around it
      </SectionTitle>
      <ul className="divide-y border-y" aria-label="Bodies around the shot">
        {others.map((body) => (
          <li key={body.id} className="flex h-[30px] items-center gap-2">
            <span className="size-2.5 shrink-0 rounded-full border" style={{ background: colourOf(body) }} />
            <span className="min-w-0 flex-1 truncate">{body.name}</span>
            <span className="text-soft text-[11.5px]">{shotOf(body) ? `shot ${shotOf(body)}` : 'insert'}</span>
            <span className="flex">
              {LOOKS.map(({ how, label, Icon }) => {
                const on = (bodyView[body.id] ?? 'faded') === how;
                return (
                  <button
                    key={how}
                    type="button"
                    aria-pressed={on}
                    aria-label={`${label} ${body.name}`}
                    title={label}
                    className={`rounded p-1 ${on ? 'bg-petrol-wash text-petrol' : 'text-soft hover:text-ink'}`}
                    onClick={() => look(body.id, how)}
                  >
                    <Icon size={13} />
                  </button>
                );
              })}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
