import { z } from 'zod';
import { hesitationSchema, trappedAirPlaceSchema } from './places';
import { speedJumpSchema } from './speedJumps';
import { weldLineSchema } from './weldLines';

/** Places and curves that a run has found. */
export const findingsSchema = z.object({
  weldLines: z.array(weldLineSchema),
  airTraps: z.array(trappedAirPlaceSchema),
  hesitations: z.array(hesitationSchema),
  /** Where the front's speed jumped as a pin moved; missing in runs of version 0.3 and earlier. */
  speedJumps: z.array(speedJumpSchema).optional(),
});
export type Findings = z.infer<typeof findingsSchema>;
