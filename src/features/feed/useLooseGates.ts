import { useMemo } from 'react';
import { closestPoint } from '@/core/geometry/closestPoint';
import { OFF_PART } from '@/core/pipeline/checkRun';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useCavity } from '../study/meshes';

/** Gates whose place on the part is gone, with how far they are off it, m; empty while the surfaces are still loading. */
export function useLooseGates(): ReadonlyMap<string, number> {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const { mesh } = useCavity(inputs);
  return useMemo(() => {
    if (!mesh || !part) return new Map<string, number>();
    const away = inputs.gates.map((g) => [g.id, closestPoint(mesh, g.position).distance] as const);
    return new Map(away.filter(([, distance]) => distance > OFF_PART * part.size.wall));
  }, [mesh, part, inputs.gates]);
}
