import { z } from 'zod';
import { findingSchema } from '../core/geometry/finding';
import { meshReportSchema } from '../core/geometry/meshReport';
import { balanceAskSchema } from '../core/model/balanceAsk';
import { bodySchema } from '../core/model/body';
import { placementMatrix, reference } from '../core/model/bounded';
import { coolingAimSchema } from '../core/model/coolingAsk';
import { geometryTaskSchema } from '../core/model/geometryTask';
import { MATERIAL_SCHEMAS } from '../core/model/material';
import { inputsSchema } from '../core/model/study';
import { LONGEST_NAME, noteSchema, variantColourSchema } from '../core/model/variantMarks';
import { real } from '../core/numerics/real';
import { balanceReportSchema } from '../core/pipeline/balanceStudy';
import { coolingReportSchema } from '../core/pipeline/coolingStudy';
import { causeAskSchema, causeReportSchema } from '../core/pipeline/causeStudy';
import { counterStepSchema } from '../core/pipeline/counter';
import { STRUCTURE_ASKS } from '../core/model/structureAsk';
import { cycleReportSchema } from '../core/pipeline/cycleStudy';
import { tabReportSchema } from '../core/pipeline/tabStudy';
import { shrinkageAskSchema, shrinkageReportSchema } from '../core/pipeline/fitShrinkage';
import { answerSchema } from '../core/results/answer';
import { summarySchema } from '../core/results/summary';
import { problemSchema } from '../core/setup/problem';
import { LENGTH_UNITS } from '../core/units/units';

/**
 * What server and page say to each other: one entry a route, with what is sent and what comes back. The server parses
 * what it is sent, the page what it is answered. Dates travel as ISO text.
 */

export const RUN_STATUSES = ['queued', 'running', 'filled', 'stalled', 'failed', 'cancelled', 'interrupted'] as const;
const runStatusSchema = z.enum(RUN_STATUSES);
export type RunStatus = z.infer<typeof runStatusSchema>;

export const hasResults = (status: RunStatus): boolean => status === 'filled' || status === 'stalled';
export const isUnderWay = (status: RunStatus): boolean => status === 'queued' || status === 'running';

const date = z.iso.datetime();
const name = z.string().trim().min(1);

const variantSchema = z.object({
  id: z.string(),
  projectId: z.string(),
  parentId: z.string().nullable(),
  name: z.string(),
  /** What its maker says of it. */
  note: noteSchema,
  starred: z.boolean(),
  colour: variantColourSchema.nullable(),
  inputs: inputsSchema,
  /** Grows with every change. */
  version: z.number(),
  createdAt: date,
});
export type VariantView = z.infer<typeof variantSchema>;

const runSchema = z.object({
  id: z.string(),
  variantId: z.string(),
  inputs: inputsSchema,
  inputKey: z.string(),
  status: runStatusSchema,
  /** Nobody has asked for it: it stands back for those that somebody has. */
  aside: z.boolean().optional(),
  problems: z.array(problemSchema).nullable(),
  // What an earlier version has written in a way that is no longer known is not there: a new run tells it anew.
  summary: summarySchema.nullable().catch(null),
  answers: z.array(answerSchema).nullable().catch(null),
  /** Of the shots after the first; missing or null where there is but one. */
  later: z
    .array(z.object({ summary: summarySchema, answers: z.array(answerSchema) }))
    .nullish()
    .catch(null),
  createdAt: date,
  startedAt: date.nullable(),
  finishedAt: date.nullable(),
  deletedAt: date.nullish(),
});
export type RunView = z.infer<typeof runSchema>;

/** A value as it comes over the wire: dates become text, and what is no longer known is left out. */
export const overTheWire = <T>(schema: z.ZodType<T>, value: unknown): T =>
  schema.parse(JSON.parse(JSON.stringify(value)));

/** A stored surface. */
const geometrySchema = z.object({
  hash: z.string(),
  report: meshReportSchema,
  findings: z.array(findingSchema),
});
export type GeometryView = z.infer<typeof geometrySchema>;

const projectSchema = z.object({ id: z.string(), name: z.string() });

/** A project as the start page lists it: its variants with what their newest results say, without their inputs. */
const projectEntrySchema = projectSchema.extend({
  changedAt: date,
  /** What its newest variant moulds; empty where there is nothing, or too much to be drawn small. */
  part: z.array(z.object(bodySchema.pick({ mesh: true, role: true, colour: true, shot: true }).shape)).catch([]),
  variants: z.array(
    variantSchema.pick({ id: true, parentId: true, name: true, note: true, starred: true }).extend({
      answers: z
        .array(answerSchema.pick({ id: true, question: true, verdict: true }))
        .nullable()
        .catch(null),
    }),
  ),
});
export type ProjectEntry = z.infer<typeof projectEntrySchema>;

