import { diagonalOf } from './shells';
import type { Bounds, Vec3 } from './mesh';

export type Severity = 'blocks' | 'misleads' | 'cosmetic';

export type FindingCode =
  | 'open'
  | 'non-manifold'
  | 'non-manifold-vertex'
  | 'misoriented'
  | 'inside-out'
  | 'duplicate'
  | 'degenerate'
  | 'sliver'
  | 'self-intersecting'
  | 'internal-void'
  | 'nested'
  | 'overlapping'
  | 'no-volume';

/** Somewhere to look: a point and how large the trouble there is, m. */
export interface Place {
  position: Vec3;
  size: number;
}

export interface Finding {
  severity: Severity;
  code: FindingCode;
  message: string;
  remedy: string;
  count: number;
  /** The first few places, largest first. */
  places: Place[];
}

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
