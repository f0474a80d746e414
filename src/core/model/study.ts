import { z } from 'zod';
import { fromSi, tidy, toSi, type LengthUnit, type Unit } from '../units/units';
import { ruleChangesSchema } from '../partmaps/rules';
import { axisTraceSchema, bodySchema, toolSchema, UNTURNED, type Body } from './body';
import { cavityLayoutSchema, copyPlacements } from './cavityLayout';
import { feedSchema } from './feed';
import { gateFormSchema } from './gateForm';
import { machineSchema } from './machine';
import { tabSchema, ventSchema } from './outlet';
import { pinSchema } from './pin';
import { resinSchema, type Resin } from './resin';

/** Model description of one variant, SI. null means "the default", which follows from resin and part. */
const metres = z.tuple([z.number(), z.number(), z.number()]);

export const gateSchema = z.strictObject({
  id: z.string().min(1).max(40),
  /** On the surface of the part, m. */
  position: metres,
  /** m */
  diameter: z.number().min(1e-4, 'A gate is at least 0.1 mm wide.').max(0.05, 'A gate is at most 50 mm wide.'),
  /** Kind and dimensions; absent for a round hole as long as the feed's lands. */
  form: gateFormSchema.optional(),
  /** Valve pin in the hot drop before it; absent for an open gate. */
  pin: pinSchema.optional(),
});

const flowRate = z.number().positive().max(0.05);

export const injectionSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('time'), time: z.number().positive().max(600).nullable() }),
  z.strictObject({ by: z.literal('flow-rate'), flowRate }),
  /** From each place on with its flow rate: places as share filled (0..1) or as travel of the screw, m. */
  z.strictObject({
    by: z.literal('profile'),
    against: z.enum(['share', 'stroke']),
    points: z
      .array(z.strictObject({ at: z.number().min(0).max(2), flowRate }))
      .min(1)
      .max(20)
      .refine((p) => p.every((x, i) => i === 0 || x.at > p[i - 1].at), 'The places of a profile must ascend.')
      .refine((p) => p[0]?.at === 0, 'A profile begins at 0.'),
  }),
]);

export const switchoverSchema = z.discriminatedUnion('by', [
  z.strictObject({ by: z.literal('automatic') }),
  z.strictObject({ by: z.literal('share'), share: z.number().min(0.3).max(1) }),
  z.strictObject({ by: z.literal('pressure'), pressure: z.number().positive().max(5e8) }),
  z.strictObject({ by: z.literal('time'), time: z.number().positive().max(600) }),
]);

const transfer = z.number().min(50).max(1e5).nullable();

export const probeSchema = z.strictObject({
  id: z.string().min(1).max(40),
  /** In or on the part, m. */
  position: metres,
});

/** A spot of the surface where no gate may sit: everything within `radius` of `position`, m. */
export const noGateSchema = z.strictObject({ position: metres, radius: z.number().positive().max(1) });

export const detailSchema = z.enum(['quick', 'normal', 'fine']);

export const inputsSchema = z.strictObject({
  /** Everything that was brought in, with its role. */
  bodies: z.array(bodySchema).max(2000),
  tool: toolSchema,
  /** Design rules changed for this part. */
  rules: ruleChangesSchema,
  axes: z.array(axisTraceSchema).max(200),
  gates: z.array(gateSchema).max(40),
  /** Copies of the cavities with their gates; absent for one of each. */
  cavities: cavityLayoutSchema.optional(),
  /** Sprue and runners; null: the melt comes straight to the gates. */
  feed: feedSchema.nullable(),
  /** Absent where there are none. */
  vents: z.array(ventSchema).max(60).optional(),
  tabs: z.array(tabSchema).max(24).optional(),
  resin: z.union([z.string(), resinSchema]),
  cycle: z.strictObject({
    meltTemperature: z.number().min(273.15).max(773.15).nullable(),
    /** Of both halves, or of the upper one when the lower has its own. */
    mouldTemperature: z.number().min(223.15).max(573.15).nullable(),
    lowerMouldTemperature: z.number().min(223.15).max(573.15).nullable(),
    injection: injectionSchema,
    /** null: the smallest press of the library that holds the shot. */
    machine: z.union([z.string(), machineSchema]).nullable(),
    /** null: what the machine can. */
    pressureLimit: z.number().min(0).max(5e8).nullable(),
    switchover: switchoverSchema,
    /** After switchover; null: a share of the pressure at switchover. */
    packingPressure: z.number().min(0).max(5e8).nullable(),
    /** Between melt and mould, W/(m2 K), while filling. */
    wallTransfer: transfer,
    /** Air gets out freely all along the parting line (and through the vents), only through the vents, or nowhere. */
    venting: z.enum(['parting-line', 'vents', 'sealed']),
  }),
  probes: z.array(probeSchema).max(24),
  noGate: z.array(noGateSchema).max(3000),
  detail: detailSchema,
});