/** A project with everything the page needs. */
export const projectViewSchema = z.object({
  project: projectSchema,
  variants: z.array(variantSchema),
  runs: z.array(runSchema),
  geometries: z.array(geometrySchema),
});
export type ProjectView = z.infer<typeof projectViewSchema>;

const importedBodySchema = z.object({
  name: z.string(),
  colour: z.string().nullable(),
  report: meshReportSchema,
  findings: z.array(findingSchema),
});
export type ImportedBody = z.infer<typeof importedBodySchema>;

const lengthUnitSchema = z.enum(LENGTH_UNITS);

/** A checked upload before its unit is confirmed; lengths in the file's own unit. */
const importPreviewSchema = z.object({
  id: z.string(),
  fileName: z.string(),
  bodies: z.array(importedBodySchema),
  /** Metres per unit where the file says so, else null and a guess. */
  metresPerUnit: z.number().nullable(),
  guessedUnit: lengthUnitSchema,
});
export type ImportPreview = z.infer<typeof importPreviewSchema>;

/** Bodies of an accepted upload, in file order. */
const acceptedImportSchema = z.object({
  bodies: z.array(z.object({ name: z.string(), colour: z.string().nullable(), mesh: z.string() })),
  geometries: z.array(geometrySchema),
});
export type AcceptedImport = z.infer<typeof acceptedImportSchema>;

/** What work on surfaces came to, with the surfaces it made. */
export interface GeometryAnswer<T> {
  answer: T;
  geometries: GeometryView[];
}
export const geometryAnswerSchema = <T>(answer: z.ZodType<T>): z.ZodType<GeometryAnswer<T>> =>
  z.object({ answer, geometries: z.array(geometrySchema) }) as z.ZodType<GeometryAnswer<T>>;

/** What the shape of a run was made into: a file in its folder, or how well the body that was looked for comes out. */
const structureReportSchema = z.union([
  z.object({ file: z.string() }),
  z.object({ steps: z.array(counterStepSchema) }),
]);
export type StructureReport = z.infer<typeof structureReportSchema>;

/** What the data take up, bytes. Deleted things are among them as long as they can be brought back. */
export const usageSchema = z.object({
  folder: z.string(),
  total: z.number(),
  limit: z.number(),
  /** On the disk. */
  available: z.number(),
  keptFor_h: z.number(),
  /** `again`: what is calculated again when it is not there. */
  parts: z.object({
    results: z.number(),
    surfaces: z.number(),
    again: z.number(),
    uploads: z.number(),
    rest: z.number(),
  }),
  projects: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      deletedAt: date.nullable(),
      bytes: z.number(),
      variants: z.array(
        z.object({ id: z.string(), name: z.string(), version: z.number(), deletedAt: date.nullable() }),
      ),
      runs: z.array(
        z.object({
          id: z.string(),
          variant: z.string(),
          status: runStatusSchema,
          createdAt: date,
          deletedAt: date.nullable(),
          bytes: z.number(),
        }),
      ),
    }),
  ),
});
export type Usage = z.infer<typeof usageSchema>;

const storedMaterialSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('resin'), material: MATERIAL_SCHEMAS.resin }),
  z.object({ kind: z.literal('metal'), material: MATERIAL_SCHEMAS.metal }),
  z.object({ kind: z.literal('gas'), material: MATERIAL_SCHEMAS.gas }),
  z.object({ kind: z.literal('coolant'), material: MATERIAL_SCHEMAS.coolant }),
]);
export type StoredMaterial = z.infer<typeof storedMaterialSchema>;

/** A route: what is sent in its body, and what comes back, at once or as the last of a stream of lines. */
export interface Route<Sent, Answer> {
  method: 'GET' | 'POST' | 'PATCH' | 'PUT' | 'DELETE';
  /** Path with `:id` for what names one thing. */
  path: string;
  sent: z.ZodType<Sent>;
  answer: z.ZodType<Answer>;
}
const route = <Sent, Answer>(
  method: Route<Sent, Answer>['method'],
  path: string,
  answer: z.ZodType<Answer>,
  sent: z.ZodType<Sent>,
): Route<Sent, Answer> => ({ method, path, answer, sent });

const nothing = z.undefined();
const done = z.object({});

