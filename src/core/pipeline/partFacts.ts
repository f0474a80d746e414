import type { MeshReport } from '../geometry/meshReport';
import type { Finding } from '../geometry/finding';
import { cavities, type Inputs } from '../model/study';
import { asShot, nShots } from '../model/shots';
import type { Problem } from '../setup/problem';
import { checkInputs, type PartFacts } from './checkRun';
import { ofShot } from './checkShots';
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

/** What keeps a study from being run that can be told before its surfaces are read, shot by shot. */
export function checkAllShots(
  inputs: Inputs,
  geometries: readonly { hash: string; report: MeshReport; findings: Finding[] }[],
): Problem[] {
  const n = nShots(inputs);
  return Array.from({ length: n }, (_, k) => {
    const shot = asShot(inputs, k + 1);
    const problems = checkInputs(shot, factsOf(shot, geometries));
    return n > 1 ? problems.map((p) => ofShot(p, k + 1)) : problems;
  }).flat();
}
