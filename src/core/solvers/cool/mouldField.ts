import type { MouldGrid } from '../../grid/mouldGrid';
import { splitRows, type SparseMatrix } from '../../numerics/csr';
import { CompiledMultigrid } from '../../numerics/compiledMultigrid';
import { facetCorners, type MapSurface } from '../../partmaps/surface';
import type { LineSinks } from './lineSinks';

/** What the mould is made of at each node: W/(m K) and J/(m3 K). */
export interface MouldMetals {
  conductivity: Float64Array;
  capacity: Float64Array;
}

/** Contact of each face of the block (-x, +x, -y, +y, -z, +z) with what is around it. */
export interface FaceContact {
  temperature: number;
  transfer: number;
}

/** Surface of the cavity as the mould sees it. */
export interface Facets {
  n: number;
  areas: Float64Array;
  centroids: Float64Array;
  /** Out of the part, into the steel. */
  normals: Float64Array;
  /** Three corners each, 9 numbers. */
  corners: Float64Array;
}

/** The facets of a surface. */
export const facetsOf = ({ n, areas, centroids, normals, mesh }: MapSurface): Facets => ({
  n,
  areas,
  centroids,
  normals,
  corners: facetCorners(mesh),
});

/** What comes to each facet from the part over a cycle, on average. */
export interface HeatSource {
  /** Heat [W] of every facet for these facet temperatures [K], and by how much less it is for a kelvin more [W/K]. */
  evaluate(temperature: Float64Array, heat: Float64Array, slope: Float64Array): void;
}

/** A facet is divided into the square of this many equal triangles; these are their barycentric middles. */
const CUTS = 3;
const PIECES: readonly (readonly [number, number, number])[] = Array.from({ length: CUTS }, (_, i) =>
  Array.from({ length: CUTS - i }, (_, j) => {
    const up: [number, number, number] = [(i + 1 / 3) / CUTS, (j + 1 / 3) / CUTS, 0];
    const down: [number, number, number] = [(i + 2 / 3) / CUTS, (j + 2 / 3) / CUTS, 0];
    return i + j < CUTS - 1 ? [up, down] : [up];
  }).flat(),
)
  .flat()
  .map(([u, v]) => [u, v, 1 - u - v] as const);

/**
 * Conduction in the block: finite volumes on the mould grid, k grad T through the steel of every face, exact for
 * linear temperatures whatever the tilt of the cavity's walls (see PressureGrid).
 */
export class MouldField {
  /** K, length n. */
  readonly temperature: Float64Array;
  /** Surface temperatures of the cavity, K. */
  readonly facetTemperature: Float64Array;
  /** Heat from the part into each facet, W. */
  readonly facetHeat: Float64Array;
  /** Nodes of steel behind facet f: `behind.node[behind.start[f]] …`, with their shares of its area. */
  readonly behind: { start: Int32Array; node: Int32Array; share: Float64Array };
  /** Share of each facet that lies on the block: 1 unless the block cuts the part. */
  readonly covered: Float64Array;
  /** Heat that comes into nodes from elsewhere, of runners for one, W. */
  readonly extra: Float64Array;
  readonly conductance: Float64Array;
  /** Conductance to the surroundings and their temperature, by node of `grid.outer`. */
  private readonly outerConductance: Float64Array;
  private readonly slopes: Float64Array;
  private readonly residual: Float64Array;
  private readonly correction: Float64Array;
  private readonly gradient: Float64Array;
  private readonly matrix: SparseMatrix;
  private readonly positionOf: Int32Array;
  private readonly solver = new CompiledMultigrid();
  private diagonalUsed: Float64Array | null = null;
  iterations = 0;

  /** All that changes while the mould settles. */
  get memory(): Float64Array[] {
    return [this.temperature, this.facetTemperature, this.facetHeat, this.slopes, this.extra];
  }

