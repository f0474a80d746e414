import { z } from 'zod';
import { title } from './bounded';
import { LONGEST_NAME, noteSchema, variantColourSchema } from './variantMarks';

export const PROJECT_FORMAT = 'bellows-project';
export const PROJECT_VERSION = 1;

/** More variants than this are no project that somebody branched. */
export const MOST_VARIANTS = 300;

/** A variant of a project in a file: what it is called and hangs under; its inputs are a study file beside. */
const branchSchema = z.strictObject({
  name: title(LONGEST_NAME),
  /** Path of its study file. */
  study: z.string().min(1).max(300),
  /** Place of the variant that it was branched from among those before it, from 0; null: of none. */
  parent: z.number().int().min(0).nullable(),
  note: noteSchema.default(''),
  starred: z.boolean().default(false),
  colour: variantColourSchema.nullable().default(null),
});

/** A project as it goes out and comes in: its variants as the tree that they were branched in. */
export const projectFileSchema = z.strictObject({
  format: z.literal(PROJECT_FORMAT),
  version: z.literal(PROJECT_VERSION),
  name: title(LONGEST_NAME),
  variants: z
    .array(branchSchema)
    .min(1, 'A project has at least one variant.')
    .max(MOST_VARIANTS, `A project has at most ${MOST_VARIANTS} variants.`)
    .superRefine((variants, ctx) => {
      variants.forEach(({ parent }, k) => {
        if (parent !== null && parent >= k)
          ctx.addIssue({
            code: 'custom',
            path: [k, 'parent'],
            message: 'A variant hangs under one that stands before it.',
          });
      });
    }),
});

export type ProjectFile = z.infer<typeof projectFileSchema>;
