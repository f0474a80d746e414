import type { TriangleMesh } from '../geometry/mesh';
import { cutCells, type CutCells } from './cutCells';
import type { Lattice } from './lattice';
import { distancesAlong, lineCrossings } from './wallDistances';
import { solveWallFunction } from './wallFunction';

/** The fine cells that hold any of the part. Lengths in metres. All arrays have length n. */
export interface FineCells {
  n: number;
  /** Dense index in the lattice, x fastest, ascending. */
  index: Int32Array;
  /** m3 */
  volume: Float64Array;
  /** Open share of the faces towards +x, +y, +z (3 per cell). */
  face: Float32Array;
  /** Neighbour cell across those faces, -1 where closed (3 per cell). */
  next: Int32Array;
  /** 1 where the centre lies in the solid. */
  inside: Uint8Array;
  /** m; 0 where the centre is outside */
  halfGap: Float32Array;
  /** Gradient of kappa (3 per cell), m: it points from the nearest wall to the middle, its length is zeta halfGap. */
  inward: Float32Array;
  /** Place through the wall, 0 middle, 1 wall; 1 where the centre is outside. */
  zeta: Float32Array;
  /** kappa, m2; 0 where the centre is outside */
  kappa: Float64Array;
  /** Newtonian mobility for unit viscosity, m2 (flux per area = -mobility grad p / viscosity). */
  mobility: Float64Array;
  /** Slope c of mobility over kappa: 0 slab, 1/3 round. */
  roundness: Float32Array;
}

export interface FineGrid {
  lattice: Lattice;
  cells: FineCells;
  /** Cells of which neither they nor a neighbour has a centre in the solid: thinner than the grid resolves. */
  thin: Int32Array;
  sweeps: number;
}

const OPEN = 1e-9;
/** A volume share below this is a sliver without open faces that matters to nobody. */
const EMPTY = 1e-12;

/** Fine grid of a closed mesh. Pure: the same mesh and lattice give the same numbers. */
export function buildFineGrid(mesh: TriangleMesh, lattice: Lattice): FineGrid {
  const cut = cutCells(mesh, lattice);
  const { cells, idOf } = activeCells(cut, lattice);
  const sweeps = solveWalls(mesh, lattice, cells, idOf);
  const thin = mobilities(lattice, cells, idOf, cut);
  return { lattice, cells, thin, sweeps };
}

function activeCells(cut: CutCells, lattice: Lattice): { cells: FineCells; idOf: Int32Array } {
  const { nx, ny, nz, spacing } = lattice;
  const nxy = nx * ny;
  const total = nxy * nz;
  const idOf = new Int32Array(total).fill(-1);
  let n = 0;
  const upper = (face: Float64Array, c: number, stride: number) => (c + stride < total ? face[c + stride] : 0);
  for (let c = 0; c < total; c++) {
    const open =
      cut.volume[c] > EMPTY ||
      cut.faceX[c] > OPEN ||
      cut.faceY[c] > OPEN ||
      cut.faceZ[c] > OPEN ||
      upper(cut.faceX, c, 1) > OPEN ||
      upper(cut.faceY, c, nx) > OPEN ||
      upper(cut.faceZ, c, nxy) > OPEN;
    if (open) idOf[c] = n++;
  }
  const cells: FineCells = {
    n,
    index: new Int32Array(n),
    volume: new Float64Array(n),
    face: new Float32Array(3 * n),
    next: new Int32Array(3 * n).fill(-1),
    inside: new Uint8Array(n),
    halfGap: new Float32Array(n),
    inward: new Float32Array(3 * n),
    zeta: new Float32Array(n).fill(1),
    kappa: new Float64Array(n),
    mobility: new Float64Array(n),
    roundness: new Float32Array(n),
  };
  for (let c = 0; c < total; c++) {
    const id = idOf[c];
    if (id < 0) continue;
    cells.index[id] = c;
    cells.volume[id] = cut.volume[c] * spacing ** 3;
    const faces = [upper(cut.faceX, c, 1), upper(cut.faceY, c, nx), upper(cut.faceZ, c, nxy)];
    const strides = [1, nx, nxy];
    for (let d = 0; d < 3; d++) {
      if (faces[d] <= OPEN) continue;
      cells.face[3 * id + d] = faces[d];
      cells.next[3 * id + d] = idOf[c + strides[d]];
    }
  }
  return { cells, idOf };
}

