import { readFileSync } from 'node:fs';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { readStudyArchive } from '../cad/studyArchive';
import { readGeometry, type KnownSurfaces } from '../cad/studyGeometry';
import { packMesh } from '../core/formats/meshBlob';
import { writeFileAtomic } from './files';
import type { NewVariant, StudyMessage, StudyTask } from './protocol';
import { taskFailure } from './taskFailure';
import { yieldToServer } from './yieldToServer';

yieldToServer();

const task = workerData as StudyTask;
const send = (message: StudyMessage) => parentPort?.postMessage(message);

try {
  send({ type: 'progress', fraction: 0.05, message: 'Unpacking' });
  const { name, variants: archived, beside } = readStudyArchive(readFileSync(task.filePath));
  send({ type: 'progress', fraction: 0.2, message: 'Reading and checking the surfaces' });
  const known: KnownSurfaces = new Map();
  const variants: NewVariant[] = [];
  for (const [k, { study, ...said }] of archived.entries()) {
    const { inputs } = await readGeometry(study, beside, known);
    variants.push({ ...said, inputs });
    send({
      type: 'progress',
      fraction: 0.2 + (0.7 * (k + 1)) / archived.length,
      message: 'Reading and checking the surfaces',
    });
  }
  // Variants of one part share its surfaces.
  const meshes = await Promise.all(known.values());
  for (const [k, { mesh }] of meshes.entries()) writeFileAtomic(path.join(task.outDir, `${k}.mesh`), packMesh(mesh));
  send({ type: 'done', name, variants, nMeshes: meshes.length });
} catch (error) {
  const otherwise = {
    message: 'The study could not be read to its end.',
    remedy: 'Export it again, and drop the new file.',
  };
  send(taskFailure(error, path.resolve(task.outDir, '../..'), otherwise));
}
