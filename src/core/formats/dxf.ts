import DxfParser from 'dxf-parser';
import { FormatError } from './formatError';
import type { Vec3 } from '../geometry/mesh';

/** A chain of points with a diameter at each, or none where the file has none. Metres. */
export interface Polyline {
  points: Vec3[];
  diameters: (number | null)[];
}

interface Vertex {
  x: number;
  y: number;
  z?: number;
}
interface LineEntity {
  type: string;
  vertices?: Vertex[];
  shape?: boolean;
  elevation?: number;
}

const KINDS = new Set(['LINE', 'LWPOLYLINE', 'POLYLINE']);

/** Lines and polylines of a DXF drawing; `unit` takes its lengths to metres. Everything else is left out. */
export function readDxfLines(text: string, unit: number): Polyline[] {
  let entities: LineEntity[];
  try {
    entities = (new DxfParser().parseSync(text)?.entities ?? []) as LineEntity[];
  } catch (error) {
    throw new FormatError(`The drawing cannot be read: ${(error as Error).message}.`, 'Save it again as DXF text.');
  }
  const polylines = entities.flatMap(({ type, vertices = [], shape, elevation }): Polyline[] => {
    if (!KINDS.has(type) || vertices.length < 2) return [];
    const points = vertices.map((v): Vec3 => [v.x * unit, v.y * unit, (v.z ?? elevation ?? 0) * unit]);
    const closed = shape && type !== 'LINE' ? [...points, points[0]] : points;
    return [{ points: closed, diameters: closed.map(() => null) }];
  });
  if (!polylines.length)
    throw new FormatError('The drawing has no lines or polylines.', 'Draw runners as LINE, LWPOLYLINE or POLYLINE.');
  return polylines;
}
