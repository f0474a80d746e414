import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { drawnSurface } from './drawnSurface';
import { cross, dot, eigen, normalised, sub, vertexAt } from '../geometry/vec';
import type { FineGrid } from './grid';
import type { Lattice } from './lattice';
import type { PressureGrid } from './pressureGrid';

/** Values at points as weighted means of node values: WEIGHTS node numbers and weights (0..255) each. */
export interface PointMap {
  nodes: Int32Array;
  weights: Uint8Array;
}

/** The surface to draw: fine enough that linear colours follow the grid. */
export interface SurfaceMap extends PointMap {
  /** Float32, m */
  positions: Float32Array;
  triangles: Uint32Array;
}

export const WEIGHTS = 8;

/** The parts of the two grids that finding points needs; the page has no more than these. */
export interface MapperFine {
  lattice: Lattice;
  cells: { n: number; index: Int32Array; volume: ArrayLike<number> };
}
export interface MapperGrid extends Pick<PressureGrid, 'spacing' | 'nodeOfCell' | 'rowStart' | 'rowNode'> {
  position: ArrayLike<number>;
}

/** Finds, for points in or on the part, the nodes whose values they show. */
export class PointMapper {
  private readonly cellAt: Map<number, number>;

  constructor(
    private readonly fine: MapperFine,
    private readonly grid: MapperGrid,
  ) {
    this.cellAt = new Map();
    const { cells } = fine;
    for (let c = 0; c < cells.n; c++) this.cellAt.set(cells.index[c], c);
  }

  /** How far inwards of the surface the cells of a point are looked for, m. */
  get inset(): number {
    return 0.3 * this.fine.lattice.spacing;
  }

  /** Node of the fine cell at a point, or of the fullest cell around it; -1 when there is none. */
  nodeAt(x: number, y: number, z: number): number {
    const { lattice, cells } = this.fine;
    const { origin, spacing, nx, ny, nz } = lattice;
    const i = Math.floor((x - origin[0]) / spacing);
    const j = Math.floor((y - origin[1]) / spacing);
    const k = Math.floor((z - origin[2]) / spacing);
    const enough = 0.05 * spacing ** 3;
    const own = this.cellAt.get(i + nx * (j + ny * k));
    if (own !== undefined && cells.volume[own] > enough) return this.grid.nodeOfCell[own];
    let best = 0;
    let node = -1;
    for (let dk = -1; dk <= 1; dk++) {
      for (let dj = -1; dj <= 1; dj++) {
        for (let di = -1; di <= 1; di++) {
          const [a, b, c] = [i + di, j + dj, k + dk];
          if (a < 0 || b < 0 || c < 0 || a >= nx || b >= ny || c >= nz) continue;
          const cell = this.cellAt.get(a + nx * (b + ny * c));
          if (cell === undefined) continue;
          // Nearer cells first; among equals the fuller one.
          const score = cells.volume[cell] / spacing ** 3 / (1 + di * di + dj * dj + dk * dk);
          if (score > best) {
            best = score;
            node = this.grid.nodeOfCell[cell];
          }
        }
      }
    }
    return node;
  }

  /**
   * Tent weights over the node and what it is linked to within two steps: neighbours across an air gap
   * never mix in. The nodes' Cartesian centres carry linear fields along a wall exactly. Node and share, the
   * largest first, at most WEIGHTS.
   */
  sharesAt(p: readonly number[], node: number): [number, number][] {
    const { grid } = this;
    const found: [number, number][] = [];
    let total = 0;
    for (const j of this.around(node, 2)) {
      let w = 1;
      for (let d = 0; d < 3; d++) w *= Math.max(0, 1 - Math.abs(p[d] - grid.position[3 * j + d]) / grid.spacing);
      if (w <= 0) continue;
      found.push([j, w]);
      total += w;
    }
    if (total < 1e-3) return [[node, 1]];
    found.sort((a, b) => b[1] - a[1]);
    return found.slice(0, WEIGHTS).map(([j, w]) => [j, w / total]);
  }

  /** The same as bytes, from place `at` of the two arrays on. */
  weightsAt(p: readonly number[], node: number, nodes: Int32Array, weights: Uint8Array, at: number): void {
    const shares = this.sharesAt(p, node);
    for (let s = 0; s < WEIGHTS; s++) {
      nodes[at + s] = shares[s]?.[0] ?? node;
      weights[at + s] = Math.round(255 * (shares[s]?.[1] ?? 0));
    }
  }

