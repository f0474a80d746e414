import { useEffect, useMemo } from 'react';
import { create } from 'zustand';
import { MOST_COMPARED } from '@/core/results/compare';
import type { Unit } from '@/core/units/units';
import type { RunView } from '@/runtime/wire';
import type { ColourMap } from '@/viewer/colour';
import type { ShownField } from '../study/shownField';
import { useFieldView, useShownField } from '../study/useShown';
import { createView, linkViews, mainView, type View } from '../study/view';
import type { Shown } from '../views/useDifference';
import { useCompare } from './compared';

/** The views in their order; what the page's tools and the shot strip speak to is the first. */
export const PANE_VIEWS: readonly View[] = [mainView, ...Array.from({ length: MOST_COMPARED - 1 }, () => createView())];

/** What a pane draws, for the legend and for a scale in common. */
export interface PaneScale {
  /** Panes of the same name share a scale. */
  name: string;
  label: string;
  unit: Unit;
  range: readonly [number, number];
  map: ColourMap;
  field: ShownField;
  volumes: Float32Array;
}

interface Scales {
  /** By the place of the pane; null: nothing is drawn there yet. */
  list: readonly (PaneScale | null)[];
  put(at: number, scale: PaneScale | null): void;
}

export const useScales = create<Scales>((set) => ({
  list: [],
  put: (at, scale) =>
    set(({ list }) => {
      const next = Array.from({ length: MOST_COMPARED }, (_, k) => (k === at ? scale : (list[k] ?? null)));
      return { list: next };
    }),
}));

/** The range that holds all of them; null without one. */
export function commonRange(scales: readonly Pick<PaneScale, 'range'>[]): [number, number] | null {
  if (!scales.length) return null;
  return [Math.min(...scales.map((s) => s.range[0])), Math.max(...scales.map((s) => s.range[1]))];
}

/** Tells what a pane draws as long as it stands, and hears the scale that it is drawn on. */
export function usePaneScale(at: number, own: PaneScale | null): readonly [number, number] | null {
  const put = useScales((s) => s.put);
  useEffect(() => {
    put(at, own);
    return () => put(at, null);
  }, [put, at, own]);
  const one = useCompare((s) => s.scale === 'one');
  const list = useScales((s) => s.list);
  const range = one && own ? commonRange(list.filter((s) => s !== null && s.name === own.name) as PaneScale[]) : null;
  const [low, high] = range ?? own?.range ?? [0, 0];
  return useMemo(() => [low, high], [low, high]);
}

/** The field of a run in the view around, with what draws it. */
export function useShown(run: RunView | null): Shown | null {
  const { data, field } = useShownField(run, false);
  const view = useFieldView(run, data, field);
  return useMemo(() => (run && data && field && view ? { run, data, field, view } : null), [run, data, field, view]);
}

/** Keeps the views linked in what they share as long as they stand. */
export function useLinkedViews(n: number): void {
  const links = useCompare((s) => s.links);
  useEffect(() => linkViews(PANE_VIEWS.slice(0, n), [...links, 'marks']), [links, n]);
}
