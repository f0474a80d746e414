import { facets } from '../geometry/edges';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { refine } from '../geometry/refine';
import { SurfaceTree } from '../geometry/surfaceTree';
import { addDyad, dot, eigen, vertexAt } from '../geometry/vec';
import type { FineGrid } from './grid';
import type { PressureGrid } from './pressureGrid';

/**
 * What the steel of the closed mould takes away of an even contraction, by node: shares along a direction in the wall and
 * square to it, 2 a node, 0 .. 1; and that direction, 3 a node.
 */
export interface ToolHold {
  share: Float32Array;
  along: Float32Array;
}

/** A face has its wall behind it when so many local walls below it there is no plastic any more. */
const BEHIND = 1.35;
/** Steel over a node's own links: what may not move does not. */
const STIFFNESS = 300;
/** Rounds in which edges touch the steel and let go again, and the share that may still change. */
const ROUNDS = 6;
const SETTLED = 5e-3;
const ITERATIONS = 1500;
const TOLERANCE = 1e-4;
/** Directions that links tell less of than this of the best lie across the wall. */
const LEAST_LINK = 0.02;
/** Less than this of the contraction is no hold. */
const NOTHING = 0.02;

/** A face of the part at a node: outward normal; whether its wall lies behind it, so that steel is on both sides. */
interface Face {
  node: number;
  normal: Vec3;
  /** Share of the node's surface. */
  weight: number;
  walled: boolean;
  /** n x of the middle of the wall behind it, or of the node where there is none: where steel keeps the node, m. */
  place: number;
  /** n x of the face itself: a node that has moved past it is in the steel, m. */
  skin: number;
}

/**
 * What the tool holds of a part that wants to contract evenly in it. Walls slide between their two faces of steel but can
 * not leave them; edges, rims of holes and ends may come off their steel but not enter it. With w the movement plus the
 * contraction undone, the sum over links of conductance |w_j - w_i|^2 is least: a part without rotation stiffness and
 * Poisson's ratio 0, enough to tell what lies in the way of what. A plate is free, the walls of a box around its core are
 * held along it, the strip between two pins between them. null where nothing is held.
 */
export function toolHold(part: TriangleMesh, fine: FineGrid, grid: PressureGrid): ToolHold | null {
  const network = new Network(grid);
  const faces = facesOf(part, fine, grid);
  let touching = new Uint8Array(faces.length);
  let w = network.still();
  for (let round = 0; round < ROUNDS; round++) {
    w = network.solve(w, faces, touching);
    // Touched is what would enter the steel, and what presses on it already.
    const next = Uint8Array.from(faces, ({ node, normal, walled, place, skin }, k) =>
      !walled && dot(normal, vertexAt(w, node)) > (touching[k] ? place : skin) ? 1 : 0,
    );
    const changed = next.reduce((s, t, k) => s + (t === touching[k] ? 0 : 1), 0);
    touching = next;
    if (round > 0 && changed <= SETTLED * faces.length) break;
  }
  return sharesOf(network, w, acrossOf(faces, grid.n));
}

/** Links of the part's nodes: conductance area over length, from the transmissibility of a slab. */
class Network {
  readonly conductance: Float64Array;
  private readonly own: Float64Array;

  constructor(readonly grid: PressureGrid) {
    const { n, linkFrom, linkTo, transmissibility, wallGap } = grid;
    this.own = new Float64Array(n);
    this.conductance = transmissibility.map((t, l) => {
      const [a, b] = [wallGap[linkFrom[l]], wallGap[linkTo[l]]];
      const gap = (a * a + b * b) / 6;
      return gap > 0 ? t / gap : 0;
    });
    for (let l = 0; l < linkFrom.length; l++) {
      this.own[linkFrom[l]] += this.conductance[l];
      this.own[linkTo[l]] += this.conductance[l];
    }
  }

  /** Everything held: steel is at rest, and what is left over is the contraction alone. */
  still(): Float64Array {
    return Float64Array.from(this.grid.centroid);
  }

  /** Conjugate gradients from `start`, the diagonal blocks as preconditioner. */
  solve(start: Float64Array, faces: readonly Face[], touching: Uint8Array): Float64Array {
    const { grid, own } = this;
    const { n } = grid;
    // Steel: 6 of a symmetric block a node (xx yy zz xy yz xz).
    const steel = new Float64Array(6 * n);
    const right = new Float64Array(3 * n);
    faces.forEach(({ node, normal, weight, walled, place }, f) => {
      if (!walled && !touching[f]) return;
      const s = STIFFNESS * own[node] * weight;
      addDyad(steel, node, s, normal);
      for (let d = 0; d < 3; d++) right[3 * node + d] += s * place * normal[d];
    });
    const inverse = new Float64Array(6 * n);
    for (let i = 0; i < n; i++) invert(steel, own[i] || 1, 6 * i, inverse);
    const x = start.slice();
    const q = new Float64Array(3 * n);
    this.multiply(steel, x, q);
    const r = right.map((v, k) => v - q[k]);
    const z = new Float64Array(3 * n);
    addBlocks(inverse, r, z);
    const p = z.slice();
    let rz = dotOf(r, z);
    const end = TOLERANCE ** 2 * rz;
    for (let k = 0; k < ITERATIONS && rz > end && rz > 0; k++) {
      this.multiply(steel, p, q);
      const step = rz / dotOf(p, q);
      for (let j = 0; j < x.length; j++) {
        x[j] += step * p[j];
        r[j] -= step * q[j];
      }
      z.fill(0);
      addBlocks(inverse, r, z);
      const next = dotOf(r, z);
      for (let j = 0; j < x.length; j++) p[j] = z[j] + (next / rz) * p[j];
      rz = next;
    }
    return x;
  }