export type Gate = z.infer<typeof gateSchema>;
export type Inputs = z.infer<typeof inputsSchema>;
export type Injection = z.infer<typeof injectionSchema>;
export type Probe = z.infer<typeof probeSchema>;
export type NoGate = z.infer<typeof noGateSchema>;

export const DEFAULT_GATE_DIAMETER = 2e-3;

/** Surfaces the melt fills, in order. */
export const cavities = (inputs: Inputs): Body[] => inputs.bodies.filter((b) => b.role === 'cavity');

/** Names the geometry a run fills: equal for equal cavities in equal places; null when there is none. */
export function geometryKey(inputs: Inputs): string | null {
  const meshes = cavities(inputs).map((b) => b.mesh);
  if (!meshes.length) return null;
  return meshes.join('+') + (inputs.cavities ? `@${JSON.stringify(inputs.cavities)}` : '');
}

/** How many of each cavity the tool has. */
export const nCopies = (inputs: Inputs): number => (inputs.cavities ? copyPlacements(inputs.cavities).length + 1 : 1);

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
  feed: null,
  resin: 'pp-hollin-h14',
  cycle: {
    meltTemperature: null,
    mouldTemperature: null,
    lowerMouldTemperature: null,
    injection: { by: 'time', time: null },
    machine: null,
    pressureLimit: null,
    switchover: { by: 'automatic' },
    packingPressure: null,
    wallTransfer: null,
    venting: 'parting-line',
  },
  probes: [],
  noGate: [],
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
        /** Both in SI. */
        form: gateFormSchema.optional(),
        pin: pinSchema.optional(),
      }),
    )
    .max(40),
  /** These two in SI, as in the page's own store. */
  cavities: cavityLayoutSchema.optional(),
  feed: feedSchema.optional(),
  vents: z.array(ventSchema).max(60).optional(),
  tabs: z.array(tabSchema).max(24).optional(),
  resin: z.union([z.string(), resinSchema]),
  cycle: z
    .strictObject({
      melt_C: z.number().min(0).max(500).optional(),
      mould_C: z.number().min(-50).max(300).optional(),
      lowerMould_C: z.number().min(-50).max(300).optional(),
      injectionTime_s: z.number().positive().max(600).optional(),
      flowRate_cm3_s: z.number().positive().max(50000).optional(),
      /** Flow rates from a share filled (0..1) on, or from a travel of the screw on. */
      flowProfile: z
        .union([
          z.strictObject({ share: z.array(z.tuple([z.number(), z.number().positive()])).min(1) }),
          z.strictObject({ stroke_mm: z.array(z.tuple([z.number(), z.number().positive()])).min(1) }),
        ])
        .optional(),
      machine: z.union([z.string(), machineSchema]).optional(),
      pressureLimit_MPa: z.number().min(0).max(500).optional(),
      switchover: z
        .union([
          z.literal('automatic'),
          z.strictObject({ share: z.number().min(0.3).max(1) }),
          z.strictObject({ pressure_MPa: z.number().positive().max(500) }),
          z.strictObject({ time_s: z.number().positive().max(600) }),
        ])
        .optional(),
      packingPressure_MPa: z.number().min(0).max(500).optional(),
      wallTransfer_W_m2K: z.number().min(50).max(1e5).optional(),
      venting: z.enum(['parting-line', 'vents', 'sealed']).optional(),
    })
    .refine((c) => [c.injectionTime_s, c.flowRate_cm3_s, c.flowProfile].filter((x) => x !== undefined).length < 2, {
      message: 'give one of injectionTime_s, flowRate_cm3_s and flowProfile',
    })
    .default({}),
  probes: z
    .array(z.strictObject({ id: z.string().min(1).max(40), position_mm: metres }))
    .max(24)
    .default([]),
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
  const si = (value: number | undefined, unit: Unit) => (value === undefined ? null : toSi(value, unit));
  return {
    ...emptyInputs(),
    gates: file.gates.map((g) => ({
      id: g.id,
      position: g.position_mm.map((x) => toSi(x, 'mm')) as Gate['position'],
      diameter: toSi(g.diameter_mm, 'mm'),
      ...(g.form ? { form: g.form } : {}),
      ...(g.pin ? { pin: g.pin } : {}),
    })),
    ...(file.cavities ? { cavities: file.cavities } : {}),
    feed: file.feed ?? null,
    ...(file.vents ? { vents: file.vents } : {}),
    ...(file.tabs ? { tabs: file.tabs } : {}),
    resin: file.resin,
    cycle: {
      meltTemperature: si(cycle.melt_C, '°C'),
      mouldTemperature: si(cycle.mould_C, '°C'),
      lowerMouldTemperature: si(cycle.lowerMould_C, '°C'),
      injection: injectionOf(cycle),
      machine: cycle.machine ?? null,
      pressureLimit: si(cycle.pressureLimit_MPa, 'MPa'),
      switchover: switchoverOf(cycle.switchover),
      packingPressure: si(cycle.packingPressure_MPa, 'MPa'),
      wallTransfer: cycle.wallTransfer_W_m2K ?? null,
      venting: cycle.venting ?? 'parting-line',
    },
    probes: file.probes.map((p) => ({
      id: p.id,
      position: p.position_mm.map((x) => toSi(x, 'mm')) as Probe['position'],
    })),
    detail: file.detail,
  };
}

