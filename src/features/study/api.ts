import type { BalanceAsk } from '@/core/model/balanceAsk';
import type { Material, MaterialKind } from '@/core/model/material';
import type { Inputs } from '@/core/model/study';
import type { BalanceReport } from '@/core/pipeline/balanceStudy';
import type { CoolingAim } from '@/core/model/coolingAsk';
import type { CoolingReport } from '@/core/pipeline/coolingStudy';
import type { StructureAsk } from '@/core/pipeline/structureStudy';
import type { StructureReport } from '@/runtime/protocol';
import type { CycleReport } from '@/core/pipeline/cycleStudy';
import type { LengthUnit } from '@/core/units/units';
import type { GeometryResults, GeometryTask, TaskName } from '@/core/model/geometryTask';
import type {
  AcceptedImport,
  GeometryAnswer,
  ImportPreview,
  ProjectView,
  RunView,
  TaskLine,
  VariantView,
} from '@/runtime/wire';

/** What the server refused or failed to do, with what to do about it. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message);
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
  const said = (await response.json().catch(() => ({}))) as { message?: string; remedy?: string };
  return new ApiError(said.message ?? `The server answered ${response.status}.`, said.remedy ?? 'Try again.');
}

async function call<T>(url: string, init?: RequestInit): Promise<T> {
  const response = await answerTo(url, init);
  if (!response.ok) throw await refusalOf(response);
  return (await response.json().catch(() => ({}))) as T;
}

const send = <T>(method: string, url: string, body: unknown) =>
  call<T>(url, { method, headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) });

export type OnProgress = (fraction: number, message: string) => void;

/** Reads a streamed answer line by line; throws ApiError with the refusal. */
async function stream<T>(url: string, body: BodyInit, onProgress: OnProgress, signal: AbortSignal): Promise<T> {
  const response = await answerTo(url, { method: 'POST', body, signal });
  if (!response.ok) throw await refusalOf(response);
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
  let rest = '';
  for (;;) {
    const { done, value } = (await reader?.read().catch(brokenOff)) ?? BROKEN_OFF;
    const lines = (rest + (value ?? '')).split('\n');
    rest = lines.pop() ?? '';
    for (const text of lines) {
      const line = JSON.parse(text) as TaskLine<T>;
      if (line.type === 'progress') onProgress(line.fraction, line.message);
      else if (line.type === 'done') return line.result;
      else throw new ApiError(line.message, line.remedy);
    }
    if (done) throw new ApiError('The server stopped before the work was done.', 'Try again.');
  }
}

const BROKEN_OFF = { done: true, value: undefined };

function brokenOff(error: Error): typeof BROKEN_OFF {
  if (error.name === 'AbortError') throw error;
  return BROKEN_OFF;
}

export const api = {
  project: (id: string) => call<ProjectView>(`/api/projects/${id}`),
  createProject: (name: string) => send<{ id: string }>('POST', '/api/projects', { name }),
  branch: (parentId: string, name: string, inputs?: Inputs) =>
    send<VariantView>('POST', '/api/variants', { parentId, name, inputs }),
  changeVariant: (id: string, change: { name?: string; inputs?: Inputs; deleted?: boolean }) =>
    send<VariantView>('PATCH', `/api/variants/${id}`, change),
  run: (variantId: string) => send<RunView>('POST', '/api/runs', { variantId }),
  runById: (id: string) => call<RunView>(`/api/runs/${id}`),
  cancel: (runId: string) => send<unknown>('POST', `/api/runs/${runId}/cancel`, {}),
  upload: (file: File, onProgress: OnProgress, signal: AbortSignal) =>
    stream<ImportPreview>(`/api/imports?name=${encodeURIComponent(file.name)}`, file, onProgress, signal),
  acceptImport: (id: string, unit: LengthUnit | null, placement: number[]) =>
    send<AcceptedImport>('POST', `/api/imports/${id}`, { unit, placement }),
  geometry: <K extends TaskName>(
    task: Extract<GeometryTask, { do: K }>,
    onProgress: OnProgress,
    signal: AbortSignal,
  ): Promise<GeometryAnswer<GeometryResults[K]>> => stream('/api/geometry', JSON.stringify(task), onProgress, signal),
  balance: (inputs: Inputs, ask: BalanceAsk, onProgress: OnProgress, signal: AbortSignal): Promise<BalanceReport> =>
    stream('/api/balance', JSON.stringify({ inputs, ask }), onProgress, signal),
  cycle: (inputs: Inputs, onProgress: OnProgress, signal: AbortSignal): Promise<CycleReport> =>
    stream('/api/cycle', JSON.stringify({ inputs }), onProgress, signal),
  improveLayout: (
    inputs: Inputs,
    aim: CoolingAim,
    onProgress: OnProgress,
    signal: AbortSignal,
  ): Promise<CoolingReport> => stream('/api/cooling', JSON.stringify({ inputs, aim }), onProgress, signal),
  structure: (
    runId: string,
    ask: StructureAsk,
    onProgress: OnProgress,
    signal: AbortSignal,
  ): Promise<StructureReport> => stream(`/api/runs/${runId}/structure`, JSON.stringify({ ask }), onProgress, signal),
  materials: () => call<{ kind: MaterialKind; material: Material }[]>('/api/materials'),
  saveMaterial: (kind: MaterialKind, material: Material) =>
    send<{ kind: MaterialKind; material: Material }>('PUT', '/api/materials', { kind, material }),
  deleteMaterial: (id: string) => call<unknown>(`/api/materials/${encodeURIComponent(id)}`, { method: 'DELETE' }),
  async binary(url: string): Promise<ArrayBuffer> {
    const response = await answerTo(url);
    if (!response.ok) throw new ApiError('A result could not be loaded.', 'Reload the page.');
    return response.arrayBuffer();
  },
};
