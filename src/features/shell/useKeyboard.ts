import { useEffect } from 'react';
import { deleteProbe } from '../answers/probeActions';
import { deleteLine } from '../cooling/lineActions';
import { deleteSelectedGate } from '../feed/gateActions';
import { deleteBodies, isolateBodies, showBodies } from '../part/bodyActions';
import { freshName, presentVariant, problemsOf, runUnderWay, useStudy } from '../study/store';
import { NOTHING_UNDER_WAY, STATIONS, useView } from '../study/viewStore';

export const SHORTCUTS: readonly [keys: string, what: string][] = [
  ['1 … 6', 'Go to a station'],
  ['Ctrl Enter', 'Run'],
  ['Ctrl K', 'Find an action'],
  ['Ctrl Z, Shift Ctrl Z', 'Undo, redo'],
  ['Space', 'Play or pause the filling'],
  ['← →', 'Play head back and forth'],
  ['F', 'Fit the part to the view'],
  ['S', 'Section on or off'],
  ['G', 'Place a gate'],
  ['P', 'Place a probe'],
  ['H', 'Hide the chosen bodies'],
  ['I', 'Isolate the chosen bodies, or show all again'],
  ['Delete', 'Delete the chosen gate, line or bodies'],
  ['B', 'Branch a variant'],
  ['Esc', 'Leave placing, let go of a choice'],
  ['?', 'This list'],
];

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches('input, textarea, select') || target.isContentEditable);

/** A number field whose text is what the study holds: undo there means the study's, not the text's. */
const cleanField = (target: EventTarget | null) => target instanceof HTMLElement && target.dataset.clean === 'true';

function deleteSelectedLine(): void {
  const { selectedLine, set } = useView.getState();
  const study = useStudy.getState();
  const { inputs } = presentVariant(study);
  if (!inputs.feed?.lines) return;
  const lines = inputs.feed.lines.filter((l) => l.id !== selectedLine);
  study.change(`Delete runner ${selectedLine}`, { ...inputs, feed: { ...inputs.feed, lines } });
  set({ selectedLine: null });
}

export function startRunIfPossible(): void {
  const study = useStudy.getState();
  const problem = problemsOf(study)[0];
  if (problem) useView.getState().set({ station: problem.station });
  else if (!runUnderWay(study)) void study.startRun();
}

function onKey(event: KeyboardEvent): void {
  const view = useView.getState();
  const study = useStudy.getState();
  const control = event.ctrlKey || event.metaKey;
  const key = event.key.toLowerCase();
  const act = (work: () => void) => {
    event.preventDefault();
    work();
  };
  if (control && key === 'enter') return act(startRunIfPossible);
  if (control && key === 'k') return act(() => window.dispatchEvent(new Event('bellows:menu')));
  if (typing(event.target) && !(control && key === 'z' && cleanField(event.target))) return;
  if (control && key === 'z') return act(event.shiftKey ? study.redo : study.undo);
  if (control || event.altKey) return;
  const station = STATIONS[Number(event.key) - 1];
  if (station) return act(() => view.set({ station, ...NOTHING_UNDER_WAY }));
  // A focused button keeps its Space, a slider its arrows.
  const onControl = event.target instanceof HTMLElement && event.target.closest('button, [role="slider"], a');
  if (event.key === ' ' && !onControl) return act(() => window.dispatchEvent(new Event('bellows:play')));
  if (key === 'f') return act(() => view.look('fit'));
  if (key === 's') return act(() => view.set({ section: { ...view.section, on: !view.section.on } }));
  if (key === 'g') return act(() => view.set({ station: 'feed', placingGate: true }));
  if (key === 'p') return act(() => view.set({ station: 'answers', placingProbe: !view.placingProbe }));
  if (key === 'b') return act(() => void study.branch(freshName(study.variants, 'Variant')));
  if (event.key === 'Delete' || event.key === 'Backspace')
    return act(() =>
      view.station === 'cooling' && view.selectedChannel
        ? deleteLine(view.selectedChannel)
        : view.station === 'feed' && view.selectedLine && !view.selectedGate
          ? deleteSelectedLine()
          : view.station === 'part' && view.selectedBodies.length
            ? deleteBodies(view.selectedBodies)
            : view.station === 'answers' && view.selectedProbe
              ? deleteProbe(view.selectedProbe)
              : deleteSelectedGate(),
    );
  if (key === 'h') return act(() => showBodies(view.selectedBodies, 'hidden'));
  if (key === 'i') return act(() => isolateBodies(view.selectedBodies));
  if (event.key === 'Escape')
    return act(() =>
      view.set({
        ...NOTHING_UNDER_WAY,
        selectedLine: null,
        selectedChannel: null,
        selectedOutlet: null,
        pickingFace: false,
        selectedGate: null,
        selectedBodies: [],
        draft: null,
        marks: [],
        place: null,
      }),
    );
  if (event.key === '?') return act(() => window.dispatchEvent(new Event('bellows:help')));
}

export function useKeyboard(): void {
  useEffect(() => {
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}
