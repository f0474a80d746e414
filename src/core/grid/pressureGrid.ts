import { UnionFind } from '../numerics/unionFind';
import type { FineGrid } from './grid';
import { BLOCK, type Lattice } from './lattice';

/**
 * Pressure grid: one unknown ("node") per connected set of fine cells in a block of BLOCK^3 fine
 * cells, so two walls or a wall and an air gap in one block never mix. Lengths in metres.
 */
export interface PressureGrid {
  n: number;
  /** Edge of a block, m. */
  spacing: number;
  /** Node of every fine cell. */
  nodeOfCell: Int32Array;
  /**
   * Cartesian centre of the block (3 per node), even where it lies outside the solid: with exact face
   * fractions the two-point flux is then exact for a linear pressure along a wall of any tilt.
   */
  position: Float64Array;
  /** Centre of volume of the node's cells (3 per node). */
  centroid: Float32Array;
  /** m3 */
  volume: Float64Array;
  /** Half gap at the wall H_w, m: wall shear stress = |grad p| H_w. */
  wallGap: Float64Array;
  /** Wall thickness 2H, m. */
  thickness: Float32Array;
  /** Shape exponent s = 2 + 3c of the section: 2 slab, 3 round. */
  shape: Float64Array;
  /** Undirected links with from < to. Lengths nLinks. */
  linkFrom: Int32Array;
  linkTo: Int32Array;
  linkAxis: Uint8Array;
  /** Transmissibility for unit viscosity, m3: flow = T (p_from - p_to) / viscosity. */
  transmissibility: Float64Array;
  /** Compressed rows of the same links: neighbours of node i at rowStart[i] .. rowStart[i+1]-1. */
  rowStart: Int32Array;
  rowNode: Int32Array;
  rowLink: Int32Array;
  /** Where a feed has been joined: its nodes. */
  ducts?: {
    /** Apparent shear rate over flow, 1/m3, of nodes in a runner; 0 in the part. Length n. */
    rate: Float64Array;
    /** 1 where segments of the feed or gate and part meet: melt passes as it comes. Length n. */
    joint: Uint8Array;
  };
  /** Share of a link's resistance that lies on the side of `linkFrom`; a half where absent. Length nLinks. */
  linkShare?: Float32Array;
}

export function buildPressureGrid(fine: FineGrid): PressureGrid {
  const { lattice } = fine;
  const { nodeOfCell, blockOfNode, n } = components(fine);
  const links = collectLinks(fine, nodeOfCell, n);
  const averages = averageNodes(fine, nodeOfCell, n);
  return {
    n,
    spacing: BLOCK * lattice.spacing,
    nodeOfCell,
    position: blockCentres(lattice, blockOfNode),
    ...averages,
    ...links,
    ...rowsOf(links.linkFrom, links.linkTo, n),
  };
}

/** Share of a block below which a set of cells gets no pressure of its own. */
export const SLIVER = 1e-4;

/** Block of every cell of the fine grid, x fastest. Length cells.n. */
function blocksOf({ lattice, cells }: FineGrid): Int32Array {
  const { nx, ny } = lattice;
  const [bx, by] = [nx / BLOCK, ny / BLOCK];
  return Int32Array.from(cells.index, (at) => {
    const i = Math.floor((at % nx) / BLOCK);
    const j = Math.floor((Math.floor(at / nx) % ny) / BLOCK);
    const k = Math.floor(Math.floor(at / (nx * ny)) / BLOCK);
    return i + bx * (j + by * k);
  });
}

/**
 * Connected sets of cells within each block, numbered by their first cell in block order. Sets of next to no volume
 * have joined a neighbour, whose block is then theirs: a node without melt has no density, temperature or fluidity.
 */
