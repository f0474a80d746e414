'use client';

import { CircleAlert, FileUp, LoaderCircle } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { formatNumber, fromSi, toSi, type LengthUnit } from '@/core/units/units';
import type { ImportPreview } from '@/runtime/wire';
import { api, ApiError } from '../study/api';
import { presentVariant, useStudy } from '../study/store';
import { useView } from '../study/viewStore';
import { Button, Choice } from '../ui/controls';
import { Fact } from './PartBench';

const UNITS = [
  { value: 'mm', label: 'mm' },
  { value: 'cm', label: 'cm' },
  { value: 'm', label: 'm' },
  { value: 'in', label: 'inch' },
] as const;

type State =
  | { at: 'closed' }
  | { at: 'choose'; problem?: { message: string; remedy: string } }
  | { at: 'reading'; name: string; abort: AbortController }
  | { at: 'confirm'; preview: ImportPreview; busy: boolean };

/** File in, check, unit, done. Opens on "bring in a part" and when a file is dropped on the page. */
export function ImportDialog() {
  const [state, setState] = useState<State>({ at: 'closed' });
  const [dropping, setDropping] = useState(false);
  const file = useRef<HTMLInputElement>(null);

  const read = async (chosen: File) => {
    const abort = new AbortController();
    setState({ at: 'reading', name: chosen.name, abort });
    try {
      if (chosen.size > 200 * 1024 * 1024)
        throw new ApiError('The file is larger than 200 MB.', 'Export it with a coarser tolerance.');
      const preview = await api.upload(chosen, abort.signal);
      setState({ at: 'confirm', preview, busy: false });
    } catch (error) {
      if (abort.signal.aborted) return setState({ at: 'choose' });
      const { message, remedy } = error as ApiError;
      setState({ at: 'choose', problem: { message, remedy: remedy ?? 'Try again.' } });
    }
  };

  useEffect(() => {
    const open = () => setState({ at: 'choose' });
    const over = (e: DragEvent) => {
      if (!e.dataTransfer?.types.includes('Files')) return;
      e.preventDefault();
      setDropping(true);
    };
    const leave = (e: DragEvent) => e.relatedTarget === null && setDropping(false);
    const drop = (e: DragEvent) => {
      const dropped = e.dataTransfer?.files[0];
      if (!dropped) return;
      e.preventDefault();
      setDropping(false);
      void read(dropped);
    };
    window.addEventListener('bellows:import', open);
    window.addEventListener('dragover', over);
    window.addEventListener('dragleave', leave);
    window.addEventListener('drop', drop);
    return () => {
      window.removeEventListener('bellows:import', open);
      window.removeEventListener('dragover', over);
      window.removeEventListener('dragleave', leave);
      window.removeEventListener('drop', drop);
    };
  }, []);

  const close = () => {
    if (state.at === 'reading') state.abort.abort();
    setState({ at: 'closed' });
  };

  return (
    <>
      {dropping && (
        <div className="border-petrol bg-petrol-wash/80 pointer-events-none fixed inset-3 z-50 grid place-items-center rounded-lg border-2 border-dashed text-[16px]">
          Drop the STL file to bring it in
        </div>
      )}
      <Dialog.Root open={state.at !== 'closed'} onOpenChange={(open) => !open && close()}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-40 bg-black/25" />
          <Dialog.Content
            aria-describedby={undefined}
            className="bg-sheet fixed top-1/2 left-1/2 z-50 w-[440px] -translate-1/2 rounded-lg border p-5 shadow-xl"
          >
            <Dialog.Title className="text-[15px] font-semibold">Bring in a part</Dialog.Title>
            {state.at === 'choose' && (
              <>
                {state.problem && <Problem {...state.problem} />}
                <button
                  type="button"
                  onClick={() => file.current?.click()}
                  className="hover:border-petrol hover:bg-well mt-4 grid h-32 w-full place-items-center rounded border-2 border-dashed"
                >
                  <span className="flex flex-col items-center gap-2">
                    <FileUp size={22} className="text-soft" />
                    <span>
                      Drop an STL file here or <span className="text-petrol underline">choose one</span>
                    </span>
                    <span className="text-soft text-[12px]">binary or ASCII, up to 200 MB</span>
                  </span>
                </button>
                <input
                  ref={file}
                  type="file"
                  accept=".stl,model/stl"
                  className="hidden"
                  aria-label="STL file"
                  onChange={(e) => {
                    const chosen = e.target.files?.[0];
                    e.target.value = '';
                    if (chosen) void read(chosen);
                  }}
                />
              </>
            )}
            {state.at === 'reading' && (
              <div className="mt-4 flex items-center gap-3">
                <LoaderCircle size={16} className="text-copper animate-spin" />
                <span className="flex-1 truncate">Reading and checking {state.name}</span>
                <Button onClick={close}>Cancel</Button>
              </div>
            )}
            {state.at === 'confirm' && (
              <Confirm
                preview={state.preview}
                onAgain={() => setState({ at: 'choose' })}
                onDone={() => setState({ at: 'closed' })}
              />
            )}
          </Dialog.Content>
        </Dialog.Portal>
      </Dialog.Root>
    </>
  );
}

