import { useEffect } from 'react';
import { deleteProbe } from '../answers/probeActions';
import { deleteLine } from '../cooling/lineActions';
import { deleteSelectedGate } from '../feed/gateActions';
import { helpAt, showHelp } from '../ui/help';
import { deleteBodies, isolateBodies, showBodies } from '../part/bodyActions';
import { freshName, presentInputs, problemsOf, askedUnderWay, useStudy } from '../study/store';
import { STATIONS, useBench } from '../study/bench';
import { mainView } from '../study/view';
import { FIRST_COORDINATE } from './TypedPlace';

export const SHORTCUTS: readonly [keys: string, what: string][] = [
  ['1 … 7', 'Go to a station'],
  ['Ctrl Enter', 'Run'],
  ['Ctrl K', 'Find an action'],
  ['Ctrl Z, Shift Ctrl Z', 'Undo, redo'],
  ['Space', 'Play or pause the filling'],
  ['← →', 'Play head back and forth'],
  ['F', 'Fit the part to the view'],
  ['S', 'Section on or off'],
  ['D', 'Measure a distance and the wall'],
  ['G', 'Place a gate'],
  ['P', 'Place a probe'],
  ['H', 'Hide the chosen bodies'],
  ['I', 'Isolate the chosen bodies, or show all again'],
  ['Delete', 'Delete the chosen gate, line or bodies'],
  ['B', 'Branch a variant'],
  ['V', 'All variants as a tree'],
  ['Enter', 'While placing: type where'],
  ['Esc', 'Leave placing, let go of a choice'],
  ['F1', 'Help, on the field or input that has the focus'],
  ['?', 'This list'],
];

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches('input, textarea, select') || target.isContentEditable);

/** A number field whose text is what the study holds: undo there means the study's, not the text's. */
const cleanField = (target: EventTarget | null) => target instanceof HTMLElement && target.dataset.clean === 'true';

function deleteSelectedLine(): void {
  const { selectedLine, set } = useBench.getState();
  const study = useStudy.getState();
  const inputs = presentInputs(study);
  if (!inputs.feed?.lines) return;
  const lines = inputs.feed.lines.filter((l) => l.id !== selectedLine);
  study.change(`Delete runner ${selectedLine}`, { ...inputs, feed: { ...inputs.feed, lines } });
  set({ selectedLine: null });
}

export function startRunIfPossible(): void {
  const study = useStudy.getState();
  const problem = problemsOf(study)[0];
  if (problem) useBench.getState().set({ station: problem.station });
  else if (!askedUnderWay(study)) void study.startRun();
}

/** What a key does, wherever the focus is. */
export function onKey(event: KeyboardEvent): void {
  const view = mainView.getState();
  const bench = useBench.getState();
  const study = useStudy.getState();
  const control = event.ctrlKey || event.metaKey;
  const key = event.key.toLowerCase();
  const act = (work: () => void) => {
    event.preventDefault();
    work();
  };
  if (control && key === 'enter') return act(startRunIfPossible);
  if (control && key === 'k') return act(() => window.dispatchEvent(new Event('bellows:menu')));
  if (event.key === 'F1') return act(() => showHelp(helpAt(document.activeElement)));
  if (typing(event.target) && !(control && key === 'z' && cleanField(event.target))) return;
  if (control && key === 'z') return act(event.shiftKey ? study.redo : study.undo);
  if (control || event.altKey) return;
  const station = STATIONS[Number(event.key) - 1];
  if (station) return act(() => bench.goTo(station));
  // A focused button keeps its Space, a slider its arrows.
  const onControl = event.target instanceof HTMLElement && event.target.closest('button, [role="slider"], a');
  if (event.key === 'Enter' && bench.aim && !onControl)
    return act(() => document.getElementById(FIRST_COORDINATE)?.querySelector('input')?.select());
  if (event.key === ' ' && !onControl) return act(() => window.dispatchEvent(new Event('bellows:play')));
  if (key === 'f') return act(() => view.look('fit'));
  if (key === 's') return act(() => view.set({ section: { ...view.section, on: !view.section.on } }));
  // Each compared part has a view of its own.
  if (key === 'd' && bench.station !== 'compare')
    return act(() => bench.set({ aim: bench.aim?.for === 'distance' ? null : { for: 'distance', ends: [] } }));
  if (key === 'g') return act(() => bench.set({ station: 'feed', aim: { for: 'gate' } }));
  if (key === 'p')
    return act(() => bench.set({ station: 'answers', aim: bench.aim?.for === 'probe' ? null : { for: 'probe' } }));
  if (key === 'v') return act(() => window.dispatchEvent(new Event('bellows:variants')));
  if (key === 'b') return act(() => void study.branch(freshName(study.variants, 'Variant')));
  if (event.key === 'Delete' || event.key === 'Backspace')
    return act(() =>
      bench.station === 'cooling' && bench.selectedChannel
        ? deleteLine(bench.selectedChannel)
        : bench.station === 'feed' && bench.selectedLine && !bench.selectedGate
          ? deleteSelectedLine()
          : bench.station === 'part' && bench.selectedBodies.length
            ? deleteBodies(bench.selectedBodies)
            : bench.station === 'answers' && bench.selectedProbe
              ? deleteProbe(bench.selectedProbe)
              : deleteSelectedGate(),
    );
  if (key === 'h') return act(() => showBodies(bench.selectedBodies, 'hidden'));
  if (key === 'i') return act(() => isolateBodies(bench.selectedBodies));
  if (event.key === 'Escape')
    return act(() => {
      bench.set({
        aim: null,
        selectedLine: null,
        selectedChannel: null,
        selectedOutlet: null,
        selectedGate: null,
        selectedBodies: [],
        draft: null,
        marks: [],
      });
      view.set({ place: null });
    });
  if (event.key === '?') return act(() => window.dispatchEvent(new Event('bellows:help')));
}

export function useKeyboard(): void {
  useEffect(() => {
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
}
