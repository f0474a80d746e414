import type { TriangleMesh } from '../../geometry/mesh';
import { SYMMETRIC } from '../../geometry/vec';
import { AcrossWall } from '../../grid/acrossWall';
import type { FineGrid } from '../../grid/grid';
import type { PressureGrid } from '../../grid/pressureGrid';
import { sideOfNormal } from '../../grid/wallSides';
import { orientedLayer, orientedStrain, type OrientedStrain } from './orientedStrain';
import type { OrientedWalls } from '../fibres/orientedWalls';
import { EDGES, HALF_LAYERS } from '../melt/layers';
import { LANES } from './solid';
import type { FrozenStrain } from '../pack/wallStrain';

/** Load cases: what each of the four lanes of a solution is. Their sum is the whole strain. */
export const CAUSES = ['base', 'cooling', 'shrinkage', 'corner'] as const;
export type Cause = (typeof CAUSES)[number];

/** What the structure needs of the layers: strain of each, and its mean over every wall; see FrozenStrain. */
export interface LayerStrain extends Pick<FrozenStrain, 'nLayers' | 'feed'> {
  /** Length n * nLayers. */
  inPlane: Float32Array;
  /** Length n. */
  mean: Float32Array;
  /** Half of what a layer has more along `heldAlong` than square to it, n * nLayers; 3 a node. Empty: alike everywhere. */
  uneven: Float32Array;
  heldAlong: Float32Array;
}

export const layerStrainOf = ({ nLayers, node, feed }: FrozenStrain): LayerStrain => ({
  nLayers,
  inPlane: node.inPlane,
  mean: node.mean,
  uneven: node.uneven,
  heldAlong: node.heldAlong,
  feed,
});

interface Moments {
  mean: Float32Array;
  bend: Float32Array;
  bow: Float32Array;
}

/** Shrinkage of one node's wall. */
export interface NodeShrinkage {
  /** Mean over the wall of the strain along it, and the strain across it. Length n. */
  inPlane: Float32Array;
  across: Float32Array;
  /**
   * What is left of the layers' strain by its first two moments: bend s + bow (3 s2 - 1) / 2 over the place s
   * through the wall, 1 at its first side, -1 at its second. Length n.
   */
  bend: Float32Array;
  bow: Float32Array;
  /** Half of what the wall has more along the direction it was held in: its mean and two moments; null: nowhere. */
  uneven: Moments | null;
  /** What fibres add to that; null: there are none. */
  oriented: OrientedStrain | null;
  /** Mean of `inPlane` over the part. */
  mean: number;
}

/**
 * Strain along the wall from the layers and across it from the mass: what the volume has lost and the plane has
 * not is lost in thickness. Nodes without values of their own (gates) take the mean of their neighbours.
 */
export function nodeShrinkage(
  grid: PressureGrid,
  frozen: LayerStrain,
  volumetric: ArrayLike<number>,
  walls: OrientedWalls | null = null,
): NodeShrinkage {
  const { nLayers } = frozen;
  const inPlane = frozen.mean.slice();
  const across = new Float32Array(grid.n).fill(NaN);
  const bend = new Float32Array(grid.n).fill(NaN);
  const bow = new Float32Array(grid.n).fill(NaN);
  const moments = layerMoments(nLayers);
  for (let i = 0; i < grid.n; i++) {
    let [first, second] = [0, 0];
    for (let t = 0; t < nLayers; t++) {
      first += moments.first[t] * frozen.inPlane[i * nLayers + t];
      second += moments.second[t] * frozen.inPlane[i * nLayers + t];
    }
    bend[i] = first;
    bow[i] = second;
    across[i] = (1 - volumetric[i]) / (1 + inPlane[i]) ** 2 - 1;
  }
  for (const values of [inPlane, across, bend, bow]) fillFromNeighbours(grid, values);
  let [sum, volume] = [0, 0];
  for (let i = 0; i < grid.n; i++) {
    if (inPlane[i] !== inPlane[i]) continue;
    sum += grid.volume[i] * inPlane[i];
    volume += grid.volume[i];
  }
  const mean = volume > 0 ? sum / volume : 0;
  // Where no melt came there is nothing to shrink: it goes along with the rest.
  for (const [values, even] of [
    [inPlane, mean],
    [across, mean],
    [bend, 0],
    [bow, 0],
  ] as const)
    values.forEach((v, i) => v !== v && (values[i] = even));
  const uneven = frozen.uneven.length ? unevenOf(frozen, grid.n) : null;
  const oriented = walls && orientedStrain(walls, frozen, layerMoments(nLayers), { inPlane, across, volumetric });
  return { inPlane, across, bend, bow, uneven, oriented, mean };
}

