import { useMemo } from 'react';
import { feedFieldId } from '@/core/results/feedFields';
import type { RunView } from '@/runtime/wire';
import type { FeedValues } from '@/viewer/FeedDucts';
import { nodeFrames } from '@/viewer/frames';
import { MANIFEST, useRunData } from '../study/runData';
import { useView } from '../study/view';

/** The shown field in the feed; null where there is none. */
export function useFeedResult(run: RunView | null): FeedValues | null {
  const id = feedFieldId(useView((s) => s.field));
  const manifest = useRunData(run?.id ?? null, MANIFEST)?.manifest;
  const meta = manifest?.fields.find((f) => f.id === id && f.location === 'segment');
  const data = useRunData(meta && run ? run.id : null, MANIFEST, [id, feedFieldId('fillTime')]);
  return useMemo(() => {
    const all = data?.fields.get(id);
    const fillTimes = data?.fields.get(feedFieldId('fillTime'));
    const sections = data?.manifest?.summary.feed?.sections;
    if (!meta || !all || !fillTimes || !sections) return null;
    const ducts = new Map<string, { at: number; n: number }>();
    let at = 0;
    for (const { id: section, nCells: n = 0 } of sections) {
      ducts.set(section, { at, n });
      at += n;
    }
    return { cells: nodeFrames(all, fillTimes.length, meta.times), fillTimes, ducts };
  }, [data, meta, id]);
}
