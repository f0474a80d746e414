import { readFileSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { unpackMesh } from '../core/formats/meshBlob';
import { joined } from '../core/geometry/shells';
import { balanceStudy } from '../core/pipeline/balanceStudy';
import { plainContext } from '../core/pipeline/stage';
import type { BalanceMessage, BalanceTask } from './protocol';

const { meshPaths, geometryKey, inputs, ask } = workerData as BalanceTask;
const send = (message: BalanceMessage) => parentPort?.postMessage(message);

let last = 0;
const ctx = plainContext(({ fraction, message }) => {
  const now = performance.now();
  if (now - last < 120) return;
  last = now;
  send({ type: 'progress', fraction, message });
});

try {
  const mesh = joined(meshPaths.map((file) => unpackMesh(readFileSync(file))));
  const outcome = await balanceStudy(mesh, geometryKey, inputs, ask, ctx);
  if (outcome.status === 'refused') send({ type: 'failed', message: outcome.message, remedy: outcome.remedy });
  else send({ type: 'done', report: outcome.report });
} catch (error) {
  send({
    type: 'failed',
    message: `The balance stopped with an error: ${(error as Error).message}`,
    remedy: 'This is a fault of the program; the study is unchanged.',
  });
}