  constructor(
    readonly grid: MouldGrid,
    readonly metals: MouldMetals,
    private readonly contacts: readonly FaceContact[],
    readonly facets: Facets,
    start: number | Float64Array,
  ) {
    const { n, linkFrom, linkTo, linkAxis, linkArea } = grid;
    this.temperature = typeof start === 'number' ? new Float64Array(n).fill(start) : start.slice();
    this.facetTemperature = new Float64Array(facets.n).fill(typeof start === 'number' ? start : start[0]);
    this.facetHeat = new Float64Array(facets.n);
    this.slopes = new Float64Array(facets.n);
    this.residual = new Float64Array(n);
    this.correction = new Float64Array(n);
    this.gradient = new Float64Array(3 * n);
    this.extra = new Float64Array(n);
    this.behind = this.nodesBehind();
    const { start: from, share } = this.behind;
    this.covered = Float64Array.from({ length: facets.n }, (_, f) =>
      share.subarray(from[f], from[f + 1]).reduce((s, x) => s + x, 0),
    );
    const half = (i: number, d: number) => this.width(i, d) / 2;
    this.conductance = Float64Array.from(linkArea, (area, l) => {
      const [i, j, d] = [linkFrom[l], linkTo[l], linkAxis[l]];
      return area / (half(i, d) / metals.conductivity[i] + half(j, d) / metals.conductivity[j]);
    });
    this.outerConductance = Float64Array.from(grid.outer, ({ node, side, area, depth }) => {
      const { transfer } = contacts[side];
      return transfer > 0 ? area / (1 / transfer + depth / metals.conductivity[node]) : 0;
    });
    [this.matrix, this.positionOf] = patternOf(n, linkFrom, linkTo);
    this.readFacets();
  }

  private width(node: number, d: number): number {
    const [nx, ny] = this.grid.size;
    const c = this.grid.cellOf[node];
    const i = [c % nx, Math.floor(c / nx) % ny, Math.floor(c / (nx * ny))][d];
    return this.grid.planes[d][i + 1] - this.grid.planes[d][i];
  }

  /**
   * Steel just behind each of the small triangles a facet is divided into, or a little deeper where the surface lies
   * against the edge of a cell: a facet as a whole would give its heat to one cell and nothing to the next.
   */
  private nodesBehind(): MouldField['behind'] {
    const { facets } = this;
    const { normals: m, corners } = facets;
    const start = new Int32Array(facets.n + 1);
    const node: number[] = [];
    const share: number[] = [];
    const found = new Map<number, number>();
    for (let f = 0; f < facets.n; f++) {
      found.clear();
      const at = (d: number) => [corners[9 * f + d], corners[9 * f + 3 + d], corners[9 * f + 6 + d]];
      const [x, y, z] = [at(0), at(1), at(2)];
      for (const w of PIECES) {
        const mix = (c: number[]) => w[0] * c[0] + w[1] * c[1] + w[2] * c[2];
        const n = this.steelFrom(mix(x), mix(y), mix(z), m[3 * f], m[3 * f + 1], m[3 * f + 2]);
        if (n >= 0) found.set(n, (found.get(n) ?? 0) + 1 / PIECES.length);
      }
      for (const [n, w] of found) {
        node.push(n);
        share.push(w);
      }
      start[f + 1] = node.length;
    }
    return { start, node: Int32Array.from(node), share: Float64Array.from(share) };
  }

  private steelFrom(x: number, y: number, z: number, nx: number, ny: number, nz: number): number {
    const { grid } = this;
    for (const depth of [0.02, 0.08, 0.15, 0.3, 0.5]) {
      const s = depth * grid.spacing;
      const node = grid.nodeAt(x + s * nx, y + s * ny, z + s * nz);
      if (node >= 0) return node;
    }
    return -1;
  }

