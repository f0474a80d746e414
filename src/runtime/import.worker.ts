import { readFileSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { packMesh } from '../core/formats/meshBlob';
import { FormatError } from '../core/formats/stl';
import { importPart } from '../core/pipeline/importPart';
import { writeFileAtomic } from './files';
import type { ImportMessage, ImportTask } from './protocol';

const task = workerData as ImportTask;
const send = (message: ImportMessage) => parentPort?.postMessage(message);

try {
  const { mesh, report, findings, guessedUnit } = importPart(readFileSync(task.filePath));
  writeFileAtomic(task.outPath, packMesh(mesh));
  send({ type: 'done', report, findings, guessedUnit });
} catch (error) {
  if (error instanceof FormatError) send({ type: 'failed', message: error.message, remedy: error.remedy });
  else
    send({
      type: 'failed',
      message: `The file could not be read: ${(error as Error).message}`,
      remedy: 'Export the part again as binary STL.',
    });
}
