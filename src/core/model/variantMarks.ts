import { z } from 'zod';

/** What is said of a project or a variant beside its inputs. */

/** Letters of the name of a project, at most. */
export const LONGEST_NAME = 80;
/** Letters of what the maker of a variant says of it, at most. */
const LONGEST_NOTE = 2000;
export const noteSchema = z.string().max(LONGEST_NOTE, `A note has at most ${LONGEST_NOTE} characters.`);

/** Colours a variant can be marked with. */
export const VARIANT_COLOURS = ['copper', 'petrol', 'moss', 'straw', 'plum', 'ink'] as const;
export const variantColourSchema = z.enum(VARIANT_COLOURS);
export type VariantColour = z.infer<typeof variantColourSchema>;
