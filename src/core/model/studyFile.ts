import { z } from 'zod';
import { identifier, millimetres, reference, title } from './bounded';
import { fromSi, tidy, toSi, type LengthUnit, type Unit } from '../units/units';
import { bodySchema, MOST_SHOTS, toolSchema } from './body';
import { cavityLayoutSchema } from './cavityLayout';
import { coolingSchema } from './cooling';
import { compressionSchema } from './compression';
import { fibresSchema } from './fibres';
import { coreSchema } from './core';
import { warpageSchema } from './warpage';
import { feedSchema } from './feed';
import { gateFormSchema } from './gateForm';
import { DEFAULT_INSERT, insertSchema } from './insert';
import { machineSchema } from './machine';
import { tabSchema, ventSchema } from './outlet';
import type { Packing } from './packing';
import { CYCLE_NUMBER_IDS, CYCLE_NUMBERS, type CycleFileKey, type CycleNumber } from './parameters';
import { fileNumberSchema, fromFile, toFile } from './parameter';
import { WAY_NUMBERS } from './wayNumbers';
import { pinSchema } from './pin';
import { within } from './quantity';
import { resinSchema } from './resin';
import { wholeOf } from './shots';
import {
  DEFAULT_TRANSFER,
  detailSchema,
  emptyInputs,
  movesSchema,
  namesSchema,
  transferSchema,
  type Gate,
  type Injection,
  type Inputs,
  type Probe,
  type ShotInputs,
} from './study';

export const STUDY_FORMAT = 'bellows-study';
export const STUDY_VERSION = 1;

const surfaceFile = z.strictObject({ path: z.string().min(1), unit: z.enum(['mm', 'cm', 'm', 'in']) });

/** Under their keys in the file. */
const cycleNumbers = Object.fromEntries(
  CYCLE_NUMBER_IDS.map((id) => [CYCLE_NUMBERS[id].file.key, fileNumberSchema(CYCLE_NUMBERS[id]).optional()]),
) as Record<CycleFileKey, z.ZodOptional<z.ZodNumber>>;

/** What every shot has its own of. */
const ofShot = {
  gates: z
    .array(
      z.strictObject({
        id: identifier,
        position_mm: millimetres,
        diameter_mm: fileNumberSchema(WAY_NUMBERS.gateDiameter),
        /** Both in SI. */
        form: gateFormSchema.optional(),
        pin: pinSchema.optional(),
      }),
    )
    .max(40),
  /** In SI, as in the page's own store, like vents, tabs, core, compression and fibres. */
  feed: feedSchema.optional(),
  vents: z.array(ventSchema).max(60).optional(),
  tabs: z.array(tabSchema).max(24).optional(),
  core: coreSchema.optional(),
  compression: compressionSchema.optional(),
  fibres: fibresSchema.optional(),
  resin: z.union([reference, resinSchema]),
  cycle: z
    .strictObject({
      ...cycleNumbers,
      injectionTime_s: fileNumberSchema(WAY_NUMBERS.injectionTime).optional(),
      flowRate_cm3_s: fileNumberSchema(WAY_NUMBERS.flowRate).optional(),
      /** Flow rates from a share filled (0..1) on, or from a travel of the screw on. */
      flowProfile: z
        .union([
          z.strictObject({ share: z.array(z.tuple([z.number(), z.number().positive()])).min(1) }),
          z.strictObject({ stroke_mm: z.array(z.tuple([z.number(), z.number().positive()])).min(1) }),
        ])
        .optional(),
      machine: z.union([reference, machineSchema]).optional(),
      switchover: z
        .union([
          z.literal('automatic'),
          z.strictObject({ share: fileNumberSchema(WAY_NUMBERS.switchoverShare) }),
          z.strictObject({ pressure_MPa: fileNumberSchema(WAY_NUMBERS.switchoverPressure) }),
          z.strictObject({ time_s: fileNumberSchema(WAY_NUMBERS.switchoverTime) }),
        ])
        .optional(),
      packingPressure_MPa: fileNumberSchema(WAY_NUMBERS.packingPressure).optional(),
      packingTime_s: fileNumberSchema(WAY_NUMBERS.packingTime).optional(),
      /** Times from switchover [s] with pressures, or with shares (0..1) of the pressure at switchover. */
      packingProfile: z
        .union([
          z.strictObject({ pressure_MPa: z.array(z.tuple([z.number().min(0), z.number().min(0)])).min(2) }),
          z.strictObject({ share: z.array(z.tuple([z.number().min(0), z.number().min(0)])).min(2) }),
        ])
        .optional(),
      /** Moves of the press one by one. */
      moves_s: movesSchema.optional(),
      venting: z.enum(['parting-line', 'vents', 'sealed', 'open']).optional(),
    })
    .refine((c) => [c.injectionTime_s, c.flowRate_cm3_s, c.flowProfile].filter((x) => x !== undefined).length < 2, {
      message: 'give one of injectionTime_s, flowRate_cm3_s and flowProfile',
    })
    .refine((c) => !c.packingProfile || (c.packingPressure_MPa === undefined && c.packingTime_s === undefined), {
      message: 'give packingProfile or packingPressure_MPa and packingTime_s',
    })
    .default({}),
};

