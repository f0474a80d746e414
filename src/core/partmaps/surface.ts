import { acrossEdges, edgeTable, facets, type EdgeTable } from '../geometry/edges';
import type { TriangleMesh } from '../geometry/mesh';
import { refine } from '../geometry/refine';
import { SurfaceTree } from '../geometry/surfaceTree';

/** A surface prepared for maps: evenly small facets, their neighbours, and a tree over them. */
export interface MapSurface {
  mesh: TriangleMesh;
  n: number;
  /** Facet normals, areas and centroids. */
  normals: Float64Array;
  areas: Float64Array;
  centroids: Float64Array;
  /** Normals at the centroids of the curved surface the facets stand for. */
  smoothNormals: Float64Array;
  edges: EdgeTable;
  across: Int32Array;
  corners: CornersAround;
  tree: SurfaceTree;
}

/** Corners (3 triangle + 0, 1 or 2) that meet at each vertex: `corner[start[v]] … corner[start[v + 1] - 1]`. */
export interface CornersAround {
  start: Int32Array;
  corner: Int32Array;
}

function cornersAround({ positions, triangles: t }: TriangleMesh): CornersAround {
  const nVertices = positions.length / 3;
  const start = new Int32Array(nVertices + 1);
  for (let c = 0; c < t.length; c++) start[t[c] + 1]++;
  for (let v = 0; v < nVertices; v++) start[v + 1] += start[v];
  const corner = new Int32Array(t.length);
  const fill = start.slice();
  for (let c = 0; c < t.length; c++) corner[fill[t[c]]++] = c;
  return { start, corner };
}

/** Faces that meet at more than this belong to different surfaces. */
export const CREASE = Math.cos((35 * Math.PI) / 180);
const MAX_FACETS = 160_000;

/** Splits long edges so that values over facets show how the wall varies; `maxEdge` in m. */
export function mapSurface(input: TriangleMesh, maxEdge: number): MapSurface {
  const mesh = refine(input, maxEdge, MAX_FACETS);
  const edges = edgeTable(mesh);
  const across = acrossEdges(edges);
  const own = facets(mesh);
  const corners = cornersAround(mesh);
  return {
    mesh,
    n: mesh.triangles.length / 3,
    ...own,
    smoothNormals: smoothNormals(mesh, own.normals, corners),
    edges,
    across,
    corners,
    tree: new SurfaceTree(mesh),
  };
}

/**
 * Normals at facet centroids: the mean over the facet's corners of the angle-weighted normals there,
 * across edges softer than a crease. Within a strip of a cylinder this is the cylinder's own normal,
 * while the facet's is off by up to a third of a step.
 */
function smoothNormals(mesh: TriangleMesh, normals: Float64Array, around: CornersAround): Float64Array {
  const { positions: p, triangles: t } = mesh;
  const n = t.length / 3;
  const { start, corner } = around;
  const angle = new Float64Array(t.length);
  for (let c = 0; c < t.length; c++) angle[c] = cornerAngle(p, t, c);
  const out = new Float64Array(3 * n);
  for (let i = 0; i < n; i++) {
    const [nx, ny, nz] = [normals[3 * i], normals[3 * i + 1], normals[3 * i + 2]];
    let [sx, sy, sz] = [0, 0, 0];
    for (let c = 3 * i; c < 3 * i + 3; c++) {
      let [cx, cy, cz] = [0, 0, 0];
      for (let k = start[t[c]]; k < start[t[c] + 1]; k++) {
        const f = 3 * Math.floor(corner[k] / 3);
        if (normals[f] * nx + normals[f + 1] * ny + normals[f + 2] * nz < CREASE) continue;
        const w = angle[corner[k]];
        cx += w * normals[f];
        cy += w * normals[f + 1];
        cz += w * normals[f + 2];
      }
      const length = Math.sqrt(cx * cx + cy * cy + cz * cz) || 1;
      sx += cx / length;
      sy += cy / length;
      sz += cz / length;
    }
    const length = Math.sqrt(sx * sx + sy * sy + sz * sz);
    out[3 * i] = length > 0 ? sx / length : nx;
    out[3 * i + 1] = length > 0 ? sy / length : ny;
    out[3 * i + 2] = length > 0 ? sz / length : nz;
  }
  return out;
}

function cornerAngle(p: Float64Array, t: Uint32Array, c: number): number {
  const base = c - (c % 3);
  const a = 3 * t[c];
  const b = 3 * t[base + ((c + 1) % 3)];
  const d = 3 * t[base + ((c + 2) % 3)];
  const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
  const [vx, vy, vz] = [p[d] - p[a], p[d + 1] - p[a + 1], p[d + 2] - p[a + 2]];
  const dot = ux * vx + uy * vy + uz * vz;
  const cx = uy * vz - uz * vy;
  const cy = uz * vx - ux * vz;
  const cz = ux * vy - uy * vx;
  return Math.atan2(Math.sqrt(cx * cx + cy * cy + cz * cz), dot);
}

/** Corners of every facet, 9 numbers each. */
export function facetCorners({ positions, triangles }: TriangleMesh): Float64Array {
  const out = new Float64Array(3 * triangles.length);
  for (let c = 0; c < triangles.length; c++)
    for (let d = 0; d < 3; d++) out[3 * c + d] = positions[3 * triangles[c] + d];
  return out;
}
