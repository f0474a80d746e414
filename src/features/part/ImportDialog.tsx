'use client';

import { CircleAlert, FileUp } from 'lucide-react';
import { Dialog } from 'radix-ui';
import { useEffect, useEffectEvent, useRef, useState } from 'react';
import { toast } from 'sonner';
import { SEVERITIES } from '@/core/geometry/finding';
import { diagonalOf } from '@/core/geometry/shells';
import { joinedSize } from '@/core/setup/settings';
import { formatShown, shownUnit } from '@/core/units/reader';
import { toSi, type LengthUnit } from '@/core/units/units';
import type { AcceptedImport, ImportPreview } from '@/runtime/wire';
import { api, ApiError } from '../study/api';
import { presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';
import { mainView } from '../study/view';
import { Button, Choice, Select } from '../ui/controls';
import { DropHere, takeArriving, useDroppedFiles } from './droppedFiles';
import { inputsWith, looseGates, withGuessedCavity, type Arrival } from './bringIn';
import { SEVERITY_LOOK } from './findings';

const UNITS = [
  { value: 'mm', label: 'mm' },
  { value: 'cm', label: 'cm' },
  { value: 'm', label: 'm' },
  { value: 'in', label: 'inch' },
] as const;

/** Extensions the file chooser offers; the reader on the server says what it makes of others. */
const ACCEPT = '.stl,.obj,.3mf,.step,.stp,.iges,.igs,.brep,.brp';

type State =
  | { at: 'closed' }
  | { at: 'choose'; problem?: { message: string; remedy: string } }
  | { at: 'reading'; name: string; fraction: number; message: string; abort: AbortController }
  | { at: 'confirm'; previews: ImportPreview[] };

/** Files in, check, unit, done. Opens on "bring in a part" and when files are dropped on the page. */
export function ImportDialog() {
  const [state, setState] = useState<State>({ at: 'closed' });
  const file = useRef<HTMLInputElement>(null);

  const read = async (chosen: File[]) => {
    const abort = new AbortController();
    const previews: ImportPreview[] = [];
    try {
      for (const [i, one] of chosen.entries()) {
        const name = chosen.length > 1 ? `${one.name} (${i + 1} of ${chosen.length})` : one.name;
        setState({ at: 'reading', name, fraction: 0, message: 'Sending', abort });
        if (one.size > 200 * 1024 * 1024)
          throw new ApiError(`${one.name} is larger than 200 MB.`, 'Export it with a coarser tolerance.');
        previews.push(
          await api.upload(
            one,
            (fraction, message) => setState({ at: 'reading', name, fraction, message, abort }),
            abort.signal,
          ),
        );
      }
      setState({ at: 'confirm', previews });
    } catch (error) {
      if (abort.signal.aborted) return setState({ at: 'choose' });
      const { message, remedy } = error as ApiError;
      setState({ at: 'choose', problem: { message, remedy: remedy ?? 'Try again.' } });
    }
  };

  const dropping = useDroppedFiles((files) => void read(files));
  const readArriving = useEffectEvent(() => {
    const files = takeArriving();
    if (files) void read(files);
  });
  useEffect(() => {
    const open = () => setState({ at: 'choose' });
    window.addEventListener('bellows:import', open);
    readArriving();
    return () => window.removeEventListener('bellows:import', open);
  }, []);

  const close = () => {
    if (state.at === 'reading') state.abort.abort();
    setState({ at: 'closed' });
  };

  return (
    <>
      {dropping && <DropHere>Drop the files to bring them in</DropHere>}
      <Dialog.Root open={state.at !== 'closed'} onOpenChange={(open) => !open && close()}>
        <Dialog.Portal>
          <Dialog.Overlay className="fixed inset-0 z-40 bg-black/25" />
          <Dialog.Content
            aria-describedby={undefined}
            className="bg-sheet fixed top-1/2 left-1/2 z-50 w-[460px] -translate-1/2 rounded-lg border p-5 shadow-xl"
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
                      Drop files here or <span className="text-petrol underline">choose them</span>
                    </span>
                    <span className="text-soft text-[12px]">STEP, IGES, BREP, 3MF, STL or OBJ, up to 200 MB each</span>
                  </span>
                </button>
                <input
                  ref={file}
                  type="file"
                  multiple
                  accept={ACCEPT}
                  className="hidden"
                  aria-label="Part files"
                  onChange={(e) => {
                    const chosen = [...(e.target.files ?? [])];
                    e.target.value = '';
                    if (chosen.length) void read(chosen);
                  }}
                />
              </>
            )}
            {state.at === 'reading' && (
              <div className="mt-4">
                <div className="flex items-center gap-3">
                  <span className="flex-1 truncate">{state.name}</span>
                  <Button onClick={close}>Cancel</Button>
                </div>
                <div
                  className="bg-well mt-3 h-1.5 overflow-hidden rounded"
                  role="progressbar"
                  aria-valuenow={Math.round(100 * state.fraction)}
                >
                  <div className="bg-copper h-full" style={{ width: `${100 * state.fraction}%` }} />
                </div>
                <p className="text-soft mt-1.5 text-[12px]">{state.message}</p>
              </div>
            )}
            {state.at === 'confirm' && (
              <Confirm
                previews={state.previews}
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

const ARRIVALS = [
  { value: 'new', label: 'Start over' },
  { value: 'add', label: 'Add bodies' },
  { value: 'newer', label: 'Newer version' },
] as const;

interface ConfirmProps {
  previews: ImportPreview[];
  onAgain: () => void;
  onDone: () => void;
}

function Confirm({ previews, onAgain, onDone }: ConfirmProps) {
  const existing = useStudy((s) => presentInputs(s).bodies);
  const unitless = previews.filter((p) => p.metresPerUnit === null);
  const names = previews.flatMap((p) => p.bodies.map((b) => b.name.toLowerCase()));
  const sameName = existing.find((b) => names.includes(b.name.toLowerCase()));
  const [unit, setUnit] = useState<LengthUnit>(unitless[0]?.guessedUnit ?? 'mm');
  const [how, setHow] = useState<Arrival>(sameName ? 'newer' : 'new');
  const [target, setTarget] = useState(sameName?.id ?? existing[0]?.id ?? '');
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const nBodies = names.length;
  const accept = async () => {
    setBusy(true);
    try {
      await bringIn(previews, unitless.length ? unit : null, how, target);
      onDone();
    } catch (error) {
      setProblem(error as ApiError);
      setBusy(false);
    }
  };
  return (
    <>
      <ul className="mt-3 max-h-56 divide-y overflow-y-auto border-y">
        {previews.flatMap((p) =>
          p.bodies.map((b, i) => {
            const factor = p.metresPerUnit ?? toSi(1, unit);
            const size = b.report.bounds.max.map((m, d) => formatShown((m - b.report.bounds.min[d]) * factor, 'mm'));
            return (
              <li key={`${p.id}-${i}`} className="py-1.5">
                <div className="flex items-baseline gap-2">
                  <span className="min-w-0 flex-1 truncate font-medium">{b.name}</span>
                  {SEVERITIES.map((s) => {
                    const n = b.findings.filter((f) => f.severity === s).length;
                    const { Icon, colour, label } = SEVERITY_LOOK[s];
                    return n ? (
                      <span key={s} className={`num flex items-center gap-0.5 text-[12px] ${colour}`} title={label}>
                        <Icon size={13} /> {n}
                      </span>
                    ) : null;
                  })}
                </div>
                <div className="text-soft num flex justify-between text-[12px]">
                  <span>
                    {size.join(' × ')} {shownUnit('mm')}
                  </span>
                  <span>
                    {b.report.nTriangles.toLocaleString('en-GB')} triangles,{' '}
                    {b.report.watertight ? 'watertight' : 'not watertight'}
                  </span>
                </div>
              </li>
            );
          }),
        )}
      </ul>
      {previews.some((p) => p.bodies.some((b) => b.findings.some((f) => f.severity === 'blocks'))) && (
        <p className="text-soft mt-2 text-[12px]">
          Some surfaces cannot be run as they are. Bring them in all the same: the Part station shows where, and mends
          what can be mended.
        </p>
      )}
      {unitless.length > 0 ? (
        <div className="mt-4">
          <div className="mb-1.5 flex items-baseline justify-between">
            <span className="font-medium">Unit of the file</span>
            <span className="text-soft text-[12px]">
              guessed from the size: {UNITS.find((u) => u.value === unitless[0].guessedUnit)?.label}
            </span>
          </div>
          <Choice label="Unit of the file" value={unit} options={UNITS} onChange={setUnit} />
        </div>
      ) : (
        <p className="text-soft mt-3 text-[12px]">The unit comes from the file.</p>
      )}
      {existing.length > 0 && (
        <div className="mt-4">
          <span className="mb-1.5 block font-medium">Bodies that are there</span>
          <Choice label="Bodies that are there" value={how} options={ARRIVALS} onChange={setHow} />
          {how === 'newer' && nBodies === 1 && (
            <div className="mt-2">
              <Select
                label="Replaces"
                value={target}
                options={existing.map((b) => ({ value: b.id, label: b.name, note: b.id }))}
                onChange={setTarget}
              />
            </div>
          )}
          <p className="text-soft mt-1.5 text-[12px]">
            {how === 'new' && 'They go, with their gates. Undo brings them back.'}
            {how === 'add' && 'They stay; the new ones are left out until you give them a role.'}
            {how === 'newer' && 'The new surface takes the place of the old. Gates stay where the place still exists.'}
          </p>
        </div>
      )}
      {problem && <Problem message={problem.message} remedy={problem.remedy} />}
      <div className="mt-5 flex justify-end gap-2">
        <Button onClick={onAgain}>Choose other files</Button>
        <Button look="primary" disabled={busy} onClick={() => void accept()}>
          {nBodies === 1 ? 'Use this part' : `Use these ${nBodies} bodies`}
        </Button>
      </div>
    </>
  );
}

/** Accepts the uploads and changes the study in one step. */
async function bringIn(
  previews: ImportPreview[],
  unit: LengthUnit | null,
  how: Arrival,
  target: string,
): Promise<void> {
  const study = useStudy.getState();
  const inputs = presentInputs(study);
  // A newer version comes in file coordinates: it is put where the old one lies.
  const placement = how === 'new' ? [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0] : inputs.tool.placement;
  const arrivals: AcceptedImport['bodies'] = [];
  const sizes = new Map<string, number>();
  for (const preview of previews) {
    const accepted = await api.acceptImport(preview.id, unit, placement);
    study.addGeometries(accepted.geometries);
    arrivals.push(...accepted.bodies);
    accepted.geometries.forEach((g) => sizes.set(g.hash, diagonalOf(g.report.bounds)));
  }
  const next = withGuessedCavity(inputsWith(inputs, arrivals, how, target || null), sizes);
  study.change(`Bring in ${arrivals.length === 1 ? arrivals[0].name : `${arrivals.length} bodies`}`, next);
  useBench.getState().set({ station: 'part', selectedBodies: [] });
  mainView.getState().set({ brush: null, place: null, time: Infinity, map: null, bodyView: {} });
  if (how !== 'newer' || !next.gates.length) return;
  const reports = useStudy
    .getState()
    .geometries.filter((g) => next.bodies.some((b) => b.role === 'cavity' && b.mesh === g.hash));
  const loose = await looseGates(next, joinedSize(reports.map((g) => g.report))?.wall ?? 0);
  if (loose.length)
    toast.warning(`${loose.join(', ')} ${loose.length === 1 ? 'is' : 'are'} loose: the place on the part is gone.`, {
      description: 'Nothing was dropped. Move the gate onto the new surface at the Feed station.',
    });
  else toast.success('All gates are still in place on the newer version.');
}
