import { z } from 'zod';
import { metres, reference } from './bounded';
import { metalSchema } from './material';
import { within } from './quantity';

/** How plastic lies against an insert: it sticks, or slides along it. */
export const CONTACTS = ['bonded', 'sliding'] as const;
export type Contact = (typeof CONTACTS)[number];

/** A body that is laid into the mould and moulded onto. */
export const insertSchema = z.strictObject({
  /** Of the body. */
  id: reference.min(1),
  /** Metal or ceramic of the library or one's own, or a resin of the library. */
  material: z.union([reference, metalSchema]),
  /** When the mould closes, K; null: that of the mould. */
  temperature: within('insertTemperature').nullable(),
  contact: z.enum(CONTACTS),
  /** Places on it that the tool holds, m; none: where it reaches out of the plastic. */
  held: z.array(metres).max(20),
});
export type InsertChoice = z.infer<typeof insertSchema>;

export const DEFAULT_INSERT: Omit<InsertChoice, 'id'> = {
  material: 'steel-hw-c',
  temperature: null,
  contact: 'bonded',
  held: [],
};
