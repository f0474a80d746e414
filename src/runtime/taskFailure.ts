import { FormatError } from '../core/formats/formatError';
import { storageProblem } from './files';
import type { TaskFailed } from './protocol';

/**
 * Failure of a piece of work as its host is told: what the file or the disk lacks in their own words, anything else in
 * those given. What the error says is for the log: it may hold paths and words of packages.
 */
export function taskFailure(
  error: unknown,
  folder: string,
  otherwise: { message: string; remedy: string },
): TaskFailed {
  if (error instanceof FormatError) return { type: 'failed', message: error.message, remedy: error.remedy };
  const storage = storageProblem(error, folder);
  if (storage) return { type: 'failed', ...storage };
  return { type: 'failed', ...otherwise, detail: String((error as Error)?.stack ?? error) };
}