/** Wall distances and wall function; fills inside, kappa, halfGap and zeta. Returns the sweeps taken. */
function solveWalls(mesh: TriangleMesh, lattice: Lattice, cells: FineCells, idOf: Int32Array): number {
  const { nx, ny, spacing } = lattice;
  const strides = [1, nx, nx * ny];
  const along = ([0, 1, 2] as const).map((axis) =>
    distancesAlong(lattice, lineCrossings(mesh, lattice, axis), cells.index),
  );
  const centreOf = new Int32Array(cells.n).fill(-1);
  const list: number[] = [];
  for (let c = 0; c < cells.n; c++) {
    // The majority of three independent lines: one line through a damaged spot does not decide.
    if (along[0].inside[c] + along[1].inside[c] + along[2].inside[c] < 2) continue;
    cells.inside[c] = 1;
    centreOf[c] = list.length;
    list.push(c);
  }
  const n = list.length;
  const neighbour = new Int32Array(6 * n).fill(-1);
  const distance = new Float64Array(6 * n);
  for (let s = 0; s < n; s++) {
    const c = list[s];
    for (let axis = 0; axis < 3; axis++) {
      const ways = [along[axis].minus[c], along[axis].plus[c]];
      for (let way = 0; way < 2; way++) {
        const m = 6 * s + 2 * axis + way;
        distance[m] = ways[way];
        if (ways[way] < 1) continue;
        const other = idOf[cells.index[c] + (way ? strides[axis] : -strides[axis])];
        neighbour[m] = other >= 0 ? centreOf[other] : -1;
      }
    }
  }
  const walls = solveWallFunction({ n, neighbour, distance });
  for (let s = 0; s < n; s++) {
    const c = list[s];
    cells.kappa[c] = walls.kappa[s] * spacing ** 2;
    cells.halfGap[c] = walls.halfGap[s] * spacing;
    for (let d = 0; d < 3; d++) cells.inward[3 * c + d] = walls.gradient[3 * s + d] * spacing;
    cells.zeta[c] = Math.min(1, walls.slope[s] / walls.halfGap[s]);
    cells.mobility[c] = cells.halfGap[c] ** 2 / 3;
  }
  return walls.sweeps;
}

/** Largest slope of mobility over kappa that is believed; a round tube has 1/3. */
const MAX_ROUNDNESS = 0.4;
/**
 * Centres that lie alike between two walls have one and the same kappa: below this variance over the mean square what is
 * left of it says nothing of the section, which is then taken for a slab.
 */
const TELLING = 2e-3;
/** Share of c mean(kappa) taken off the mean mobility for a cut cell whose centre lies outside. */
const OUTSIDE_SHARE = 0.55;

/**
 * Roundness of every cell by regression of mobility on kappa over the inside centres of its 3x3x3
 * neighbourhood, and the mobility of cut cells whose centre lies outside. Cells without any inside
 * centre near by are returned; they get the mobility of a slab as thick as twice their volume over
 * their wall area.
 */
function mobilities(lattice: Lattice, cells: FineCells, idOf: Int32Array, cut: CutCells): Int32Array {
  const { nx, ny, spacing } = lattice;
  const around = neighbourhood(nx, ny);
  const thin: number[] = [];
  for (let c = 0; c < cells.n; c++) {
    const at = cells.index[c];
    let n = 0;
    let sumK = 0;
    let sumKappa = 0;
    let sumKK = 0;
    let sumKKappa = 0;
    let volume = 0;
    let wall = 0;
    for (const step of around) {
      const j = idOf[at + step];
      if (j === undefined || j < 0) continue;
      volume += cut.volume[at + step];
      wall += cut.wallArea[at + step];
      if (!cells.inside[j]) continue;
      const kappa = cells.kappa[j];
      const mobility = cells.halfGap[j] ** 2 / 3;
      n++;
      sumK += mobility;
      sumKappa += kappa;
      sumKK += kappa * kappa;
      sumKKappa += mobility * kappa;
    }
    if (n === 0) {
      const thickness = wall > 0 ? ((2 * volume) / wall) * spacing : 0;
      cells.mobility[c] = thickness ** 2 / 12;
      if (cells.volume[c] > 0.02 * spacing ** 3) thin.push(c);
      continue;
    }
    const variance = sumKK - (sumKappa * sumKappa) / n;
    const slope = variance > TELLING * sumKK ? (sumKKappa - (sumK * sumKappa) / n) / variance : 0;
    const roundness = Math.min(MAX_ROUNDNESS, Math.max(0, slope));
    cells.roundness[c] = roundness;
    if (!cells.inside[c])
      cells.mobility[c] = Math.max(0.05 * (sumK / n), sumK / n - OUTSIDE_SHARE * roundness * (sumKappa / n));
  }
  return Int32Array.from(thin);
}

function neighbourhood(nx: number, ny: number): number[] {
  const steps: number[] = [];
  for (let k = -1; k <= 1; k++) {
    for (let j = -1; j <= 1; j++) for (let i = -1; i <= 1; i++) steps.push(i + nx * (j + ny * k));
  }
  return steps;
}
