/**
 * One column of layers through the half wall per pressure node, the home of every quantity that
 * varies through the wall (temperature now; solid share, orientation later). Layer 0 lies at the
 * middle, the last one at the wall; layers get finer towards the wall.
 */
export interface Columns {
  nNodes: number;
  nLayers: number;
  /** Place through the wall of the layer edges, 0 middle .. 1 wall. Length nLayers + 1. */
  edges: Float64Array;
  /** Layer temperatures [K], layers of a node side by side. Length nNodes * nLayers. */
  temperature: Float32Array;
}

export const N_LAYERS = 12;
const GRADING = 1.15;

/** Edges of `n` layers between 0 and 1, each `ratio` times thinner than the one before. */
export function layerEdges(n = N_LAYERS, ratio = GRADING): Float64Array {
  const edges = new Float64Array(n + 1);
  let thickness = 1;
  for (let i = 0; i < n; i++, thickness /= ratio) edges[i + 1] = edges[i] + thickness;
  const total = edges[n];
  for (let i = 1; i <= n; i++) edges[i] = i === n ? 1 : edges[i] / total;
  return edges;
}

/** Columns filled with melt of one temperature [K]. */
export function uniformColumns(nNodes: number, temperature: number): Columns {
  return {
    nNodes,
    nLayers: N_LAYERS,
    edges: layerEdges(),
    temperature: new Float32Array(nNodes * N_LAYERS).fill(temperature),
  };
}

/** Mean temperature [K] of a node's column, weighted by layer thickness. */
export function meanTemperature(columns: Columns, node: number): number {
  const { nLayers, edges, temperature } = columns;
  let sum = 0;
  for (let l = 0; l < nLayers; l++) sum += temperature[node * nLayers + l] * (edges[l + 1] - edges[l]);
  return sum;
}