export const ROUTES = {
  projects: route('GET', '/api/projects', z.array(projectEntrySchema), nothing),
  /** `copyOf`: a project whose variants it begins with. */
  createProject: route(
    'POST',
    '/api/projects',
    projectSchema,
    z.strictObject({ name: name.max(LONGEST_NAME), copyOf: z.string().max(80).optional() }),
  ),
  project: route('GET', '/api/projects/:id', projectViewSchema, nothing),
  changeProject: route(
    'PATCH',
    '/api/projects/:id',
    projectSchema,
    z.strictObject({ name: name.max(LONGEST_NAME).optional(), deleted: z.boolean().optional() }),
  ),
  branch: route(
    'POST',
    '/api/variants',
    variantSchema,
    z.strictObject({ parentId: reference, name: name.max(60), inputs: inputsSchema.optional() }),
  ),
  changeVariant: route(
    'PATCH',
    '/api/variants/:id',
    variantSchema,
    z.strictObject({
      /** The one that the change was made on: a stale one is refused. */
      version: z.number().int(),
      name: name.max(60).optional(),
      note: noteSchema.optional(),
      starred: z.boolean().optional(),
      colour: variantColourSchema.nullable().optional(),
      /** Another one of its project, or none, that it is shown under. */
      parentId: reference.nullable().optional(),
      inputs: inputsSchema.optional(),
      deleted: z.boolean().optional(),
    }),
  ),
  variantRuns: route('GET', '/api/variants/:id/runs', z.array(runSchema), nothing),
  startRun: route('POST', '/api/runs', runSchema, z.strictObject({ variantId: reference })),
  run: route('GET', '/api/runs/:id', runSchema, nothing),
  changeRun: route('PATCH', '/api/runs/:id', runSchema, z.strictObject({ deleted: z.boolean() })),
  cancelRun: route('POST', '/api/runs/:id/cancel', done, z.strictObject({})),
  structure: route(
    'POST',
    '/api/runs/:id/structure',
    structureReportSchema,
    z.strictObject({ ask: z.enum(STRUCTURE_ASKS) }),
  ),
  acceptImport: route(
    'POST',
    '/api/imports/:id',
    acceptedImportSchema,
    z.strictObject({ unit: lengthUnitSchema.nullable(), placement: placementMatrix }),
  ),
  geometry: route('POST', '/api/geometry', z.unknown(), geometryTaskSchema),
  balance: route(
    'POST',
    '/api/balance',
    balanceReportSchema,
    z.strictObject({ inputs: inputsSchema, ask: balanceAskSchema }),
  ),
  cycle: route('POST', '/api/cycle', cycleReportSchema, z.strictObject({ inputs: inputsSchema })),
  causes: route('POST', '/api/causes', causeReportSchema, causeAskSchema),
  tab: route('POST', '/api/tab', tabReportSchema, z.strictObject({ inputs: inputsSchema })),
  cooling: route(
    'POST',
    '/api/cooling',
    coolingReportSchema,
    z.strictObject({ inputs: inputsSchema, aim: coolingAimSchema }),
  ),
  shrinkage: route('POST', '/api/shrinkage', shrinkageReportSchema, shrinkageAskSchema),
  signIn: route('POST', '/api/session', done, z.strictObject({ passphrase: z.string().max(2000) })),
  signOut: route('DELETE', '/api/session', done, nothing),
  usage: route('GET', '/api/storage', usageSchema, nothing),
  freeDeleted: route('POST', '/api/storage/free', z.object({ bytes: z.number() }), z.strictObject({})),
  materials: route('GET', '/api/materials', z.array(storedMaterialSchema), nothing),
  saveMaterial: route('PUT', '/api/materials', storedMaterialSchema, storedMaterialSchema),
  deleteMaterial: route('DELETE', '/api/materials/:id', done, nothing),
} as const;

/** An upload: the body is the file as it is, so that only the answer has a schema. */
export const UPLOAD = { path: '/api/imports', answer: importPreviewSchema } as const;
export const UPLOAD_STUDY = { path: '/api/studies', answer: projectSchema } as const;

/** What the server refused, with what to do about it. `now`: of a stale save, the variant as it has become since. */
export const refusalSchema = z.object({ message: z.string(), remedy: z.string(), now: variantSchema.optional() });

/** Lines of a streamed answer: progress, then one of the other two. */
export const taskLineSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('progress'), fraction: z.number(), message: z.string() }),
  z.object({ type: z.literal('done'), result: z.unknown() }),
  refusalSchema.extend({ type: z.literal('failed') }),
]);
export type TaskLine = z.infer<typeof taskLineSchema>;

/** Server-sent event of a run; typed arrays as base64. */
export const runEventSchema = z.discriminatedUnion('type', [
  z.object({
    id: z.number(),
    type: z.literal('status'),
    status: runStatusSchema,
    problems: z.array(problemSchema).optional(),
  }),
  z.object({
    id: z.number(),
    type: z.literal('progress'),
    share: real,
    message: z.string(),
    remaining_s: real.nullable(),
  }),
  z.object({ id: z.number(), type: z.literal('grid'), shot: z.number() }),
  z.object({ id: z.number(), type: z.literal('filled'), nodes: z.base64(), times: z.base64() }),
]);
export type RunEventWire = z.infer<typeof runEventSchema>;