/** The study file: the same description with named units, geometry by relative path. */
export const studyFileSchema = z.strictObject({
  format: z.literal(STUDY_FORMAT),
  version: z.literal(STUDY_VERSION),
  name: z.string().max(200).default('Study'),
  geometry: surfaceFile,
  /** Inserts, pieces of the mould that `cooling` names, and what later shots fill, each with its surface. */
  bodies: z
    .array(surfaceFile.extend({ id: identifier, name: title(120), shot: bodySchema.shape.shot }))
    .max(200)
    .refine((list) => new Set(list.map((b) => b.id)).size === list.length, 'Every body needs an id of its own.')
    .default([]),
  /** How the tool opens, in the geometry's own axes, so that a part can be turned together with its tool. */
  tool: z
    .strictObject({
      opening: toolSchema.shape.opening,
      partingHeight_mm: fileNumberSchema(WAY_NUMBERS.partingHeight).optional(),
    })
    .optional(),
  ...ofShot,
  /** These in SI, as in the page's own store. */
  cavities: cavityLayoutSchema.optional(),
  cooling: coolingSchema.optional(),
  warpage: warpageSchema.optional(),
  inserts: z.array(insertSchema).max(40).optional(),
  /** Shots after the first, each over what the ones before have left. */
  later: z
    .array(
      z.strictObject({
        ...ofShot,
        transfer_s: within('transfer').default(DEFAULT_TRANSFER.time),
        transferOn: transferSchema.shape.on.default(DEFAULT_TRANSFER.on),
      }),
    )
    .min(1)
    .max(MOST_SHOTS - 1)
    .optional(),
  probes: z
    .array(z.strictObject({ id: identifier, position_mm: millimetres }))
    .max(24)
    .default([]),
  names: namesSchema.optional(),
  detail: detailSchema.default('normal'),
  instants: z.enum(['few', 'normal', 'many']).default('normal'),
  stages: z
    .array(z.enum(['fill', 'pack', 'warp']))
    .min(1)
    .default(['fill', 'pack', 'warp']),
});

/**
 * What an earlier version has written, as it is written now: inserts stood under `warpage` then, with their elasticity
 * alone.
 */
export function takenOver(json: unknown): unknown {
  const file = json as { warpage?: { inserts?: unknown }; inserts?: unknown } | null;
  if (typeof file !== 'object' || !Array.isArray(file?.warpage?.inserts)) return json;
  const { inserts, ...warpage } = file.warpage;
  const old = inserts as { body: string; young: number; poisson: number; expansion: number }[];
  if (!old.length) return { ...file, warpage };
  const asNow = old.map(({ body, young, poisson, expansion }) => ({
    ...DEFAULT_INSERT,
    id: body,
    material: { ...PLAIN_STEEL, modulus: young, poisson, expansion },
  }));
  return { ...file, warpage, inserts: file.inserts ?? asNow };
}

/** Of inserts whose heat nobody asked for. */
const PLAIN_STEEL = {
  id: 'typed',
  name: 'Insert',
  supplier: '',
  origin: 'typed in',
  kind: 'metal',
  density: 7850,
  specificHeat: 480,
  conductivity: 48,
};

function upToOf(stages: readonly string[]): Pick<Inputs, 'upTo'> {
  if (stages.includes('warp')) return {};
  return { upTo: stages.includes('pack') ? 'pack' : 'fill' };
}

export type StudyFile = z.infer<typeof studyFileSchema>;

/** Inputs of a study file. The bodies are left to the caller, who reads the geometry. */
export function inputsOf(file: StudyFile): Inputs {
  const si = (value: number | undefined, unit: Unit) => (value === undefined ? null : toSi(value, unit));
  const empty = emptyInputs();
  return {
    ...empty,
    ...shotOfFile(file),
    tool: {
      ...empty.tool,
      partingHeight: si(file.tool?.partingHeight_mm, 'mm'),
      ...(file.tool?.opening ? { opening: file.tool.opening } : {}),
    },
    ...(file.cavities ? { cavities: file.cavities } : {}),
    ...(file.cooling ? { cooling: file.cooling } : {}),
    ...(file.warpage ? { warpage: file.warpage } : {}),
    ...(file.inserts ? { inserts: file.inserts } : {}),
    ...(file.later
      ? {
          later: file.later.map(({ transfer_s, transferOn, ...shot }) => ({
            ...shotOfFile(shot),
            transfer: { time: transfer_s, on: transferOn },
          })),
        }
      : {}),
    probes: file.probes.map((p) => ({
      id: p.id,
      position: p.position_mm.map((x) => toSi(x, 'mm')) as Probe['position'],
    })),
    ...(file.names ? { names: file.names } : {}),
    detail: file.detail,
    ...(file.instants === 'normal' ? {} : { instants: file.instants }),
    ...upToOf(file.stages),
  };
}

