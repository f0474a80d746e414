import {
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  renameSync,
  rmSync,
  utimesSync,
  writeSync,
} from 'node:fs';
import path from 'node:path';
import { threadId } from 'node:worker_threads';

let written = 0;

/** A name beside a file that no other process, thread or call has. */
export const temporaryName = (target: string): string => `${target}.${process.pid}-${threadId}-${++written}.tmp`;

/** What half-written files end with: swept when the server starts. */
export const HALF_WRITTEN = /\.\d+(-\d+-\d+)?\.tmp$/;

/**
 * Writes to a temporary name, flushes, renames: a reader sees the old file or the whole new one. What could not be
 * written whole is gone again.
 */
export function writeFileAtomic(target: string, content: Uint8Array | string): void {
  mkdirSync(path.dirname(target), { recursive: true });
  const temporary = temporaryName(target);
  try {
    const file = openSync(temporary, 'w');
    try {
      const bytes = typeof content === 'string' ? Buffer.from(content) : content;
      for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at, bytes.length - at);
      fsyncSync(file);
    } finally {
      closeSync(file);
    }
    renameSync(temporary, target);
  } catch (error) {
    rmSync(temporary, { force: true });
    throw error;
  }
}

/** Keeps content under a name that it alone has: written once, and marked as in use each time. */
export function keepFile(target: string, content: Uint8Array): void {
  const now = new Date();
  if (existsSync(target)) utimesSync(target, now, now);
  else writeFileAtomic(target, content);
}

/** As `writeFileAtomic`; where there is no room, a folder of what can be made again gives way. */
export function writeGivingWay(target: string, content: Uint8Array | string, folder: string): void {
  try {
    writeFileAtomic(target, content);
  } catch (error) {
    if (!isFull(error)) throw error;
    rmSync(folder, { recursive: true, force: true });
    writeFileAtomic(target, content);
  }
}

/** What is said of a folder that takes nothing more. */
export interface StorageProblem {
  message: string;
  remedy: string;
}

/** Codes of the system and of SQLite, by what they mean. */
const FULL = /^(ENOSPC|EDQUOT|EFBIG|SQLITE_FULL)/;
const CLOSED = /^(EROFS|EACCES|EPERM|SQLITE_READONLY|SQLITE_CANTOPEN)/;
const BROKEN = /^(EIO|SQLITE_IOERR|SQLITE_CORRUPT|SQLITE_NOTADB)/;

/** Codes of an error and of what it comes from, innermost last. */
function codesOf(error: unknown): string[] {
  const codes: string[] = [];
  for (let at = error, depth = 0; at instanceof Error && depth < 8; at = at.cause, depth++) {
    const { code } = at as { code?: unknown };
    if (typeof code === 'string') codes.push(code);
  }
  return codes;
}

/** Whether a failure means that there is no room left. */
export const isFull = (error: unknown): boolean => codesOf(error).some((code) => FULL.test(code));

/** What a failure to write into a folder means to who runs the program; null for failures of another kind. */
export function storageProblem(error: unknown, folder: string): StorageProblem | null {
  const codes = codesOf(error);
  const is = (what: RegExp) => codes.some((code) => what.test(code));
  if (is(FULL))
    return {
      message: `There is no room left for the data of Bellows (${folder}).`,
      remedy: 'Free some space there, then try again.',
    };
  if (is(CLOSED))
    return {
      message: `Bellows may not write into its data folder (${folder}).`,
      remedy: 'Give its owner the right to write there, or choose another folder with BELLOWS_DATA; then try again.',
    };
  if (is(BROKEN))
    return {
      message: `The disk of the data folder (${folder}) does not work as it should.`,
      remedy: 'Check the disk, and bring a backup back if data are damaged.',
    };
  return null;
}
