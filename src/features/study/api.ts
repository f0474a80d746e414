import type { BalanceAsk } from '@/core/model/balanceAsk';
import type { CauseAsk } from '@/core/pipeline/causeStudy';
import type { ShrinkageAsk } from '@/core/pipeline/fitShrinkage';
import type { CoolingAim } from '@/core/model/coolingAsk';
import {
  geometryResultSchemas,
  type GeometryResults,
  type GeometryTask,
  type TaskName,
} from '@/core/model/geometryTask';
import type { Inputs } from '@/core/model/study';
import type { StructureAsk } from '@/core/model/structureAsk';
import type { LengthUnit } from '@/core/units/units';
import { reworded } from '@/core/units/reader';
import {
  geometryAnswerSchema,
  refusalSchema,
  ROUTES,
  taskLineSchema,
  UPLOAD,
  UPLOAD_STUDY,
  type GeometryAnswer,
  type Route,
  type StoredMaterial,
  type VariantView,
} from '@/runtime/wire';
import type { z } from 'zod';
import type { VariantChange } from './saves';

/** What the server refused or failed to do, with what to do about it. */
export class ApiError extends Error {
  readonly remedy: string;
  constructor(
    message: string,
    remedy: string,
    /** Of a stale save: the variant as it has become since. */
    readonly now?: VariantView,
  ) {
    super(reworded(message));
    this.remedy = reworded(remedy);
  }
}

/** The answer to a request, whatever it says. @throws ApiError when nobody answers. */
async function answerTo(url: string, init?: RequestInit): Promise<Response> {
  try {
    return await fetch(url, init);
  } catch (error) {
    if ((error as Error).name === 'AbortError') throw error;
    throw new ApiError('The server does not answer.', 'Check that Bellows is still running, then try again.');
  }
}

async function refusalOf(response: Response): Promise<ApiError> {
  const said = refusalSchema.safeParse(await response.json().catch(() => null));
  if (said.success) return new ApiError(said.data.message, said.data.remedy, said.data.now);
  return new ApiError(`The server answered ${response.status}.`, 'Try again.');
}

/** What came, as the contract has it. @throws ApiError when it is something else. */
export function understood<T>(schema: z.ZodType<T>, what: unknown): T {
  const parsed = schema.safeParse(what);
  if (parsed.success) return parsed.data;
  console.error(parsed.error);
  const place = parsed.error.issues[0]?.path.join('.') ?? '';
  throw new ApiError(
    `The page does not understand the server's answer${place && ` (at ${place})`}.`,
    'Reload the page: one of them is of another version.',
  );
}

const pathOf = ({ path }: { path: string }, id?: string) =>
  id === undefined ? path : path.replace(':id', encodeURIComponent(id));

const JSON_BODY = { 'Content-Type': 'application/json' };

/** Asks on a route. @throws ApiError when it is refused, or answered in a way that is not understood. */
async function ask<Sent, Answer>(route: Route<Sent, Answer>, sent?: Sent, id?: string): Promise<Answer> {
  const body = sent === undefined ? {} : { headers: JSON_BODY, body: JSON.stringify(sent) };
  const response = await answerTo(pathOf(route, id), { method: route.method, ...body });
  if (!response.ok) throw await refusalOf(response);
  return understood(route.answer, await response.json().catch(() => null));
}

export type OnProgress = (fraction: number, message: string) => void;

/** Reads a streamed answer line by line. @throws ApiError with the refusal. */
async function stream<T>(
  url: string,
  answer: z.ZodType<T>,
  body: File | string,
  onProgress: OnProgress,
  signal: AbortSignal,
): Promise<T> {
  const headers = typeof body === 'string' ? JSON_BODY : { 'Content-Type': 'application/octet-stream' };
  const response = await answerTo(url, { method: 'POST', headers, body, signal });
  if (!response.ok) throw await refusalOf(response);
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
  let rest = '';
  for (;;) {
    const { done, value } = (await reader?.read().catch(brokenOff)) ?? BROKEN_OFF;
    const lines = (rest + (value ?? '')).split('\n');
    rest = lines.pop() ?? '';
    for (const text of lines) {
      const line = understood(taskLineSchema, JSON.parse(text));
      if (line.type === 'progress') onProgress(line.fraction, reworded(line.message));
      else if (line.type === 'done') return understood(answer, line.result);
      else throw new ApiError(line.message, line.remedy);
    }
    if (done) throw new ApiError('The server stopped before the work was done.', 'Try again.');
  }
}

