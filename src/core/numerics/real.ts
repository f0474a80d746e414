import { z } from 'zod';

/** A number of a result. What JSON can not hold (not a number, without bounds) travels as null and comes back as NaN. */
export const real = z.union([z.number(), z.nan(), z.null().transform(() => NaN)]);
