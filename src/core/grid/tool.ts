import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { add, dot, frameOn, scale } from '../geometry/vec';
import { moulding, partingEdges, SIDE, type Moulding } from '../partmaps/moulding';
import { mapSurface, type MapSurface } from '../partmaps/surface';
import { PointMapper } from './surfaceMap';
import { throughWalls, wallGrowth } from './throughWalls';
import type { FineGrid } from './grid';
import type { PressureGrid } from './pressureGrid';

/** What the grid must know of the tool, whose halves part along its opening direction. Arrays have one entry per node. */
export interface ToolOnGrid {
  /** 1 where the parting line touches the node: air gets out there. */
  vented: Uint8Array;
  /** Length of the parting line, m. */
  partingLength: number;
  /** Area seen along the opening direction, m2: clamp force = sum of pressure x area. */
  projectedArea: Float64Array;
  /** Half that forms the first and second wall of the node, 0 upper, 1 lower (2 per node). */
  halfOf: Uint8Array;
  /** By how much of itself the wall of a node grows per gap between the halves, 1/m; null where nobody asks. */
  growth: Float64Array | null;
}

/** What a tool on the grid is to know besides. */
export interface ToolAsked {
  halves: boolean;
  growth: boolean;
}

/**
 * The tool around a part on its grid. `partingHeight` in m along `opening` (a unit vector), or null for where the
 * halves meet; halves that are not asked for leave `halfOf` at 0.
 */
export function toolOnGrid(
  mesh: TriangleMesh,
  fine: FineGrid,
  grid: PressureGrid,
  { opening, partingHeight }: { opening: Vec3; partingHeight: number | null },
  asked: ToolAsked = { halves: true, growth: false },
): ToolOnGrid {
  // Which half forms a wall shows on large facets too; small ones are only needed to look through walls.
  const surface = mapSurface(mesh, (asked.halves || asked.growth ? 3 : 24) * grid.spacing);
  const halves = moulding(surface, opening, partingHeight);
  const mapper = new PointMapper(fine, grid);
  return {
    ...partingLine(surface, halves, mapper, grid),
    projectedArea: projectedAreas(surface, fine, mapper, grid, opening),
    halfOf: asked.halves ? wallHalves(surface, halves, mapper, grid) : new Uint8Array(2 * grid.n),
    growth: asked.growth ? wallGrowth(surface, mapper, grid, opening) : null,
  };
}

/** Nodes along the edges at which the two halves of the mould meet. */
function partingLine(surface: MapSurface, halves: Moulding, mapper: PointMapper, grid: PressureGrid) {
  const vented = new Uint8Array(grid.n);
  let partingLength = 0;
  const { positions: p } = surface.mesh;
  for (const [a, b] of partingEdges(surface, halves)) {
    const length = Math.hypot(p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]);
    partingLength += length;
    const steps = Math.max(1, Math.ceil((2 * length) / grid.spacing));
    for (let s = 0; s <= steps; s++) {
      const at = (d: number) => p[a + d] + (s / steps) * (p[b + d] - p[a + d]);
      const node = mapper.nodeAt(at(0), at(1), at(2));
      if (node >= 0) vented[node] = 1;
    }
  }
  return { vented, partingLength };
}

/** Distance of the rays that take the shadow, fine cells, and the turn of their rows, which keeps them off faces, rad. */
const RAY_PITCH = 1;
const RAY_TURN = 0.41;

/**
 * Shadow of the part on the parting plane, each spot once: rays against the opening direction, in even rows that lie
 * askew to the part, each giving its share of the plane to the node below the surface that it meets first.
 */
function projectedAreas(
  { tree, mesh }: MapSurface,
  fine: FineGrid,
  mapper: PointMapper,
  grid: PressureGrid,
  opening: Vec3,
): Float64Array {
  const area = new Float64Array(grid.n);
  const pitch = RAY_PITCH * fine.lattice.spacing;
  const [a, b] = frameOn(opening);
  const [c, s] = [Math.cos(RAY_TURN), Math.sin(RAY_TURN)];
  const u = add(scale(a, c), b, s);
  const v = add(scale(a, -s), b, c);
  const { positions: p } = mesh;
  const low = [Infinity, Infinity];
  const high = [-Infinity, -Infinity];
  let top = -Infinity;
  for (let k = 0; k < p.length; k += 3) {
    const at: Vec3 = [p[k], p[k + 1], p[k + 2]];
    [dot(at, u), dot(at, v)].forEach((x, d) => {
      low[d] = Math.min(low[d], x);
      high[d] = Math.max(high[d], x);
    });
    top = Math.max(top, dot(at, opening));
  }
  const depth = 0.5 * fine.lattice.spacing;
  const above = add(scale(opening, top), opening, pitch);
  for (let y = low[1] + pitch / 2; y < high[1]; y += pitch)
    for (let x = low[0] + pitch / 2; x < high[0]; x += pitch) {
      const from = add(add(above, u, x), v, y);
      if (tree.ray(from[0], from[1], from[2], -opening[0], -opening[1], -opening[2], 0, Infinity) < 0) continue;
      const at = add(from, opening, -tree.distance - depth);
      const node = mapper.nodeAt(at[0], at[1], at[2]);
      if (node >= 0) area[node] += pitch * pitch;
    }
  return area;
}

const VOTES = 3;

/** Each facet looks through the wall to the one behind it; the nodes between take the pair of halves. */
function wallHalves(surface: MapSurface, { side }: Moulding, mapper: PointMapper, grid: PressureGrid): Uint8Array {
  const votes = new Float32Array(VOTES * grid.n);
  const half = (i: number) => (side[i] === SIDE.upper ? 0 : 1);
  throughWalls(surface, mapper, grid, ({ facet, behind }, node) => {
    votes[VOTES * node + half(facet) + half(behind)] += surface.areas[facet];
  });
  const halfOf = new Uint8Array(2 * grid.n);
  for (let i = 0; i < grid.n; i++) {
    const [both0, mixed, both1] = [votes[VOTES * i], votes[VOTES * i + 1], votes[VOTES * i + 2]];
    if (mixed >= both0 && mixed >= both1) halfOf[2 * i + 1] = 1;
    else if (both1 > both0) halfOf[2 * i] = halfOf[2 * i + 1] = 1;
  }
  return halfOf;
}