function components(fine: FineGrid): { nodeOfCell: Int32Array; blockOfNode: Int32Array; n: number } {
  const { lattice, cells } = fine;
  const block = blocksOf(fine);
  const sets = new UnionFind(cells.n);
  for (let c = 0; c < cells.n; c++) {
    for (let d = 0; d < 3; d++) {
      const other = cells.next[3 * c + d];
      if (other >= 0 && block[other] === block[c]) sets.union(c, other);
    }
  }
  joinSlivers(fine, sets);
  const largest = new Float64Array(cells.n).fill(-1);
  const home = new Int32Array(cells.n);
  for (let c = 0; c < cells.n; c++) {
    const root = sets.find(c);
    if (cells.volume[c] <= largest[root]) continue;
    largest[root] = cells.volume[c];
    home[root] = block[c];
  }
  const key = Int32Array.from({ length: cells.n }, (_, c) => home[sets.find(c)]);
  // Numbering by block keeps neighbours close in memory, which the sweeps of the solver feel.
  const order = countingOrder(key, (lattice.nx * lattice.ny * lattice.nz) / BLOCK ** 3);
  const nodeOfRoot = new Int32Array(cells.n).fill(-1);
  const nodeOfCell = new Int32Array(cells.n);
  const blockOfNode: number[] = [];
  for (const c of order) {
    const root = sets.find(c);
    if (nodeOfRoot[root] < 0) nodeOfRoot[root] = blockOfNode.push(key[c]) - 1;
    nodeOfCell[c] = nodeOfRoot[root];
  }
  return { nodeOfCell, blockOfNode: Int32Array.from(blockOfNode), n: blockOfNode.length };
}

/** Joins every set of cells below SLIVER to the set behind its largest open face, until none is left that has one. */
function joinSlivers({ lattice, cells }: FineGrid, sets: UnionFind): void {
  const least = SLIVER * (BLOCK * lattice.spacing) ** 3;
  const volume = new Float64Array(cells.n);
  for (let c = 0; c < cells.n; c++) volume[sets.find(c)] += cells.volume[c];
  // Faces from a cell that may belong to a sliver, each from both sides.
  const faces: { from: number; to: number; open: number }[] = [];
  for (let c = 0; c < cells.n; c++) {
    const small = volume[sets.find(c)] < least;
    for (let d = 0; d < 3; d++) {
      const other = cells.next[3 * c + d];
      if (other < 0 || sets.find(other) === sets.find(c)) continue;
      const open = cells.face[3 * c + d];
      if (small) faces.push({ from: c, to: other, open });
      if (volume[sets.find(other)] < least) faces.push({ from: other, to: c, open });
    }
  }
  // The widest first; a chain of slivers joins from its open end.
  faces.sort((a, b) => b.open - a.open);
  for (let joined = true; joined;) {
    joined = false;
    for (const { from, to } of faces) {
      const [a, b] = [sets.find(from), sets.find(to)];
      if (a === b || volume[a] >= least) continue;
      const sum = volume[a] + volume[b];
      sets.union(a, b);
      volume[sets.find(a)] = sum;
      joined = true;
    }
  }
}

function blockCentres({ nx, ny, origin, spacing }: Lattice, blockOfNode: Int32Array): Float64Array {
  const [bx, by] = [nx / BLOCK, ny / BLOCK];
  const position = new Float64Array(3 * blockOfNode.length);
  blockOfNode.forEach((at, node) => {
    const block = [at % bx, Math.floor(at / bx) % by, Math.floor(at / (bx * by))];
    for (let d = 0; d < 3; d++) position[3 * node + d] = origin[d] + (block[d] + 0.5) * BLOCK * spacing;
  });
  return position;
}

/** Indices in ascending order of their keys (0 <= key < nKeys), equal keys in their old order. */
function countingOrder(keys: Int32Array, nKeys: number): Int32Array {
  const start = new Int32Array(nKeys + 1);
  for (const key of keys) start[key + 1]++;
  for (let k = 0; k < nKeys; k++) start[k + 1] += start[k];
  const order = new Int32Array(keys.length);
  for (let i = 0; i < keys.length; i++) order[start[keys[i]]++] = i;
  return order;
}