function unevenOf({ nLayers, uneven }: LayerStrain, n: number): Moments {
  const { even, first, second } = layerMoments(nLayers);
  const moments = { mean: new Float32Array(n), bend: new Float32Array(n), bow: new Float32Array(n) };
  for (let i = 0; i < n; i++)
    for (let t = 0; t < nLayers; t++) {
      const u = uneven[i * nLayers + t];
      moments.mean[i] += even[t] * u;
      moments.bend[i] += first[t] * u;
      moments.bow[i] += second[t] * u;
    }
  return moments;
}

/** Weights of layers in their mean and in two moments. */
export type LayerMoments = Record<'even' | 'first' | 'second', Float64Array>;

/**
 * Weights of the layers' strains in the two moments of a plane wall: 3/2 integral of s and 5/2 integral of P2(s)
 * over -1 .. 1. A wall whose sides are alike has no first one.
 */
function layerMoments(nLayers: number): LayerMoments {
  const even = new Float64Array(nLayers);
  const first = new Float64Array(nLayers);
  const second = new Float64Array(nLayers);
  const whole = nLayers > HALF_LAYERS;
  for (let l = 0; l < HALF_LAYERS; l++) {
    const [a, b] = [EDGES[l], EDGES[l + 1]];
    const share = b - a;
    const odd = (3 / 4) * (b * b - a * a);
    const round = (5 / 4) * (b ** 3 - b - a ** 3 + a);
    if (whole) {
      first[HALF_LAYERS - 1 - l] = odd;
      first[HALF_LAYERS + l] = -odd;
      second[HALF_LAYERS - 1 - l] = second[HALF_LAYERS + l] = round;
      even[HALF_LAYERS - 1 - l] = even[HALF_LAYERS + l] = share / 2;
    } else {
      second[l] = 2 * round;
      even[l] = share;
    }
  }
  return { even, first, second };
}

/** Gives nodes without a value (NaN) the mean of linked nodes that have one, outwards until none is left. */
export function fillFromNeighbours({ n, rowStart, rowNode }: PressureGrid, values: Float32Array): void {
  for (let changed = true; changed;) {
    changed = false;
    const before = values.slice();
    for (let i = 0; i < n; i++) {
      if (before[i] === before[i]) continue;
      let [sum, count] = [0, 0];
      for (let k = rowStart[i]; k < rowStart[i + 1]; k++) {
        const v = before[rowNode[k]];
        if (v !== v) continue;
        sum += v;
        count++;
      }
      if (!count) continue;
      values[i] = sum / count;
      changed = true;
    }
  }
}

/** Cells with less of a say are left out of a mean. */
const LEAST_WEIGHT = 1e-3;

/**
 * Where a place lies in its wall: node and layer of the column from the wall function of the fine grid, and the
 * direction across.
 */
export class WallPlaces {
  private readonly cellAt: Int32Array;
  readonly across: AcrossWall;
  /** Place last asked for. */
  node = -1;
  layer = 0;
  /** Through the wall: 1 at its first side, -1 at its second. */
  through = 0;
  private cell = -1;

  constructor(
    private readonly fine: FineGrid,
    private readonly grid: PressureGrid,
    private readonly nLayers: number,
    part: TriangleMesh,
  ) {
    const { lattice, cells } = fine;
    this.cellAt = new Int32Array(lattice.nx * lattice.ny * lattice.nz).fill(-1);
    for (let c = 0; c < cells.n; c++) this.cellAt[cells.index[c]] = c;
    this.across = new AcrossWall(part, fine);
  }

