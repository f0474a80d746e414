import { z } from 'zod';
import { turningSchema } from './fibres';

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

const finite = z.number().refine(Number.isFinite, 'must be a number');

/** Two-domain Tait form: see core/material/pvt. */
export const taitSchema = z.strictObject({
  b5: kelvin,
  b6: z.number().min(0).max(1e-5),
  b1m: positive.max(0.01),
  b2m: z.number().min(0).max(1e-4),
  b3m: positive.max(1e10),
  b4m: z.number().min(0).max(0.1),
  b1s: positive.max(0.01),
  b2s: z.number().min(0).max(1e-4),
  b3s: positive.max(1e10),
  b4s: z.number().min(0).max(0.1),
  b7: z.number().min(0).max(0.01),
  b8: z.number().min(0).max(10),
  b9: z.number().min(0).max(1e-6),
});

/** Points in ascending temperature [K], held beyond the ends. */
export const curveSchema = z
  .array(z.strictObject({ T: z.number().min(100).max(900), value: positive }))
  .min(1)
  .max(60)
  .refine((c) => c.every((x, i) => i === 0 || x.T > c[i - 1].T), 'Temperatures of a curve must ascend.');

/** How stress fades in the solid: see core/material/relaxation. Shares count by their sum. */
export const relaxationSchema = z.strictObject({
  reference: kelvin,
  wlf: z.strictObject({ c1: positive.max(100), c2: positive.max(500) }),
  activation: positive.max(5e6),
  terms: z
    .array(z.strictObject({ share: z.number().min(0).max(1), time: positive }))
    .min(1)
    .max(24)
    .refine((l) => l.some((t) => t.share > 0), 'One share at least must be above 0.')
    .refine((l) => l.every((t, k) => k === 0 || t.time > l[k - 1].time), 'The times must ascend.'),
});

/** Shrinkage measured on a plate, m, Pa at which it was packed until the gate froze, shares of the length. */
export const measuredShrinkageSchema = z.strictObject({
  thickness: positive.max(0.05),
  pressure: z.number().min(0).max(5e8),
  along: z.number().min(-0.02).max(0.2),
  across: z.number().min(-0.02).max(0.2),
});

export const fillerSchema = z.strictObject({
  kind: z.enum(['glass fibre', 'carbon fibre', 'mineral', 'glass beads']),
  /** By weight, 0..1. */
  share: z.number().gt(0).lt(0.8),
  density: positive,
  modulus: positive,
  poisson: z.number().min(0).lt(0.5),
  expansion: finite,
  /** Length over diameter. */
  aspectRatio: z
    .number()
    .min(1, 'Length over diameter is at least 1; flat fillers have their diameter over their thickness, and say so.')
    .max(1000),
  /** Of the fibres, m; that of its kind where it is missing. */
  diameter: positive.max(2e-3).optional(),
  /** How they break: see core/material/fibres/breakage; what is usual where it is missing. */
  breakage: z
    .strictObject({ drag: positive.max(100), chance: z.number().min(0).max(1), spread: z.number().min(0.05).max(2) })
    .optional(),
  /** Flakes: `aspectRatio` is their diameter over their thickness. */
  flat: z.boolean().optional(),
  /** The plastic between, Pa and 1/K; what follows from the stiffness along the flow where it is missing. */
  matrix: z.strictObject({ young: positive, poisson: z.number().min(0).lt(0.5), expansion: finite }).optional(),
  /** How the fibres turn in the melt; what follows from their share and length where it is missing. */
  turning: turningSchema.optional(),
});

/** A resin, SI throughout (K, Pa, kg/m3, J/(kg K), W/(m K)). */
export const resinSchema = z.strictObject({
  id: z.string().min(1).max(80),
  name: z.string().min(1).max(80),
  supplier: z.string().max(80),
  family: z.string().min(1).max(20),
  structure: z.enum(['amorphous', 'semi-crystalline']),
  origin: z.enum(['sample', 'typed in', 'fitted from data', 'imported']),
  viscosity: viscositySchema,
  pvt: taitSchema,
  /** Against temperature; the latent heat of crystals is a peak. */
  specificHeat: curveSchema,
  conductivity: curveSchema,
  /** Glass transition (amorphous) or crystallisation on cooling (semi-crystalline). */
  transitionTemperature: kelvin,
  /** Below this the melt no longer flows at moulding pressures. */
  noFlowTemperature: kelvin,
  ejectionTemperature: kelvin,
  melt: range,
  mould: range,
  maxShearRate: positive,
  maxShearStress: positive,
  /** Tensile strength along the flow, at yield or break, Pa; a rule of thumb where it is missing. */
  strength: positive.max(5e9).optional(),
  /** Of the solid in the room: along the flow (1) and across it, Pa. */
  elastic: z.strictObject({
    E1: positive,
    E2: positive,
    nu12: z.number().min(0).lt(0.5),
    nu23: z.number().min(0).lt(0.5),
    G12: positive,
  }),
  /** Linear expansion of the solid along the flow and across it, 1/K. */
  expansion: z.strictObject({ along: finite, across: finite }),
  filler: fillerSchema.nullable(),
  /** What follows from the structure where it is missing. */
  relaxation: relaxationSchema.optional(),
  /** Share of a third of what crystals take up in volume by which walls shrink along themselves. */
  crystalShare: z.number().min(0).max(1.5).optional(),
  /** Share of the crystals that a tenfold cooling rate leaves out. */
  quenchLoss: z.number().min(0).max(0.3).optional(),
  /** Shrinkage along the wall over what pvT gives, from a fit to measured shrinkage; 1 where there is none. */
  shrinkageFactor: z.number().min(0.2).max(5).optional(),
  /** Linear, per decade of time in the room. */
  afterShrinkage: z.number().min(0).max(0.01).optional(),
  measuredShrinkage: z.array(measuredShrinkageSchema).max(60).optional(),
});

export type MeasuredShrinkage = z.infer<typeof measuredShrinkageSchema>;
export type Filler = z.infer<typeof fillerSchema>;
export type Resin = z.infer<typeof resinSchema>;