/** Fine transmissibilities alpha a harmonic(K_i, K_j), summed over each shared block face and divided by BLOCK. */
function collectLinks(fine: FineGrid, nodeOfCell: Int32Array, n: number) {
  const { lattice, cells } = fine;
  const capacity = 3 * cells.n;
  const from = new Int32Array(capacity);
  const to = new Int32Array(capacity);
  const value = new Float64Array(capacity);
  let count = 0;
  for (let c = 0; c < cells.n; c++) {
    for (let d = 0; d < 3; d++) {
      const other = cells.next[3 * c + d];
      if (other < 0 || nodeOfCell[other] === nodeOfCell[c]) continue;
      const [ki, kj] = [cells.mobility[c], cells.mobility[other]];
      if (!(ki > 0 && kj > 0)) continue;
      from[count] = Math.min(nodeOfCell[c], nodeOfCell[other]);
      // The axis rides along.
      to[count] = 4 * Math.max(nodeOfCell[c], nodeOfCell[other]) + d;
      value[count++] = (cells.face[3 * c + d] * lattice.spacing * 2 * ki * kj) / (ki + kj) / BLOCK;
    }
  }
  // By `to` first, then stably by `from`: links of a node ascend, as the solver's rows must.
  const byTo = countingOrder(to.subarray(0, count), 4 * n);
  const byFrom = countingOrder(
    Int32Array.from(byTo, (i) => from[i]),
    n,
  );
  const linkFrom: number[] = [];
  const linkTo: number[] = [];
  const linkAxis: number[] = [];
  const sums: number[] = [];
  let last = -1;
  let most = 0;
  for (const o of byFrom) {
    const i = byTo[o];
    const same = last >= 0 && from[i] === from[last] && to[i] >> 2 === to[last] >> 2;
    if (same && to[i] === to[last]) sums[sums.length - 1] += value[i];
    else if (same) {
      // A node that took in a sliver may meet another across two faces: the axis of the wider one stands for both.
      if (value[i] > most) linkAxis[linkAxis.length - 1] = to[i] & 3;
      sums[sums.length - 1] += value[i];
    } else {
      linkFrom.push(from[i]);
      linkTo.push(to[i] >> 2);
      linkAxis.push(to[i] & 3);
      sums.push(value[i]);
      most = 0;
    }
    most = Math.max(most, value[i]);
    last = i;
  }
  return {
    linkFrom: Int32Array.from(linkFrom),
    linkTo: Int32Array.from(linkTo),
    linkAxis: Uint8Array.from(linkAxis),
    transmissibility: Float64Array.from(sums),
  };
}

/** Volume-weighted means of the cells' section properties. */
function averageNodes(fine: FineGrid, nodeOfCell: Int32Array, n: number) {
  const { lattice, cells } = fine;
  const { nx, ny, spacing, origin } = lattice;
  const volume = new Float64Array(n);
  const centroid = new Float32Array(3 * n);
  const gapSquared = new Float64Array(n);
  const halfGap = new Float64Array(n);
  const roundness = new Float64Array(n);
  const weightOf = new Float64Array(n);
  const moment = new Float64Array(3 * n);
  for (let c = 0; c < cells.n; c++) {
    const node = nodeOfCell[c];
    const v = cells.volume[c];
    volume[node] += v;
    // A floor keeps pieces that hang on nothing defined; it is far below any volume that counts.
    const w = v + 1e-12 * spacing ** 3;
    const c0 = cells.roundness[c];
    weightOf[node] += w;
    roundness[node] += w * c0;
    gapSquared[node] += w * Math.max(0.3 * cells.mobility[c], 3 * cells.mobility[c] - 3 * c0 * cells.kappa[c]);
    halfGap[node] += w * Math.sqrt(3 * cells.mobility[c]);
    const at = cells.index[c];
    moment[3 * node] += w * ((at % nx) + 0.5);
    moment[3 * node + 1] += w * ((Math.floor(at / nx) % ny) + 0.5);
    moment[3 * node + 2] += w * (Math.floor(at / (nx * ny)) + 0.5);
  }
  const wallGap = new Float64Array(n);
  const thickness = new Float32Array(n);
  const shape = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const w = weightOf[i];
    wallGap[i] = Math.sqrt(gapSquared[i] / w);
    thickness[i] = (2 * halfGap[i]) / w;
    shape[i] = 2 + 3 * (roundness[i] / w);
    for (let d = 0; d < 3; d++) centroid[3 * i + d] = origin[d] + (moment[3 * i + d] / w) * spacing;
  }
  return { volume, centroid, wallGap, thickness, shape };
}

function rowsOf(linkFrom: Int32Array, linkTo: Int32Array, n: number) {
  const rowStart = new Int32Array(n + 1);
  for (let l = 0; l < linkFrom.length; l++) {
    rowStart[linkFrom[l] + 1]++;
    rowStart[linkTo[l] + 1]++;
  }
  for (let i = 0; i < n; i++) rowStart[i + 1] += rowStart[i];
  const at = rowStart.slice(0, n);
  const rowNode = new Int32Array(rowStart[n]);
  const rowLink = new Int32Array(rowStart[n]);
  for (let l = 0; l < linkFrom.length; l++) {
    const [a, b] = [linkFrom[l], linkTo[l]];
    rowNode[at[a]] = b;
    rowLink[at[a]++] = l;
    rowNode[at[b]] = a;
    rowLink[at[b]++] = l;
  }
  return { rowStart, rowNode, rowLink };
}