function injectionOf(cycle: StudyFile['cycle']): Injection {
  if (cycle.flowRate_cm3_s !== undefined) return { by: 'flow-rate', flowRate: toSi(cycle.flowRate_cm3_s, 'cm³/s') };
  if (!cycle.flowProfile) return { by: 'time', time: cycle.injectionTime_s ?? null };
  const rate = (q: number) => toSi(q, 'cm³/s');
  if ('share' in cycle.flowProfile)
    return {
      by: 'profile',
      against: 'share',
      points: cycle.flowProfile.share.map(([at, q]) => ({ at, flowRate: rate(q) })),
    };
  return {
    by: 'profile',
    against: 'stroke',
    points: cycle.flowProfile.stroke_mm.map(([at, q]) => ({ at: toSi(at, 'mm'), flowRate: rate(q) })),
  };
}

function switchoverOf(file: StudyFile['cycle']['switchover']): Inputs['cycle']['switchover'] {
  if (file === undefined || file === 'automatic') return { by: 'automatic' };
  if ('share' in file) return { by: 'share', share: file.share };
  if ('pressure_MPa' in file) return { by: 'pressure', pressure: toSi(file.pressure_MPa, 'MPa') };
  return { by: 'time', time: file.time_s };
}

/** The study file of a variant whose geometry lies beside it as `path` in `unit`. */
export function studyFileOf(name: string, inputs: Inputs, path: string, unit: LengthUnit): StudyFile {
  const { cycle } = inputs;
  const optional = (key: string, value: number | null, unit: Unit) =>
    value === null ? {} : { [key]: tidy(fromSi(value, unit)) };
  const place = (p: readonly number[]) => p.map((x) => tidy(fromSi(x, 'mm'))) as Gate['position'];
  return {
    format: STUDY_FORMAT,
    version: STUDY_VERSION,
    name,
    geometry: { path, unit },
    gates: inputs.gates.map((g) => ({
      id: g.id,
      position_mm: place(g.position),
      diameter_mm: tidy(fromSi(g.diameter, 'mm')),
      ...(g.form ? { form: g.form } : {}),
      ...(g.pin ? { pin: g.pin } : {}),
    })),
    ...(inputs.cavities ? { cavities: inputs.cavities } : {}),
    ...(inputs.feed ? { feed: inputs.feed } : {}),
    ...(inputs.vents?.length ? { vents: inputs.vents } : {}),
    ...(inputs.tabs?.length ? { tabs: inputs.tabs } : {}),
    resin: inputs.resin,
    cycle: {
      ...optional('melt_C', cycle.meltTemperature, '°C'),
      ...optional('mould_C', cycle.mouldTemperature, '°C'),
      ...optional('lowerMould_C', cycle.lowerMouldTemperature, '°C'),
      ...injectionFile(cycle.injection),
      ...(cycle.machine === null ? {} : { machine: cycle.machine }),
      ...optional('pressureLimit_MPa', cycle.pressureLimit, 'MPa'),
      ...switchoverFile(cycle.switchover),
      ...optional('packingPressure_MPa', cycle.packingPressure, 'MPa'),
      ...(cycle.wallTransfer === null ? {} : { wallTransfer_W_m2K: cycle.wallTransfer }),
      ...(cycle.venting === 'parting-line' ? {} : { venting: cycle.venting }),
    },
    probes: inputs.probes.map((p) => ({ id: p.id, position_mm: place(p.position) })),
    detail: inputs.detail,
    stages: ['fill'],
  };
}

function injectionFile(injection: Injection): Partial<StudyFile['cycle']> {
  const rate = (q: number) => tidy(fromSi(q, 'cm³/s'));
  if (injection.by === 'time') return injection.time === null ? {} : { injectionTime_s: injection.time };
  if (injection.by === 'flow-rate') return { flowRate_cm3_s: rate(injection.flowRate) };
  if (injection.against === 'share')
    return { flowProfile: { share: injection.points.map((p) => [p.at, rate(p.flowRate)]) } };
  return { flowProfile: { stroke_mm: injection.points.map((p) => [tidy(fromSi(p.at, 'mm')), rate(p.flowRate)]) } };
}

function switchoverFile(switchover: Inputs['cycle']['switchover']): Partial<StudyFile['cycle']> {
  switch (switchover.by) {
    case 'automatic':
      return {};
    case 'share':
      return { switchover: { share: switchover.share } };
    case 'pressure':
      return { switchover: { pressure_MPa: tidy(fromSi(switchover.pressure, 'MPa')) } };
    case 'time':
      return { switchover: { time_s: switchover.time } };
  }
}

/** One line a problem, "path: what is wrong", for people who wrote the file by hand. */
export function describeIssues(error: z.ZodError): string {
  return error.issues.map((i) => `${i.path.join('.') || 'file'}: ${i.message}`).join('\n');
}

export type { Resin };
