'use client';

import { useQuery } from '@tanstack/react-query';
import { FileDown, Hammer } from 'lucide-react';
import { write3mf } from '@/core/formats/threemf';
import { writeStl } from '@/core/formats/stl';
import type { StructureAsk } from '@/core/model/structureAsk';
import { movedSurface, type ShapeFacts } from '@/core/results/shape';
import { format } from '@/core/units/reader';
import type { StructureReport } from '@/runtime/wire';
import { blobPath } from '../study/shots';
import { api } from '../study/api';
import { queries } from '../study/queries';
import { fieldQuery, fileMark, useRunData, type ResultPart } from '../study/runData';
import { tell } from '../study/store';
import { growthOf } from '../study/shownShape';
import { mainView, useView } from '../study/view';
import { Button, Choice, SectionTitle } from '../ui/controls';
import { download } from '../ui/download';
import { TrialProgress, useTrials } from '../study/useTrials';
import { alignedShape, meshOf } from '../study/shapeField';

const SURFACE: readonly ResultPart[] = ['surface'];
const DISPLACEMENT = ['displacement'];

const BODIES = [
  { value: 'shape', label: 'What comes out' },
  { value: 'counter', label: 'What to cut' },
] as const;

/** The body that comes out right, and the shape as files. */
export function CorrectPanel({ facts, runId }: { facts: ShapeFacts; runId: string }) {
  const shape = useView((s) => s.shape);
  const set = useView((s) => s.set);
  const data = useRunData(runId, SURFACE, DISPLACEMENT);
  const { data: counter } = useQuery({ ...fieldQuery(runId, 'counter'), enabled: false });
  const { running, found, problem, start, stop } = useTrials<StructureReport, { runId: string; ask: StructureAsk }>();
  const displacement = data?.fields.get('displacement');
  const steps = found?.of.runId === runId && 'steps' in found.report ? found.report.steps : null;
  const work = (ask: StructureAsk) =>
    void start({ runId, ask }, async (onProgress, signal) => {
      const report = await api.structure(runId, ask, onProgress, signal);
      if ('file' in report) saveFrom(blobPath(runId, report.file), fileMark(runId) + report.file);
      else {
        await queries.fetchQuery(fieldQuery(runId, 'counter'));
        const { shape: look } = mainView.getState();
        set({ shape: { ...look, body: 'counter', against: null }, field: 'deviation', brush: null });
      }
      return report;
    });
  const save = (name: string, offset: Float32Array, as: 'stl' | '3mf') => {
    if (!data?.surface) return;
    const mesh = movedSurface(meshOf(data.surface), offset);
    try {
      const bytes = as === 'stl' ? writeStl(mesh) : write3mf([{ name, colour: null, mesh }]);
      download(new Blob([bytes as BlobPart], { type: `model/${as}` }), `${fileMark(runId)}${name}.${as}`);
    } catch (error) {
      tell(error);
    }
  };
  const moulded = () =>
    displacement && data?.surface
      ? alignedShape(data.surface, displacement, { ...shape, cause: 'all' }, growthOf(facts))
      : null;
  return (
    <>
      <SectionTitle>Correct the tool</SectionTitle>
      {running ? (
        <TrialProgress {...running} onStop={stop} />
      ) : (
        <Button
          className="w-full"
          title="Bends the part the other way and solves it again until it comes out within its tolerance"
          onClick={() => work('counter')}
        >
          <Hammer size={13} /> Find the counter-warped body
        </Button>
      )}
      {problem && (
        <p role="alert" className="text-problem mt-1 text-[12px]">
          {problem}
        </p>
      )}
      {steps && <Steps steps={steps} tolerance={facts.tolerance_m} />}
      {counter && (
        <>
          <div className="mt-1.5">
            <Choice
              label="Body drawn"
              value={shape.body}
              options={BODIES}
              onChange={(body) => set({ shape: { ...shape, body }, field: 'deviation', brush: null })}
            />
          </div>
          <SaveRow label="Counter-warped" onSave={(as) => save('counter-warped', counter, as)} />
        </>
      )}
      <SectionTitle>Shape as a file</SectionTitle>
      <SaveRow
        label="As moulded"
        off={displacement ? null : 'The shape is being read'}
        onSave={(as) => {
          const offset = moulded();
          if (offset) save('shape', offset, as);
        }}
      />
      <div className="mt-1 grid grid-cols-2 gap-1">
        <Button
          off={running && 'Something is being worked out: wait, or stop it'}
          title="Tetrahedra, elastic constants and the stress that is frozen in, as a CalculiX deck in mm and MPa"
          onClick={() => work('deck')}
        >
          <FileDown size={13} /> Deck .inp
        </Button>
        <Button
          off={running && 'Something is being worked out: wait, or stop it'}
          title="Displacement, strain, stress and directions across the wall on tetrahedra, in m and Pa"
          onClick={() => work('vtu')}
        >
          <FileDown size={13} /> Stress .vtu
        </Button>
      </div>
    </>
  );
}

function saveFrom(url: string, name: string): void {
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
}

function SaveRow({
  label,
  off = null,
  onSave,
}: {
  label: string;
  off?: string | null;
  onSave: (as: 'stl' | '3mf') => void;
}) {
  return (
    <div className="mt-1.5 flex items-center gap-1">
      <span className="flex-1">{label}</span>
      {(['stl', '3mf'] as const).map((as) => (
        <Button key={as} off={off} title="Scale 1, millimetres" onClick={() => onSave(as)}>
          {as.toUpperCase()}
        </Button>
      ))}
    </div>
  );
}

/** How far every body that was tried comes out off the drawing. */
function Steps({ steps, tolerance }: { steps: readonly { largest: number; rms: number }[]; tolerance: number }) {
  const within = steps[steps.length - 1].largest <= tolerance;
  return (
    <>
      <table aria-label="Bodies tried" className="num mt-2 w-full">
        <thead>
          <tr className="text-soft text-[11px]">
            <th className="text-left font-normal">Body</th>
            <th className="text-right font-normal">largest</th>
            <th className="text-right font-normal">mean</th>
          </tr>
        </thead>
        <tbody>
          {steps.map(({ largest, rms }, k) => (
            <tr key={k}>
              <td>{k === 0 ? 'As drawn' : `Corrected ${k === 1 ? 'once' : `${k} times`}`}</td>
              <td className="text-right">{format(largest, 'mm', 2)}</td>
              <td className="text-right">{format(rms, 'mm', 2)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className={`mt-1 text-[12px] ${within ? 'text-soft' : 'text-watch'}`}>
        {within
          ? `Comes out within ${format(tolerance, 'mm', 3)} of the drawing.`
          : `Still beyond ${format(tolerance, 'mm', 3)}: change the cycle or the part first.`}
      </p>
    </>
  );
}
