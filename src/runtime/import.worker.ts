import { readFileSync } from 'node:fs';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { readFile } from '../cad/readFile';
import { packMesh } from '../core/formats/meshBlob';
import { boundsOf } from '../core/geometry/mesh';
import { checkBody } from '../core/pipeline/importPart';
import { guessLengthUnit } from '../core/units/units';
import { writeFileAtomic } from './files';
import { taskFailure } from './taskFailure';
import type { ImportedBody } from './wire';
import type { ImportMessage, ImportTask } from './protocol';
import { yieldToServer } from './yieldToServer';

yieldToServer();

const task = workerData as ImportTask;
const send = (message: ImportMessage) => parentPort?.postMessage(message);

try {
  send({ type: 'progress', fraction: 0.05, message: 'Reading' });
  const { bodies, metresPerUnit } = await readFile(task.fileName, readFileSync(task.filePath));
  let extent = 0;
  const out: ImportedBody[] = bodies.map(({ name, colour, mesh, nDropped }, i) => {
    send({
      type: 'progress',
      fraction: 0.3 + (0.7 * i) / bodies.length,
      message: bodies.length > 1 ? `Checking body ${i + 1} of ${bodies.length}` : 'Checking the surface',
    });
    const checked = checkBody(mesh, nDropped);
    const { min, max } = boundsOf(checked.mesh.positions);
    extent = Math.max(extent, ...max.map((m, d) => m - min[d]));
    writeFileAtomic(path.join(task.outDir, `${i}.mesh`), packMesh(checked.mesh));
    return { name, colour, report: checked.report, findings: checked.findings };
  });
  send({ type: 'done', bodies: out, metresPerUnit, guessedUnit: guessLengthUnit(extent) });
} catch (error) {
  const otherwise = {
    message: 'The file could not be read to its end.',
    remedy: 'Export the part again, as STEP, 3MF or binary STL.',
  };
  send(taskFailure(error, path.resolve(task.outDir, '../..'), otherwise));
}
