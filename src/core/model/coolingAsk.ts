import { z } from 'zod';

/** What the trials of a layout aim at: an even mould, or the shortest time until the part can be ejected. */
export const coolingAimSchema = z.enum(['even', 'time']);
export type CoolingAim = z.infer<typeof coolingAimSchema>;
