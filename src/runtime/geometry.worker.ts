import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { packMesh, unpackMesh } from '../core/formats/meshBlob';
import { checkBody } from '../core/pipeline/importPart';
import { keepFile, writeFileAtomic } from './files';
import { performTask } from './geometry';
import { taskFailure } from './taskFailure';
import type { GeometryMessage, GeometryWork, NewGeometry } from './protocol';
import { yieldToServer } from './yieldToServer';

yieldToServer();

const { task, meshDir, blobDir } = workerData as GeometryWork;
const send = (message: GeometryMessage) => parentPort?.postMessage(message);
const made: NewGeometry[] = [];

try {
  const result = await performTask(task, {
    load: (hash) => unpackMesh(readFileSync(path.join(meshDir, `${hash}.mesh`))),
    save: (mesh) => {
      const { report, findings, mesh: checked } = checkBody(mesh);
      const packed = packMesh(checked);
      const hash = createHash('sha256').update(packed).digest('hex');
      keepFile(path.join(meshDir, `${hash}.mesh`), packed);
      made.push({ hash, report, findings });
      return hash;
    },
    keep: (of, bytes) => {
      const key = createHash('sha256').update(JSON.stringify(of)).digest('hex');
      writeFileAtomic(path.join(blobDir, `${key}.bin`), bytes);
      return key;
    },
    report: (fraction, message) => send({ type: 'progress', fraction, message }),
  });
  send({ type: 'done', result, made });
} catch (error) {
  const otherwise = { message: 'This could not be done with these surfaces.', remedy: 'Mend the body and try again.' };
  send(taskFailure(error, path.dirname(meshDir), otherwise));
}