  /** Slopes of the temperature in every node, K/m, from its links along each axis. */
  private setGradients(): void {
    const { grid, gradient, temperature } = this;
    const { linkFrom, linkTo, linkAxis, linkArea, position, n } = grid;
    gradient.fill(0);
    const weight = new Float64Array(3 * n);
    for (let l = 0; l < linkFrom.length; l++) {
      const [i, j, d] = [linkFrom[l], linkTo[l], linkAxis[l]];
      const apart = position[3 * j + d] - position[3 * i + d];
      // Absorbed slivers link cells that do not lie side by side: nothing to read a slope from.
      if (Math.abs(apart) < 0.25 * grid.spacing) continue;
      const g = ((temperature[j] - temperature[i]) / apart) * linkArea[l];
      for (const k of [i, j]) {
        gradient[3 * k + d] += g;
        weight[3 * k + d] += linkArea[l];
      }
    }
    for (let k = 0; k < 3 * n; k++) if (weight[k] > 0) gradient[k] /= weight[k];
  }

  /** Surface temperatures: from each node's centre along the wall by the slope there, across it by the flux. */
  readFacets(): void {
    const { facets, behind, covered, facetTemperature, facetHeat, grid, metals, temperature, gradient } = this;
    this.setGradients();
    for (let f = 0; f < facets.n; f++) {
      if (!(covered[f] > 0)) continue;
      let T = 0;
      const flux = facetHeat[f] / (facets.areas[f] * covered[f]);
      for (let k = behind.start[f]; k < behind.start[f + 1]; k++) {
        const node = behind.node[k];
        let [depth, along, slope] = [0, 0, 0];
        for (let d = 0; d < 3; d++) {
          const off = facets.centroids[3 * f + d] - grid.position[3 * node + d];
          depth -= off * facets.normals[3 * f + d];
          along += off * gradient[3 * node + d];
          slope += facets.normals[3 * f + d] * gradient[3 * node + d];
        }
        // `along + depth slope` is the part of the way that goes along the wall.
        T += behind.share[k] * (temperature[node] + along + depth * slope + (flux * depth) / metals.conductivity[node]);
      }
      facetTemperature[f] = T / covered[f];
    }
  }

  /** Heat that leaves through the faces of the block, W. */
  heatOutside(): { ambient: number; platens: number } {
    const { grid, outerConductance, contacts, temperature } = this;
    const out = { ambient: 0, platens: 0 };
    grid.outer.forEach(({ node, side }, k) => {
      const q = outerConductance[k] * (temperature[node] - contacts[side].temperature);
      if (side >= 4) out.platens += q;
      else out.ambient += q;
    });
    return out;
  }

  /**
   * One correction towards the balance of every node: conduction + surroundings + coolant - part = 0, and with
   * `storage` the heat stored since `before` over a time step. Returns the largest imbalance over the heat that passes.
   */
  relax(
    source: HeatSource,
    sinks: LineSinks,
    tolerance: number,
    storage: { dt: number; before: Float64Array } | null = null,
  ): number {
    const {
      grid,
      temperature,
      residual,
      conductance,
      facets,
      behind,
      covered,
      facetHeat,
      slopes,
      outerConductance,
      contacts,
      metals,
    } = this;
    const { linkFrom, linkTo } = grid;
    residual.fill(0);
    sinks.draw(residual);
    for (let i = 0; i < residual.length; i++) residual[i] = this.extra[i] - residual[i];
    this.readFacets();
    source.evaluate(this.facetTemperature, facetHeat, slopes);
    let passing = this.extra.reduce((sum, q) => sum + q, 0);
    for (let f = 0; f < facets.n; f++) {
      facetHeat[f] *= covered[f];
      slopes[f] *= covered[f];
      if (!(covered[f] > 0)) continue;
      for (let k = behind.start[f]; k < behind.start[f + 1]; k++)
        residual[behind.node[k]] += (behind.share[k] / covered[f]) * facetHeat[f];
      passing += Math.abs(facetHeat[f]);
    }
    for (let l = 0; l < linkFrom.length; l++) {
      const q = conductance[l] * (temperature[linkFrom[l]] - temperature[linkTo[l]]);
      residual[linkFrom[l]] -= q;
      residual[linkTo[l]] += q;
    }
    grid.outer.forEach(({ node, side }, k) => {
      residual[node] -= outerConductance[k] * (temperature[node] - contacts[side].temperature);
    });
    if (storage)
      for (let i = 0; i < grid.n; i++)
        residual[i] -= (metals.capacity[i] * grid.volume[i] * (temperature[i] - storage.before[i])) / storage.dt;
    let off = 0;
    for (let i = 0; i < grid.n; i++) off += Math.abs(residual[i]);
    this.setMatrix(sinks, storage?.dt ?? null);
    this.correction.fill(0);
    this.iterations += this.solver.solve(this.matrix, residual, this.correction, tolerance, 60).iterations;
    for (let i = 0; i < grid.n; i++) temperature[i] += this.correction[i];
    sinks.read(temperature);
    return off / Math.max(passing, 1e-9);
  }

