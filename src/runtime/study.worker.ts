import { readFileSync } from 'node:fs';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { readStudyArchive } from '../cad/studyArchive';
import { readGeometry } from '../cad/studyGeometry';
import { packMesh } from '../core/formats/meshBlob';
import { writeFileAtomic } from './files';
import type { StudyMessage, StudyTask } from './protocol';
import { taskFailure } from './taskFailure';
import { yieldToServer } from './yieldToServer';

yieldToServer();

const task = workerData as StudyTask;
const send = (message: StudyMessage) => parentPort?.postMessage(message);

try {
  send({ type: 'progress', fraction: 0.05, message: 'Unpacking' });
  const { study, beside } = readStudyArchive(readFileSync(task.filePath));
  send({ type: 'progress', fraction: 0.2, message: 'Reading and checking the surfaces' });
  const { inputs, mesh, bodies } = await readGeometry(study, beside);
  const meshes = [mesh, ...bodies.values()];
  for (const [k, surface] of meshes.entries()) writeFileAtomic(path.join(task.outDir, `${k}.mesh`), packMesh(surface));
  send({ type: 'done', name: study.name, inputs, nMeshes: meshes.length });
} catch (error) {
  const otherwise = {
    message: 'The study could not be read to its end.',
    remedy: 'Export it again, and drop the new file.',
  };
  send(taskFailure(error, path.resolve(task.outDir, '../..'), otherwise));
}
