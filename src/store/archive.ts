import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { z } from 'zod';
import { fileOfShot } from '../runtime/manifest';
import { temporaryName } from '../runtime/files';
import { dataDir } from './paths';

/** A backup that can not be made or brought back, with what to do. */
export class BackupError extends Error {
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message);
  }
}

/** File of a backup that says what it is, and the one with all rows. */
export const LABEL = 'bellows-backup.json';
export const DATABASE = 'bellows.db';

export const labelSchema = z.object({
  format: z.literal('bellows-backup'),
  version: z.literal(1),
  made: z.string(),
  nProjects: z.number(),
  nRuns: z.number(),
  /** Surfaces and runs whose files were not there when it was made, by hash and id. */
  missing: z.array(z.string()),
});
export type BackupLabel = z.infer<typeof labelSchema>;

/** Files of a result beside its fields; the first three every result has. */
const ALWAYS = ['manifest.json', 'grid.bin', 'surface.bin'];
const SOMETIMES = [
  'block.bin',
  'shot.bin',
  'inserts.bin',
  'moved.bin',
  'structure.inp',
  'structure.vtu',
  'counter.f32',
  'counter.json',
];
const namedFields = z.object({ fields: z.array(z.object({ id: z.string().regex(/^[a-zA-Z0-9-]+$/) })) });

/** Files of the result in a folder, and those of them that are not there. */
export function filesOf(folder: string): { files: string[]; missing: string[] } {
  const there = (name: string) => existsSync(path.join(folder, name));
  const ofShot = (shot: number) => {
    const named = (name: string) => fileOfShot(name, shot);
    const wanted = [...ALWAYS, ...fieldFiles(path.join(folder, named('manifest.json')))].map(named);
    return { wanted, files: [...wanted, ...SOMETIMES.map(named)].filter(there) };
  };
  // Those of later shots are there with their manifest, or not at all.
  const shots = [1, 2, 3].filter((shot) => shot === 1 || there(fileOfShot('manifest.json', shot))).map(ofShot);
  return {
    files: shots.flatMap((s) => s.files),
    missing: shots.flatMap((s) => s.wanted).filter((name) => !there(name)),
  };
}

function fieldFiles(manifest: string): string[] {
  try {
    const { fields } = namedFields.parse(JSON.parse(readFileSync(manifest, 'utf8')));
    return fields.map(({ id }) => `${id}.f32`);
  } catch {
    // Not there, or not to be read: the caller is told by the file itself.
    return [];
  }
}

/** Whether a surface is what its name says. */
export const isWhole = (place: string, hash: string): boolean =>
  createHash('sha256').update(readFileSync(place)).digest('hex') === hash;

/** A folder in the data folder in which a backup or a restore is put together; swept when it is left behind. */
export const stagingFolder = (what: 'backup' | 'restore'): string => temporaryName(path.join(dataDir(), what));

/** A text as SQL has it. */
export const quoted = (text: string): string => `'${text.replaceAll("'", "''")}'`;