  /** The matrix that the corrections are made with; it is set up anew only when its diagonal has moved. */
  private setMatrix(sinks: LineSinks, dt: number | null): void {
    const { grid, matrix, conductance, outerConductance, behind, covered, slopes, metals, positionOf } = this;
    const { diagonal, values } = matrix;
    const extra = new Float64Array(grid.n);
    sinks.lump(extra);
    grid.outer.forEach(({ node }, k) => (extra[node] += outerConductance[k]));
    for (let f = 0; f < covered.length; f++)
      for (let k = behind.start[f]; k < behind.start[f + 1]; k++)
        extra[behind.node[k]] += (behind.share[k] / covered[f]) * Math.max(0, slopes[f]);
    if (dt !== null) for (let i = 0; i < grid.n; i++) extra[i] += (metals.capacity[i] * grid.volume[i]) / dt;
    if (
      this.diagonalUsed &&
      extra.every((x, i) => Math.abs(x - (this.diagonalUsed as Float64Array)[i]) <= 0.2 * diagonal[i])
    )
      return;
    // A block that nothing cools would have no one temperature.
    const least = 1e-12 * conductance.reduce((s, g) => s + g, 0);
    diagonal.set(extra);
    for (let i = 0; i < grid.n; i++) diagonal[i] += least / grid.n;
    for (let l = 0; l < conductance.length; l++) {
      const g = conductance[l];
      diagonal[grid.linkFrom[l]] += g;
      diagonal[grid.linkTo[l]] += g;
      values[positionOf[2 * l]] = values[positionOf[2 * l + 1]] = -g;
    }
    this.diagonalUsed = extra;
    this.solver.setMatrix(matrix);
  }
}

/** Pattern of the links, and where each link's two entries lie. */
function patternOf(n: number, from: Int32Array, to: Int32Array): [SparseMatrix, Int32Array] {
  const rowStart = new Int32Array(n + 1);
  for (let l = 0; l < from.length; l++) {
    rowStart[from[l] + 1]++;
    rowStart[to[l] + 1]++;
  }
  for (let i = 0; i < n; i++) rowStart[i + 1] += rowStart[i];
  const columns = new Int32Array(rowStart[n]);
  const link = new Float64Array(rowStart[n]);
  const fill = rowStart.slice();
  for (let l = 0; l < from.length; l++) {
    link[fill[from[l]]] = 2 * l;
    columns[fill[from[l]]++] = to[l];
    link[fill[to[l]]] = 2 * l + 1;
    columns[fill[to[l]]++] = from[l];
  }
  const rowSplit = splitRows(n, rowStart, columns, link);
  const positionOf = new Int32Array(2 * from.length);
  link.forEach((entry, k) => (positionOf[entry] = k));
  return [
    { n, rowStart, rowSplit, columns, values: new Float64Array(columns.length), diagonal: new Float64Array(n) },
    positionOf,
  ];
}
