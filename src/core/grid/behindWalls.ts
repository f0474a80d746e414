import { boundsOf, type Bounds, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import { add, vertexAt } from '../geometry/vec';
import type { FineGrid } from './grid';
import type { PressureGrid } from './pressureGrid';
import { wallSides, type WallSides } from './wallSides';

/** A length [m] of a body on the way out of a wall: which body, and where the way enters it. */
export interface Passage {
  body: number;
  length: number;
  entry: Vec3;
}

/** What lies behind one side of a node, from the melt outwards. */
export interface Beyond {
  passages: Passage[];
  /** Out of the wall. */
  direction: Vec3;
  /** The way ends at another wall of the same melt: the node there and its side; null: at the mould. */
  melt: { node: number; side: 0 | 1 } | null;
}

export interface BehindWalls {
  walls: WallSides;
  /** Entry of `list` for first and second wall of every node, length 2n; -1: the mould. */
  of: Int32Array;
  list: Beyond[];
  /** Body that each facet of `walls.surface` lies against; -1: the mould. */
  bodyOf: Int16Array;
  /** Length of that body behind the facet, m; 0: none. */
  depth: Float32Array;
}

/** Gap between surfaces that are meant to be one, over the cell, and never less than, m. */
const GAP = 0.05;
const LEAST_GAP = 1e-5;
/** Most bodies behind each other. */
const MOST_PASSAGES = 4;
/** Share of a side's facets that have a body behind them from which on the side has. */
const BACKED = 0.5;

/**
 * Bodies behind the walls of a part: every facet looks outwards from its own surface, along its normal, through all that
 * lies there, up to the mould or to another wall of the same part. Each side of a node takes what most of its wall sees.
 */
export function behindWalls(
  mesh: TriangleMesh,
  fine: FineGrid,
  grid: PressureGrid,
  bodies: readonly TriangleMesh[],
): BehindWalls {
  const walls = wallSides(mesh, fine, grid);
  const { surface } = walls;
  const gap = Math.max(LEAST_GAP, GAP * fine.lattice.spacing);
  const solids = bodies.map((body) => ({ tree: new SurfaceTree(body), box: boundsOf(body.positions) }));
  const own = new SurfaceTree(mesh);
  const lookers = sidesOfFacets(walls);
  const bodyOf = new Int16Array(surface.n).fill(-1);
  const depth = new Float32Array(surface.n);
  const seen: (Beyond | null)[] = Array.from({ length: surface.n }, (_, f) => {
    const direction = vertexAt(surface.normals, f);
    const beyond = lookOut(vertexAt(surface.centroids, f), direction, solids, own, gap);
    if (!beyond) return null;
    bodyOf[f] = beyond.passages[0].body;
    depth[f] = beyond.passages[0].length;
    return {
      passages: beyond.passages,
      direction,
      melt: (beyond.end && lookers.get(surface.tree.closest(...beyond.end))) || null,
    };
  });
  const of = new Int32Array(2 * grid.n).fill(-1);
  const list: Beyond[] = [];
  for (let k = 0; k < of.length; k++) {
    const found = ofSide(walls, k, seen);
    if (found) of[k] = list.push(found) - 1;
  }
  return { walls, of, list, bodyOf, depth };
}

interface SolidBody {
  tree: SurfaceTree;
  box: Bounds;
}

const holds = ({ tree, box }: SolidBody, p: Vec3): boolean =>
  p.every((x, d) => x >= box.min[d] && x <= box.max[d]) && tree.inside(...p);

/** Passages along a direction from a point on the part's surface; null where the mould begins at once. */
function lookOut(
  from: Vec3,
  direction: Vec3,
  solids: readonly SolidBody[],
  own: SurfaceTree,
  gap: number,
): { passages: Passage[]; end: Vec3 | null } | null {
  const passages: Passage[] = [];
  let at = from;
  for (let k = 0; k < MOST_PASSAGES; k++) {
    const next = add(at, direction, gap);
    const body = solids.findIndex((solid, b) => !passages.some((p) => p.body === b) && holds(solid, next));
    if (body < 0) {
      if (!passages.length) return null;
      return { passages, end: own.inside(...next) ? next : null };
    }
    const { tree } = solids[body];
    const rest = tree.ray(...next, ...direction, 0, Infinity) < 0 ? 0 : tree.distance;
    passages.push({ body, length: gap + rest, entry: next });
    at = add(next, direction, rest);
  }
  return { passages, end: null };
}

/** Node and side that look at each facet most. */
function sidesOfFacets({ start, facet, weight }: WallSides): Map<number, NonNullable<Beyond['melt']>> {
  const most = new Map<number, number>();
  const found = new Map<number, NonNullable<Beyond['melt']>>();
  for (let k = 0; k + 1 < start.length; k++)
    for (let i = start[k]; i < start[k + 1]; i++) {
      if (weight[i] <= (most.get(facet[i]) ?? 0)) continue;
      most.set(facet[i], weight[i]);
      found.set(facet[i], { node: k >> 1, side: (k & 1) as 0 | 1 });
    }
  return found;
}

/** What most of the facets of a side see; thicknesses are their mean. */
function ofSide({ start, facet, weight }: WallSides, k: number, seen: readonly (Beyond | null)[]): Beyond | null {
  let backed = 0;
  const kinds = new Map<string, { share: number; best: number; of: Beyond; lengths: number[] }>();
  for (let i = start[k]; i < start[k + 1]; i++) {
    const beyond = seen[facet[i]];
    if (!beyond) continue;
    backed += weight[i];
    const name = `${beyond.passages.map((p) => p.body).join()}${beyond.melt ? '*' : ''}`;
    let kind = kinds.get(name);
    if (!kind) kinds.set(name, (kind = { share: 0, best: 0, of: beyond, lengths: beyond.passages.map(() => 0) }));
    kind.share += weight[i];
    beyond.passages.forEach((p, j) => (kind.lengths[j] += weight[i] * p.length));
    if (weight[i] > kind.best) [kind.best, kind.of] = [weight[i], beyond];
  }
  if (backed < BACKED) return null;
  const [kind] = [...kinds.values()].sort((a, b) => b.share - a.share);
  return { ...kind.of, passages: kind.of.passages.map((p, j) => ({ ...p, length: kind.lengths[j] / kind.share })) };
}
