import { readFileSync } from 'node:fs';
import path from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { unpackMesh } from '../core/formats/meshBlob';
import { joined } from '../core/geometry/shells';
import { balanceStudy } from '../core/pipeline/balanceStudy';
import { causeStudy, type Moulded } from '../core/pipeline/causeStudy';
import { coolingStudy } from '../core/pipeline/coolingStudy';
import { plainContext } from '../core/stage/context';
import { cycleStudy } from '../core/pipeline/cycleStudy';
import { tabStudy } from '../core/pipeline/tabStudy';
import { secondThreadFrom } from './secondThread';
import { surfacesOf } from './surfaces';
import { structureWork } from './structureWork';
import { taskFailure } from './taskFailure';
import { fitShrinkage } from '../core/pipeline/fitShrinkage';
import type { ShrinkageTask, StoredStudy, TrialsMessage, TrialsReport, TrialsTask } from './protocol';
import { yieldToServer } from './yieldToServer';

yieldToServer();

const task = workerData as TrialsTask | ShrinkageTask;
const send = (message: TrialsMessage<TrialsReport>) => parentPort?.postMessage(message);

let last = 0;
const ctx = plainContext(
  ({ fraction, message }) => {
    const now = performance.now();
    if (now - last < 120) return;
    last = now;
    send({ type: 'progress', fraction, message });
  },
  undefined,
  () => secondThreadFrom(new URL('./second.worker.mjs', import.meta.url)),
);

const meshOf = ({ meshPaths }: StoredStudy) => joined(meshPaths.map((file) => unpackMesh(readFileSync(file))));

const moulded = (study: StoredStudy): Moulded => ({
  mesh: meshOf(study),
  key: study.geometryKey,
  bodies: surfacesOf(study.bodyPaths),
});

function withPart({ ask, ...study }: TrialsTask) {
  const { inputs, geometryKey, bodyPaths } = study;
  if (ask.do === 'cause') {
    const { other, detail } = ask;
    return causeStudy(moulded(study), moulded(other), { inputs, other: other.inputs, detail }, ctx);
  }
  const mesh = meshOf(study);
  switch (ask.do) {
    case 'balance':
      return balanceStudy(mesh, geometryKey, inputs, ask.ask, ctx);
    case 'cycle':
      return cycleStudy(mesh, geometryKey, inputs, ctx);
    case 'tab':
      return tabStudy(mesh, geometryKey, inputs, ctx);
    case 'cooling':
      return coolingStudy(mesh, geometryKey, inputs, ask.aim, ctx);
    case 'structure':
      return structureWork(mesh, inputs, ask, bodyPaths, ctx);
  }
}

try {
  const outcome = await ('meshPaths' in task ? withPart(task) : fitShrinkage(task.ask, ctx));
  if (outcome.status === 'refused') send({ type: 'failed', message: outcome.message, remedy: outcome.remedy });
  else send({ type: 'done', report: outcome.report });
} catch (error) {
  const folder = 'meshPaths' in task ? path.resolve(task.meshPaths[0], '../..') : '';
  const otherwise = {
    message: 'The trials stopped with an error.',
    remedy: 'This is a fault of the program; the study is unchanged.',
  };
  send(taskFailure(error, folder, otherwise));
}
