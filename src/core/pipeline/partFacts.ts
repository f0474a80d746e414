import type { MeshReport } from '../geometry/meshReport';
import type { Finding } from '../geometry/finding';
import { cavities, type Inputs } from '../model/study';
import type { PartFacts } from './checkRun';
import { joinedSize } from '../setup/settings';

/** Size of the cavities together and what keeps them from being run; null without a cavity that is known. */
export function factsOf(
  inputs: Inputs,
  geometries: readonly { hash: string; report: MeshReport; findings: Finding[] }[],
): PartFacts | null {
  const known = new Map(geometries.map((g) => [g.hash, g]));
  const bodies = cavities(inputs).flatMap((b) => {
    const geometry = known.get(b.mesh);
    return geometry ? [{ name: b.name, geometry }] : [];
  });
  const size = joinedSize(bodies.map((b) => b.geometry.report));
  if (!size) return null;
  const blocking = bodies.flatMap(({ name, geometry }) =>
    geometry.findings.filter((f) => f.severity === 'blocks').map((finding) => ({ body: name, finding })),
  );
  return { ...size, blocking };
}
