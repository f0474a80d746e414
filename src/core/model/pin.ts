import { z } from 'zod';

const metres = z.tuple([z.number(), z.number(), z.number()]);

/** When a valve pin moves. */
export const pinEventSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('start') }),
  z.strictObject({ by: z.literal('time'), time: z.number().min(0).max(600) }),
  z.strictObject({ by: z.literal('share'), share: z.number().min(0).max(1) }),
  /** Pressure at the nozzle, Pa. */
  z.strictObject({ by: z.literal('pressure'), pressure: z.number().positive().max(5e8) }),
  /** When the front passes a place on the part, m; null: the gate's own. */
  z.strictObject({ by: z.literal('front'), position: metres.nullable() }),
]);

/** A needle in a hot drop: opens, and closes if told to; each move takes `over` seconds. */
export const pinSchema = z.strictObject({
  open: pinEventSchema,
  close: pinEventSchema.nullable(),
  /** Further openings, each after the closing before it. */
  again: z
    .array(z.strictObject({ open: pinEventSchema, close: pinEventSchema.nullable() }))
    .max(12)
    .optional(),
  over: z.number().min(0.001).max(10),
});

export type PinEvent = z.infer<typeof pinEventSchema>;
export type Pin = z.infer<typeof pinSchema>;

export const DEFAULT_PIN: Pin = { open: { by: 'start' }, close: null, over: 0.05 };

/** All moves of a pin in their order: it opens, closes, opens again, until one that never closes. */
export function movesOf(pin: Pin): PinEvent[] {
  const moves: PinEvent[] = [];
  for (const { open, close } of [pin, ...(pin.again ?? [])]) {
    moves.push(open);
    if (!close) break;
    moves.push(close);
  }
  return moves;
}
