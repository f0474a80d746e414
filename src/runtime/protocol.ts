import type { MeshReport } from '../core/geometry/meshReport';
import type { Finding } from '../core/geometry/finding';
import type { GeometryResults, GeometryTask } from '../core/model/geometryTask';
import type { BalanceAsk } from '../core/model/balanceAsk';
import type { ProjectFile } from '../core/model/projectFile';
import type { Inputs } from '../core/model/study';
import type { BalanceReport } from '../core/pipeline/balanceStudy';
import type { CoolingAim } from '../core/model/coolingAsk';
import type { CoolingReport } from '../core/pipeline/coolingStudy';
import type { CycleReport } from '../core/pipeline/cycleStudy';
import type { CauseReport } from '../core/pipeline/causeStudy';
import type { Detail } from '../core/grid/lattice';
import type { TabReport } from '../core/pipeline/tabStudy';
import type { ShrinkageAsk, ShrinkageReport } from '../core/pipeline/fitShrinkage';
import type { StructureAsk } from '../core/model/structureAsk';
import type { StageName } from '../core/stage/context';
import type { Problem } from '../core/pipeline/checkRun';
import type { Manifest } from './manifest';
import type { ImportedBody, StructureReport } from './wire';
import type { LengthUnit } from '../core/units/units';

/** Data of a run worker that is to run a small filling before its first task. */
export const WARM_UP = 'warm-up';

/** What the host gives a run worker. `cancel` is a SharedArrayBuffer: non-zero in its first Int32 asks to stop. */
export interface RunTask {
  /** Surfaces of the cavities, filled together. */
  meshPaths: string[];
  /** Surfaces of inserts, of pieces of the mould and of what later shots fill, by the id of the body. */
  bodyPaths: Record<string, string>;
  geometryKey: string;
  inputs: Inputs;
  outDir: string;
  /** Where outcomes of phases are kept for runs to come. */
  phaseDir: string;
  cancel: SharedArrayBuffer;
}

export type RunMessage =
  | { type: 'progress'; stage: StageName; fraction: number; message: string; shot?: number }
  /** The drawing surface and grid of a shot are on disk; what is filled from here on is of that. */
  | { type: 'grid'; shot: number }
  | { type: 'filled'; nodes: Int32Array; times: Float32Array }
  | { type: 'done'; manifest: Manifest }
  | { type: 'refused'; problems: Problem[] }
  /** `detail`: of a fault of the program, for the log. */
  | { type: 'failed'; message: string; likely: string; detail?: string }
  | { type: 'cancelled' };

export interface ImportTask {
  filePath: string;
  /** Its extension tells the format. */
  fileName: string;
  /** Gets 0.mesh, 1.mesh, … in the file's unit. */
  outDir: string;
}

export interface TaskProgress {
  type: 'progress';
  fraction: number;
  message: string;
}

export interface TaskFailed {
  type: 'failed';
  message: string;
  remedy: string;
  /** Of a fault of the program, for the log: what the page is told does not hold it. */
  detail?: string;
}

export type ImportMessage =
  | TaskProgress
  | { type: 'done'; bodies: ImportedBody[]; metresPerUnit: number | null; guessedUnit: LengthUnit }
  | TaskFailed;

/** A study with its surfaces in one archive. */
export interface StudyTask {
  filePath: string;
  /** Gets 0.mesh, 1.mesh, … in m. */
  outDir: string;
}

export type StudyMessage =
  TaskProgress | { type: 'done'; name: string; variants: NewVariant[]; nMeshes: number } | TaskFailed;

/** A variant that a project begins with; `parent`: place of the one that it hangs under among those before it. */
export interface NewVariant extends Omit<ProjectFile['variants'][number], 'study'> {
  inputs: Inputs;
}

export interface GeometryWork {
  task: GeometryTask;
  meshDir: string;
  blobDir: string;
}

/** A surface the worker has stored. */
export interface NewGeometry {
  hash: string;
  report: MeshReport;
  findings: Finding[];
}

/** What trials may come to. */
export type TrialsReport =
  BalanceReport | CycleReport | TabReport | CoolingReport | CauseReport | StructureReport | ShrinkageReport;

/** Plates of a resin, to correct it by. */
export interface ShrinkageTask {
  ask: { do: 'shrinkage' } & ShrinkageAsk;
}

/** A study with the files of what it moulds. */
export interface StoredStudy {
  inputs: Inputs;
  geometryKey: string;
  /** Of the cavities, and of the other bodies by their ids. */
  meshPaths: string[];
  bodyPaths: Record<string, string>;
}

/**
 * Trials with other runners, for a cycle, with a tab at other places, with other layouts of the channels, with changes one
 * by one; work on the shape of a run.
 */
export interface TrialsTask extends StoredStudy {
  ask:
    | { do: 'balance'; ask: BalanceAsk }
    | { do: 'cycle' }
    | { do: 'tab' }
    | { do: 'cooling'; aim: CoolingAim }
    | { do: 'cause'; other: StoredStudy; detail: Detail }
    | { do: 'structure'; ask: StructureAsk; runDir: string };
}

export type TrialsMessage<Report extends TrialsReport> = TaskProgress | { type: 'done'; report: Report } | TaskFailed;

export type GeometryMessage =
  TaskProgress | { type: 'done'; result: GeometryResults[keyof GeometryResults]; made: NewGeometry[] } | TaskFailed;
