import { mkdirSync, readdirSync, readFileSync, rmSync, statSync, utimesSync } from 'node:fs';
import path from 'node:path';
import type { PhaseStore } from '../core/formats/phaseStore';
import { writeFileAtomic } from './files';

/** Room for the outcomes of phases, bytes: some twenty fillings of a part at Detail normal. */
const ROOM = 600_000_000;
const ENDING = '.phase';

/**
 * Outcomes of phases as files of a folder, named by their keys. The ones that nobody has asked for the longest go when
 * the room is used up; what can not be written or read is calculated again, so a full disk stops no run.
 */
export function phaseFiles(folder: string, room = ROOM): PhaseStore {
  const fileOf = (key: string) => path.join(folder, `${key}${ENDING}`);
  return {
    get(key) {
      const file = fileOf(key);
      try {
        const bytes = readFileSync(file);
        const now = new Date();
        utimesSync(file, now, now);
        return Promise.resolve(bytes);
      } catch {
        return Promise.resolve(null);
      }
    },
    put(key, bytes) {
      try {
        if (bytes.length > room / 2) return Promise.resolve();
        mkdirSync(folder, { recursive: true });
        makeRoom(folder, room - bytes.length);
        writeFileAtomic(fileOf(key), bytes);
      } catch {
        // The file is whole or not there: see writeFileAtomic.
      }
      return Promise.resolve();
    },
  };
}

/** Removes the files longest unused until the folder holds no more than `most` bytes. */
function makeRoom(folder: string, most: number): void {
  const files = readdirSync(folder)
    .filter((name) => name.endsWith(ENDING))
    .map((name) => {
      const file = path.join(folder, name);
      const { size, mtimeMs } = statSync(file);
      return { file, size, used: mtimeMs };
    })
    .sort((a, b) => a.used - b.used);
  let held = files.reduce((sum, { size }) => sum + size, 0);
  for (const { file, size } of files) {
    if (held <= most) return;
    rmSync(file, { force: true });
    held -= size;
  }
}