  /** Looks a place [m] up; false where there is no wall around it. */
  find(x: number, y: number, z: number): boolean {
    const { lattice, cells } = this.fine;
    const { origin, spacing, nx, ny } = lattice;
    const u = (x - origin[0]) / spacing;
    const v = (y - origin[1]) / spacing;
    const w = (z - origin[2]) / spacing;
    const cell = this.insideCell(Math.floor(u), Math.floor(v), Math.floor(w));
    this.cell = cell;
    if (cell < 0) return false;
    this.node = this.grid.nodeOfCell[cell];
    const index = cells.index[cell];
    const { inward } = cells;
    const gx = inward[3 * cell];
    const gy = inward[3 * cell + 1];
    const gz = inward[3 * cell + 2];
    const slope = Math.sqrt(gx * gx + gy * gy + gz * gz) || 1e-30;
    const gap = cells.halfGap[cell];
    // Depth below the nearest wall; beyond the middle the other wall is the nearer one.
    const step =
      ((u - (index % nx) - 0.5) * gx +
        (v - (Math.floor(index / nx) % ny) - 0.5) * gy +
        (w - Math.floor(index / (nx * ny)) - 0.5) * gz) /
      slope;
    const depth = gap * (1 - cells.zeta[cell]) + step * spacing;
    const zeta = 1 - depth / gap;
    let side = sideOfNormal(-gx, -gy, -gz);
    if (zeta < 0) side = side ? 0 : 1;
    this.through = (side ? -1 : 1) * Math.min(1, Math.abs(zeta));
    this.layer = this.layerAt(Math.min(1, Math.abs(zeta)), side);
    return true;
  }

  /** The cells whose centres lie in the solid around a place, with trilinear weights that sum to 1; their number. */
  around(x: number, y: number, z: number, cells: Int32Array, weights: Float64Array): number {
    const { lattice, cells: all } = this.fine;
    const { origin, spacing, nx, ny, nz } = lattice;
    const u = (x - origin[0]) / spacing - 0.5;
    const v = (y - origin[1]) / spacing - 0.5;
    const w = (z - origin[2]) / spacing - 0.5;
    const low = Math.floor(u);
    const front = Math.floor(v);
    const under = Math.floor(w);
    let n = 0;
    let sum = 0;
    for (let c = 0; c < 8; c++) {
      const i = low + (c & 1);
      const j = front + ((c >> 1) & 1);
      const k = under + (c >> 2);
      if (i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz) continue;
      const cell = this.cellAt[i + nx * (j + ny * k)];
      if (cell < 0 || !all.inside[cell]) continue;
      const weight = (1 - Math.abs(u - i)) * (1 - Math.abs(v - j)) * (1 - Math.abs(w - k));
      if (weight < LEAST_WEIGHT) continue;
      cells[n] = cell;
      weights[n++] = weight;
      sum += weight;
    }
    if (!n && this.cell >= 0) {
      cells[0] = this.cell;
      weights[0] = sum = 1;
      n = 1;
    }
    for (let c = 0; c < n; c++) weights[c] /= sum;
    return n;
  }

  nodeOf(cell: number): number {
    return this.grid.nodeOfCell[cell];
  }

  private layerAt(zeta: number, side: number): number {
    let l = 0;
    while (l < HALF_LAYERS - 1 && EDGES[l + 1] < zeta) l++;
    if (this.nLayers === HALF_LAYERS) return l;
    return side === 0 ? HALF_LAYERS - 1 - l : HALF_LAYERS + l;
  }

  /** The cell, or the nearest around it whose centre lies in the solid. */
  private insideCell(i: number, j: number, k: number): number {
    const { lattice, cells } = this.fine;
    const { nx, ny, nz } = lattice;
    if (i >= 0 && j >= 0 && k >= 0 && i < nx && j < ny && k < nz) {
      const own = this.cellAt[i + nx * (j + ny * k)];
      if (own >= 0 && cells.inside[own]) return own;
    }
    let best = -1;
    let least = Infinity;
    for (let dk = -1; dk <= 1; dk++)
      for (let dj = -1; dj <= 1; dj++)
        for (let di = -1; di <= 1; di++) {
          const [a, b, c] = [i + di, j + dj, k + dk];
          if (a < 0 || b < 0 || c < 0 || a >= nx || b >= ny || c >= nz) continue;
          const cell = this.cellAt[a + nx * (b + ny * c)];
          if (cell < 0 || !cells.inside[cell]) continue;
          const d = di * di + dj * dj + dk * dk;
          if (d >= least) continue;
          least = d;
          best = cell;
        }
    return best;
  }
}

