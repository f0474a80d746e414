import type { PreviewMelt } from '../core/preview/preview';
import type { GateMap } from '../core/preview/gateFinder';
import type { Lattice } from '../core/grid/lattice';

type Vec3 = [number, number, number];

/** A filling of the part at one temperature. */
export interface PreviewFilling {
  gates: { id: string; position: Vec3; diameter: number }[];
  melt: PreviewMelt;
}

/** What the page asks of its preview worker. One part at a time; a newer fill replaces an older one. */
export type PreviewRequest =
  | { type: 'part'; key: string; positions: Float64Array; triangles: Uint32Array }
  | ({ type: 'fill'; id: number } & PreviewFilling)
  | { type: 'pressures'; id: number; fillings: PreviewFilling[] }
  | {
      type: 'find';
      id: number;
      forbidden: { position: Vec3; radius: number }[];
      melt: PreviewMelt;
      diameter: number;
    }
  | { type: 'stop' };

/** The coarse grid and its drawing surface. */
export interface PreviewSurface {
  positions: Float32Array;
  triangles: Uint32Array;
  nodes: Int32Array;
  weights: Uint8Array;
  lattice: Lattice;
  spacing: number;
  index: Int32Array;
  cellVolume: Float32Array;
  nodeOfCell: Int32Array;
  position: Float32Array;
  rowStart: Int32Array;
  rowNode: Int32Array;
  nodeVolume: Float32Array;
  centroid: Float32Array;
  thickness: Float32Array;
}

export type PreviewAnswer =
  | { type: 'grid'; key: string; surface: PreviewSurface }
  | { type: 'filled'; id: number; times: Float32Array; pressure: number; ms: number }
  // In the order of the fillings; null where one has no solution.
  | { type: 'pressures'; id: number; pressures: (number | null)[] }
  | { type: 'progress'; fraction: number; message: string }
  | {
      type: 'found';
      id: number;
      score: Float32Array;
      pressure: Float32Array;
      evenness: Float32Array;
      best: GateMap['best'];
    }
  | { type: 'stopped'; id: number }
  | { type: 'failed'; id: number; message: string };
