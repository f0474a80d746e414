import { createInterface } from 'node:readline';
import { count } from '../core/geometry/finding';
import { formatNumber } from '../core/units/units';
import { BackupError } from '../store/archive';
import { backup } from '../store/backup';
import { examine } from '../store/doctor';
import { passphraseFault, removePassphrase, setPassphrase } from '../store/passphrase';
import { dataDir } from '../store/paths';
import { restore } from '../store/restore';
import { UsageError } from './usageError';

/** Commands for who looks after the data; all of them while the server runs. */

async function told<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    throw error instanceof BackupError ? new UsageError(`${error.message} ${error.remedy}`) : error;
  }
}

const counted = (n: number, one: string) => count(n, one, `${one}s`);

export async function backupTo(file: string): Promise<void> {
  const { nProjects, nRuns, missing, bytes } = await told(() => backup(file));
  console.log(
    `${file}: ${counted(nProjects, 'project')}, ${counted(nRuns, 'result')}, ${formatNumber(bytes / 1e6)} MB`,
  );
  if (missing.length)
    console.error(`${counted(missing.length, 'file')} were not there to be kept: see "bellows doctor".`);
}

export async function restoreFrom(file: string, options: { replace?: true }): Promise<void> {
  const { made, nProjects, nRuns } = await told(() => restore(file, options.replace === true));
  console.log(
    `Brought back into ${dataDir()}: ${counted(nProjects, 'project')}, ${counted(nRuns, 'result')}, as of ${made}.`,
  );
}

const MARKS = { good: ' ok ', note: 'note', bad: 'BAD ' };

export async function doctor(): Promise<void> {
  console.log(`Data folder ${dataDir()}`);
  const findings = await examine();
  for (const { severity, message, remedy } of findings)
    console.log(`[${MARKS[severity]}] ${message}${remedy ? ` ${remedy}` : ''}`);
  if (findings.some((f) => f.severity === 'bad')) process.exitCode = 1;
}

/** Sets the passphrase that is read from standard input, unseen where somebody types it. */
export async function passphrase(options: { remove?: true }): Promise<void> {
  if (options.remove) {
    removePassphrase();
    console.log('No passphrase is asked for any more.');
    return;
  }
  const given = await lineUnseen('New passphrase: ');
  const fault = passphraseFault(given);
  if (fault) throw new UsageError(fault);
  if (process.stdin.isTTY && (await lineUnseen('Once more: ')) !== given) throw new UsageError('The two differ.');
  setPassphrase(given);
  console.log(`Bellows asks for it from now on (${dataDir()}). Pages that were open ask, too.`);
}

function lineUnseen(prompt: string): Promise<string> {
  const silent = process.stdin.isTTY;
  const lines = createInterface({
    input: process.stdin,
    output: silent ? process.stderr : undefined,
    terminal: silent,
  });
  return new Promise((resolve) => {
    lines.question(silent ? prompt : '', (answer) => {
      lines.close();
      if (silent) process.stderr.write('\n');
      resolve(answer);
    });
    // What is typed after the question is not echoed.
    if (silent) (lines as unknown as { _writeToOutput: () => void })._writeToOutput = () => {};
  });
}
