import { Matrix, SingularValueDecomposition } from 'ml-matrix';
import { closestPoint } from '../geometry/closestPoint';
import { boundsOf, type TriangleMesh } from '../geometry/mesh';
import { warpageOf, type Support } from '../model/warpage';
import type { Inputs } from '../model/study';
import { format } from '../units/reader';
import type { Problem } from '../setup/problem';

/** A support farther from the surface than this share of the wall holds nothing. */
const OFF_PART = 0.25;
/** Motions that supports hold by less than this share of the strongest are free. */
const FREE = 1e-6;

/** How many of the six motions of a rigid body the supports hold, and how many directions they hold in all. */
export function heldMotions(supports: readonly Support[], size: number): { motions: number; directions: number } {
  const rows: number[][] = [];
  for (const { position, holds } of supports) {
    const [x, y, z] = position.map((c) => c / size);
    if (holds.x) rows.push([1, 0, 0, 0, z, -y]);
    if (holds.y) rows.push([0, 1, 0, -z, 0, x]);
    if (holds.z) rows.push([0, 0, 1, y, -x, 0]);
  }
  if (!rows.length) return { motions: 0, directions: 0 };
  const values = new SingularValueDecomposition(new Matrix(rows), { autoTranspose: true }).diagonal;
  return { motions: values.filter((v) => v > FREE * Math.max(...values)).length, directions: rows.length };
}

/** What keeps the shape from being calculated: its supports. `wall` is the nominal wall, m. */
export function shapeProblems(inputs: Inputs, mesh: TriangleMesh, wall: number): Problem[] {
  const { supports } = warpageOf(inputs);
  const problems: Problem[] = [];
  for (const { id, position } of supports) {
    const { distance } = closestPoint(mesh, position);
    if (distance > OFF_PART * wall)
      problems.push({
        station: 'part',
        target: id,
        message: `Support ${id} is ${format(distance, 'mm')} off the part.`,
        remedy: 'Put it onto the surface or take it away.',
        place: position,
      });
  }
  const { min, max } = boundsOf(mesh.positions);
  const { motions, directions } = heldMotions(supports, Math.hypot(...max.map((m, d) => m - min[d])));
  if (directions && motions < 6)
    problems.push({
      station: 'part',
      target: 'supports',
      message: `The supports hold ${motions} of the six motions of the part: it is still free to move or turn.`,
      remedy: 'Hold three places that do not lie on a line, six directions in all, or take the supports away.',
    });
  return problems;
}