  /** The node and those that it is linked to within a number of steps. */
  around(node: number, steps: number): Set<number> {
    const { rowStart, rowNode } = this.grid;
    const set = new Set([node]);
    for (let step = 0, ring = [node]; step < steps; step++) {
      const next: number[] = [];
      for (const i of ring) {
        for (let k = rowStart[i]; k < rowStart[i + 1]; k++) {
          if (set.has(rowNode[k])) continue;
          set.add(rowNode[k]);
          next.push(rowNode[k]);
        }
      }
      ring = next;
    }
    return set;
  }
}

/** The drawing surface of a mesh with its map to the nodes. */
export function surfaceMap(mesh: TriangleMesh, fine: FineGrid, grid: PressureGrid): SurfaceMap {
  const dense = drawnSurface(mesh, grid.spacing);
  const mapper = new PointMapper(fine, grid);
  const n = dense.positions.length / 3;
  const normals = vertexNormals(dense);
  const nodes = new Int32Array(WEIGHTS * n);
  const weights = new Uint8Array(WEIGHTS * n);
  const { inset } = mapper;
  for (let v = 0; v < n; v++) {
    const p: [number, number, number] = [
      dense.positions[3 * v],
      dense.positions[3 * v + 1],
      dense.positions[3 * v + 2],
    ];
    const node = mapper.nodeAt(
      p[0] - inset * normals[3 * v],
      p[1] - inset * normals[3 * v + 1],
      p[2] - inset * normals[3 * v + 2],
    );
    if (node >= 0) mapper.weightsAt(p, node, nodes, weights, WEIGHTS * v);
  }
  return { positions: Float32Array.from(dense.positions), triangles: dense.triangles, nodes, weights };
}

/** Area-weighted unit vertex normals. */
export function vertexNormals({
  positions: p,
  triangles: t,
}: {
  positions: ArrayLike<number>;
  triangles: ArrayLike<number>;
}): Float64Array {
  const normals = new Float64Array(p.length);
  for (let i = 0; i < t.length; i += 3) {
    const [a, b, c] = [3 * t[i], 3 * t[i + 1], 3 * t[i + 2]];
    const u = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const v = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    for (const corner of [a, b, c]) for (let d = 0; d < 3; d++) normals[corner + d] += n[d];
  }
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i], normals[i + 1], normals[i + 2]) || 1;
    for (let d = 0; d < 3; d++) normals[i + d] /= length;
  }
  return normals;
}

/** Cosine of the angle between a face and the mean of those at a vertex above which the surface is smooth there. */
const SMOOTH = Math.cos((20 * Math.PI) / 180);
/** Share of the faces' normals the other ways above which three faces meet. */
const CORNER = 0.05;

/**
 * The direction along the sharp edge at each vertex of a surface, 3 a vertex: NaN where the surface is smooth, 0 at
 * corners, where no direction lies in all faces. `normals` are those of the vertices.
 */
export function edgeDirections(
  { positions, triangles }: { positions: ArrayLike<number>; triangles: ArrayLike<number> },
  normals: Float64Array,
): Float64Array {
  const out = new Float64Array(positions.length).fill(NaN);
  const sharp = new Map<number, number[]>();
  const eachFace = (visit: (vertices: number[], corners: Vec3[], normal: Vec3) => void) => {
    for (let i = 0; i < triangles.length; i += 3) {
      const vertices = [triangles[i], triangles[i + 1], triangles[i + 2]];
      const corners = vertices.map((v) => vertexAt(positions, v));
      visit(vertices, corners, normalised(cross(sub(corners[1], corners[0]), sub(corners[2], corners[0]))));
    }
  };
  eachFace((vertices, _corners, normal) => {
    for (const v of vertices) if (dot(vertexAt(normals, v), normal) < SMOOTH) sharp.set(v, [0, 0, 0, 0, 0, 0, 0, 0, 0]);
  });
  if (!sharp.size) return out;
  // Faces count by their angle at the vertex, so it does not matter how they are cut into triangles.
  eachFace((vertices, corners, n) =>
    vertices.forEach((vertex, k) => {
      const sum = sharp.get(vertex);
      if (!sum) return;
      const [a, b, c] = [corners[k], corners[(k + 1) % 3], corners[(k + 2) % 3]];
      const cosine = dot(normalised(sub(b, a)), normalised(sub(c, a)));
      const angle = Math.acos(Math.max(-1, Math.min(1, cosine)));
      for (let i = 0; i < 9; i++) sum[i] += angle * n[Math.floor(i / 3)] * n[i % 3];
    }),
  );
  for (const [vertex, sum] of sharp) {
    const { values, vectors } = eigen([sum.slice(0, 3), sum.slice(3, 6), sum.slice(6)]);
    const isCorner = values[2] > CORNER * (values[0] + values[1] + values[2]);
    out.set(isCorner ? [0, 0, 0] : vectors[2], 3 * vertex);
  }
  return out;
}
