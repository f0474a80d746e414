import { DEFAULT_GATE_DIAMETER, cavities, type Gate } from '@/core/model/study';
import { freshGateId } from '@/core/results/answer';
import { useBench } from './bench';
import { searchGates, usePreview } from './previewWork';
import { newestResult, presentInputs, presentPart, problemsOf, useStudy, type StudyState } from './store';

/** Whether a part is there, nothing but a gate is missing, and nothing has been calculated yet. */
export function awaitsFirstAnswer(s: StudyState): boolean {
  const inputs = presentInputs(s);
  return (
    cavities(inputs).length > 0 &&
    inputs.gates.length === 0 &&
    !newestResult(s, s.variantId) &&
    problemsOf(s).every((p) => p.station === 'feed')
  );
}

/** Waits until the coarse grid of a part is there; false where it can not be made. */
function coarseGrid(key: string): Promise<boolean> {
  const there = () => usePreview.getState().data?.key === key;
  return new Promise((resolve) => {
    if (there()) return resolve(true);
    const stop = usePreview.subscribe(({ problem }) => {
      if (!problem && !there()) return;
      stop();
      resolve(there());
    });
  });
}

/** The best place that a search for gates finds; null where it is stopped, or finds none. */
function foundPlace(): Promise<Gate['position'] | null> {
  const before = usePreview.getState().data?.found;
  return new Promise((resolve) => {
    const stop = usePreview.subscribe(({ search, data, problem }) => {
      if (search && !problem) return;
      stop();
      const found = data?.found;
      resolve(found && found !== before ? (found.best[0]?.position ?? null) : null);
    });
  });
}

/**
 * Goes from a part to an answer with nothing chosen: one gate where the coarse search puts it, all else by default, at
 * Detail quick. What is changed on the way breaks it off.
 */
export async function firstAnswer(): Promise<void> {
  const study = useStudy.getState();
  const inputs = presentInputs(study);
  const part = presentPart(study);
  if (!part || !awaitsFirstAnswer(study)) return;
  // There the coarse grid is made, and the search shows how far it is.
  useBench.getState().goTo('feed');
  const key = cavities(inputs)
    .map((b) => b.mesh)
    .join('+');
  if (!(await coarseGrid(key)) || useBench.getState().station !== 'feed') return;
  searchGates(inputs, part.size, DEFAULT_GATE_DIAMETER);
  const position = await foundPlace();
  if (!position || presentInputs(useStudy.getState()) !== inputs) return;
  usePreview.getState().set({ showMap: false });
  const gate: Gate = { id: freshGateId([]), position, diameter: DEFAULT_GATE_DIAMETER };
  study.change('First answer: a gate where a search puts it', { ...inputs, gates: [gate], detail: 'quick' });
  useBench.getState().goTo('answers');
  await study.startRun();
}
