import { dot } from '../geometry/vec';
import type { Vec3 } from '../geometry/mesh';
import type { MapSurface } from '../partmaps/surface';
import type { PressureGrid } from './pressureGrid';
import type { PointMapper } from './surfaceMap';

/** Farther than this many wall thicknesses a facet does not look through a wall: an edge of a plate looks along it. */
const ALONG = 2;

/** A facet, the one behind the wall before it, and how far away that is, m. */
export interface Look {
  facet: number;
  behind: number;
  distance: number;
}

/** Has every facet look through its wall, and shows each look to the nodes between, once for every half a node on the way. */
export function throughWalls(
  { n, centroids: c, normals: m, tree }: MapSurface,
  mapper: PointMapper,
  grid: PressureGrid,
  show: (look: Look, node: number) => void,
): void {
  const skin = 1e-3 * grid.spacing;
  for (let facet = 0; facet < n; facet++) {
    const at = (d: number, depth: number) => c[3 * facet + d] - depth * m[3 * facet + d];
    const nodeAt = (depth: number) => mapper.nodeAt(at(0, depth), at(1, depth), at(2, depth));
    const [x, y, z] = [0, 1, 2].map((d) => at(d, skin));
    const [u, v, w] = [0, 1, 2].map((d) => -m[3 * facet + d]);
    const behind = tree.ray(x, y, z, u, v, w, 0, Infinity, false, facet);
    if (behind < 0) continue;
    const { distance } = tree;
    const first = nodeAt(0.25 * grid.spacing);
    if (first < 0 || distance > ALONG * grid.thickness[first]) continue;
    const look = { facet, behind, distance };
    for (let depth = 0.25 * grid.spacing; depth < distance; depth += 0.5 * grid.spacing) {
      const node = nodeAt(depth);
      if (node >= 0) show(look, node);
    }
  }
}

/**
 * By how much of itself the wall of every node grows per gap between the halves, 1/m: what the opening direction has
 * across the wall, over the wall. Nodes at edges, through which nobody looks, take it from those around.
 */
export function wallGrowth(surface: MapSurface, mapper: PointMapper, grid: PressureGrid, opening: Vec3): Float64Array {
  const { normals, areas } = surface;
  const growth = new Float64Array(grid.n);
  const seen = new Float64Array(grid.n);
  throughWalls(surface, mapper, grid, ({ facet, distance }, node) => {
    const across = Math.abs(dot([normals[3 * facet], normals[3 * facet + 1], normals[3 * facet + 2]], opening));
    growth[node] += (areas[facet] * across) / distance;
    seen[node] += areas[facet];
  });
  for (let i = 0; i < grid.n; i++) if (seen[i] > 0) growth[i] /= seen[i];
  spreadToBlind(grid, growth, 1, seen);
  return growth;
}

/**
 * Values of `width` a node for the nodes no facet looks through (`seen` nothing of): the mean of the linked nodes that have
 * one, by transmissibility, from link to link until none is left that could get one. `seen` becomes 1 where it gave one.
 */
export function spreadToBlind(grid: PressureGrid, values: Float64Array, width: number, seen: Float64Array): void {
  let blind = [...seen.keys()].filter((i) => !(seen[i] > 0));
  for (let left = Infinity; blind.length < left;) {
    left = blind.length;
    const found: number[] = [];
    for (const i of blind) {
      let weight = 0;
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
        const j = grid.rowNode[k];
        if (!(seen[j] > 0)) continue;
        const w = grid.transmissibility[grid.rowLink[k]];
        weight += w;
        for (let d = 0; d < width; d++) values[width * i + d] += w * values[width * j + d];
      }
      if (!(weight > 0)) continue;
      for (let d = 0; d < width; d++) values[width * i + d] /= weight;
      found.push(i);
    }
    for (const i of found) seen[i] = 1;
    blind = blind.filter((i) => !(seen[i] > 0));
  }
}
