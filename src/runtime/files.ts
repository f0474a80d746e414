import { closeSync, fsyncSync, mkdirSync, openSync, renameSync, writeSync } from 'node:fs';
import path from 'node:path';

/** Writes to a temporary name, flushes, renames: a reader sees the old file or the whole new one. */
export function writeFileAtomic(target: string, content: Uint8Array | string): void {
  mkdirSync(path.dirname(target), { recursive: true });
  const temporary = `${target}.${process.pid}.tmp`;
  const file = openSync(temporary, 'w');
  try {
    const bytes = typeof content === 'string' ? Buffer.from(content) : content;
    for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at, bytes.length - at);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
  renameSync(temporary, target);
}
