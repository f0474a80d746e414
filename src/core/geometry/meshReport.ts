import type { Bounds } from './mesh';

/** How the edges of a surface are shared. */
export interface EdgeReport {
  /** Edges with one triangle: the rim of a hole. */
  nOpen: number;
  /** Edges shared by more than two triangles. */
  nNonManifold: number;
  /** Edges whose two triangles run the same way: one of them faces inwards. */
  nMisoriented: number;
}

/** What a check of a surface counts. */
export interface MeshReport extends EdgeReport {
  nTriangles: number;
  nVertices: number;
  /** m3, always positive */
  volume: number;
  /** m2 */
  area: number;
  bounds: Bounds;
  watertight: boolean;
  /** True when every face pointed inwards. */
  insideOut: boolean;
  /** Connected pieces of surface; absent in reports older than the piece count. */
  nShells?: number;
}