type ShotFile = Pick<StudyFile, keyof typeof ofShot>;

function shotOfFile({ gates, feed, vents, tabs, core, compression, fibres, resin, cycle }: ShotFile): ShotInputs {
  return {
    gates: gates.map((g) => ({
      id: g.id,
      position: g.position_mm.map((x) => toSi(x, 'mm')) as Gate['position'],
      diameter: toSi(g.diameter_mm, 'mm'),
      ...(g.form ? { form: g.form } : {}),
      ...(g.pin ? { pin: g.pin } : {}),
    })),
    feed: feed ?? null,
    ...(vents ? { vents } : {}),
    ...(tabs ? { tabs } : {}),
    ...(core ? { core } : {}),
    ...(compression ? { compression } : {}),
    ...(fibres ? { fibres } : {}),
    resin,
    cycle: {
      ...numbersOf(cycle),
      injection: injectionOf(cycle),
      machine: cycle.machine ?? null,
      switchover: switchoverOf(cycle.switchover),
      packing: packingOf(cycle),
      ...(cycle.moves_s ? { moves: cycle.moves_s } : {}),
      venting: cycle.venting ?? 'parting-line',
    },
  };
}

/** Numbers of the cycle under their keys in the file, and back. */
function numbersOf(cycle: StudyFile['cycle']): Record<CycleNumber, number | null> {
  const read = (id: CycleNumber) => {
    const value = cycle[CYCLE_NUMBERS[id].file.key];
    return value === undefined ? null : fromFile(CYCLE_NUMBERS[id], value);
  };
  return Object.fromEntries(CYCLE_NUMBER_IDS.map((id) => [id, read(id)])) as Record<CycleNumber, number | null>;
}

function numbersFile(cycle: Inputs['cycle']): Partial<Record<CycleFileKey, number>> {
  return Object.fromEntries(
    CYCLE_NUMBER_IDS.flatMap((id) => {
      const value = cycle[id];
      return value === null ? [] : [[CYCLE_NUMBERS[id].file.key, toFile(CYCLE_NUMBERS[id], value)]];
    }),
  );
}

