import { unpackArrays } from './arrays';
import type { Lattice } from '../grid/lattice';
import { PointMapper, type SurfaceMap } from '../grid/surfaceMap';

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
