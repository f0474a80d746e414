import { unpackArrays } from '@/core/formats/arrays';
import type { Lattice } from '@/core/grid/lattice';
import { PointMapper, WEIGHTS, type PointMap, type SurfaceMap } from '@/core/grid/surfaceMap';

/** Grid of a run as the view needs it. */
export interface ViewGrid {
  gridKey: string;
  nNodes: number;
  nodeVolume: Float32Array;
  /** Centre of volume of each node, m. 3 per node. */
  centroid: Float32Array;
  /** Wall thickness at each node, m. */
  thickness: Float32Array;
  mapper: PointMapper;
  spacing: number;
}

export function readSurface(buffer: ArrayBuffer): SurfaceMap {
  const { arrays } = unpackArrays(buffer);
  return {
    positions: arrays.positions as Float32Array,
    triangles: arrays.triangles as Uint32Array,
    nodes: arrays.nodes as Int32Array,
    weights: arrays.weights as Uint8Array,
  };
}

export function readGrid(buffer: ArrayBuffer): ViewGrid {
  const { meta, arrays } = unpackArrays(buffer);
  const { gridKey, lattice, spacing } = meta as { gridKey: string; lattice: Lattice; spacing: number };
  const index = arrays.index as Int32Array;
  const mapper = new PointMapper(
    { lattice, cells: { n: index.length, index, volume: arrays.volume as Float32Array } },
    {
      spacing,
      nodeOfCell: arrays.nodeOfCell as Int32Array,
      position: arrays.position as Float32Array,
      rowStart: arrays.rowStart as Int32Array,
      rowNode: arrays.rowNode as Int32Array,
    },
  );
  const nodeVolume = arrays.nodeVolume as Float32Array;
  // Runs of an earlier version name only the blocks' middles.
  const centroid = (arrays.centroid ?? arrays.position) as Float32Array;
  const thickness =
    (arrays.thickness as Float32Array | undefined) ?? new Float32Array(centroid.length / 3).fill(spacing);
  return { gridKey, nNodes: nodeVolume.length, nodeVolume, centroid, thickness, mapper, spacing };
}

/** Stands for "no value" in vertex attributes; NaN is not safe to interpolate on every GPU. */
export const NO_VALUE = 1e30;

/** Node values at the points of a map: weighted mean over nodes with a value; NO_VALUE where most have none. */
export function valuesAt(map: PointMap, values: Float32Array, out: Float32Array): Float32Array {
  const { nodes, weights } = map;
  for (let p = 0; p < out.length; p++) {
    let sum = 0;
    let valid = 0;
    let total = 0;
    for (let s = WEIGHTS * p, end = s + WEIGHTS; s < end; s++) {
      const w = weights[s];
      if (w === 0) continue;
      total += w;
      const v = values[nodes[s]];
      if (v === v) {
        sum += w * v;
        valid += w;
      }
    }
    out[p] = valid > 0.5 * total ? sum / valid : NO_VALUE;
  }
  return out;
}

/**
 * Fill times with those of empty nodes set a little past the end: interpolated over a triangle they
 * then draw the front as a line instead of a row of teeth. Always a new array, so that everything
 * downstream sees the change.
 */
export function timesToDraw(times: Float32Array, end: number): Float32Array {
  return times.map((t) => (t === t ? t : 1.04 * end + 1e-9));
}
