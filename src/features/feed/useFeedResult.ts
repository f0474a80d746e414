import { useMemo } from 'react';
import { feedFieldId } from '@/core/results/feedFields';
import type { RunView } from '@/runtime/wire';
import { frameAt, NO_VALUE } from '@/viewer/results';
import { MANIFEST, useRunData } from '../study/runData';
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
  const manifest = useRunData(run?.id ?? null, MANIFEST)?.manifest;
  const meta = manifest?.fields.find((f) => f.id === id && f.location === 'segment');
  const data = useRunData(meta && run ? run.id : null, MANIFEST, [id, feedFieldId('fillTime')]);
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
