import { z } from 'zod';
import { resinSchema, type Resin } from './resin';

const positive = z.number().positive();
const kelvin = z.number().min(100).max(2000);
const named = {
  id: z.string().min(1).max(80),
  name: z.string().trim().min(1, 'Give it a name.').max(80),
  supplier: z.string().max(80),
  origin: z.enum(['sample', 'typed in', 'fitted from data', 'imported']),
};

/** A metal of the mould, SI: kg/m3, J/(kg K), W/(m K), Pa, 1/K. */
export const metalSchema = z.strictObject({
  ...named,
  kind: z.literal('metal'),
  density: positive,
  specificHeat: positive,
  conductivity: positive,
  modulus: positive,
  poisson: z.number().min(0).lt(0.5),
  expansion: z.number().min(-1e-4).max(1e-3),
});

/** A gas, ideal: kg/mol, ratio of specific heats, viscosity [Pa s] at a temperature [K] and Sutherland's constant [K]. */
export const gasSchema = z.strictObject({
  ...named,
  kind: z.literal('gas'),
  molarMass: positive.max(0.5),
  heatRatio: z.number().gt(1).max(1.7),
  viscosity: positive,
  at: kelvin,
  sutherland: z.number().min(0).max(2000),
});

/**
 * A coolant at two temperatures, between which density, heat capacity and conductivity go straight and the
 * logarithm of the viscosity goes with 1/T. SI.
 */
const state = z.strictObject({
  T: kelvin,
  density: positive,
  specificHeat: positive,
  conductivity: positive,
  viscosity: positive,
});
export const coolantSchema = z
  .strictObject({
    ...named,
    kind: z.literal('coolant'),
    freezing: kelvin,
    boiling: kelvin,
    cold: state,
    hot: state,
  })
  .refine((c) => c.cold.T < c.hot.T, { message: 'The second temperature must be above the first.', path: ['hot', 'T'] })
  .refine((c) => c.freezing < c.boiling, { message: 'It must freeze below where it boils.', path: ['boiling'] });

export type Metal = z.infer<typeof metalSchema>;
export type Gas = z.infer<typeof gasSchema>;
export type Coolant = z.infer<typeof coolantSchema>;
export type MaterialKind = 'resin' | 'metal' | 'gas' | 'coolant';
export type Material = Resin | Metal | Gas | Coolant;

export const MATERIAL_SCHEMAS = {
  resin: resinSchema,
  metal: metalSchema,
  gas: gasSchema,
  coolant: coolantSchema,
} as const satisfies Record<MaterialKind, z.ZodType>;

/** The form in which materials leave and come back: one material with what it is. */
export const MATERIAL_FORMAT = 'bellows-material';
export const materialFileSchema = z
  .strictObject({
    format: z.literal(MATERIAL_FORMAT),
    version: z.literal(1),
    kind: z.enum(['resin', 'metal', 'gas', 'coolant']),
    material: z.unknown(),
  })
  .transform((file, ctx) => {
    const parsed = MATERIAL_SCHEMAS[file.kind].safeParse(file.material);
    if (parsed.success) return { kind: file.kind, material: parsed.data as Material };
    parsed.error.issues.forEach((issue) =>
      ctx.addIssue({ code: 'custom', message: issue.message, path: ['material', ...issue.path] }),
    );
    return z.NEVER;
  });

export const materialFileOf = (kind: MaterialKind, material: Material) => ({
  format: MATERIAL_FORMAT,
  version: 1 as const,
  kind,
  material,
});
