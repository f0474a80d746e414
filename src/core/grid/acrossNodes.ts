import type { TriangleMesh } from '../geometry/mesh';
import { addDyad, eigen } from '../geometry/vec';
import { mapSurface } from '../partmaps/surface';
import type { FineGrid } from './grid';
import type { PressureGrid } from './pressureGrid';
import { PointMapper } from './surfaceMap';
import { spreadToBlind, throughWalls } from './throughWalls';
import { FACET_EDGE, sideOfNormal } from './wallSides';

/** Worked out once for a grid: phases and results of a shot ask for the same. */
const known = new WeakMap<PressureGrid, Float64Array>();

/**
 * Unit directions across the wall of every node, from its first side to its second; 3 a node. The main axis of the normals of
 * the facets that look through it, by area; of the nodes linked to it where none does (rims, where what a node holds is cut off
 * from one of the walls), and of the gradients of the wall function where no node linked has one either.
 */
export function acrossNodes(mesh: TriangleMesh, fine: FineGrid, grid: PressureGrid): Float64Array {
  const made = known.get(grid) ?? directions(mesh, fine, grid);
  known.set(grid, made);
  return made;
}

function directions(mesh: TriangleMesh, fine: FineGrid, grid: PressureGrid): Float64Array {
  const dyads = new Float64Array(6 * grid.n);
  const surface = mapSurface(mesh, FACET_EDGE * grid.spacing);
  const { normals, areas } = surface;
  const seen = new Float64Array(grid.n);
  throughWalls(surface, new PointMapper(fine, grid), grid, ({ facet }, node) => {
    seen[node] += areas[facet];
    addDyad(dyads, node, areas[facet], [normals[3 * facet], normals[3 * facet + 1], normals[3 * facet + 2]]);
  });
  for (let i = 0; i < grid.n; i++) if (seen[i] > 0) for (let c = 6 * i; c < 6 * i + 6; c++) dyads[c] /= seen[i];
  spreadToBlind(grid, dyads, 6, seen);
  const { cells } = fine;
  for (let c = 0; c < cells.n; c++) {
    const node = grid.nodeOfCell[c];
    if (node < 0 || seen[node] > 0) continue;
    addDyad(dyads, node, cells.volume[c], [cells.inward[3 * c], cells.inward[3 * c + 1], cells.inward[3 * c + 2]]);
  }
  const out = new Float64Array(3 * grid.n);
  for (let i = 0; i < grid.n; i++) {
    const [xx, yy, zz, xy, yz, xz] = dyads.subarray(6 * i, 6 * i + 6);
    const [n] = eigen([
      [xx, xy, xz],
      [xy, yy, yz],
      [xz, yz, zz],
    ]).vectors;
    // The first wall's normal leads out of it, against the way across.
    const sign = sideOfNormal(-n[0], -n[1], -n[2]) === 0 ? 1 : -1;
    for (let d = 0; d < 3; d++) out[3 * i + d] = sign * n[d];
  }
  return out;
}
