import { useMemo } from 'react';
import { closestPoint } from '@/core/geometry/closestPoint';
import { joined } from '@/core/geometry/shells';
import { cavities } from '@/core/model/study';
import { OFF_PART } from '@/core/pipeline/checkRun';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useMeshes } from '../study/meshes';

/** Gates whose place on the part is gone, with how far they are off it, m; empty while the surfaces are still loading. */
export function useLooseGates(): ReadonlyMap<string, number> {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const hashes = cavities(inputs).map((b) => b.mesh);
  const meshes = useMeshes(hashes);
  const mesh = useMemo(() => {
    const list = [...meshes.values()];
    return list.length ? joined(list) : null;
  }, [meshes]);
  return useMemo(() => {
    if (!mesh || !part) return new Map<string, number>();
    const away = inputs.gates.map((g) => [g.id, closestPoint(mesh, g.position).distance] as const);
    return new Map(away.filter(([, distance]) => distance > OFF_PART * part.size.wall));
  }, [mesh, part, inputs.gates]);
}
