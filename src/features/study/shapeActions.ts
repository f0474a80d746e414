import { PLACES } from '@/core/results/measures';
import { warpageOf, type Warpage } from '@/core/model/warpage';
import { changeInputs } from './store';
import { useView } from './viewStore';

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
  const { pickingShape: picking, shape, set } = useView.getState();
  if (!picking) return;
  if (picking.for === 'align') {
    const points = [...shape.points, at];
    return set({ shape: { ...shape, points }, pickingShape: points.length < 3 ? picking : null });
  }
  if (picking.for === 'support') {
    patchWarpage('Add support', ({ supports }) => ({
      supports: [...supports, { id: freshId('S', supports), position: at, holds: { x: true, y: true, z: true } }],
    }));
    return set({ pickingShape: null });
  }
  const places = [...picking.places, at];
  if (places.length < PLACES[picking.kind]) return set({ pickingShape: { ...picking, places } });
  patchWarpage('Add measure', ({ measures }) => ({
    measures: [...measures, { id: freshId('M', measures), kind: picking.kind, places, tolerance: null }],
  }));
  set({ pickingShape: null });
}