function packingOf({ packingProfile: p, ...cycle }: StudyFile['cycle']): Packing {
  if (!p)
    return {
      by: 'constant',
      pressure: cycle.packingPressure_MPa === undefined ? null : toSi(cycle.packingPressure_MPa, 'MPa'),
      time: cycle.packingTime_s ?? null,
    };
  if ('share' in p) return { by: 'profile', as: 'share', points: p.share.map(([at, value]) => ({ at, value })) };
  const points = p.pressure_MPa.map(([at, value]) => ({ at, value: toSi(value, 'MPa') }));
  return { by: 'profile', as: 'pressure', points };
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

/** The study file of a variant whose geometry lies beside it as `path` in `unit`, and the other bodies as `bodies` say. */
export function studyFileOf(
  name: string,
  study: Inputs,
  path: string,
  unit: LengthUnit,
  bodies: StudyFile['bodies'] = [],
): StudyFile {
  const inputs = wholeOf(study);
  const optional = (key: string, value: number | null, unit: Unit) =>
    value === null ? {} : { [key]: tidy(fromSi(value, unit)) };
  return {
    format: STUDY_FORMAT,
    version: STUDY_VERSION,
    name,
    geometry: { path, unit },
    bodies,
    ...(inputs.tool.opening || inputs.tool.partingHeight !== null
      ? {
          tool: {
            ...optional('partingHeight_mm', inputs.tool.partingHeight, 'mm'),
            ...(inputs.tool.opening ? { opening: inputs.tool.opening } : {}),
          },
        }
      : {}),
    ...fileOfShot(inputs),
    ...(inputs.cavities ? { cavities: inputs.cavities } : {}),
    ...(inputs.cooling ? { cooling: inputs.cooling } : {}),
    ...(inputs.warpage ? { warpage: inputs.warpage } : {}),
    ...(inputs.inserts ? { inserts: inputs.inserts } : {}),
    ...(inputs.later
      ? {
          later: inputs.later.map(({ transfer, ...shot }) => ({
            ...fileOfShot(shot),
            transfer_s: transfer.time,
            transferOn: transfer.on,
          })),
        }
      : {}),
    probes: inputs.probes.map((p) => ({ id: p.id, position_mm: inMillimetres(p.position) })),
    ...(inputs.names ? { names: inputs.names } : {}),
    detail: inputs.detail,
    instants: inputs.instants ?? 'normal',
    stages: inputs.upTo === 'fill' ? ['fill'] : inputs.upTo === 'pack' ? ['fill', 'pack'] : ['fill', 'pack', 'warp'],
  };
}

const inMillimetres = (p: readonly number[]) => p.map((x) => tidy(fromSi(x, 'mm'))) as Gate['position'];

function fileOfShot({ gates, feed, vents, tabs, core, compression, fibres, resin, cycle }: ShotInputs): ShotFile {
  return {
    gates: gates.map((g) => ({
      id: g.id,
      position_mm: inMillimetres(g.position),
      diameter_mm: tidy(fromSi(g.diameter, 'mm')),
      ...(g.form ? { form: g.form } : {}),
      ...(g.pin ? { pin: g.pin } : {}),
    })),
    ...(feed ? { feed } : {}),
    ...(vents?.length ? { vents } : {}),
    ...(tabs?.length ? { tabs } : {}),
    ...(core ? { core } : {}),
    ...(compression ? { compression } : {}),
    ...(fibres ? { fibres } : {}),
    resin,
    cycle: {
      ...numbersFile(cycle),
      ...injectionFile(cycle.injection),
      ...(cycle.machine === null ? {} : { machine: cycle.machine }),
      ...switchoverFile(cycle.switchover),
      ...packingFile(cycle.packing),
      ...(cycle.moves ? { moves_s: cycle.moves } : {}),
      ...(cycle.venting === 'parting-line' ? {} : { venting: cycle.venting }),
    },
  };
}

function packingFile(packing: Packing): Partial<StudyFile['cycle']> {
  const pressure = (p: number) => tidy(fromSi(p, 'MPa'));
  if (packing.by === 'constant')
    return {
      ...(packing.pressure === null ? {} : { packingPressure_MPa: pressure(packing.pressure) }),
      ...(packing.time === null ? {} : { packingTime_s: packing.time }),
    };
  if (packing.as === 'share') return { packingProfile: { share: packing.points.map((p) => [p.at, p.value]) } };
  return { packingProfile: { pressure_MPa: packing.points.map((p) => [p.at, pressure(p.value)]) } };
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

/**
 * One line a problem, "path: what is wrong", for people who wrote the file by hand; `file` is what was read, to tell
 * what is missing from what is wrong.
 */
export function describeIssues(error: z.ZodError, file?: unknown): string {
  const valueAt = (path: readonly PropertyKey[]) =>
    path.reduce<unknown>((at, key) => (at as Record<PropertyKey, unknown> | undefined)?.[key], file);
  const issues = error.issues.flatMap((issue) => plainIssues(issue));
  const told = issues.slice(0, MOST_TOLD).map(({ path, message }) => {
    const place = path.join('.');
    const missing = file !== undefined && path.length > 0 && valueAt(path) === undefined;
    if (!missing) return `${place || 'file'}: ${message}`;
    const hint = MISSING[place];
    return `${place}: is missing${hint ? `; ${hint}` : ''}`;
  });
  const more = issues.length - told.length;
  return [...told, ...(more > 0 ? [`and ${more} more`] : [])].join('\n');
}

/** A crafted file has thousands of faults: the first ones are told. */
const MOST_TOLD = 8;

interface PlainIssue {
  path: PropertyKey[];
  message: string;
}

/** An issue in terms of fields: of a choice, the faults of the kind that comes nearest to what was given. */
function plainIssues(issue: z.core.$ZodIssue, before: readonly PropertyKey[] = []): PlainIssue[] {
  const path = [...before, ...issue.path];
  if (issue.code !== 'invalid_union') return [{ path, message: issue.message }];
  if (issue.discriminator !== undefined) return [{ path, message: 'is none of the kinds that there are.' }];
  // Of another kind altogether: a text where an object is wanted, say.
  const alike = issue.errors.filter((faults) => !faults.some((f) => f.code === 'invalid_type' && !f.path.length));
  const nearest = alike.sort((a, b) => a.length - b.length)[0];
  if (!nearest) return [{ path, message: 'is of a kind that does not fit here.' }];
  return nearest.flatMap((fault) => plainIssues(fault, path));
}

/** What to write where something is missing. */
const MISSING: Record<string, string> = {
  resin: 'give the id of one from "bellows material", or a whole resin',
  geometry: 'give { "path": "part.stl", "unit": "mm" }',
  gates: 'give at least one { "id", "position_mm", "diameter_mm" }',
};
