import { z } from 'zod';
import { identifier, metres } from './bounded';
import { within } from './quantity';

const size = within('tabSize');

/** A thin gap through which air leaves the mould. SI. */
export const ventSchema = z.strictObject({
  id: identifier,
  /** One vent at a place of the part, or all along the parting line. */
  at: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('place'), position: metres, width: within('ventWidth') }),
    z.strictObject({ kind: z.literal('rim') }),
  ]),
  gap: within('ventGap'),
  land: within('ventLand'),
  /** Behind the land, absolute: the atmosphere, or less where the mould is evacuated. */
  exitPressure: within('ventPressure'),
});
export type VentInput = z.infer<typeof ventSchema>;

/** A small volume beside the part that takes up the first, cold melt of a front. */
export const tabSchema = z.strictObject({
  id: identifier,
  /** On the surface, and the way it goes from there (unit vector). */
  position: metres,
  direction: metres,
  land: z.strictObject({ length: size, width: size, thickness: size }),
  size: z.strictObject({ length: size, width: size, thickness: size }),
  /** Air gets out at its end. */
  vented: z.boolean(),
  /** A valve keeps the melt out until a fluid is let into its core; absent: it is open from the start. */
  opens: z.literal('core').optional(),
});
export type Tab = z.infer<typeof tabSchema>;

/** A gap that air passes and melt does not, 5 mm wide. */
export const defaultVent = (id: string, at: VentInput['at']): VentInput => ({
  id,
  at,
  gap: 2e-5,
  land: 1.5e-3,
  exitPressure: 101325,
});

/** Beside a wall of this thickness, m. */
export const defaultTab = (id: string, position: Tab['position'], direction: Tab['direction'], wall: number): Tab => {
  const tidy = (x: number) => Number(x.toPrecision(2));
  return {
    id,
    position,
    direction,
    land: { length: 1e-3, width: tidy(3 * wall), thickness: tidy(0.5 * wall) },
    size: { length: tidy(5 * wall), width: tidy(5 * wall), thickness: tidy(1.5 * wall) },
    vented: true,
  };
};