  private multiply(steel: Float64Array, x: Float64Array, y: Float64Array): void {
    const { n, rowStart, rowNode, rowLink } = this.grid;
    for (let i = 0; i < n; i++) {
      let a = 0;
      let b = 0;
      let c = 0;
      for (let k = rowStart[i]; k < rowStart[i + 1]; k++) {
        const g = this.conductance[rowLink[k]];
        const j = 3 * rowNode[k];
        a += g * (x[3 * i] - x[j]);
        b += g * (x[3 * i + 1] - x[j + 1]);
        c += g * (x[3 * i + 2] - x[j + 2]);
      }
      y[3 * i] = a;
      y[3 * i + 1] = b;
      y[3 * i + 2] = c;
    }
    addBlocks(steel, x, y);
  }
}

/** Adds symmetric blocks times x to y. */
function addBlocks(blocks: Float64Array, x: ArrayLike<number>, y: Float64Array): void {
  for (let i = 0; 3 * i < y.length; i++) {
    const k = 6 * i;
    const a = x[3 * i];
    const b = x[3 * i + 1];
    const c = x[3 * i + 2];
    y[3 * i] += blocks[k] * a + blocks[k + 3] * b + blocks[k + 5] * c;
    y[3 * i + 1] += blocks[k + 3] * a + blocks[k + 1] * b + blocks[k + 4] * c;
    y[3 * i + 2] += blocks[k + 5] * a + blocks[k + 4] * b + blocks[k + 2] * c;
  }
}

/** Sets 6 of `out` to the inverse of the block there plus `diagonal` times the unit. */
function invert(blocks: Float64Array, diagonal: number, at: number, out: Float64Array): void {
  const a = blocks[at] + diagonal;
  const b = blocks[at + 1] + diagonal;
  const c = blocks[at + 2] + diagonal;
  const [d, e, f] = [blocks[at + 3], blocks[at + 4], blocks[at + 5]];
  const det = a * (b * c - e * e) - d * (d * c - e * f) + f * (d * e - b * f);
  out.set(
    [b * c - e * e, a * c - f * f, a * b - d * d, e * f - d * c, d * f - a * e, d * e - b * f].map((v) => v / det),
    at,
  );
}

const dotOf = (a: Float64Array, b: Float64Array): number => {
  let sum = 0;
  for (let k = 0; k < a.length; k++) sum += a[k] * b[k];
  return sum;
};

/** Faces of the part with the nodes below them. */
function facesOf(part: TriangleMesh, fine: FineGrid, grid: PressureGrid): Face[] {
  const { lattice, cells } = fine;
  const { origin, spacing, nx, ny, nz } = lattice;
  const cellAt = new Int32Array(nx * ny * nz).fill(-1);
  for (let c = 0; c < cells.n; c++) cellAt[cells.index[c]] = c;
  const cellOf = (p: Vec3): number => {
    const [i, j, k] = p.map((x, d) => Math.floor((x - origin[d]) / spacing));
    return i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz ? -1 : cellAt[i + nx * (j + ny * k)];
  };
  const tree = new SurfaceTree(part);
  const surface = refine(part, 3 * spacing);
  const { normals, areas, centroids } = facets(surface);
  const found: FoundFace[] = [];
  const total = new Float64Array(grid.n);
  for (let f = 0; f < areas.length; f++) {
    if (!(areas[f] > 0)) continue;
    const normal = vertexAt(normals, f);
    const at = vertexAt(centroids, f);
    const inside = (depth: number) => at.map((x, d) => x - depth * normal[d]) as Vec3;
    const skin = cellOf(inside(0.25 * spacing));
    if (skin < 0) continue;
    const half = grid.thickness[grid.nodeOfCell[skin]] / 2;
    // The node is that of the middle of the wall, where there is one.
    const middle = cellOf(inside(half));
    const node = grid.nodeOfCell[middle >= 0 ? middle : skin];
    const behind = inside(2 * BEHIND * half);
    const beyond = cellOf(behind);
    const walled = beyond < 0 || (!cells.inside[beyond] && !tree.inside(...behind));
    total[node] += areas[f];
    found.push({ node, normal, walled, at: dot(normal, at), area: areas[f] });
  }
  const halves = halvesOf(found, grid.n);
  return found.flatMap(({ node, normal, walled, at, area }): Face[] => {
    const weight = area / total[node];
    if (!walled) return [{ node, normal, weight, walled, place: dot(normal, vertexAt(grid.centroid, node)), skin: at }];
    // One side alone does not tell where the middle is, and in a wall that leans a little that would hold it upwards.
    const half = halves[node];
    return half === half ? [{ node, normal, weight, walled, place: at - half, skin: at }] : [];
  });
}

