'use client';

import { useState } from 'react';
import type { Body } from '@/core/model/body';
import type { GeometryResults } from '@/core/model/geometryTask';
import { format } from '@/core/units/reader';
import { presentInputs, useStudy } from '../study/store';
import { mainView } from '../study/view';
import { Button } from '../ui/controls';
import { combineBodies } from './bodyActions';
import { perform } from './task';

/** Bodies that share space, and what to do about each pair. */
export function OverlapsPanel({ chosen }: { chosen: readonly Body[] }) {
  const bodies = useStudy((s) => presentInputs(s).bodies);
  const [found, setFound] = useState<{ of: string; answer: GeometryResults['overlaps'] } | null>(null);
  const state = bodies.map((b) => b.mesh).join();
  const answer = found?.of === state ? found.answer : null;
  const look = async () => {
    const list = bodies.filter((b) => b.role !== 'left-out' || chosen.includes(b));
    const result = await perform('Overlaps', { do: 'overlaps', bodies: list.map((b) => ({ id: b.id, mesh: b.mesh })) });
    if (result) setFound({ of: state, answer: result });
  };
  const byId = (id: string) => bodies.find((b) => b.id === id);
  return (
    <div className="bg-well/60 -mx-2 mt-3 space-y-1.5 rounded border p-2" role="group" aria-label="Overlaps">
      <Button className="w-full" onClick={() => void look()}>
        Look for overlaps
      </Button>
      {answer && answer.pairs.length === 0 && <p className="text-soft text-[12px]">No two bodies share space.</p>}
      {answer && answer.notClosed.length > 0 && (
        <p className="text-watch text-[12px]">
          Not looked at, because not closed: {answer.notClosed.map((id) => byId(id)?.name).join(', ')}.
        </p>
      )}
      <ul className="space-y-2">
        {answer?.pairs.map((pair) => {
          const [a, b] = [byId(pair.a), byId(pair.b)];
          if (!a || !b) return null;
          return (
            <li key={`${pair.a}-${pair.b}`} className="border-t pt-1.5">
              <button
                type="button"
                className="text-petrol text-left underline"
                onClick={() => mainView.getState().flyTo(pair.place.position, `${a.name} and ${b.name} overlap`)}
              >
                {a.name} and {b.name}
              </button>
              <span className="num text-soft block text-[12px]">share {format(pair.volume, 'cm³')}</span>
              <div className="mt-1 grid grid-cols-3 gap-1">
                <Button
                  className="px-1 text-[12px]"
                  title={`${a.name} keeps its shape`}
                  onClick={() => void combineBodies(b, a, 'cut')}
                >
                  Keep 1st
                </Button>
                <Button
                  className="px-1 text-[12px]"
                  title={`${b.name} keeps its shape`}
                  onClick={() => void combineBodies(a, b, 'cut')}
                >
                  Keep 2nd
                </Button>
                <Button className="px-1 text-[12px]" onClick={() => void combineBodies(a, b, 'join')}>
                  Join
                </Button>
              </div>
            </li>
          );
        })}
      </ul>
    </div>
  );
}
