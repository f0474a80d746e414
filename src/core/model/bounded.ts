import { z } from 'zod';

/** Kinds of values that every part of the inputs has, with what they may be. */

/** A place farther from the origin is a slip of the unit or of a script, m. */
const FARTHEST = 50;
const TOO_FAR = `A place lies within ${FARTHEST} m of the origin.`;

export const coordinate = z.number().min(-FARTHEST, TOO_FAR).max(FARTHEST, TOO_FAR);
/** A place or a direction, m. */
export const metres = z.tuple([coordinate, coordinate, coordinate]);
/** The same at the edge, mm. */
const millimetre = z
  .number()
  .min(-1e3 * FARTHEST, TOO_FAR)
  .max(1e3 * FARTHEST, TOO_FAR);
export const millimetres = z.tuple([millimetre, millimetre, millimetre]);
/** A place in the parting plane, m. */
export const planar = z.tuple([coordinate, coordinate]);
/** A length of a solid, m. */
export const extent = z.number().positive('A size is larger than 0.').max(FARTHEST, `A size is at most ${FARTHEST} m.`);

/** Rows of a 3 x 4 matrix that moves bodies. */
export const placementMatrix = z.array(z.number().min(-1e3, TOO_FAR).max(1e3, TOO_FAR)).length(12);

const LONGEST_ID = 40;
export const identifier = z
  .string()
  .min(1, 'An id has at least one character.')
  .max(LONGEST_ID, `An id has at most ${LONGEST_ID} characters.`);

/** Id of something elsewhere: of a body, of a material in the library. */
export const reference = z.string().max(80, 'An id has at most 80 characters.');

/** A name that is shown. */
export const title = (longest: number) =>
  z.string().min(1, 'Give it a name.').max(longest, `A name has at most ${longest} characters.`);

/** Name of a surface: the hash of its content. */
export const hash = z.string().regex(/^[0-9a-f]{64}$/, 'A surface is named by the hash of its content.');

/** A list whose members are told apart by their ids. `what`: several of them. */
export const distinct = <T extends { id: string }>(list: z.ZodArray<z.ZodType<T>>, what: string): typeof list =>
  list.superRefine((items, ctx) => {
    const seen = new Set<string>();
    items.forEach(({ id }, i) => {
      if (seen.has(id)) ctx.addIssue({ code: 'custom', path: [i, 'id'], message: `Two ${what} are called “${id}”.` });
      seen.add(id);
    });
  });