interface FoundFace {
  node: number;
  normal: Vec3;
  walled: boolean;
  /** n x of the face, m. */
  at: number;
  area: number;
}

/** Faces that lie along a node's largest one to so much (cosine) tell its thickness. */
const PARALLEL = 0.97;

/** Half the distance between the two sides of the wall in every node, from the faces themselves; NaN where one side is missing. */
function halvesOf(found: readonly FoundFace[], n: number): Float64Array {
  const largest = new Int32Array(n).fill(-1);
  found.forEach(({ node, area, walled }, f) => {
    if (walled && (largest[node] < 0 || area > found[largest[node]].area)) largest[node] = f;
  });
  const sums = new Float64Array(4 * n);
  for (const { node, normal, walled, at, area } of found) {
    if (!walled) continue;
    const along = dot(normal, found[largest[node]].normal);
    if (Math.abs(along) < PARALLEL) continue;
    const side = along > 0 ? 0 : 2;
    sums[4 * node + side] += area;
    sums[4 * node + side + 1] += area * at;
  }
  return Float64Array.from({ length: n }, (_, i) => {
    const [a, atA, b, atB] = sums.subarray(4 * i, 4 * i + 4);
    return a > 0 && b > 0 ? (atA / a + atB / b) / 2 : NaN;
  });
}

/** Mean dyad of the walled faces' normals, 6 a node: what lies across the wall. */
function acrossOf(faces: readonly Face[], n: number): Float64Array {
  const sum = new Float64Array(6 * n);
  const weights = new Float64Array(n);
  for (const { node, normal, weight, walled } of faces) {
    if (!walled) continue;
    weights[node] += weight;
    addDyad(sum, node, weight, normal);
  }
  return sum.map((v, k) => (weights[Math.floor(k / 6)] > 0 ? v / weights[Math.floor(k / 6)] : 0));
}

/** Shares and direction from the gradient of w along the wall. */
function sharesOf({ grid, conductance }: Network, w: Float64Array, across: Float64Array): ToolHold | null {
  const { n, rowStart, rowNode, rowLink, position } = grid;
  const share = new Float32Array(2 * n);
  const along = new Float32Array(3 * n);
  let most = 0;
  for (let i = 0; i < n; i++) {
    const moment = [0, 1, 2].map(() => [0, 0, 0]);
    const mixed = [0, 1, 2].map(() => [0, 0, 0]);
    for (let k = rowStart[i]; k < rowStart[i + 1]; k++) {
      const g = conductance[rowLink[k]];
      const j = rowNode[k];
      const d = [0, 1, 2].map((c) => position[3 * j + c] - position[3 * i + c]);
      for (let a = 0; a < 3; a++)
        for (let b = 0; b < 3; b++) {
          moment[a][b] += g * d[a] * d[b];
          mixed[a][b] += g * (w[3 * j + a] - w[3 * i + a]) * d[b];
        }
    }
    const { values, vectors } = eigen(moment);
    const [largest] = values;
    if (!(largest > 0)) continue;
    // What is along the wall: mixed times the inverse of the moments, in so far as links tell it.
    const inverse = [0, 1, 2].map((a) =>
      [0, 1, 2].map((b) =>
        values.reduce((s, v, m) => s + (v > LEAST_LINK * largest ? (vectors[m][a] * vectors[m][b]) / v : 0), 0),
      ),
    );
    const gradient = mixed.map((row) => [0, 1, 2].map((b) => row.reduce((s, v, c) => s + v * inverse[c][b], 0)));
    const even = gradient.map((row, a) => row.map((v, b) => (v + gradient[b][a]) / 2));
    // Along the wall alone: from side to side it may come off either face.
    const [xx, yy, zz, xy, yz, xz] = across.subarray(6 * i, 6 * i + 6);
    const plane = [
      [1 - xx, -xy, -xz],
      [-xy, 1 - yy, -yz],
      [-xz, -yz, 1 - zz],
    ];
    const held = eigen(product(plane, product(even, plane)));
    for (let k = 0; k < 2; k++) {
      share[2 * i + k] = Math.min(1, Math.max(0, held.values[k]));
      most = Math.max(most, share[2 * i + k]);
    }
    along.set(held.vectors[0], 3 * i);
  }
  return most > NOTHING ? { share, along } : null;
}

const product = (a: number[][], b: number[][]): number[][] =>
  a.map((row) => [0, 1, 2].map((c) => row.reduce((s, v, k) => s + v * b[k][c], 0)));
