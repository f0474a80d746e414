import { readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { packArrays } from '../core/formats/arrays';
import { unpackMesh } from '../core/formats/meshBlob';
import type { Vec3 } from '../core/geometry/mesh';
import { joined } from '../core/geometry/shells';
import { inputKey } from '../core/model/inputKey';
import type { GridResult } from '../core/setup/grids';
import { runPipeline, type ShotOutcome } from '../core/pipeline/pipeline';
import { SOLVER_VERSION } from '../core/setup/version';
import type { Mould } from '../core/setup/mould';
import { coreBody } from '../cad/coreBody';
import { insertSurface, packShotStrain, type Shape } from '../core/pipeline/shape';
import { AbortError, type StageContext, type StageProgress } from '../core/stage/context';
import type { SurfaceMap } from '../core/grid/surfaceMap';
import { formatNumber, fromSi } from '../core/units/units';
import { storageProblem, writeGivingWay } from './files';
import { phaseFiles } from './phaseStore';
import { fileOfShot, type Manifest } from './manifest';
import { WARM_UP, type RunMessage, type RunTask } from './protocol';
import { secondThreadFrom } from './secondThread';
import { surfacesOf } from './surfaces';
import { warmUp } from './warmUp';
import { yieldToServer } from './yieldToServer';

yieldToServer();

const send = (message: RunMessage) => parentPort?.postMessage(message);

/** Collects what the stages report and sends it a few times a second. */
class Reporter {
  private last = 0;
  private nodes: Int32Array[] = [];
  private times: Float32Array[] = [];

  report = (progress: StageProgress): void => {
    if (progress.filled?.nodes.length) {
      this.nodes.push(progress.filled.nodes);
      this.times.push(progress.filled.times);
    }
    const now = performance.now();
    if (now - this.last < 120 && progress.fraction > 0 && progress.fraction < 1) return;
    this.last = now;
    const { stage, fraction, message, shot } = progress;
    send({ type: 'progress', stage, fraction, message, shot });
    this.flush();
  };

  flush(): void {
    if (!this.nodes.length) return;
    const n = this.nodes.reduce((s, a) => s + a.length, 0);
    const nodes = new Int32Array(n);
    const times = new Float32Array(n);
    let at = 0;
    this.nodes.forEach((part, i) => {
      nodes.set(part, at);
      times.set(this.times[i], at);
      at += part.length;
    });
    this.nodes = [];
    this.times = [];
    send({ type: 'filled', nodes, times });
  }
}

/** What a run may ask of this worker; the flag of its task is looked at where the run can be stopped. */
function contextOf(task: RunTask, reporter: Reporter): StageContext {
  const cancelFlag = new Int32Array(task.cancel);
  const controller = new AbortController();
  let lastYield = performance.now();
  return {
    signal: controller.signal,
    report: reporter.report,
    secondThread: () => secondThreadFrom(new URL('./second.worker.mjs', import.meta.url)),
    async checkpoint() {
      if (Atomics.load(cancelFlag, 0) !== 0) controller.abort();
      if (controller.signal.aborted) throw new AbortError();
      if (performance.now() - lastYield > 30) {
        await new Promise<void>((resolve) => setImmediate(resolve));
        lastYield = performance.now();
      }
    },
  };
}

/** Writes files of the result of a shot; stored phases give way to them. */
type Write = (name: string, content: Uint8Array | string) => void;
const writerOf =
  (task: RunTask, shot: number): Write =>
  (name, content) =>
    writeGivingWay(path.join(task.outDir, fileOfShot(name, shot)), content, task.phaseDir);

function writeGrid(write: Write, { fine, grid, gridKey }: GridResult, map: SurfaceMap): void {
  const { lattice, cells } = fine;
  const surface = packArrays({ gridKey }, { ...map });
  write('surface.bin', surface);
  const volume = Float32Array.from(cells.volume);
  const arrays = {
    index: cells.index,
    volume,
    nodeOfCell: grid.nodeOfCell,
    position: Float32Array.from(grid.position),
    rowStart: grid.rowStart,
    rowNode: grid.rowNode,
    nodeVolume: Float32Array.from(grid.volume),
    centroid: grid.centroid,
    thickness: grid.thickness,
  };
  write('grid.bin', packArrays({ gridKey, lattice, spacing: grid.spacing }, arrays));
}

/** Temperatures of the cells of the block, NaN where there is none, for slices through it. */
function writeBlock(write: Write, { result }: Mould): void {
  const { grid, temperature } = result.field;
  const cells = Float32Array.from(grid.nodeOf, (node) => (node < 0 ? NaN : temperature[node]));
  const [x, y, z] = grid.planes.map((p) => Float32Array.from(p));
  write('block.bin', packArrays({}, { x, y, z, cells }));
}

/** What the strains of the shot are made of, for later work on the shape, and the surfaces of inserts. */
function writeShape(write: Write, { shot, result }: Shape): void {
  write('shot.bin', packShotStrain(shot));
  const inserts = insertSurface(result);
  if (!inserts) return;
  const { positions, triangles } = inserts;
  const arrays = { positions: Float32Array.from(positions), triangles };
  write('inserts.bin', packArrays({}, arrays));
}

const drawnPart = ({ positions, triangles }: SurfaceMap) => ({ positions: Float64Array.from(positions), triangles });

/** The core as a body, with when the fluid came to each of its vertices. */
async function writeCore(
  write: Write,
  { core, gridResult }: ShotOutcome,
  surface: SurfaceMap | undefined,
): Promise<void> {
  const body = core && surface && (await coreBody(drawnPart(surface), gridResult, core));
  if (!body) return;
  const { positions, triangles, times, shares } = body;
  write('core.bin', packArrays({}, { positions: Float32Array.from(positions), triangles, times, shares }));
}

/** A message with where it is, in the part's own coordinates. */
const withPlace = (message: string, place: Vec3 | null | undefined) =>
  place ? `${message} Place: ${place.map((x) => formatNumber(fromSi(x, 'mm'), 4)).join(', ')} mm.` : message;

async function perform(task: RunTask): Promise<void> {
  const reporter = new Reporter();
  const ctx = contextOf(task, reporter);
  const mesh = joined(task.meshPaths.map((file) => unpackMesh(readFileSync(file))));
  const surfaces = new Map<number, SurfaceMap>();
  const bodies = surfacesOf(task.bodyPaths);
  const outcome = await runPipeline(mesh, task.geometryKey, task.inputs, ctx, {
    bodies,
    store: phaseFiles(task.phaseDir),
    onGrid: (result, map, shot) => {
      reporter.flush();
      surfaces.set(shot, map());
      writeGrid(writerOf(task, shot), result, surfaces.get(shot)!);
      send({ type: 'grid', shot });
    },
  });
  if (outcome.status === 'refused') return send({ type: 'refused', problems: outcome.problems });
  if (outcome.status === 'failed') {
    const { message, likely, place } = outcome;
    return send({ type: 'failed', message: withPlace(message, place), likely });
  }
  reporter.flush();
  for (const [k, shot] of [outcome, ...outcome.later].entries())
    await writeCore(writerOf(task, k + 1), shot, surfaces.get(k + 1));
  const later = outcome.later.map((shot, k) => writeShot(task, shot, k + 2));
  const manifest = { ...writeShot(task, outcome, 1), ...(later.length ? { later: later.map(ownAnswers) } : {}) };
  writerOf(task, 1)('manifest.json', JSON.stringify(manifest));
  send({ type: 'done', manifest });
}

const ownAnswers = ({ summary, answers }: Manifest) => ({ summary, answers });

/** Writes what a shot came to; the manifest of the first is left to the caller, who knows of the others. */
function writeShot(task: RunTask, outcome: ShotOutcome, shot: number): Manifest {
  const write = writerOf(task, shot);
  for (const { data, id } of outcome.fields) {
    write(`${id}.f32`, new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
  }
  if (outcome.mould) writeBlock(write, outcome.mould);
  if (outcome.shape) writeShape(write, outcome.shape);
  if (outcome.movedInserts) {
    const { surface, displacement } = outcome.movedInserts;
    const arrays = { positions: Float32Array.from(surface.positions), triangles: surface.triangles, displacement };
    write('moved.bin', packArrays({}, arrays));
  }
  const manifest: Manifest = {
    solverVersion: SOLVER_VERSION,
    inputKey: inputKey(task.inputs),
    gridKey: outcome.gridResult.gridKey,
    status: outcome.status,
    summary: outcome.summary,
    answers: outcome.answers,
    findings: outcome.findings,
    gridError: outcome.gridError,
    breaches: outcome.breaches,
    reused: outcome.reused,
    transitionTemperature_K: outcome.settings.resin.transitionTemperature,
    history: outcome.history,
    course: outcome.course,
    gateIds: outcome.gateIds,
    fields: outcome.fields.map(({ data: _data, ...meta }) => meta),
  };
  if (shot > 1) write('manifest.json', JSON.stringify(manifest));
  return manifest;
}

// One task after the other: the host sends the next one when it has heard how the last one ended.
const warming = new AbortController();
const warmed = workerData === WARM_UP ? warmUp(warming.signal) : Promise.resolve();
parentPort?.on('message', (task: RunTask) => {
  warming.abort();
  warmed
    .then(() => perform(task))
    .catch((error: unknown) => {
      if (error instanceof AbortError) return send({ type: 'cancelled' });
      const storage = storageProblem(error, path.dirname(task.phaseDir));
      if (storage) {
        // What has been written of a result that is not whole is of no use, and takes room.
        rmSync(task.outDir, { recursive: true, force: true });
        return send({ type: 'failed', message: storage.message, likely: storage.remedy });
      }
      send({
        type: 'failed',
        message: 'The solver stopped with an error.',
        likely: 'This is a fault of the program. Try another Detail; the inputs are kept.',
        detail: String((error as Error)?.stack ?? error),
      });
    });
});
