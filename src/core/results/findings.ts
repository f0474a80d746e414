import type { Hesitation, TrappedAirPlace } from './places';
import type { SpeedJump } from './speedJumps';
import type { WeldLine } from './weldLines';

/** Places and curves that a run has found. */
export interface Findings {
  weldLines: WeldLine[];
  airTraps: TrappedAirPlace[];
  hesitations: Hesitation[];
  /** Where the front's speed jumped as a pin moved; missing in runs of version 0.3 and earlier. */
  speedJumps?: SpeedJump[];
}
