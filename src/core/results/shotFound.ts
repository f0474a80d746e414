import type { Field } from '../fields/field';
import type { FillFound } from '../solvers/fill/outcome';
import type { PackResult } from '../solvers/pack/outcome';
import type { ShotFrames } from '../solvers/shot/frames';
import type { FeedFacts } from './feedFacts';

/** Filling and, where it is asked for and the part was filled, packing and cooling: on the part's own nodes. */
export type Shot = FillFound & {
  pack: PackResult | null;
  /** Over the whole cycle. */
  frames: ShotFrames;
  feed?: FeedFacts;
  inFeed?: Field[];
  /** Phases that an earlier run had calculated. */
  reused: string[];
};
