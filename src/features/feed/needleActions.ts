import { defaultCore, type CoreChoice, type Needle } from '@/core/model/core';
import type { Inputs } from '@/core/model/study';
import { changeInputs, presentInputs, useStudy } from '../study/store';
import { useBench, type Point } from '../study/bench';
import { freshId } from '../study/shapeActions';

/** Needles that are in use: none where the fluid comes the way of the melt. */
export const needlesOf = ({ core }: Pick<Inputs, 'core'>): readonly Needle[] =>
  core?.through === 'needles' && core.fluid !== 'melt' ? core.needles : [];

/** Changes the core; where there is none yet, from the default one. */
export const changeCore = (label: string, patch: (core: CoreChoice) => Partial<CoreChoice>): void =>
  changeInputs(label, ({ core = defaultCore() }) => ({ core: { ...core, ...patch(core) } }));

/** The melt alone again. */
export function removeCore(): void {
  const study = useStudy.getState();
  const { core: _, ...rest } = presentInputs(study);
  study.change('No fluid in the core', rest);
  useBench.getState().set({ selectedNeedle: null });
}

export function placeNeedle(position: Point): void {
  let id = '';
  changeCore('Place needle', ({ needles }) => {
    id = freshId('N', needles);
    return { through: 'needles', needles: [...needles, { id, position }] };
  });
  useBench.getState().set({ selectedNeedle: id });
}

export const moveNeedle = (id: string, position: Point): void =>
  changeCore(`Move needle ${id}`, ({ needles }) => ({
    needles: needles.map((n) => (n.id === id ? { ...n, position } : n)),
  }));

export function deleteNeedle(id: string): void {
  changeCore(`Delete needle ${id}`, ({ needles }) => ({ needles: needles.filter((n) => n.id !== id) }));
  useBench.getState().set({ selectedNeedle: null });
}

/** The place where the front has to arrive for the melt to end. */
export function pickMeltPlace(position: Point): void {
  changeCore('Where the melt ends', () => ({ melt: { by: 'front', position } }));
  useBench.getState().set({ aim: null });
}
