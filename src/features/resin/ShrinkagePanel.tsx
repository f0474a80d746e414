'use client';

import { useMemo, useState } from 'react';
import type { ShrinkageReport } from '@/core/pipeline/fitShrinkage';
import { FitError } from '@/core/material/fitViscosity';
import { solidLawOf } from '@/core/material/solid';
import type { MeasuredShrinkage, Resin } from '@/core/model/resin';
import { format } from '@/core/units/reader';
import { formatNumber } from '@/core/units/units';
import { api } from '../study/api';
import { TrialProgress, useTrials } from '../study/useTrials';
import { Button, Fact } from '../ui/controls';
import { PointsInput } from './PointsInput';
import { useMadeResin } from './useMadeResin';
import { SHRINKAGE_COLUMNS, shrinkagePoints, shrinkageText } from './points';

const percent = (share: number) => `${formatNumber(100 * share, 3)} %`;

/** Shrinkage measured on plates, and what it corrects the resin by. */
export function ShrinkagePanel({ base, onUse }: { base: Resin; onUse: (r: Resin) => void }) {
  const [text, setText] = useState(() => (base.measuredShrinkage ? shrinkageText(base.measuredShrinkage) : ''));
  const { said, make } = useMadeResin(base, onUse);
  const trials = useTrials<ShrinkageReport, string>();
  const { running, found, problem } = trials;
  const read = useMemo(() => readPoints(text), [text]);
  const start = (points: MeasuredShrinkage[]) =>
    trials.start(text, (onProgress, signal) => api.shrinkage({ resin: base, points }, onProgress, signal));
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[15.5rem_1fr]">
      <div className="flex min-h-0 flex-col gap-2 border-r px-4 py-3">
        <PointsInput
          label="Measured shrinkage"
          file="File of measured shrinkage"
          placeholder={`One plate a line:\n${SHRINKAGE_COLUMNS}\n\n2, 50, 1.52\n2, 80, 1.10\n3, 50, 1.74`}
          value={text}
          onChange={setText}
        />
        {running ? (
          <TrialProgress {...running} onStop={trials.stop} />
        ) : (
          <Button
            look="primary"
            disabled={!('points' in read)}
            onClick={() => 'points' in read && void start(read.points)}
          >
            Mould these plates
          </Button>
        )}
        {said && (
          <p role="status" className="text-soft text-[12px]">
            {said}
          </p>
        )}
      </div>
      <div className="flex min-h-0 min-w-0 flex-col overflow-y-auto px-5 py-3">
        {problem && (
          <p role="alert" className="text-problem mb-2">
            {problem}
          </p>
        )}
        {found && 'points' in read ? (
          <Found
            report={found.report}
            stale={found.of !== text}
            onMake={() => void make(found.report.resin, 'corrected')}
            base={base}
          />
        ) : (
          <Before base={base} refusal={'refusal' in read && text.trim() ? read.refusal : null} />
        )}
      </div>
    </div>
  );
}

function readPoints(text: string): { points: MeasuredShrinkage[] } | { refusal: { message: string; remedy: string } } {
  try {
    return { points: shrinkagePoints(text) };
  } catch (error) {
    if (error instanceof FitError) return { refusal: { message: error.message, remedy: error.remedy } };
    throw error;
  }
}

/** What the resin shrinks by as it is. */
function Before({ base, refusal }: { base: Resin; refusal: { message: string; remedy: string } | null }) {
  const law = solidLawOf(base);
  const corrected = base.measuredShrinkage?.length;
  return (
    <div className="m-auto w-full max-w-md">
      {refusal && (
        <p role="alert" className="text-problem mb-3">
          {refusal.message} {refusal.remedy}
        </p>
      )}
      <p className="mb-2 font-medium">
        {corrected ? `Corrected by ${corrected} measured plates` : 'Nothing measured: shrinkage follows from pvT'}
      </p>
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Share of the crystals’ volume along the wall" value={percent(law.crystalShare)} />
        <Fact label="Shrinkage along the wall over that of pvT" value={formatNumber(law.shrinkageFactor, 3)} />
        <Fact label="Shrinks on in the room, per decade of time" value={percent(law.afterShrinkage)} />
      </dl>
      <p className="text-soft mt-3 text-[12px]">
        Plates gated over one edge, packed until the gate froze, recommended melt and mould, measured a day later. They
        are moulded by the program as the resin is, and the resin is corrected until they agree.
      </p>
    </div>
  );
}

function Found({
  report,
  stale,
  onMake,
  base,
}: {
  report: ShrinkageReport;
  stale: boolean;
  onMake: () => void;
  base: Resin;
}) {
  return (
    <div data-testid="corrected">
      <table className="num w-full text-[12px]">
        <thead className="text-soft text-left">
          <tr>
            {['Thickness', 'Packing', 'Measured', 'Before', 'After'].map((head) => (
              <th key={head} className="py-1 font-normal">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {report.points.map((p, k) => (
            <tr key={k} className="border-t">
              <td className="py-1">{format(p.thickness, 'mm')}</td>
              <td>{format(p.pressure, 'MPa')}</td>
              <td>
                {percent(p.measured)}
                {Math.abs(p.halfDifference) > 1e-5 && ` ± ${percent(Math.abs(p.halfDifference))}`}
              </td>
              <td className="text-soft">{percent(p.before)}</td>
              <td className="font-medium">{percent(p.after)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <dl className="num mt-3 grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Off by, root mean square" value={`${percent(report.rms.before)} → ${percent(report.rms.after)}`} />
        {base.structure === 'semi-crystalline' && (
          <Fact
            label="Share of the crystals’ volume along the wall"
            value={`${percent(report.before.crystalShare)} → ${percent(report.crystalShare)}`}
          />
        )}
        <Fact
          label="Shrinkage along the wall over that of pvT"
          value={`${formatNumber(report.before.shrinkageFactor, 3)} → ${formatNumber(report.shrinkageFactor, 3)}`}
        />
      </dl>
      {report.notes.map((note) => (
        <p key={note} className="text-watch mt-2 text-[12px]">
          {note}
        </p>
      ))}
      <div className="mt-3 flex items-center justify-end gap-3">
        {stale && <p className="text-soft text-[12px]">The table has changed since.</p>}
        <Button look="primary" disabled={stale} onClick={onMake} title={`Everything else is taken from ${base.name}`}>
          Make a resin of it
        </Button>
      </div>
    </div>
  );
}
