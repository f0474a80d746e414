import { useMemo } from 'react';
import type { Inputs } from '@/core/model/study';
import { warpageOf } from '@/core/model/warpage';
import type { FindingMarks } from '@/viewer/FindingsLayer';
import { useAim, useBench } from '../study/bench';
import { useView } from '../study/view';

type Mark = FindingMarks['places'][number];

const mark = (id: string, at: readonly number[], chosen = false): Mark => ({
  id,
  position: at.map((x) => 1000 * x) as Mark['position'],
  label: id,
  kind: chosen ? 'chosen' : 'probe',
});

/** Places the shape stands on: measures and picked points with the answers, supports at the Cycle station. */
export function useShapeMarks({ warpage }: Inputs): Mark[] {
  const station = useBench((s) => s.station);
  const measuring = useAim('measure');
  const { points, align, frame } = useView((s) => s.shape);
  return useMemo(() => {
    const { measures, supports } = warpageOf({ warpage });
    if (station === 'cycle') return supports.map((s) => mark(s.id, s.position));
    if (station !== 'answers') return [];
    const pointsCount = align === 'three-points' || frame === 'points';
    const picked = measuring?.places ?? [];
    return [
      ...measures.flatMap((m) => m.places.map((p, k) => mark(k ? `${m.id}′` : m.id, p))),
      ...(pointsCount ? points : []).map((p, k) => mark(`${k + 1}`, p, true)),
      ...picked.map((p, k) => mark(`${k + 1} `, p, true)),
    ];
  }, [warpage, station, measuring, points, align, frame]);
}
