import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Readable, Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream } from 'node:stream/web';
import type { Finding } from '../core/geometry/check';
import { inspect } from '../core/geometry/check';
import { packMesh, unpackMesh } from '../core/formats/meshBlob';
import { inMetres } from '../core/pipeline/importPart';
import { partSize } from '../core/pipeline/settings';
import type { LengthUnit } from '../core/units/units';
import { writeFileAtomic } from '../runtime/files';
import type { ImportMessage } from '../runtime/protocol';
import type { ImportPreview } from '../runtime/wire';
import type { Database } from './db/client';
import { parts, type PartRow } from './db/schema';
import { importPath, meshPath } from './paths';
import { startWorker } from './workers';

export const MAX_UPLOAD_BYTES = 200 * 1024 * 1024;

/** A refusal with a remedy, for the person at the page. */
export class RequestError extends Error {
  constructor(
    message: string,
    readonly remedy: string,
    readonly status = 422,
  ) {
    super(message);
  }
}

/** Receives an upload, reads and checks it in a worker, and keeps it until the unit is confirmed. */
export async function receiveImport(fileName: string, body: ReadableStream<Uint8Array> | null): Promise<ImportPreview> {
  if (!body) throw new RequestError('The file is empty.', 'Export the part again and choose the new file.');
  const id = randomUUID();
  const folder = importPath(id);
  mkdirSync(folder, { recursive: true });
  const filePath = path.join(folder, 'upload');
  try {
    await store(body, filePath);
    const result = await readInWorker(filePath, path.join(folder, 'mesh'));
    if (result.type === 'failed') throw new RequestError(result.message, result.remedy);
    const { report, findings, guessedUnit } = result;
    const preview: ImportPreview = { id, fileName, report, findings, guessedUnit };
    writeFileSync(path.join(folder, 'preview.json'), JSON.stringify(preview));
    return preview;
  } catch (error) {
    rmSync(folder, { recursive: true, force: true });
    throw error;
  } finally {
    rmSync(filePath, { force: true });
  }
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
  await pipeline(Readable.fromWeb(body), limit, createWriteStream(filePath));
}

function readInWorker(filePath: string, outPath: string): Promise<ImportMessage> {
  return new Promise((resolve, reject) => {
    const worker = startWorker('import', { filePath, outPath });
    worker.once('message', resolve);
    worker.once('error', reject);
  });
}

/** Turns a checked upload into a part, scaled to metres. Throws RequestError when it must not be used. */
export async function acceptImport(db: Database, id: string, unit: LengthUnit): Promise<PartRow> {
  const folder = importPath(id);
  if (!/^[0-9a-f-]{36}$/.test(id) || !existsSync(path.join(folder, 'preview.json')))
    throw new RequestError('This upload is no longer there.', 'Choose the file again.', 404);
  const preview = JSON.parse(readFileSync(path.join(folder, 'preview.json'), 'utf8')) as ImportPreview;
  const blocking = preview.findings.filter((f) => f.severity === 'blocks');
  if (blocking.length) throw new RequestError(blocking[0].message, blocking[0].remedy);
  const mesh = inMetres(unpackMesh(readFileSync(path.join(folder, 'mesh'))), unit);
  const row = await savePart(db, preview.fileName.replace(/\.stl$/i, ''), unit, mesh, preview.findings);
  rmSync(folder, { recursive: true, force: true });
  return row;
}

/** Stores a closed mesh (metres) under its content hash. */
export async function savePart(
  db: Database,
  name: string,
  unit: LengthUnit,
  mesh: Parameters<typeof packMesh>[0],
  findings: Finding[],
): Promise<PartRow> {
  const packed = packMesh(mesh);
  const hash = createHash('sha256').update(packed).digest('hex');
  if (!existsSync(meshPath(hash))) writeFileAtomic(meshPath(hash), packed);
  const row: PartRow = {
    hash,
    name,
    unit,
    report: inspect(mesh),
    findings,
    size: partSize(mesh),
    createdAt: new Date(),
  };
  await db.insert(parts).values(row).onConflictDoNothing();
  return row;
}
