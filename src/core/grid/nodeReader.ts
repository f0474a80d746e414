import { eigen } from '../geometry/vec';
import { WEIGHTS, type PointMapper } from './surfaceMap';

/** What reading a grid needs of it. */
export interface ReadableGrid {
  nNodes: number;
  mapper: PointMapper;
  /** Centre of volume of each node, 3 a node, m. */
  centroid: ArrayLike<number>;
}

/** Directions in which a node's neighbours spread by less than this share of the widest say nothing of the field. */
const SPREAD = 0.05;
/** Fewer neighbours next to it, or such that spread less in a second direction, are too few: those beyond count, too. */
const FEW = 4;
const ENOUGH = 0.25;

/** What reads a grid at places, as plain arrays: they can be sent from where they were worked out. */
export interface ReaderTables {
  /** WEIGHTS nodes and weights a place; all weights 0 where the grid has nothing. */
  nodes: Int32Array;
  weights: Float32Array;
  /** From the centre of each of those nodes to the place, 3 each, m. */
  offsets: Float32Array;
  slopes: SlopeTables;
}

/**
 * Values of the nodes of a grid at places that have nothing to do with it, such as those of another grid of the same
 * part. A place takes the tent mean of the nodes around it, each carried to the place by the slope at that node (least
 * squares over its neighbours): exact for fields linear along the wall, and at a node its own value. Places off the
 * part have none.
 */
export class NodeReader {
  readonly n: number;

  constructor(readonly tables: ReaderTables) {
    this.n = tables.nodes.length / WEIGHTS;
  }

  /** `places`: 3 each, m. `inwards`: by how much each is moved to look for its node, 3 each, m; for places of a surface. */
  static on(grid: ReadableGrid, places: ArrayLike<number>, inwards?: ArrayLike<number>): NodeReader {
    const n = places.length / 3;
    const nodes = new Int32Array(WEIGHTS * n);
    const weights = new Float32Array(WEIGHTS * n);
    const offsets = new Float32Array(3 * WEIGHTS * n);
    for (let p = 0; p < n; p++) {
      const at = [0, 1, 2].map((d) => places[3 * p + d]) as [number, number, number];
      const [x, y, z] = inwards ? at.map((c, d) => c + inwards[3 * p + d]) : at;
      const node = grid.mapper.nodeAt(x, y, z);
      if (node < 0) continue;
      grid.mapper.sharesAt(at, node).forEach(([near, share], k) => {
        const s = WEIGHTS * p + k;
        nodes[s] = near;
        weights[s] = share;
        for (let d = 0; d < 3; d++) offsets[3 * s + d] = at[d] - grid.centroid[3 * near + d];
      });
    }
    return new NodeReader({ nodes, weights, offsets, slopes: slopesOf(grid) });
  }

  /** Values [one a node] at the places; NaN off the part and where most of the nodes around have none. */
  read(values: ArrayLike<number>, out = new Float32Array(this.n)): Float32Array {
    const { nodes, weights, offsets, slopes } = this.tables;
    const slope = slopesFrom(slopes, values);
    for (let p = 0; p < this.n; p++) {
      let [sum, valid, total] = [0, 0, 0];
      for (let s = WEIGHTS * p; s < WEIGHTS * (p + 1); s++) {
        const w = weights[s];
        if (w === 0) continue;
        total += w;
        const node = nodes[s];
        const v = values[node];
        if (v !== v) continue;
        const g = 3 * node;
        const o = 3 * s;
        const carried = slope[g] * offsets[o] + slope[g + 1] * offsets[o + 1] + slope[g + 2] * offsets[o + 2];
        sum += w * (v + carried);
        valid += w;
      }
      out[p] = valid > 0.5 * total ? sum / valid : NaN;
    }
    return out;
  }
}

/** What makes slopes of node values by least squares over each node and its neighbours. */
interface SlopeTables {
  /** From where on a node's neighbours stand in `near`, and the end. */
  start: Int32Array;
  near: Int32Array;
  /** Of every neighbour, 3 each, 1/m: times the difference to it they add up to the slope. */
  factors: Float32Array;
}

/** Those of a grid are worked out once, however many sets of places are read on it. */
const known = new WeakMap<ReadableGrid, SlopeTables>();
function slopesOf(grid: ReadableGrid): SlopeTables {
  let slopes = known.get(grid);
  if (!slopes) known.set(grid, (slopes = slopeTables(grid)));
  return slopes;
}

function slopeTables({ nNodes, mapper, centroid }: ReadableGrid): SlopeTables {
  const start = [0];
  const near: number[] = [];
  const factors: number[] = [];
  const linksOf = (i: number, steps: number) => {
    const nodes = [...mapper.around(i, steps)].filter((j) => j !== i);
    const links = nodes.map((j) => [0, 1, 2].map((d) => centroid[3 * j + d] - centroid[3 * i + d]));
    return { nodes, links, spread: spreadOf(links) };
  };
  for (let i = 0; i < nNodes; i++) {
    const first = linksOf(i, 1);
    // Those of a corner or an edge may lie in one line.
    const { nodes, links, spread } =
      first.nodes.length < FEW || first.spread.values[1] < ENOUGH * first.spread.values[0] ? linksOf(i, 2) : first;
    const inverse = inverted(spread);
    nodes.forEach((j, k) => {
      near.push(j);
      for (let d = 0; d < 3; d++) factors.push(inverse[d].reduce((s, x, e) => s + x * links[k][e], 0));
    });
    start.push(near.length);
  }
  return { start: Int32Array.from(start), near: Int32Array.from(near), factors: Float32Array.from(factors) };
}

/** Slopes of node values, 3 a node; 0 where a neighbour has no value. */
function slopesFrom({ start, near, factors }: SlopeTables, values: ArrayLike<number>): Float32Array {
  const n = start.length - 1;
  const out = new Float32Array(3 * n);
  for (let i = 0; i < n; i++) {
    let [x, y, z] = [0, 0, 0];
    for (let k = start[i]; k < start[i + 1]; k++) {
      const step = values[near[k]] - values[i];
      x += factors[3 * k] * step;
      y += factors[3 * k + 1] * step;
      z += factors[3 * k + 2] * step;
    }
    const known = Number.isFinite(x + y + z);
    out[3 * i] = known ? x : 0;
    out[3 * i + 1] = known ? y : 0;
    out[3 * i + 2] = known ? z : 0;
  }
  return out;
}

const spreadOf = (links: readonly number[][]) =>
  eigen([0, 1, 2].map((i) => [0, 1, 2].map((j) => links.reduce((s, l) => s + l[i] * l[j], 0))));

/** Inverse of a spread over the directions that it spans; 0 in the others. */
function inverted({ values, vectors }: ReturnType<typeof spreadOf>): number[][] {
  const least = SPREAD * values[0];
  return [0, 1, 2].map((i) =>
    [0, 1, 2].map((j) =>
      values.reduce((s, v, k) => s + (v > least && v > 0 ? (vectors[k][i] * vectors[k][j]) / v : 0), 0),
    ),
  );
}
