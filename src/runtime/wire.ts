import type { MeshReport } from '../core/geometry/meshReport';
import type { Finding } from '../core/geometry/finding';
import type { Inputs } from '../core/model/study';
import type { Problem } from '../core/pipeline/checkRun';
import type { Summary } from '../core/results/summary';
import type { Answer } from '../core/results/answer';
import type { LengthUnit } from '../core/units/units';
import type { ImportedBody } from './protocol';

/** What server and page say to each other. Dates travel as ISO text. */
export type RunStatus = 'queued' | 'running' | 'filled' | 'stalled' | 'failed' | 'cancelled' | 'interrupted';

export const hasResults = (status: RunStatus): boolean => status === 'filled' || status === 'stalled';
export const isUnderWay = (status: RunStatus): boolean => status === 'queued' || status === 'running';

export interface VariantView {
  id: string;
  projectId: string;
  parentId: string | null;
  name: string;
  inputs: Inputs;
  createdAt: string;
}

export interface RunView {
  id: string;
  variantId: string;
  inputs: Inputs;
  inputKey: string;
  status: RunStatus;
  problems: Problem[] | null;
  summary: Summary | null;
  answers: Answer[] | null;
  createdAt: string;
  startedAt: string | null;
  finishedAt: string | null;
}

/** A stored surface. */
export interface GeometryView {
  hash: string;
  report: MeshReport;
  findings: Finding[];
}

export interface ProjectView {
  project: { id: string; name: string };
  variants: VariantView[];
  runs: RunView[];
  geometries: GeometryView[];
}

/** A checked upload before its unit is confirmed; lengths in the file's own unit. */
export interface ImportPreview {
  id: string;
  fileName: string;
  bodies: ImportedBody[];
  /** Metres per unit where the file says so, else null and a guess. */
  metresPerUnit: number | null;
  guessedUnit: LengthUnit;
}

/** Bodies of an accepted upload, in file order. */
export interface AcceptedImport {
  bodies: { name: string; colour: string | null; mesh: string }[];
  geometries: GeometryView[];
}

/** Lines of a streamed answer: progress, then one of the other two. */
export type TaskLine<T> =
  | { type: 'progress'; fraction: number; message: string }
  | { type: 'done'; result: T }
  | { type: 'failed'; message: string; remedy: string };

export interface GeometryAnswer<T> {
  answer: T;
  geometries: GeometryView[];
}

/** Server-sent event of a run; typed arrays as base64. */
export type RunEventWire = { id: number } & (
  | { type: 'status'; status: RunStatus; problems?: Problem[] }
  | { type: 'progress'; share: number; message: string; remaining_s: number | null }
  | { type: 'grid' }
  | { type: 'filled'; nodes: string; times: string }
);