const streamOn = <Sent, Answer>(
  route: Route<Sent, Answer>,
  sent: Sent,
  onProgress: OnProgress,
  signal: AbortSignal,
  id?: string,
): Promise<Answer> => stream(pathOf(route, id), route.answer, JSON.stringify(sent), onProgress, signal);

const BROKEN_OFF = { done: true, value: undefined };

function brokenOff(error: Error): typeof BROKEN_OFF {
  if (error.name === 'AbortError') throw error;
  return BROKEN_OFF;
}

export const api = {
  project: (id: string) => ask(ROUTES.project, undefined, id),
  createProject: (name: string, copyOf?: string) => ask(ROUTES.createProject, { name, copyOf }),
  changeProject: (id: string, change: { name?: string; deleted?: boolean }) => ask(ROUTES.changeProject, change, id),
  branch: (parentId: string, name: string, inputs?: Inputs) => ask(ROUTES.branch, { parentId, name, inputs }),
  changeVariant: (id: string, change: VariantChange & { version: number; deleted?: boolean }) =>
    ask(ROUTES.changeVariant, change, id),
  run: (variantId: string) => ask(ROUTES.startRun, { variantId }),
  runById: (id: string) => ask(ROUTES.run, undefined, id),
  changeRun: (runId: string, change: { deleted: boolean }) => ask(ROUTES.changeRun, change, runId),
  cancel: (runId: string) => ask(ROUTES.cancelRun, {}, runId),
  upload: (file: File, onProgress: OnProgress, signal: AbortSignal) =>
    stream(`${UPLOAD.path}?name=${encodeURIComponent(file.name)}`, UPLOAD.answer, file, onProgress, signal),
  uploadStudy: (file: File, onProgress: OnProgress, signal: AbortSignal) =>
    stream(UPLOAD_STUDY.path, UPLOAD_STUDY.answer, file, onProgress, signal),
  acceptImport: (id: string, unit: LengthUnit | null, placement: number[]) =>
    ask(ROUTES.acceptImport, { unit, placement }, id),
  geometry: <K extends TaskName>(
    task: Extract<GeometryTask, { do: K }>,
    onProgress: OnProgress,
    signal: AbortSignal,
  ): Promise<GeometryAnswer<GeometryResults[K]>> => {
    const result = geometryResultSchemas[task.do as K] as unknown as z.ZodType<GeometryResults[K]>;
    return stream(ROUTES.geometry.path, geometryAnswerSchema(result), JSON.stringify(task), onProgress, signal);
  },
  balance: (inputs: Inputs, wanted: BalanceAsk, onProgress: OnProgress, signal: AbortSignal) =>
    streamOn(ROUTES.balance, { inputs, ask: wanted }, onProgress, signal),
  cycle: (inputs: Inputs, onProgress: OnProgress, signal: AbortSignal) =>
    streamOn(ROUTES.cycle, { inputs }, onProgress, signal),
  causes: (ask: CauseAsk, onProgress: OnProgress, signal: AbortSignal) =>
    streamOn(ROUTES.causes, ask, onProgress, signal),
  tab: (inputs: Inputs, onProgress: OnProgress, signal: AbortSignal) =>
    streamOn(ROUTES.tab, { inputs }, onProgress, signal),
  shrinkage: (ask: ShrinkageAsk, onProgress: OnProgress, signal: AbortSignal) =>
    streamOn(ROUTES.shrinkage, ask, onProgress, signal),
  improveLayout: (inputs: Inputs, aim: CoolingAim, onProgress: OnProgress, signal: AbortSignal) =>
    streamOn(ROUTES.cooling, { inputs, aim }, onProgress, signal),
  variantRuns: (id: string) => ask(ROUTES.variantRuns, undefined, id),
  structure: (runId: string, wanted: StructureAsk, onProgress: OnProgress, signal: AbortSignal) =>
    streamOn(ROUTES.structure, { ask: wanted }, onProgress, signal, runId),
  usage: () => ask(ROUTES.usage),
  freeDeleted: () => ask(ROUTES.freeDeleted, {}),
  signIn: (passphrase: string) => ask(ROUTES.signIn, { passphrase }),
  signOut: () => ask(ROUTES.signOut),
  materials: () => ask(ROUTES.materials),
  saveMaterial: (stored: StoredMaterial) => ask(ROUTES.saveMaterial, stored),
  deleteMaterial: (id: string) => ask(ROUTES.deleteMaterial, undefined, id),
  async binary(url: string): Promise<ArrayBuffer> {
    const response = await answerTo(url);
    if (!response.ok) throw new ApiError('A result could not be loaded.', 'Reload the page.');
    return response.arrayBuffer();
  },
};
