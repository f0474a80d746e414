import { useMemo } from 'react';
import { weightedRange } from '@/core/numerics/weighted';
import { nodesAt } from '@/viewer/frames';
import type { ShownField } from './shownField';
import { usePacedTime, useView } from './view';

/** Share of the part that the scale of an instant leaves out at either end. */
const CUT = 0.005;

/** The range around zero that holds another one. */
export function aboutZero([low, high]: readonly [number, number]): [number, number] {
  const most = Math.max(Math.abs(low), Math.abs(high));
  return [-most, most];
}

/** Whether a field has more than one instant, so that its scale can be that of one. */
export const isOverTime = (field: ShownField): boolean => !field.live && field.nodes.times.length > 1;

/** Values that a field has at an instant, from the lowest to the highest; that of the shot where there is nothing yet. */
export function rangeAt(field: ShownField, volumes: ArrayLike<number>, time: number): [number, number] {
  const now = Math.min(time, field.end);
  const there = field.nodeTimes;
  let ends: [number, number];
  if (field.profile) {
    const { components } = field.profile;
    ends = [Infinity, -Infinity];
    nodesAt(field.profile, now).forEach((v, k) => {
      if (v !== v || !(there[Math.floor(k / components)] <= now)) return;
      ends = [Math.min(ends[0], v), Math.max(ends[1], v)];
    });
  } else {
    const values = nodesAt(field.nodes, now).map((v, i) => (there[i] <= now ? v : NaN));
    ends = weightedRange(values, volumes, CUT);
  }
  return ends[1] > ends[0] ? ends : field.range;
}

/** Ends of the scale of a field in the view around: typed in, of the instant that is shown, or of the shot. */
export function useScaleRange(field: ShownField | null, volumes: ArrayLike<number> | null): [number, number] | null {
  const typed = useView((s) => (s.typedRange?.field === field?.id ? s.typedRange : null));
  const ofInstant = useView((s) => s.rangeOf === 'instant') && field !== null && isOverTime(field) && !typed;
  const time = usePacedTime(ofInstant);
  return useMemo(() => {
    if (!field) return null;
    if (typed && !field.live) return field.signed ? aboutZero(typed.ends) : typed.ends;
    return ofInstant && volumes ? rangeAt(field, volumes, time) : field.range;
  }, [field, volumes, typed, ofInstant, time]);
}
