import type { Field } from '../fields/field';
import type { FillFound } from '../solvers/fill/outcome';
import type { PackResult } from '../solvers/pack/outcome';
import type { BehindMemory } from '../solvers/melt/behind';
import type { PerNode } from '../solvers/shot/located';
import type { ShotFrames } from '../solvers/shot/frames';
import type { Warmth } from '../solvers/shot/transfer';
import type { FeedFacts } from './feedFacts';

/** Fluid in the core when the mould opens, or at the end of a shot that did not fill, on the part's own nodes. */
export interface CoreFound {
  node: {
    /** Of the fluid, m3. */
    volume: PerNode<Float64Array>;
    /** When it came, s; NaN where it did not. */
    time: PerNode<Float64Array>;
  };
  /** Nodes that it comes in at: those of the part. */
  needles: number[];
  /** When it was let in and out, s. */
  from: number;
  releasedAt: number;
}

/** Directions of the fibres at the end of a shot, on the part's own nodes. */
export interface FibresFound {
  nLayers: number;
  /** Six a layer: 11, 22, 33, 12, 23, 13 in the axes of the part, as in the first half of a wall whose halves are one. */
  orientation: PerNode;
  /** Direction across the wall, from its first side to its second; 3 a node. */
  across: PerNode;
  /** Their share of the volume, of every layer; absent: the same everywhere. */
  share?: PerNode;
  /** Mean length by number and by weight, m; absent: they do not break. */
  lengths?: { byNumber: PerNode; byWeight: PerNode };
}

/** Filling and, where it is asked for and the part was filled, packing and cooling: on the part's own nodes. */
export type Shot = FillFound & {
  pack: PackResult | null;
  /** Over the whole cycle. */
  frames: ShotFrames;
  feed?: FeedFacts;
  inFeed?: Field[];
  /** Bodies behind the walls when the mould opens, or at the end of what was calculated; null: the mould alone. */
  behind: BehindMemory | null;
  /** What it leaves for the next shot, on the part's own nodes; null where there is none. */
  left: Warmth | null;
  /** null where no fluid was let into the core. */
  core: CoreFound | null;
  /** How far melt has gone through every node since the place was full, m; 3 a node. */
  passed: PerNode;
  /** null where no fibres were followed. */
  fibres: FibresFound | null;
  /** Phases that an earlier run had calculated. */
  reused: string[];
};
