import { z } from 'zod';
import { within } from './quantity';

const metres = z.tuple([z.number(), z.number(), z.number()]);

/** When a valve pin moves. */
export const pinEventSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('start') }),
  z.strictObject({ by: z.literal('time'), time: within('pinTime') }),
  z.strictObject({ by: z.literal('share'), share: within('pinShare') }),
  /** Pressure at the nozzle, Pa. */
  z.strictObject({ by: z.literal('pressure'), pressure: within('pinPressure') }),
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
  over: within('pinTakes'),
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
