import { z } from 'zod';
import { real } from '../numerics/real';
import { vec3Schema } from './schemas';
import { diagonalOf } from './shells';
import type { Bounds, Vec3 } from './mesh';

export const severitySchema = z.enum(['blocks', 'misleads', 'cosmetic']);
export type Severity = z.infer<typeof severitySchema>;

export const findingCodeSchema = z.enum([
  'open',
  'non-manifold',
  'non-manifold-vertex',
  'misoriented',
  'inside-out',
  'duplicate',
  'degenerate',
  'sliver',
  'self-intersecting',
  'internal-void',
  'nested',
  'overlapping',
  'no-volume',
]);
export type FindingCode = z.infer<typeof findingCodeSchema>;

/** Somewhere to look: a point and how large the trouble there is, m. */
export const placeSchema = z.object({
  position: vec3Schema,
  size: real,
});
export type Place = z.infer<typeof placeSchema>;

export const findingSchema = z.object({
  severity: severitySchema,
  code: findingCodeSchema,
  message: z.string(),
  remedy: z.string(),
  count: real,
  /** The first few places, largest first. */
  places: z.array(placeSchema),
});
export type Finding = z.infer<typeof findingSchema>;

export const SEVERITIES: readonly Severity[] = ['blocks', 'misleads', 'cosmetic'];
export const MAX_PLACES = 24;

export const count = (n: number, one: string, many: string) => `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`;

/** A finding with the largest of its places. */
export function finding(
  severity: Severity,
  code: FindingCode,
  n: number,
  places: Place[],
  message: string,
  remedy: string,
): Finding {
  const first = [...places].sort((a, b) => b.size - a.size).slice(0, MAX_PLACES);
  return { severity, code, count: n, places: first, message, remedy };
}

export const placeOf = (box: Bounds): Place => ({
  position: box.min.map((m, d) => (m + box.max[d]) / 2) as Vec3,
  size: diagonalOf(box),
});

/** A finding with its places mapped (scaled, turned). */
export const moveFinding = (f: Finding, map: (v: Vec3) => Vec3, scale: number): Finding => ({
  ...f,
  places: f.places.map((p) => ({ position: map(p.position), size: p.size * scale })),
});
