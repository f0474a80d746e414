import type { Vec3 } from '../geometry/mesh';

/** Something that keeps a run from starting: where, what is wrong, what to do. */
export interface Problem {
  station: 'part' | 'resin' | 'feed' | 'cooling' | 'cycle';
  /** Field or gate the message belongs to. */
  target: string;
  message: string;
  remedy: string;
  /** Where it is, m; absent where it has no place. */
  place?: Vec3;
}