function Problem({ message, remedy }: { message: string; remedy: string }) {
  return (
    <div role="alert" className="border-problem mt-3 flex gap-2.5 rounded border p-3">
      <CircleAlert size={16} className="text-problem mt-0.5 shrink-0" />
      <div>
        <p className="font-medium">{message}</p>
        <p className="text-soft mt-0.5">{remedy}</p>
      </div>
    </div>
  );
}

function Confirm({ preview, onAgain, onDone }: { preview: ImportPreview; onAgain: () => void; onDone: () => void }) {
  const [unit, setUnit] = useState<LengthUnit>(preview.guessedUnit);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const { report, findings } = preview;
  const blocked = findings.some((f) => f.severity === 'blocks');
  const size = report.bounds.max.map((m, d) => formatNumber(fromSi(toSi(m - report.bounds.min[d], unit), 'mm'), 4));
  const accept = async () => {
    setBusy(true);
    try {
      const part = await api.acceptImport(preview.id, unit);
      const study = useStudy.getState();
      study.addPart(part);
      const { inputs } = presentVariant(study);
      // Gates belong to the old shape; a place on it means nothing on another.
      study.change(`Bring in ${part.name}`, {
        ...inputs,
        part: part.hash,
        gates: inputs.part === part.hash ? inputs.gates : [],
      });
      useView.getState().set({ station: 'part', brush: null, place: null, time: Infinity });
      onDone();
    } catch (error) {
      setProblem(error as ApiError);
      setBusy(false);
    }
  };
  return (
    <>
      <p className="mt-3 truncate font-medium">{preview.fileName}</p>
      <dl className="num mt-1.5 grid grid-cols-[1fr_auto] gap-y-1">
        <Fact label="Triangles" value={report.nTriangles.toLocaleString('en-GB')} />
        <Fact label="Surface" value={report.watertight ? 'watertight' : 'not watertight'} />
        <Fact label="Size in this unit" value={`${size.join(' × ')} mm`} />
      </dl>
      {findings.map((f) =>
        f.severity === 'blocks' ? (
          <Problem key={f.code} message={f.message} remedy={f.remedy} />
        ) : (
          <p key={f.code} className="text-soft mt-2">
            {f.message} {f.remedy}
          </p>
        ),
      )}
      {!blocked && (
        <div className="mt-4">
          <div className="mb-1.5 flex items-baseline justify-between">
            <span className="font-medium">Unit of the file</span>
            <span className="text-soft text-[12px]">
              guessed from the size: {UNITS.find((u) => u.value === preview.guessedUnit)?.label}
            </span>
          </div>
          <Choice label="Unit of the file" value={unit} options={UNITS} onChange={setUnit} />
        </div>
      )}
      {problem && <Problem message={problem.message} remedy={problem.remedy} />}
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={onAgain}>Choose another file</Button>
        {!blocked && (
          <Button look="primary" disabled={busy} onClick={() => void accept()}>
            Use this part
          </Button>
        )}
      </div>
    </>
  );
}
