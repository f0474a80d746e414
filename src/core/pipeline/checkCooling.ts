import { blockOf } from '../cooling/block';
import { checkCircuits, checkClearances, type CoolingFinding } from '../cooling/check';
import { boundsOf, type TriangleMesh } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import { openingOf } from '../model/body';
import type { Inputs } from '../model/study';
import { feedPlaces } from '../setup/mould';
import type { Problem } from '../setup/problem';

const problemOf = ({ line, kind, message, remedy, place }: CoolingFinding): Problem => ({
  station: 'cooling',
  target: line ?? kind,
  message,
  remedy,
  ...(place ? { place } : {}),
});

const severe = (f: CoolingFinding) => f.severity === 'problem';

/** What keeps the circuits from being calculated, as far as it needs no part. */
export function coolingProblems({ cooling, tool }: Inputs): Problem[] {
  if (!cooling) return [];
  const problems = checkCircuits(cooling).filter(severe).map(problemOf);
  // The halves of the block part level; along another direction there is no block yet.
  if (openingOf(tool)[2] < 1 - 1e-9)
    problems.push({
      station: 'part',
      target: 'opening',
      message: 'The mould block opens along Z, and this tool along another direction.',
      remedy: 'Turn the part so that the tool opens along Z, or leave the cooling out.',
    });
  return problems;
}

/** Bores against the part and the block. */
export function clearanceProblems(inputs: Inputs, mesh: TriangleMesh): Problem[] {
  const { cooling } = inputs;
  if (!cooling) return [];
  const part = boundsOf(mesh.positions);
  return checkClearances(cooling, new SurfaceTree(mesh), part, blockOf(cooling, part, feedPlaces(inputs)))
    .filter(severe)
    .map(problemOf);
}
