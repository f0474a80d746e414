import type { Finding, MeshReport } from '../core/geometry/check';
import type { Inputs } from '../core/model/study';
import type { Problem } from '../core/pipeline/checkRun';
import type { PartSize } from '../core/pipeline/settings';
import type { Summary } from '../core/results/summary';
import type { Answer } from '../core/results/willItFill';
import type { LengthUnit } from '../core/units/units';

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

export interface PartView {
  hash: string;
  name: string;
  unit: LengthUnit;
  report: MeshReport;
  findings: Finding[];
  size: PartSize;
}

export interface ProjectView {
  project: { id: string; name: string };
  variants: VariantView[];
  runs: RunView[];
  parts: PartView[];
}

/** A checked upload before its unit is confirmed; lengths in the file's own unit. */
export interface ImportPreview {
  id: string;
  fileName: string;
  report: MeshReport;
  findings: Finding[];
  guessedUnit: LengthUnit;
}

/** Server-sent event of a run; typed arrays as base64. */
export type RunEventWire = { id: number } & (
  | { type: 'status'; status: RunStatus; problems?: Problem[] }
  | { type: 'progress'; stage: string; fraction: number; message: string; remaining_s: number | null }
  | { type: 'grid' }
  | { type: 'filled'; nodes: string; times: string }
);
