'use client';

import { useState } from 'react';
import { format } from '@/core/units/reader';
import { differenceUnit, formatNumber } from '@/core/units/units';
import type { GridError } from '@/core/pipeline/gridError';
import { KEY_NUMBERS } from '@/core/results/keyNumbers';
import type { Summary as RunSummary } from '@/core/results/summary';
import type { RunView } from '@/runtime/wire';
import { MANIFEST, useRunData, type RunData } from '../study/runData';
import { latestResult, runUnderWay, useStudy, wholeResult } from '../study/store';
import { mainView, useView, type Layer } from '../study/view';
import { fieldEntry } from '@/core/fields/table';
import { Choice, Fact, SectionTitle } from '../ui/controls';
import { GATE_COLOURS } from '@/viewer/fieldView';
import { ExportPanel } from './ExportPanel';
import { FieldList } from './FieldList';
import { OtherBodies } from './OtherBodies';
import { ProbeList } from './ProbeList';
import { ShapePanel } from './ShapePanel';
import { useGatesOf } from '../study/names';

const LAYERS: { id: Layer; label: string; hint: string }[] = [
  { id: 'isochrones', label: 'Isochrones', hint: 'Lines of equal fill time' },
  { id: 'isolines', label: 'Isolines', hint: 'Lines of equal value of the shown field' },
  { id: 'weldLines', label: 'Weld lines', hint: 'With the angle between the fronts' },
  { id: 'places', label: 'Air, hesitation', hint: 'Trapped air (A) and places where the front creeps (H)' },
  { id: 'extremes', label: 'Min and max', hint: 'Where the field is lowest and highest' },
  { id: 'arrows', label: 'Velocity', hint: 'Arrows along the melt at the play head' },
  { id: 'tracers', label: 'Tracers', hint: 'Particles carried by the melt, coloured by gate' },
];

/** Which field the part shows, what is drawn over it, probes, and the numbers of the run. */
export function AnswersBench() {
  const run = useStudy(latestResult);
  const whole = useStudy((s) => wholeResult(s) !== null);
  const underWay = useStudy((s) => runUnderWay(s) !== null);
  const [shown, setShown] = useState<'fields' | 'facts'>('fields');
  const data = useRunData(run?.id ?? null, MANIFEST);
  const summary = run?.summary;
  if (!run || !summary)
    return (
      <p className="text-soft">
        {whole
          ? 'The run did not come to this shot: the one before it did not come to its end.'
          : underWay
            ? 'The first result is being worked out: fields come when it is done.'
            : 'No result yet. Press Run; the front shows while it is computed.'}
      </p>
    );
  return (
    <>
      <div className="mb-3">
        <Choice
          label="Of the result"
          value={shown}
          options={[
            { value: 'fields', label: 'Fields' },
            { value: 'facts', label: 'Facts' },
          ]}
          onChange={setShown}
        />
      </div>
      {shown === 'fields' ? <Fields run={run} summary={summary} /> : <Facts run={run} summary={summary} data={data} />}
    </>
  );
}

interface OfRun {
  run: RunView;
  summary: RunSummary;
}

/** What the part shows, what is drawn over it, probes, and files. */
function Fields({ run, summary }: OfRun) {
  const field = useView((s) => s.field);
  const layers = useView((s) => s.layers);
  const gates = useGatesOf(run);
  const set = useView((s) => s.set);
  return (
    <>
      <FieldList
        run={run}
        under={(ids) => ids.includes('fibreDegree') && fieldEntry(field)?.group === 'fibres' && <FibreDepth />}
      />
      {summary.pack && summary.pack.allEjectable_s > summary.pack.openTime_s + 0.05 && (
        <button
          type="button"
          className="bg-sheet hover:bg-well mt-2 h-7 w-full rounded border px-2"
          title="Places that are not cold enough when the mould opens, and nothing else"
          onClick={() =>
            set({
              field: 'ejectableAt',
              brush: [summary.pack!.openTime_s, 1e29],
              section: { ...mainView.getState().section, on: true },
            })
          }
        >
          Still too hot when it opens
        </button>
      )}
      <OtherBodies />
      {summary.shape && <ShapePanel facts={summary.shape} runId={run.id} />}
      <SectionTitle>Draw over it</SectionTitle>
      <div className="grid grid-cols-2 gap-1">
        {LAYERS.map(({ id, label, hint }) => (
          <button
            key={id}
            type="button"
            aria-pressed={layers[id]}
            title={hint}
            onClick={() => set({ layers: { ...layers, [id]: !layers[id] } })}
            className={`h-7 truncate rounded border px-2 text-left ${layers[id] ? 'border-petrol bg-petrol-wash' : 'bg-sheet hover:bg-well'}`}
          >
            {label}
          </button>
        ))}
      </div>
      {layers.tracers && run.inputs.gates.length > 1 && (
        <ul aria-label="Gates of the tracers" className="mt-1.5 flex flex-wrap gap-x-3 gap-y-0.5 text-[12px]">
          {gates.map(({ id }, k) => (
            <li key={id} className="flex items-center gap-1.5">
              <span className="size-2 rounded-full" style={{ background: GATE_COLOURS[k % GATE_COLOURS.length] }} />
              {id}
            </li>
          ))}
        </ul>
      )}
      <ProbeList />
      <ExportPanel fibresOf={summary.strength ? run.id : null} />
    </>
  );
}

