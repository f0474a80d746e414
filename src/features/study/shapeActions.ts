import { PLACES } from '@/core/results/measures';
import { warpageOf, type Warpage } from '@/core/model/warpage';
import { changeInputs } from './store';
import { useBench } from './bench';
import { mainView } from './view';

type Point = [number, number, number];

/** Changes what the shape is judged by, or calculated with, as one step that can be undone. */
export function patchWarpage(label: string, patch: (warpage: Warpage) => Partial<Warpage>): void {
  changeInputs(label, (inputs) => {
    const warpage = warpageOf(inputs);
    return { warpage: { ...warpage, ...patch(warpage) } };
  });
}

export function freshId(letter: string, list: readonly { id: string }[]): string {
  for (let n = 1; ; n++) if (!list.some(({ id }) => id === `${letter}${n}`)) return `${letter}${n}`;
}

/** A place clicked on the part while the shape asks for some. */
export function pickForShape(at: Point): void {
  const { aim, set } = useBench.getState();
  const { shape, set: look } = mainView.getState();
  if (aim?.for === 'alignment') {
    const points = [...shape.points, at];
    look({ shape: { ...shape, points } });
    if (points.length >= 3) set({ aim: null });
    return;
  }
  if (aim?.for === 'support') {
    patchWarpage('Add support', ({ supports }) => ({
      supports: [...supports, { id: freshId('S', supports), position: at, holds: { x: true, y: true, z: true } }],
    }));
    return set({ aim: null });
  }
  if (aim?.for !== 'measure') return;
  const places = [...aim.places, at];
  if (places.length < PLACES[aim.kind]) return set({ aim: { ...aim, places } });
  patchWarpage('Add measure', ({ measures }) => ({
    measures: [...measures, { id: freshId('M', measures), kind: aim.kind, places, tolerance: null }],
  }));
  set({ aim: null });
}
