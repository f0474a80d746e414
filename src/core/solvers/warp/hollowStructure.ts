import type { StructureGrid } from '../../grid/structureGrid';
import { cornerOf } from '../../grid/structurePieces';
import type { WallPlaces } from './strainField';

/** Stiffness of the fluid in a core over that of the plastic: none for all practical purposes, and still solvable. */
const NOTHING = 1e-4;

/**
 * Structure of a hollow part: points of the plastic that lie in the core of their wall stand for next to no volume. `core`
 * is the place of its face through the wall of every node (0 .. 1).
 */
export function hollowedOut(grid: StructureGrid, places: WallPlaces, core: ArrayLike<number>): StructureGrid {
  const { lattice, nElements, cellOf, pointStart, local, body } = grid;
  const weight = grid.weight.slice();
  for (let e = 0; e < nElements; e++) {
    const corner = cornerOf(cellOf[e], lattice);
    for (let p = pointStart[e]; p < pointStart[e + 1]; p++) {
      if (body[p] !== 0) continue;
      const at = (d: number) => lattice.origin[d] + (corner[d] + (local[3 * p + d] + 1) / 2) * lattice.edges[d];
      if (places.find(at(0), at(1), at(2)) && Math.abs(places.through) < core[places.node]) weight[p] *= NOTHING;
    }
  }
  return { ...grid, weight };
}
