import { posix } from 'node:path';
import { strFromU8, unzipSync } from 'fflate';
import type { z } from 'zod';
import { FormatError } from '../core/formats/formatError';
import { projectFileSchema, type ProjectFile } from '../core/model/projectFile';
import { describeIssues, studyFileSchema, takenOver, type StudyFile } from '../core/model/studyFile';
import type { FileBeside } from './studyGeometry';

/** Bounds on what an archive may hold and grow to, so that a small file can not fill the memory. */
const MAX_ENTRIES = 1000;
const MAX_STUDY = 16 * 2 ** 20;
const MAX_UNPACKED = 512 * 2 ** 20;

const STUDY = 'study.json';
const PROJECT = 'project.json';
const AGAIN = 'Choose a file that “Export study” or “Export project” has written.';

/** A variant in an archive: what is said of it, and its study, whose paths are those of the archive. */
export interface ArchivedVariant extends Omit<ProjectFile['variants'][number], 'study'> {
  study: StudyFile;
}

/** What was exported: one study, or a project with its variants; and the files beside them. */
export interface StudyArchive {
  name: string;
  variants: ArchivedVariant[];
  beside: FileBeside;
}

/**
 * A study or a project as it was exported. Nothing is written anywhere: names in the archive are only compared.
 * @throws FormatError on a broken archive, one without a study, or a study that names what is not in it.
 */
export function readStudyArchive(bytes: Uint8Array): StudyArchive {
  const files = unpacked(bytes);
  const beside: FileBeside = (file) => {
    const content = files.get(file);
    if (!content) throw new FormatError(`The study names “${file}”, which is not in the archive.`, AGAIN);
    return content;
  };
  if (!files.has(PROJECT)) {
    if (!files.has(STUDY)) throw new FormatError(`The archive holds no ${STUDY}.`, AGAIN);
    const study = studyIn(files, STUDY);
    return { name: study.name, variants: [{ ...ALONE, study }], beside };
  }
  const project = parsed(files, PROJECT, (json) => projectFileSchema.safeParse(json));
  const variants = project.variants.map(({ study: file, ...said }): ArchivedVariant => {
    if (!files.has(file)) throw new FormatError(`The project names “${file}”, which is not in the archive.`, AGAIN);
    return { ...said, study: studyIn(files, file) };
  });
  return { name: project.name, variants, beside };
}

const ALONE = { name: 'First', parent: null, note: '', starred: false, colour: null };

/** A study of the archive; what it names beside itself, by its place in the archive. */
function studyIn(files: Files, file: string): StudyFile {
  const study = parsed(files, file, (json) => studyFileSchema.safeParse(takenOver(json)));
  const inArchive = <T extends { path: string }>(named: T): T => ({
    ...named,
    path: posix.join(posix.dirname(file), named.path),
  });
  return { ...study, geometry: inArchive(study.geometry), bodies: study.bodies.map(inArchive) };
}

/** A file of JSON in the archive, checked. */
function parsed<T>(files: Files, file: string, check: (json: unknown) => z.ZodSafeParseResult<T>): T {
  let json: unknown;
  try {
    json = JSON.parse(strFromU8(files.get(file) as Uint8Array));
  } catch {
    throw new FormatError(`The ${file} in the archive is no valid JSON.`, AGAIN);
  }
  const found = check(json);
  if (found.success) return found.data;
  throw new FormatError(
    `The ${file} in the archive can not be taken: ${describeIssues(found.error, json)}`,
    'Mend the file, or export it again.',
  );
}

type Files = ReadonlyMap<string, Uint8Array>;

function unpacked(bytes: Uint8Array): Map<string, Uint8Array> {
  const tooLarge = (why: string) => new FormatError(`The archive is too large: ${why}.`, AGAIN);
  let entries = 0;
  let total = 0;
  try {
    const files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (++entries > MAX_ENTRIES) throw tooLarge(`it holds more than ${MAX_ENTRIES} files`);
        if (/\.json$/.test(name) && originalSize > MAX_STUDY)
          throw tooLarge(`its ${name} has more than ${MAX_STUDY >> 20} MB`);
        // What comes out is no longer than its entry says, whatever is packed.
        total += originalSize;
        if (total > MAX_UNPACKED) throw tooLarge(`it unpacks to more than ${MAX_UNPACKED >> 20} MB`);
        return true;
      },
    });
    return new Map(Object.entries(files));
  } catch (error) {
    if (error instanceof FormatError) throw error;
    throw new FormatError('The file is no whole zip archive.', AGAIN);
  }
}
