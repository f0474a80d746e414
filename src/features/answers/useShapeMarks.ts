import { useMemo } from 'react';
import type { Inputs } from '@/core/model/study';
import { warpageOf } from '@/core/model/warpage';
import type { FindingMarks } from '@/viewer/FindingsLayer';
import { useAim, useBench } from '../study/bench';
import { useView } from '../study/view';
import { nameOf } from '@/core/model/names';

type Mark = FindingMarks['places'][number];

const mark = (id: string, at: readonly number[], chosen = false, label = id): Mark => ({
  id,
  position: at.map((x) => 1000 * x) as Mark['position'],
  label,
  kind: chosen ? 'chosen' : 'probe',
});

/** Places the shape stands on: measures and picked points with the answers, supports at the Cycle station. */
export function useShapeMarks(inputs: Inputs): Mark[] {
  const station = useBench((s) => s.station);
  const measuring = useAim('measure');
  const { points, align, frame } = useView((s) => s.shape);
  return useMemo(() => {
    const { measures, supports } = warpageOf(inputs);
    if (station === 'cycle') return supports.map((s) => mark(s.id, s.position, false, nameOf(inputs, 'support', s.id)));
    if (station !== 'answers') return [];
    const pointsCount = align === 'three-points' || frame === 'points';
    const picked = measuring?.places ?? [];
    return [
      ...measures.flatMap((m) =>
        m.places.map((p, k) => {
          const prime = k ? '′' : '';
          return mark(`${m.id}${prime}`, p, false, `${nameOf(inputs, 'measure', m.id)}${prime}`);
        }),
      ),
      ...(pointsCount ? points : []).map((p, k) => mark(`${k + 1}`, p, true)),
      ...picked.map((p, k) => mark(`${k + 1} `, p, true)),
    ];
  }, [inputs, station, measuring, points, align, frame]);
}
