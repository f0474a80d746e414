import { z } from 'zod';
import { real } from '../numerics/real';
import { boundsSchema } from './schemas';

/** How the edges of a surface are shared. */
export const edgeReportSchema = z.object({
  /** Edges with one triangle: the rim of a hole. */
  nOpen: real,
  /** Edges shared by more than two triangles. */
  nNonManifold: real,
  /** Edges whose two triangles run the same way: one of them faces inwards. */
  nMisoriented: real,
});
export type EdgeReport = z.infer<typeof edgeReportSchema>;

/** What a check of a surface counts. */
export const meshReportSchema = edgeReportSchema.extend({
  nTriangles: real,
  nVertices: real,
  /** m3, always positive */
  volume: real,
  /** m2 */
  area: real,
  bounds: boundsSchema,
  watertight: z.boolean(),
  /** True when every face pointed inwards. */
  insideOut: z.boolean(),
  /** Connected pieces of surface; absent in reports older than the piece count. */
  nShells: real.optional(),
});
export type MeshReport = z.infer<typeof meshReportSchema>;
