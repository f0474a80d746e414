import { existsSync } from 'node:fs';
import type { BalanceAsk } from '../core/model/balanceAsk';
import { cavities, geometryKey, type Inputs } from '../core/model/study';
import type { BalanceReport } from '../core/pipeline/balanceStudy';
import type { BalanceMessage, BalanceTask } from '../runtime/protocol';
import { meshPath } from './paths';
import { RequestError } from './requestError';
import { workInWorker, type Report } from './workers';

/** Trials for the balance of the runners in a worker of its own; nothing is stored. */
export async function balanceRunners(
  inputs: Inputs,
  ask: BalanceAsk,
  report: Report,
  signal: AbortSignal,
): Promise<BalanceReport> {
  const key = geometryKey(inputs);
  const meshPaths = cavities(inputs).map((b) => meshPath(b.mesh));
  if (!key) throw new RequestError('No body is a cavity.', 'Give the body to be moulded the role Cavity.', 400);
  if (!meshPaths.every((file) => existsSync(file)))
    throw new RequestError('One of the bodies is no longer stored.', 'Bring the file in again.', 404);
  const task: BalanceTask = { meshPaths, geometryKey: key, inputs, ask };
  return (await workInWorker<BalanceMessage>('balance', task, report, signal)).report;
}
