import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { mapSurface, type MapSurface } from '../partmaps/surface';
import { PointMapper } from './surfaceMap';
import type { FineGrid } from './grid';
import type { PressureGrid } from './pressureGrid';

/** A direction that no plane wall of a part lies along: it tells the two sides of every wall apart. */
const SKEW: Vec3 = [0.2179, 0.1513, 0.9642];

/** 0 for a facet that counts as the first side of its wall, 1 for the second: walls facing up, or else outwards along +x or +y, come first. */
export const sideOfNormal = (x: number, y: number, z: number): 0 | 1 =>
  x * SKEW[0] + y * SKEW[1] + z * SKEW[2] >= 0 ? 0 : 1;

/** Facets of the part's surface and the nodes whose walls they are. */
export interface WallSides {
  surface: MapSurface;
  /** Facets that node i side h looks at: `facet[start[2i+h]] … facet[start[2i+h+1] - 1]`, weights sum to 1. */
  start: Int32Array;
  facet: Int32Array;
  weight: Float64Array;
}

/** Farther than this many wall thicknesses a facet does not look through a wall. */
const ALONG = 2;
/** Longest edge of a facet over the spacing of the nodes. */
export const FACET_EDGE = 2;

/**
 * Each facet looks through the wall to the one behind it; every node on the way is given it as the wall of its side.
 * Nodes that none looks through take the facets of their neighbours.
 */
export function wallSides(mesh: TriangleMesh, fine: FineGrid, grid: PressureGrid): WallSides {
  const surface = mapSurface(mesh, FACET_EDGE * grid.spacing);
  const mapper = new PointMapper(fine, grid);
  const found: Map<number, number>[] = Array.from({ length: 2 * grid.n }, () => new Map());
  const { n, centroids: c, normals: m, areas, tree } = surface;
  const skin = 1e-3 * grid.spacing;
  for (let i = 0; i < n; i++) {
    const [nx, ny, nz] = [m[3 * i], m[3 * i + 1], m[3 * i + 2]];
    const [x, y, z] = [c[3 * i] - skin * nx, c[3 * i + 1] - skin * ny, c[3 * i + 2] - skin * nz];
    const side = sideOfNormal(nx, ny, nz);
    const hit = tree.ray(x, y, z, -nx, -ny, -nz, 0, Infinity, false, i);
    const inset = 0.25 * grid.spacing;
    const first = mapper.nodeAt(x - inset * nx, y - inset * ny, z - inset * nz);
    if (first < 0) continue;
    const wall = hit < 0 ? inset : tree.distance;
    // An edge of a plate looks along it, not through it: it cools what is next to it only.
    const depth = wall > ALONG * grid.thickness[first] ? 0.5 * grid.thickness[first] : wall;
    const steps = Math.max(1, Math.ceil(depth / (0.5 * grid.spacing)));
    for (let s = 0; s < steps; s++) {
      const at = ((s + 0.5) / steps) * depth;
      const node = mapper.nodeAt(x - at * nx, y - at * ny, z - at * nz);
      if (node < 0) continue;
      const list = found[2 * node + side];
      list.set(i, (list.get(i) ?? 0) + areas[i] / steps);
    }
  }
  spread(found, grid);
  return { surface, ...packed(found) };
}

/** A side with less wall than this share of what its volume asks for looks at its neighbours' wall too. */
const ENOUGH = 0.3;
const RINGS = 6;

/**
 * Sides with no facets, or with slivers only, share those of the neighbours' same side, ring by ring, so that no
 * facet has to take the heat of more plastic than lies behind it; at last those of the other side.
 */
function spread(found: Map<number, number>[], grid: PressureGrid): void {
  const own = found.map(areaOf);
  const wanted = (k: number) => (ENOUGH * grid.volume[k >> 1]) / Math.max(grid.thickness[k >> 1], 1e-6);
  for (let k = 0; k < found.length; k++) {
    let area = own[k];
    if (area >= wanted(k) && area > 0) continue;
    const [node, side] = [k >> 1, k & 1];
    const seen = new Set([node]);
    let ring = [node];
    const list = new Map(found[k]);
    for (let r = 0; r < RINGS && (area < wanted(k) || !(area > 0)); r++) {
      const next: number[] = [];
      for (const i of ring)
        for (let at = grid.rowStart[i]; at < grid.rowStart[i + 1]; at++) {
          const j = grid.rowNode[at];
          if (seen.has(j)) continue;
          seen.add(j);
          next.push(j);
          if (own[2 * j + side] < wanted(2 * j + side)) continue;
          for (const [f, w] of found[2 * j + side]) list.set(f, (list.get(f) ?? 0) + w);
          area += own[2 * j + side];
        }
      ring = next;
    }
    // Lists of rich neighbours stay as they are: only poor ones are replaced.
    found[k] = list;
  }
  for (let k = 0; k < found.length; k++) if (!(areaOf(found[k]) > 0)) found[k] = new Map(found[k ^ 1]);
}

const areaOf = (list: Map<number, number>) => {
  let sum = 0;
  for (const w of list.values()) sum += w;
  return sum;
};

function packed(found: Map<number, number>[]): Pick<WallSides, 'start' | 'facet' | 'weight'> {
  const start = new Int32Array(found.length + 1);
  found.forEach((list, k) => (start[k + 1] = start[k] + list.size));
  const facet = new Int32Array(start[found.length]);
  const weight = new Float64Array(facet.length);
  found.forEach((list, k) => {
    const sum = [...list.values()].reduce((s, w) => s + w, 0);
    let at = start[k];
    for (const [f, w] of list) {
      facet[at] = f;
      weight[at++] = w / sum;
    }
  });
  return { start, facet, weight };
}
