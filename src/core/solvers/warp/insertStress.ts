import type { Vec3 } from '../../geometry/mesh';
import { refine } from '../../geometry/refine';
import type { StructureGrid } from '../../grid/structureGrid';
import { cornerOf } from '../../grid/structurePieces';
import { vertexNormals } from '../../grid/surfaceMap';
import type { ElasticSolution } from './elastic';
import { hooke, lame, LANES, lanesTogether, type Solid, type StrainAt } from './solid';
import type { Insert, InsertResult } from './stage';
import { below, SmoothStrain, surfaceDisplacement, vonMises } from './stress';

/** Shape and stress of an insert, body number `body` of the structure, at the vertices of its surface. */
export function insertOf(
  { id, mesh, solid, walls }: Insert,
  body: number,
  structure: StructureGrid,
  solution: ElasticSolution,
  edge: number,
  strainAt: StrainAt,
): InsertResult {
  const surface = walls?.surface ?? refine(mesh, edge);
  const smooth = new SmoothStrain(structure, solution, body);
  const normals = vertexNormals(surface);
  const displacement = surfaceDisplacement(structure, solution.displacement, surface, normals);
  const n = surface.positions.length / 3;
  const stress = new Float32Array(6 * n).fill(NaN);
  const strain = new Float64Array(6);
  const free = new Float64Array(6 * LANES);
  const { lambda, mu } = lame(solid);
  for (let v = 0; v < n; v++) {
    const at = below(structure, surface.positions, normals, v);
    if (!smooth.at(at, strain)) continue;
    strainAt(...at, body, free);
    for (let k = 0; k < 6; k++) strain[k] -= lanesTogether(free, k);
    hooke(strain, 0, lambda, mu, strain);
    stress.set(strain, 6 * v);
  }
  const highest = highestIn(structure, smooth, body, solid, strainAt);
  return { id, surface, displacement, stress, highest, plastic: null };
}

function highestIn(
  structure: StructureGrid,
  smooth: SmoothStrain,
  body: number,
  solid: Solid,
  strainAt: StrainAt,
): number {
  const strain = new Float64Array(6);
  const free = new Float64Array(6 * LANES);
  const { lambda, mu } = lame(solid);
  const { lattice, pointStart, local } = structure;
  let most = 0;
  for (let e = 0; e < structure.nElements; e++) {
    const corner = cornerOf(structure.cellOf[e], lattice);
    for (let p = pointStart[e]; p < pointStart[e + 1]; p += 3) {
      if (structure.body[p] !== body) continue;
      const at = corner.map((c, d) => lattice.origin[d] + lattice.edges[d] * (c + (local[3 * p + d] + 1) / 2)) as Vec3;
      if (!smooth.at(at, strain)) continue;
      strainAt(...at, body, free);
      for (let k = 0; k < 6; k++) strain[k] -= lanesTogether(free, k);
      hooke(strain, 0, lambda, mu, strain);
      most = Math.max(most, vonMises(strain));
    }
  }
  return most;
}