/**
 * Stress-free strain of the plastic by cause, from the shrinkage of its walls. With e_l along the wall in a
 * layer, m its mean over the wall, a across it and N the direction across: e_l (I - N) + a N, split into
 * M I (base, M the mean of the part), (e_l - m)(I - N) (cooling), (m - M) I (shrinkage), (a - m) N (corner).
 * What fibres add lies in the first case, beside the even strain, of which it is known what it does alone.
 * The structure sees e_l - m by its first two moments, which are what bends and bows a wall: the thin layers
 * themselves lie between the points of its integrals.
 */
export class PlasticStrain {
  private readonly cells = new Int32Array(8);
  private readonly weights = new Float64Array(8);
  private readonly N = new Float64Array(6);
  private readonly own = new Float64Array(6);

  constructor(
    private readonly places: WallPlaces,
    private readonly frozen: LayerStrain,
    private readonly shrinkage: NodeShrinkage,
  ) {}

  /** 6 x LANES at a place, the layer itself where `layered`; returns its node, -1 where the mean alone is known. */
  at(x: number, y: number, z: number, out: Float64Array, layered = false): number {
    const { places, frozen, shrinkage, N, cells, weights } = this;
    const { mean, inPlane, across, bend, bow } = shrinkage;
    out.fill(0);
    for (let k = 0; k < 3; k++) out[LANES * k] = mean;
    if (!places.find(x, y, z)) return -1;
    // Linear between the cells: a strain that jumped from one to the next would depend on where it is read.
    places.across.at(x, y, z, N);
    const s = places.through;
    let [even, through, corner] = [0, 0, 0];
    const n = places.around(x, y, z, cells, weights);
    for (let c = 0; c < n; c++) {
      const i = places.nodeOf(cells[c]);
      const w = weights[c];
      even += w * (inPlane[i] - mean);
      through += w * (bend[i] * s + bow[i] * (1.5 * s * s - 0.5));
      corner += w * (across[i] - inPlane[i]);
    }
    const { node } = places;
    const at = node * frozen.nLayers + places.layer;
    const own = layered ? frozen.inPlane[at] : NaN;
    const layer = own === own ? own - inPlane[node] : through;
    for (let k = 0; k < 6; k++) {
      const unit = k < 3 ? 1 : 0;
      out[LANES * k + 1] = layer * (unit - N[k]);
      out[LANES * k + 2] = unit * even;
      out[LANES * k + 3] = corner * N[k];
    }
    this.addOriented(n, s, at, node, layered, out);
    const { uneven } = shrinkage;
    if (!uneven) return node;
    // Along the direction it was held in more, square to that as much less: u (2 h h - (I - N)).
    for (let c = 0; c < n; c++) {
      const i = places.nodeOf(cells[c]);
      const u = uneven.mean[i];
      const beside = layered
        ? frozen.uneven[at] - uneven.mean[node]
        : uneven.bend[i] * s + uneven.bow[i] * (1.5 * s * s - 0.5);
      const h = frozen.heldAlong.subarray(3 * i, 3 * i + 3);
      for (let k = 0; k < 6; k++) {
        const [a, b] = SYMMETRIC[k];
        const shape = weights[c] * (2 * h[a] * h[b] - (k < 3 ? 1 : 0) + N[k]);
        out[LANES * k + 1] += beside * shape;
        out[LANES * k + 2] += u * shape;
      }
    }
    return node;
  }

  private addOriented(n: number, s: number, layer: number, node: number, layered: boolean, out: Float64Array): void {
    const { oriented } = this.shrinkage;
    if (!oriented) return;
    const { cells, weights, places, frozen, N, own } = this;
    const alone = layered && orientedLayer(oriented.walls, layer, node, frozen.inPlane[layer], own);
    if (alone) for (let k = 0; k < 6; k++) out[LANES * k] += own[k];
    for (let c = 0; c < n; c++) {
      const i = places.nodeOf(cells[c]);
      const w = weights[c];
      for (let k = 0; k < 6; k++) {
        const at = 6 * i + k;
        const along = alone ? 0 : oriented.mean[at] + oriented.bend[at] * s + oriented.bow[at] * (1.5 * s * s - 0.5);
        out[LANES * k] += w * (along + oriented.across[i] * N[k]);
      }
    }
  }
}
