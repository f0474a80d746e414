import { z } from 'zod';
import { fromSi, tidy, toSi, type LengthUnit } from '../units/units';
import { ruleChangesSchema } from '../partmaps/rules';
import { axisTraceSchema, bodySchema, toolSchema, UNTURNED, type Body } from './body';
import { resinSchema, type Resin } from './resin';

/** Model description of one variant, SI. null means "the default", which follows from resin and part. */
const metres = z.tuple([z.number(), z.number(), z.number()]);

export const gateSchema = z.strictObject({
  id: z.string().min(1).max(40),
  /** On the surface of the part, m. */
  position: metres,
  /** m */
  diameter: z.number().min(1e-4, 'A gate is at least 0.1 mm wide.').max(0.05, 'A gate is at most 50 mm wide.'),
});

export const injectionSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('time'), time: z.number().positive().max(600).nullable() }),
  z.strictObject({ by: z.literal('flow-rate'), flowRate: z.number().positive().max(0.05) }),
]);

export const detailSchema = z.enum(['quick', 'normal', 'fine']);

export const inputsSchema = z.strictObject({
  /** Everything that was brought in, with its role. */
  bodies: z.array(bodySchema).max(2000),
  tool: toolSchema,
  /** Design rules changed for this part. */
  rules: ruleChangesSchema,
  axes: z.array(axisTraceSchema).max(200),
  gates: z.array(gateSchema).max(40),
  resin: z.union([z.string(), resinSchema]),
  cycle: z.strictObject({
    meltTemperature: z.number().min(273.15).max(773.15).nullable(),
    mouldTemperature: z.number().min(223.15).max(573.15).nullable(),
    injection: injectionSchema,
    pressureLimit: z.number().min(0).max(5e8).nullable(),
  }),
  detail: detailSchema,
});

export type Gate = z.infer<typeof gateSchema>;
export type Inputs = z.infer<typeof inputsSchema>;
export type Injection = z.infer<typeof injectionSchema>;

export const DEFAULT_PRESSURE_LIMIT = 120e6;
export const DEFAULT_GATE_DIAMETER = 2e-3;

/** Surfaces the melt fills, in order. */
export const cavities = (inputs: Inputs): Body[] => inputs.bodies.filter((b) => b.role === 'cavity');

/** Names the geometry a run fills: equal for equal cavities; null when there is none. */
export function geometryKey(inputs: Inputs): string | null {
  const meshes = cavities(inputs).map((b) => b.mesh);
  return meshes.length ? meshes.join('+') : null;
}

/** One cavity of the given surface; what a study file describes. */
export const cavityBody = (mesh: string, name = 'Part'): Body => ({
  id: 'B1',
  name,
  colour: null,
  role: 'cavity',
  mesh,
  original: null,
  standIn: null,
});

export const emptyInputs = (mesh: string | null = null, name?: string): Inputs => ({
  bodies: mesh ? [cavityBody(mesh, name)] : [],
  tool: { placement: UNTURNED, partingHeight: null },
  rules: {},
  axes: [],
  gates: [],
  resin: 'pp-hollin-h14',
  cycle: {
    meltTemperature: null,
    mouldTemperature: null,
    injection: { by: 'time', time: null },
    pressureLimit: null,
  },
  detail: 'normal',
});

export const STUDY_FORMAT = 'bellows-study';
export const STUDY_VERSION = 1;

/** The study file: the same description with named units, geometry by relative path. */
export const studyFileSchema = z.strictObject({
  format: z.literal(STUDY_FORMAT),
  version: z.literal(STUDY_VERSION),
  name: z.string().default('Study'),
  geometry: z.strictObject({ path: z.string().min(1), unit: z.enum(['mm', 'cm', 'm', 'in']) }),
  gates: z
    .array(
      z.strictObject({
        id: z.string().min(1).max(40),
        position_mm: metres,
        diameter_mm: z.number().min(0.1).max(50),
      }),
    )
    .max(40),
  resin: z.union([z.string(), resinSchema]),
  cycle: z
    .strictObject({
      melt_C: z.number().min(0).max(500).optional(),
      mould_C: z.number().min(-50).max(300).optional(),
      injectionTime_s: z.number().positive().max(600).optional(),
      flowRate_cm3_s: z.number().positive().max(50000).optional(),
      pressureLimit_MPa: z.number().min(0).max(500).optional(),
    })
    .refine((c) => c.injectionTime_s === undefined || c.flowRate_cm3_s === undefined, {
      message: 'give injectionTime_s or flowRate_cm3_s, not both',
    })
    .default({}),
  detail: detailSchema.default('normal'),
  stages: z
    .array(z.enum(['fill']))
    .min(1)
    .default(['fill']),
});

export type StudyFile = z.infer<typeof studyFileSchema>;

/** Inputs of a study file. The bodies are left to the caller, who reads the geometry. */
export function inputsOf(file: StudyFile): Inputs {
  const { cycle } = file;
  const celsius = (t: number | undefined) => (t === undefined ? null : toSi(t, '°C'));
  return {
    ...emptyInputs(),
    gates: file.gates.map((g) => ({
      id: g.id,
      position: g.position_mm.map((x) => toSi(x, 'mm')) as Gate['position'],
      diameter: toSi(g.diameter_mm, 'mm'),
    })),
    resin: file.resin,
    cycle: {
      meltTemperature: celsius(cycle.melt_C),
      mouldTemperature: celsius(cycle.mould_C),
      injection:
        cycle.flowRate_cm3_s !== undefined
          ? { by: 'flow-rate', flowRate: toSi(cycle.flowRate_cm3_s, 'cm³/s') }
          : { by: 'time', time: cycle.injectionTime_s ?? null },
      pressureLimit: cycle.pressureLimit_MPa === undefined ? null : toSi(cycle.pressureLimit_MPa, 'MPa'),
    },
    detail: file.detail,
  };
}

/** The study file of a variant whose geometry lies beside it as `path` in `unit`. */
export function studyFileOf(name: string, inputs: Inputs, path: string, unit: LengthUnit): StudyFile {
  const { cycle } = inputs;
  const optional = (key: string, value: number | null, unit: Parameters<typeof fromSi>[1]) =>
    value === null ? {} : { [key]: tidy(fromSi(value, unit)) };
  return {
    format: STUDY_FORMAT,
    version: STUDY_VERSION,
    name,
    geometry: { path, unit },
    gates: inputs.gates.map((g) => ({
      id: g.id,
      position_mm: g.position.map((x) => tidy(fromSi(x, 'mm'))) as Gate['position'],
      diameter_mm: tidy(fromSi(g.diameter, 'mm')),
    })),
    resin: inputs.resin,
    cycle: {
      ...optional('melt_C', cycle.meltTemperature, '°C'),
      ...optional('mould_C', cycle.mouldTemperature, '°C'),
      ...(cycle.injection.by === 'time'
        ? optional('injectionTime_s', cycle.injection.time, 's')
        : optional('flowRate_cm3_s', cycle.injection.flowRate, 'cm³/s')),
      ...optional('pressureLimit_MPa', cycle.pressureLimit, 'MPa'),
    },
    detail: inputs.detail,
    stages: ['fill'],
  };
}

/** One line a problem, "path: what is wrong", for people who wrote the file by hand. */
export function describeIssues(error: z.ZodError): string {
  return error.issues.map((i) => `${i.path.join('.') || 'file'}: ${i.message}`).join('\n');
}

export type { Resin };
