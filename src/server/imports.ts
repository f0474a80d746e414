import { randomUUID } from 'node:crypto';
import { createWriteStream, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream } from 'node:stream/web';
import { unpackMesh } from '../core/formats/meshBlob';
import { UNTURNED } from '../core/model/body';
import { LONGEST_NAME } from '../core/model/variantMarks';
import { placedMesh } from '../core/geometry/placement';
import { scaled } from '../core/pipeline/importPart';
import { toSi, type LengthUnit } from '../core/units/units';
import type { ImportMessage, ImportTask, StudyMessage, StudyTask } from '../runtime/protocol';
import type { AcceptedImport, ImportPreview } from '../runtime/wire';
import type { Database } from '../store/db/client';
import type { ProjectRow } from '../store/db/schema';
import { saveGeometry } from './geometry';
import { importPath } from '../store/paths';
import { RequestError } from './requestError';
import { insertProject } from './studies';
import { workInWorker, type Report } from './workers';

export const MAX_UPLOAD_BYTES = 200 * 1024 * 1024;

/** Receives an upload, reads and checks it in a worker, and keeps it until the unit is confirmed. */
export async function receiveImport(
  fileName: string,
  body: ReadableStream<Uint8Array> | null,
  report: Report,
  signal: AbortSignal,
): Promise<ImportPreview> {
  const id = randomUUID();
  return received(body, id, async (filePath, folder) => {
    const task: ImportTask = { filePath, fileName, outDir: folder };
    const { bodies, metresPerUnit, guessedUnit } = await workInWorker<ImportMessage>('import', task, report, signal);
    const preview: ImportPreview = { id, fileName, bodies, metresPerUnit, guessedUnit };
    writeFileSync(path.join(folder, 'preview.json'), JSON.stringify(preview));
    return preview;
  });
}

/** Stores an upload in a folder of its own and works with it there; the folder goes when that fails, the upload always. */
async function received<T>(
  body: ReadableStream<Uint8Array> | null,
  id: string,
  work: (filePath: string, folder: string) => Promise<T>,
): Promise<T> {
  if (!body) throw new RequestError('The file is empty.', 'Export it again and choose the new file.');
  const folder = importPath(id);
  mkdirSync(folder, { recursive: true });
  const filePath = path.join(folder, 'upload');
  try {
    await store(body, filePath);
    return await work(filePath, folder);
  } catch (error) {
    rmSync(folder, { recursive: true, force: true });
    throw error;
  } finally {
    rmSync(filePath, { force: true });
  }
}

/** Receives a study or a project with its surfaces, as it was exported, and makes a project of it. */
export async function receiveStudy(
  db: Database,
  body: ReadableStream<Uint8Array> | null,
  report: Report,
  signal: AbortSignal,
): Promise<ProjectRow> {
  return received(body, randomUUID(), async (filePath, folder) => {
    const task: StudyTask = { filePath, outDir: folder };
    const { name, variants, nMeshes } = await workInWorker<StudyMessage>('study', task, report, signal);
    for (let k = 0; k < nMeshes; k++) {
      // What it was checked for has been found whole: a study with a surface that can not be filled is refused.
      const mesh = unpackMesh(readFileSync(path.join(folder, `${k}.mesh`)));
      await saveGeometry(db, mesh, { findings: [], factor: 1, placement: UNTURNED });
    }
    rmSync(folder, { recursive: true, force: true });
    return insertProject(db, name.slice(0, LONGEST_NAME), variants);
  });
}

async function store(body: ReadableStream<Uint8Array>, filePath: string): Promise<void> {
  let size = 0;
  const limit = new Transform({
    transform(chunk: Uint8Array, _encoding, done) {
      size += chunk.length;
      if (size > MAX_UPLOAD_BYTES)
        done(new RequestError('The file is larger than 200 MB.', 'Export it with a coarser tolerance.', 413));
      else done(null, chunk);
    },
  });
  try {
    await pipeline(Readable.fromWeb(body), limit, createWriteStream(filePath));
  } catch (error) {
    const { code, name } = error as NodeJS.ErrnoException;
    if (code !== 'ECONNRESET' && code !== 'ERR_STREAM_PREMATURE_CLOSE' && name !== 'ResponseAborted') throw error;
    throw new RequestError('The upload was cut off before its end.', 'Choose the file again.', 400);
  }
}

/**
 * Keeps the bodies of a checked upload, scaled to metres and put where the part lies (rows of a 3 x 4
 * matrix). What the check found stays with each body: mending comes later.
 */
export async function acceptImport(
  db: Database,
  id: string,
  unit: LengthUnit | null,
  placement: readonly number[],
): Promise<AcceptedImport> {
  const folder = importPath(id);
  if (!/^[0-9a-f-]{36}$/.test(id) || !existsSync(path.join(folder, 'preview.json')))
    throw new RequestError('This upload is no longer there.', 'Choose the file again.', 404);
  const preview = JSON.parse(readFileSync(path.join(folder, 'preview.json'), 'utf8')) as ImportPreview;
  const factor = preview.metresPerUnit ?? (unit ? toSi(1, unit) : null);
  if (factor === null) throw new RequestError('The file does not say its unit.', 'Choose the unit of the file.', 400);
  const out: AcceptedImport = { bodies: [], geometries: [] };
  for (const [i, { name, colour, findings }] of preview.bodies.entries()) {
    const mesh = scaled(unpackMesh(readFileSync(path.join(folder, `${i}.mesh`))), factor);
    const unturned = placement.every((x, i) => x === UNTURNED[i]);
    const lying = unturned ? mesh : placedMesh(mesh, placement);
    const row = await saveGeometry(db, lying, { findings, factor, placement });
    out.bodies.push({ name, colour, mesh: row.hash });
    out.geometries.push(row);
  }
  rmSync(folder, { recursive: true, force: true });
  return out;
}
