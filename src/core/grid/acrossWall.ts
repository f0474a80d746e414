import { measure, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import { eigen, SYMMETRIC } from '../geometry/vec';
import { buildFineGrid, type FineCells, type FineGrid } from './grid';
import { latticeOver, nominalWall } from './lattice';

/** Cells across the nominal wall that directions are worked out on, at least. */
const CELLS_ACROSS = 3;
/** Cells that hold any of the part, at most: one of very many walls is content with fewer across each. */
const MOST_CELLS = 1.2e6;
/** Length over which directions are averaged, over the local wall (standard deviation). */
const WIDTH = 0.33;
/** Middles of thick places are averaged over what so many sweeps reach. */
const MOST_SWEEPS = 48;
/** Components xx yy zz xy yz xz. */
const SIX = 6;

/**
 * Direction across the wall as a field of tensors of trace 1: n nT in a flat wall, turning through corners,
 * between the two at junctions. The direction in which heat leaves, that of the gradient of the wall function: the
 * dyads of the gradients on a grid of at least three cells a wall, spread over a third of the local wall through open
 * faces only, over the trace. Exact in a slab, alike for a part in any orientation and for its mirror image; corners
 * spring in as with the resolved direction of heat flow.
 */
export class AcrossWall {
  private readonly grid: FineGrid;
  private readonly cellAt: Int32Array;
  /** SIX a cell. */
  private readonly tensors: Float32Array;

  /** `part` in m; its flow grid serves where it is fine enough. */
  constructor(part: TriangleMesh, flow: FineGrid) {
    const spacing = spacingOf(part);
    this.grid = flow.lattice.spacing <= 1.001 * spacing ? flow : buildFineGrid(part, latticeOver(part, spacing));
    const { lattice, cells } = this.grid;
    this.cellAt = new Int32Array(lattice.nx * lattice.ny * lattice.nz).fill(-1);
    for (let c = 0; c < cells.n; c++) if (cells.volume[c] > 0) this.cellAt[cells.index[c]] = c;
    const gap = gapsOf(cells);
    const dyads = cellDyads(this.grid, gap, new SurfaceTree(part));
    spread(dyads, cells, gap, lattice.spacing);
    this.tensors = Float32Array.from(dyads);
    for (let c = 0; c < cells.n; c++) {
      const at = SIX * c;
      const trace = dyads[at] + dyads[at + 1] + dyads[at + 2];
      for (let k = 0; k < SIX; k++) this.tensors[at + k] = trace > 0 ? dyads[at + k] / trace : 0;
      if (!(trace > 0)) this.cellAt[cells.index[c]] = -1;
    }
  }

  /** Writes the tensor at a place [m], linear between cells; false (and a third of the unit tensor) off the part. */
  at(x: number, y: number, z: number, out: Float64Array): boolean {
    const { tensors, cellAt } = this;
    const { origin, spacing, nx, ny, nz } = this.grid.lattice;
    const u = (x - origin[0]) / spacing - 0.5;
    const v = (y - origin[1]) / spacing - 0.5;
    const w = (z - origin[2]) / spacing - 0.5;
    const low = Math.floor(u);
    const front = Math.floor(v);
    const under = Math.floor(w);
    out.fill(0);
    let sum = 0;
    for (let c = 0; c < 8; c++) {
      const i = low + (c & 1);
      const j = front + ((c >> 1) & 1);
      const k = under + (c >> 2);
      if (i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz) continue;
      const cell = cellAt[i + nx * (j + ny * k)];
      if (cell < 0) continue;
      const weight = (1 - Math.abs(u - i)) * (1 - Math.abs(v - j)) * (1 - Math.abs(w - k));
      sum += weight;
      for (let m = 0; m < SIX; m++) out[m] += weight * tensors[SIX * cell + m];
    }
    for (let m = 0; m < SIX; m++) out[m] = sum > 0 ? out[m] / sum : m < 3 ? 1 / 3 : 0;
    return sum > 0;
  }

  /** Unit direction across the wall at a place [m]. */
  direction(x: number, y: number, z: number): Vec3 {
    const t = new Float64Array(SIX);
    this.at(x, y, z, t);
    return eigen([
      [t[0], t[3], t[5]],
      [t[3], t[1], t[4]],
      [t[5], t[4], t[2]],
    ]).vectors[0];
  }
}

/**
 * Mean of grad kappa x grad kappa over the solid in every cell: in a wall its length is the distance from the middle,
 * so that part of a cell counts by where it lies in its wall, however the lattice cuts it.
 */
function cellDyads({ lattice, cells }: FineGrid, gap: Float64Array, tree: SurfaceTree): Float64Array {
  const { nx, ny, origin, spacing } = lattice;
  const dyads = new Float64Array(SIX * cells.n);
  const r = [0, 0, 0];
  for (let c = 0; c < cells.n; c++) {
    if (!(gap[c] > 0)) continue;
    const index = cells.index[c];
    const share = Math.min(1, cells.volume[c] / spacing ** 3);
    const g = [cells.inward[3 * c], cells.inward[3 * c + 1], cells.inward[3 * c + 2]];
    const slope = Math.hypot(g[0], g[1], g[2]);
    const x = origin[0] + ((index % nx) + 0.5) * spacing;
    const y = origin[1] + ((Math.floor(index / nx) % ny) + 0.5) * spacing;
    const z = origin[2] + (Math.floor(index / (nx * ny)) + 0.5) * spacing;
    tree.closest(x, y, z);
    r[0] = tree.point[0] - x;
    r[1] = tree.point[1] - y;
    r[2] = tree.point[2] - z;
    const distance = Math.hypot(r[0], r[1], r[2]) || 1;
    const depth = share * spacing;
    // A wall thinner than a cell is held whole; else it counts how far the middle of what is held lies from that of the wall.
    const whole = 2 * gap[c] <= depth;
    const outside = !cells.inside[c];
    const offset = Math.max(0, outside ? gap[c] - depth / 2 : slope - (spacing - depth) / 2);
    const along = outside || whole || !(slope > 0) ? 0 : offset / slope;
    // What the centre's gradient does not tell points to the nearest surface.
    const nearest = whole ? gap[c] ** 2 / 3 : depth ** 2 / 12 + (outside ? offset ** 2 : 0);
    const near = nearest / distance ** 2;
    for (let k = 0; k < SIX; k++) {
      const [i, j] = SYMMETRIC[k];
      dyads[SIX * c + k] = along * along * g[i] * g[j] + near * r[i] * r[j];
    }
  }
  return dyads;
}

/** Half the thickness [m] of the wall that a cell lies in; cells whose centre lies outside have that of the most open neighbour. */
function gapsOf({ n, face, next, halfGap }: FineCells): Float64Array {
  const gap = Float64Array.from(halfGap);
  const widest = new Float64Array(n);
  for (let c = 0; c < n; c++)
    for (let d = 0; d < 3; d++) {
      const o = next[3 * c + d];
      if (o < 0) continue;
      for (const [to, of] of [
        [c, o],
        [o, c],
      ])
        if (!halfGap[to] && halfGap[of] && face[3 * c + d] > widest[to]) {
          widest[to] = face[3 * c + d];
          gap[to] = halfGap[of];
        }
    }
  return gap;
}

function spacingOf(part: TriangleMesh): number {
  const { volume, area } = measure(part);
  let spacing = nominalWall(part) / CELLS_ACROSS;
  while (Math.abs(volume) / spacing ** 3 + (0.75 * area) / spacing ** 2 > MOST_CELLS) spacing *= 1.05;
  return spacing;
}

/**
 * Diffuses the tensors within the solid until their spread has the width wanted at each place: a Gaussian in the
 * open, nothing across gaps. Explicit sweeps, each conserving the sum over the volume.
 */
function spread(values: Float64Array, { n, volume, face, next }: FineCells, gap: Float64Array, spacing: number): void {
  const width = gap.map((h) => (2 * WIDTH * h) / spacing);
  const [from, to, through]: number[][] = [[], [], []];
  for (let c = 0; c < n; c++)
    for (let d = 0; d < 3; d++) {
      const o = next[3 * c + d];
      if (o < 0 || !(volume[c] > 0 && volume[o] > 0)) continue;
      from.push(c);
      to.push(o);
      // No more than the smaller of the two holds.
      through.push(Math.min(face[3 * c + d], volume[c] / spacing ** 3, volume[o] / spacing ** 3));
    }
  const widest = width.reduce((a, b) => Math.max(a, b), 0);
  // A sweep adds twice its number to the variance, and is stable up to a sixth.
  const sweeps = Math.min(MOST_SWEEPS, Math.max(1, Math.ceil(3 * widest * widest)));
  const number = through.map((open, l) => open * Math.min(1 / 6, (width[from[l]] * width[to[l]]) / (2 * sweeps)));
  const ends = [Int32Array.from(from), Int32Array.from(to)];
  const numbers = Float64Array.from(number);
  const flux = new Float64Array(values.length);
  const share = volume.map((v) => v / spacing ** 3);
  for (let s = 0; s < sweeps; s++) {
    flux.fill(0);
    for (let l = 0; l < numbers.length; l++) {
      const [i, j] = [SIX * ends[0][l], SIX * ends[1][l]];
      for (let k = 0; k < SIX; k++) {
        const f = numbers[l] * (values[j + k] - values[i + k]);
        flux[i + k] += f;
        flux[j + k] -= f;
      }
    }
    for (let i = 0; i < n; i++) {
      if (!(share[i] > 0)) continue;
      for (let k = 0; k < SIX; k++) values[SIX * i + k] += flux[SIX * i + k] / share[i];
    }
  }
}
