import { isotropicStiffness } from '../../material/fibres/stiffness';
import type { Vec3 } from '../../geometry/mesh';
import { SurfaceTree } from '../../geometry/surfaceTree';
import { vertexAt } from '../../geometry/vec';
import { edgeDirections } from '../../grid/surfaceMap';
import { spreadBond, traction, type Bonded } from './bond';
import { LANES, lanesTogether, PAIRS, stressOf } from './solid';
import type { PlasticResult, Solved, Wanted } from './stage';
import type { PlasticStrain } from './strainField';
import { below, lineStress, planeStress, SmoothStrain } from './stress';

/** Surfaces closer than this share of the spacing of the nodes are one. */
const TOUCHING = 0.05;

/**
 * Stress at the surface and in the middle of the wall: smoothed strain less that of the layer there. Faces bear none:
 * it is plane, on sharp edges it lies along them, and at corners there is none. And what faces that are bonded to
 * another body bear.
 */
export function stressInWalls(
  { surface, solid, stiffnessAt, grid, body, already }: Wanted,
  { structure, solution, inserts }: Solved,
  normals: Float64Array,
  strains: PlasticStrain,
): Pick<PlasticResult, 'skinStress' | 'coreStress' | 'bond'> {
  const n = surface.positions.length / 3;
  const smooth = new SmoothStrain(structure, solution, body);
  const skinStress = new Float32Array(6 * n).fill(NaN);
  const coreStress = new Float32Array(6 * n).fill(NaN);
  // Both sides of a bond bear the same: it is read where the plastic came last, which is mostly the softer one.
  const others = body ? [] : inserts.filter((i) => !i.feed).map((i) => new SurfaceTree(i.mesh));
  const bond = new Float32Array(others.length ? 2 * n : 0).fill(NaN);
  const bonded: Bonded[] = [];
  const free = new Float64Array(6 * LANES);
  const strain = new Float64Array(6);
  const stress = new Float64Array(6);
  const edges = edgeDirections(surface, normals);
  const less = () => {
    for (let k = 0; k < 6; k++) strain[k] -= lanesTogether(free, k) - (k < 3 ? already : 0);
  };
  const alike = isotropicStiffness(solid);
  const C = new Float64Array(PAIRS);
  const stiffness = (p: Vec3) => (stiffnessAt?.(...p, body, C) ? C : alike);
  const put = (v: number, normal: Vec3, p: Vec3, out: Float32Array, edge: Vec3 | null = null) => {
    if (!smooth.at(p, strain)) return -1;
    const node = strains.at(...p, free, true);
    less();
    if (edge) lineStress(strain, edge, stiffness(p), stress);
    else planeStress(strain, normal, stiffness(p), stress);
    out.set(stress, 6 * v);
    return node;
  };
  for (let v = 0; v < n; v++) {
    const normal = vertexAt(normals, v);
    const edge = edges[3 * v] === edges[3 * v] ? vertexAt(edges, v) : null;
    const at = (depth?: number) => below(structure, surface.positions, normals, v, depth);
    const place = vertexAt(surface.positions, v);
    const node = put(v, normal, at(), skinStress, edge);
    if (node < 0) continue;
    if (
      !edge &&
      others.some((tree) => tree.closest(...place, TOUCHING * grid.spacing) >= 0) &&
      smooth.at(at(), strain)
    ) {
      // Layers shrink across the wall as they like: what the face bears is that of the wall, not of its skin.
      strains.at(...at(), free);
      less();
      stressOf(stiffness(at()), 0, strain, stress);
      bonded.push({ v, reach: grid.thickness[node], ...traction(stress, normal) });
    }
    put(v, normal, at(grid.thickness[node] / 2), coreStress);
  }
  spreadBond(bonded, surface, bond);
  return { skinStress, coreStress, bond };
}
