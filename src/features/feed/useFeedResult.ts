import { useEffect, useMemo } from 'react';
import { feedFieldId } from '@/core/results/feedFields';
import type { RunView } from '@/runtime/wire';
import { frameAt, NO_VALUE } from '@/viewer/results';
import { loadField, useRunData } from '../study/runData';
import { useView } from '../study/view';

/** Values along a section of the feed, cell by cell. */
export interface DuctResult {
  values: number[];
  times: number[];
}

/** The shown field in the feed at the play head, by section; null where there is none. */
export function useFeedResult(run: RunView | null): ReadonlyMap<string, DuctResult> | null {
  const id = feedFieldId(useView((s) => s.field));
  const time = useView((s) => s.time);
  const data = useRunData(run?.id ?? null);
  const fields = data?.manifest?.fields;
  const meta = fields?.find((f) => f.id === id && f.location === 'segment');
  useEffect(() => {
    if (!run || !meta) return;
    loadField(run.id, id);
    loadField(run.id, feedFieldId('fillTime'));
  }, [run, meta, id]);
  return useMemo(() => {
    const all = data?.fields.get(id);
    const fillTimes = data?.fields.get(feedFieldId('fillTime'));
    const sections = data?.manifest?.summary.feed?.sections;
    if (!meta || !all || !fillTimes || !sections) return null;
    const n = fillTimes.length;
    const now = meta.times.length
      ? frameAt(all, n, meta.times, Math.min(time, meta.times[meta.times.length - 1]))
      : all;
    const known = (v: number) => (v === v ? v : NO_VALUE);
    const map = new Map<string, DuctResult>();
    let at = 0;
    for (const { id: section, nCells = 0 } of sections) {
      const part = (from: Float32Array) => Array.from(from.subarray(at, at + nCells), known);
      map.set(section, { values: part(now), times: part(fillTimes) });
      at += nCells;
    }
    return map;
  }, [data, meta, id, time]);
}
