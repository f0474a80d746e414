import { create } from 'zustand';
import type { Driver, DriveStep } from 'driver.js';
import { useBench, type Station } from '../study/bench';

interface Step {
  title: string;
  text: string;
  station: Station;
  /** What it points at. */
  at: string;
  side: 'top' | 'right' | 'bottom' | 'left';
}

/** A first job, in the order in which it is done. */
export const GUIDE: readonly Step[] = [
  {
    title: 'A part comes in',
    text: 'Drop a STEP, 3MF, STL or OBJ file anywhere on the page. What is wrong with its surface is told, and most of it is mended in one step. No mesh has to be made.',
    station: 'part',
    at: '#bench-place',
    side: 'right',
  },
  {
    title: 'What it is made of',
    text: 'Choose a resin by family and filler, or make your own from measured points. Its curves are drawn below.',
    station: 'resin',
    at: '#bench-place',
    side: 'right',
  },
  {
    title: 'Where the melt comes in',
    text: 'Press G and click the part. While you drag a gate the flow follows it, coarse but at once. A search can put the first one.',
    station: 'feed',
    at: '#part-place',
    side: 'left',
  },
  {
    title: 'How the mould is cooled',
    text: 'Without lines the mould has one temperature. With them you see where it does not.',
    station: 'cooling',
    at: '#bench-place',
    side: 'right',
  },
  {
    title: 'How the press runs',
    text: 'Numbers in italics are defaults that follow from resin, part and machine. Type another, and it stands until you empty the field. What stands at a default is listed at the foot.',
    station: 'cycle',
    at: '#bench-place',
    side: 'right',
  },
  {
    title: 'Run',
    text: 'Filling, packing, cooling and shape are worked out one after the other, and the front moves while it is. The button sits here at every station; Ctrl Enter does the same.',
    station: 'answers',
    at: '#run-place',
    side: 'bottom',
  },
  {
    title: 'Answers',
    text: 'Every question has a verdict, its number and its place. Open one: it says why, and what to try. A try makes a variant of its own and runs it.',
    station: 'answers',
    at: '#reading-place',
    side: 'left',
  },
  {
    title: 'The whole shot on one clock',
    text: 'Drag the play head, or press a named instant: every field of the part follows it.',
    station: 'answers',
    at: '[aria-label="Shot strip"]',
    side: 'top',
  },
  {
    title: 'Fields',
    text: 'Each field shows itself at the instant at which it says most. F1 explains the one that has the focus, and the settings of the cycle, too.',
    station: 'answers',
    at: '#bench-place',
    side: 'right',
  },
  {
    title: 'A change beside its consequence',
    text: 'Branch a variant, change one thing, run it. At Compare both stand side by side with what moved and what did it.',
    station: 'compare',
    at: '[aria-label="Variants"]',
    side: 'bottom',
  },
];

interface Guide {
  /** Step that is shown, or where it was left. */
  at: number;
  on: boolean;
}

const KEY = 'bellows.guide';

function recall(): Guide {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? 'null') as Partial<Guide> | null;
    const at = Number(kept?.at);
    return { at: Number.isInteger(at) && at >= 0 && at < GUIDE.length ? at : 0, on: kept?.on === true };
  } catch {
    // Nothing is remembered where there is no storage, or nonsense in it.
    return { at: 0, on: false };
  }
}

/** How far the guide has come, on this browser. */
export const useGuide = create<Guide>(recall);

function keep(guide: Guide): void {
  useGuide.setState(guide);
  localStorage.setItem(KEY, JSON.stringify(guide));
}

/** Has the guide begin, or go on, in the project that is opened next. */
export const guideInNextProject = (): void => keep({ ...useGuide.getState(), on: true });

let driven: Driver | null = null;

/** Shows the guide from where it was left; at its end it begins anew the next time. */
export async function startGuide(): Promise<void> {
  const { driver } = await import('driver.js');
  driven?.destroy();
  const { at } = useGuide.getState();
  const own = driver({
    animate: !matchMedia('(prefers-reduced-motion: reduce)').matches,
    popoverClass: 'guide',
    overlayOpacity: 0.35,
    stagePadding: 2,
    stageRadius: 6,
    showProgress: true,
    progressText: '{{current}} of {{total}}',
    nextBtnText: 'Next',
    prevBtnText: 'Back',
    doneBtnText: 'Done',
    steps: GUIDE.map(({ title, text, at: element, side }): DriveStep => ({
      element,
      waitForElement: 3000,
      popover: { title, description: text, side, align: 'center' },
    })),
    // What a step points at is drawn at its station: there first.
    onNextClick: () => go(1),
    onPrevClick: () => go(-1),
    onCloseClick: () => leave(useGuide.getState().at),
    // Escape, or a click beside it. While a step is still moving in, no other hook tells.
    onDestroyStarted: () => leave(useGuide.getState().at),
    onDoneClick: () => leave(0),
  });
  driven = own;
  const leave = (next: number) => {
    driven = null;
    keep({ at: next, on: false });
    own.destroy();
  };
  const show = (step: number) => {
    useBench.getState().goTo(GUIDE[step].station);
    keep({ at: step, on: true });
    // Once the station is drawn.
    requestAnimationFrame(() => own.drive(step));
  };
  const go = (way: 1 | -1) => {
    const next = (own.getActiveIndex() ?? 0) + way;
    if (next >= 0 && next < GUIDE.length) show(next);
  };
  show(at);
}

/** Takes the guide off the page that is left: it goes on where the next project is opened. */
export function stopGuide(): void {
  const own = driven;
  driven = null;
  own?.destroy();
}
