import { z } from 'zod';
import { vec3Schema } from '../geometry/schemas';

/** Something that keeps a run from starting: where, what is wrong, what to do. */
export const problemSchema = z.object({
  station: z.enum(['part', 'resin', 'feed', 'cooling', 'cycle']),
  /** Field or gate the message belongs to. */
  target: z.string(),
  message: z.string(),
  remedy: z.string(),
  /** Where it is, m; absent where it has no place. */
  place: vec3Schema.optional(),
  /** Shot whose inputs are meant, from 1; absent where there is but one. */
  shot: z.number().optional(),
});
export type Problem = z.infer<typeof problemSchema>;
