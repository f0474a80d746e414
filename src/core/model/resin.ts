import { z } from 'zod';

const positive = z.number().positive();
const kelvin = z.number().min(200).max(800);
const range = z
  .strictObject({ min: kelvin, recommended: kelvin, max: kelvin })
  .refine((r) => r.min <= r.recommended && r.recommended <= r.max, 'min, recommended and max must ascend');

export const viscositySchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('cross-wlf'),
    n: z.number().gt(0).lt(1),
    tauStar: positive,
    D1: positive,
    D2: kelvin,
    D3: z.number().min(0),
    A1: positive,
    A2: positive,
  }),
  z.strictObject({ kind: z.literal('cross'), eta0: positive, tauStar: positive, n: z.number().gt(0).lt(1) }),
  z.strictObject({ kind: z.literal('power-law'), K: positive, n: z.number().gt(0).max(1) }),
  z.strictObject({ kind: z.literal('newtonian'), eta: positive }),
]);

/** A resin, SI throughout (K, Pa, kg/m3, J/(kg K), W/(m K)). */
export const resinSchema = z.strictObject({
  id: z.string().min(1),
  name: z.string().min(1),
  supplier: z.string(),
  family: z.string(),
  structure: z.enum(['amorphous', 'semi-crystalline']),
  origin: z.enum(['sample', 'typed in', 'fitted from data', 'imported']),
  viscosity: viscositySchema,
  /** of the melt */
  density: positive,
  /** at room temperature, for the part's weight */
  solidDensity: positive.optional(),
  specificHeat: positive,
  conductivity: positive,
  /** Glass transition (amorphous) or crystallisation on cooling (semi-crystalline). */
  transitionTemperature: kelvin,
  /** Below this the melt no longer flows at moulding pressures. */
  noFlowTemperature: kelvin,
  ejectionTemperature: kelvin,
  melt: range,
  mould: range,
  maxShearRate: positive,
  maxShearStress: positive,
});

export type Resin = z.infer<typeof resinSchema>;