/** The numbers of the run. */
function Facts({ run, summary, data }: OfRun & { data: RunData | null }) {
  const reused = reusedWords(data?.manifest?.reused ?? []);
  return (
    <>
      <SectionTitle>The run</SectionTitle>
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Detail" value={run.inputs.detail} />
        <Fact label="Machine" value={summary.machine ?? '–'} />
        <Fact label="Lost in the gate" value={format(summary.gateLoss_Pa ?? NaN, 'MPa', 2)} />
        <Fact label="Time to fill" value={format(summary.fillTime_s, 's')} />
        <Fact label="Filled" value={`${formatNumber(100 * summary.shareFilled, 4)} %`} />
        <Fact label="Shot" value={`${format(summary.shotMass_kg, 'g')} of melt`} />
        <Fact label="Flow length" value={format(summary.flowLength_m, 'mm')} />
        <Fact label="Front cools by" value={format(summary.frontCooling_K ?? NaN, 'K', 2)} />
        <Fact label="Frozen when full" value={`${formatNumber(100 * (summary.frozenShareEnd ?? NaN), 2)} %`} />
        <Fact
          label="Peak shear rate"
          value={`${Number(summary.maxShearRate_1_s.toPrecision(2)).toLocaleString('en-GB')} 1/s`}
        />
        <Fact label="Cells" value={summary.nCells.toLocaleString('en-GB')} />
        <Fact label="Mass error" value={summary.massError < 1e-15 ? '0' : summary.massError.toExponential(0)} />
        {summary.pack && <PackedFacts pack={summary.pack} />}
        {reused && <Fact label="As in an earlier run" value={reused} />}
        <Fact label="Heat error" value={`${formatNumber(100 * (summary.heatError ?? NaN), 2)} %`} />
      </dl>
      <GridErrorTable error={data?.manifest?.gridError ?? null} detail={run.inputs.detail} />
    </>
  );
}

/** What a run did not have to calculate: the mould, and the shot by the last phase that was there already. */
function reusedWords(reused: readonly string[]): string | null {
  const shot = [
    ['pack', 'filling, packing'],
    ['fill-up', 'filling'],
    ['fill', 'filling to switchover'],
  ].find(([phase]) => reused.includes(phase))?.[1];
  return [reused.includes('mould') ? 'mould' : null, shot].filter(Boolean).join(', ') || null;
}

function PackedFacts({ pack }: { pack: NonNullable<RunSummary['pack']> }) {
  return (
    <>
      <Fact label="Part weighs" value={format(pack.mass_kg, 'g')} />
      <Fact
        label="Gate frozen"
        value={pack.lastGateFrozenAt_s === null ? 'still open' : format(pack.lastGateFrozenAt_s, 's')}
      />
      <Fact label="Ejectable" value={pack.ejectableTime_s === null ? 'never' : format(pack.ejectableTime_s, 's')} />
      <Fact label="Cycle" value={format(pack.cycleTime_s, 's')} />
      <Fact label="Mass error, packing" value={pack.massError.toExponential(0)} />
      <Fact label="Heat error, packing" value={`${formatNumber(100 * pack.heatError, 2)} %`} />
    </>
  );
}

/** How far the key numbers would still move with an ever finer grid. */
function GridErrorTable({ error, detail }: { error: GridError | null; detail: string }) {
  if (detail === 'quick')
    return (
      <p className="text-soft mt-3 text-[12px]">
        Detail quick does not say how far its numbers would still move; normal and fine do.
      </p>
    );
  if (!error) return null;
  return (
    <>
      <SectionTitle>Would still move by</SectionTitle>
      <dl className="num grid grid-cols-[1fr_auto] gap-y-1" data-testid="grid-error">
        {error.numbers.map(({ id, value, error: e, timeError = 0 }) => {
          const { label, unit } = KEY_NUMBERS[id];
          const both = e + timeError;
          const share =
            value > 0 && unit !== '%' && unit !== 'K' ? ` (${formatNumber((100 * both) / value, 2)} %)` : '';
          return <Fact key={id} label={label} value={`± ${format(both, differenceUnit(unit), 2)}${share}`} />;
        })}
      </dl>
      <p className="text-soft mt-1 text-[12px]">
        With an ever finer grid and ever shorter steps, judged against Detail {error.against} and steps twice as long
        (Richardson, first order).
      </p>
    </>
  );
}

/** Where in the wall the fibres are looked at; strokes lie their main way there. */
function FibreDepth() {
  const depth = useView((s) => s.fibreDepth);
  const set = useView((s) => s.set);
  return (
    <div className="mt-1.5">
      <Choice
        label="Depth in the wall"
        value={String(depth)}
        options={[
          { value: '1', label: 'Face' },
          { value: '0.6', label: 'Between' },
          { value: '0', label: 'Middle' },
        ]}
        onChange={(d) => set({ fibreDepth: Number(d) })}
      />
    </div>
  );
}
