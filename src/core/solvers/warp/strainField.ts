import { eigen } from '../../geometry/vec';
import type { Vec3 } from '../../geometry/mesh';
import type { FineGrid } from '../../grid/grid';
import type { PressureGrid } from '../../grid/pressureGrid';
import { sideOfNormal } from '../../grid/wallSides';
import { EDGES, HALF_LAYERS } from '../fill/layers';
import { LANES } from './elements';
import type { FrozenStrain } from './wallStrain';

/** Load cases: what each of the four lanes of a solution is. Their sum is the whole strain. */
export const CAUSES = ['base', 'cooling', 'shrinkage', 'corner'] as const;
export type Cause = (typeof CAUSES)[number];

/** Shrinkage of one node's wall. */
export interface NodeShrinkage {
  /** Mean over the wall of the strain along it, and the strain across it. Length n. */
  inPlane: Float32Array;
  across: Float32Array;
  /** Mean of `inPlane` over the part. */
  mean: number;
}

/**
 * Strain along the wall from the layers and across it from the mass: what the volume has lost and the plane has
 * not is lost in thickness. Nodes without values of their own (gates) take the mean of their neighbours.
 */
export function nodeShrinkage(
  grid: PressureGrid,
  frozen: FrozenStrain,
  shareOf: (node: number) => ArrayLike<number>,
  volumetric: ArrayLike<number>,
): NodeShrinkage {
  const { nLayers } = frozen;
  const inPlane = new Float32Array(grid.n).fill(NaN);
  const across = new Float32Array(grid.n).fill(NaN);
  for (let i = 0; i < grid.n; i++) {
    const share = shareOf(i);
    let sum = 0;
    for (let t = 0; t < nLayers; t++) sum += share[t] * frozen.inPlane[i * nLayers + t];
    inPlane[i] = sum;
    across[i] = (1 - volumetric[i]) / (1 + sum) ** 2 - 1;
  }
  fillFromNeighbours(grid, inPlane);
  fillFromNeighbours(grid, across);
  let [sum, volume] = [0, 0];
  for (let i = 0; i < grid.n; i++) {
    if (inPlane[i] !== inPlane[i]) continue;
    sum += grid.volume[i] * inPlane[i];
    volume += grid.volume[i];
  }
  return { inPlane, across, mean: volume > 0 ? sum / volume : 0 };
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

/** Cells around that a direction across the wall is taken over. */
const AROUND = 1;

/**
 * Where a place lies in its wall: node, direction across as a tensor of trace 1 (n nT in a flat wall, turning
 * smoothly through corners), layer of the column. From the wall function of the fine grid.
 */
export class WallPlaces {
  private readonly cellAt: Int32Array;
  /** xx yy zz xy yz xz of the direction across, 6 per cell. */
  private readonly across: Float32Array;
  /** Place last asked for. */
  node = -1;
  layer = 0;
  /** Nearer to the first or the second side of the wall. */
  side: 0 | 1 = 0;
  private cell = -1;

  constructor(
    private readonly fine: FineGrid,
    private readonly grid: PressureGrid,
    private readonly nLayers: number,
  ) {
    const { lattice, cells } = fine;
    this.cellAt = new Int32Array(lattice.nx * lattice.ny * lattice.nz).fill(-1);
    for (let c = 0; c < cells.n; c++) this.cellAt[cells.index[c]] = c;
    this.across = this.directions();
  }

  /** Looks a place [m] up; false where there is no wall around it. */
  find(x: number, y: number, z: number): boolean {
    const { lattice, cells } = this.fine;
    const { origin, spacing, nx, ny } = lattice;
    const [u, v, w] = [(x - origin[0]) / spacing, (y - origin[1]) / spacing, (z - origin[2]) / spacing];
    const cell = this.insideCell(Math.floor(u), Math.floor(v), Math.floor(w));
    this.cell = cell;
    if (cell < 0) return false;
    this.node = this.grid.nodeOfCell[cell];
    const index = cells.index[cell];
    const centre: Vec3 = [(index % nx) + 0.5, (Math.floor(index / nx) % ny) + 0.5, Math.floor(index / (nx * ny)) + 0.5];
    const g = cells.inward.subarray(3 * cell, 3 * cell + 3);
    const slope = Math.hypot(g[0], g[1], g[2]) || 1e-30;
    const gap = cells.halfGap[cell];
    // Depth below the nearest wall; beyond the middle the other wall is the nearer one.
    const step = ((u - centre[0]) * g[0] + (v - centre[1]) * g[1] + (w - centre[2]) * g[2]) / slope;
    const depth = gap * (1 - cells.zeta[cell]) + step * spacing;
    const zeta = 1 - depth / gap;
    let side = sideOfNormal(-g[0], -g[1], -g[2]);
    if (zeta < 0) side = side ? 0 : 1;
    this.side = side;
    this.layer = this.layerAt(Math.min(1, Math.abs(zeta)), side);
    return true;
  }

  /** Direction across at the place last found: xx yy zz xy yz xz. */
  acrossInto(out: Float64Array): void {
    for (let k = 0; k < 6; k++) out[k] = this.across[6 * this.cell + k];
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

  /** Mean of grad kappa x grad kappa over the cells around, over its trace. */
  private directions(): Float32Array {
    const { lattice, cells } = this.fine;
    const { nx, ny } = lattice;
    const out = new Float32Array(6 * cells.n);
    const sum = new Float64Array(6);
    for (let c = 0; c < cells.n; c++) {
      if (!cells.inside[c]) continue;
      sum.fill(0);
      const index = cells.index[c];
      for (let dk = -AROUND; dk <= AROUND; dk++)
        for (let dj = -AROUND; dj <= AROUND; dj++)
          for (let di = -AROUND; di <= AROUND; di++) {
            const o = this.cellAt[index + di + nx * (dj + ny * dk)] ?? -1;
            if (o < 0 || !cells.inside[o]) continue;
            const [gx, gy, gz] = [cells.inward[3 * o], cells.inward[3 * o + 1], cells.inward[3 * o + 2]];
            sum[0] += gx * gx;
            sum[1] += gy * gy;
            sum[2] += gz * gz;
            sum[3] += gx * gy;
            sum[4] += gy * gz;
            sum[5] += gx * gz;
          }
      const trace = sum[0] + sum[1] + sum[2] || 1;
      for (let k = 0; k < 6; k++) out[6 * c + k] = sum[k] / trace;
    }
    return out;
  }

  /** Main direction across at the place last found. */
  normal(): Vec3 {
    const [xx, yy, zz, xy, yz, xz] = this.across.subarray(6 * this.cell, 6 * this.cell + 6);
    return eigen([
      [xx, xy, xz],
      [xy, yy, yz],
      [xz, yz, zz],
    ]).vectors[0];
  }
}

/**
 * Stress-free strain of the plastic by cause, from the shrinkage of its walls. With e_l along the wall in a
 * layer, m its mean over the wall, a across it and N the direction across: e_l (I - N) + a N, split into
 * M I (base, M the mean of the part), (e_l - m)(I - N) (cooling), (m - M) I (shrinkage), (a - m) N (corner).
 */
export class PlasticStrain {
  private readonly across = new Float64Array(6);

  constructor(
    private readonly places: WallPlaces,
    private readonly frozen: FrozenStrain,
    private readonly shrinkage: NodeShrinkage,
  ) {}

  /** 6 x LANES at a place; returns its node, -1 where the mean alone is known. */
  at(x: number, y: number, z: number, out: Float64Array): number {
    const { places, frozen, shrinkage, across: N } = this;
    const { mean } = shrinkage;
    out.fill(0);
    for (let k = 0; k < 3; k++) out[LANES * k] = mean;
    if (!places.find(x, y, z)) return -1;
    places.acrossInto(N);
    const i = places.node;
    const m = shrinkage.inPlane[i];
    const a = shrinkage.across[i];
    const own = frozen.inPlane[i * frozen.nLayers + places.layer];
    const layer = own === own ? own - m : 0;
    for (let k = 0; k < 6; k++) {
      const unit = k < 3 ? 1 : 0;
      out[LANES * k + 1] = layer * (unit - N[k]);
      out[LANES * k + 2] = unit * (m - mean);
      out[LANES * k + 3] = (a - m) * N[k];
    }
    return i;
  }
}
