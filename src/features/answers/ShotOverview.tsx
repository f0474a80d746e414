'use client';

import type { Summary } from '@/core/results/summary';
import { format } from '@/core/units/reader';
import type { RunView } from '@/runtime/wire';
import { shownShot, useStudy } from '../study/store';

/** Phases of a shot up to its opening, s. */
interface Phases {
  fill: number;
  pack: number;
  cool: number;
}

function phasesOf({ pack, fillTime_s }: Summary): Phases {
  if (!pack) return { fill: fillTime_s, pack: 0, cool: 0 };
  const { switchoverTime_s: fill, packingEnd_s, openTime_s } = pack;
  return { fill, pack: Math.max(0, packingEnd_s - fill), cool: Math.max(0, openTime_s - packingEnd_s) };
}
const lengthOf = ({ fill, pack, cool }: Phases) => fill + pack + cool;

const LOOKS = [
  ['fill', 'Filling', 'bg-copper'],
  ['pack', 'Packing', 'bg-copper/45'],
  ['cool', 'Cooling', 'bg-petrol/35'],
] as const;

const summariesOf = (run: RunView): Summary[] => [
  ...(run.summary ? [run.summary] : []),
  ...(run.later ?? []).map((l) => l.summary),
];
const transferTo = (run: RunView, shot: number): number => run.inputs.later?.[shot - 2]?.transfer.time ?? 0;

/** When a shot (from 1) begins, s after the first. */
export function startOf(run: RunView, shot: number): number {
  return summariesOf(run)
    .slice(0, shot - 1)
    .reduce((t, summary, k) => t + lengthOf(phasesOf(summary)) + transferTo(run, k + 2), 0);
}

/** All shots on one clock, the way between them hatched; a click shows the traces of one. Nothing with one shot. */
export function ShotOverview({ run }: { run: RunView | null }) {
  const shown = useStudy(shownShot);
  const show = useStudy((s) => s.showShot);
  if (!run?.later?.length) return null;
  const summaries = summariesOf(run);
  const whole = startOf(run, summaries.length) + lengthOf(phasesOf(summaries[summaries.length - 1]));
  return (
    <div
      className="flex h-[26px] shrink-0 items-stretch border-b px-3 py-[3px]"
      role="group"
      aria-label="Shots on one clock"
    >
      {summaries.map((summary, k) => {
        const phases = phasesOf(summary);
        const length = lengthOf(phases);
        const [shot, way] = [k + 1, k ? transferTo(run, k + 1) : 0];
        return (
          <div key={shot} className="flex min-w-0" style={{ flex: `${(way + length) / whole} 1 0` }}>
            {k > 0 && (
              <span
                className="transfer-hatch min-w-[10px] border-y"
                style={{ flex: `${way} 0 0` }}
                title={`Transfer, ${format(way, 's', 3)}`}
              />
            )}
            <button
              type="button"
              aria-pressed={shot === shown}
              title={`Shot ${shot}: from ${format(startOf(run, shot), 's', 3)} on; ${LOOKS.map(([key, label]) => `${label.toLowerCase()} ${format(phases[key], 's', 2)}`).join(', ')}`}
              onClick={() => show(shot)}
              className={`relative flex min-w-[64px] overflow-hidden rounded-sm border ${shot === shown ? 'border-ink' : 'opacity-60 hover:opacity-100'}`}
              style={{ flex: `${length} 1 0` }}
            >
              {LOOKS.map(([key, , look]) => (
                <span key={key} className={`h-full ${look}`} style={{ width: `${(100 * phases[key]) / length}%` }} />
              ))}
              <span className="num absolute inset-0 flex items-center truncate px-1.5 text-[11px] leading-none">
                Shot {shot}, {format(length, 's', 3)}
              </span>
            </button>
          </div>
        );
      })}
    </div>
  );
}
