import { useMemo } from 'react';
import { closestPoint } from '@/core/geometry/closestPoint';
import { joined } from '@/core/geometry/shells';
import { cavities } from '@/core/model/study';
import { OFF_PART } from '@/core/pipeline/checkRun';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useMeshes } from '../study/meshes';

/** Gates whose place on the part is gone; empty while the surfaces are still loading. */
export function useLooseGates(): ReadonlySet<string> {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const hashes = cavities(inputs).map((b) => b.mesh);
  const meshes = useMeshes(hashes);
  const mesh = useMemo(() => {
    const list = [...meshes.values()];
    return list.length ? joined(list) : null;
  }, [meshes]);
  return useMemo(() => {
    if (!mesh || !part) return new Set<string>();
    const off = inputs.gates.filter((g) => closestPoint(mesh, g.position).distance > OFF_PART * part.size.wall);
    return new Set(off.map((g) => g.id));
  }, [mesh, part, inputs.gates]);
}
