import { strFromU8, unzipSync } from 'fflate';
import { FormatError } from '../core/formats/formatError';
import { describeIssues, studyFileSchema, takenOver, type StudyFile } from '../core/model/studyFile';
import type { FileBeside } from './studyGeometry';

/** Bounds on what an archive may hold and grow to, so that a small file can not fill the memory. */
const MAX_ENTRIES = 1000;
const MAX_STUDY = 16 * 2 ** 20;
const MAX_UNPACKED = 512 * 2 ** 20;

const STUDY = 'study.json';
const AGAIN = 'Choose a file that “Export study” has written.';

/**
 * Study of an archive as "Export study" writes it, and the files beside it. Nothing is written anywhere: names in the
 * archive are only compared.
 * @throws FormatError on a broken archive, one without a study, or a study that names what is not in it.
 */
export function readStudyArchive(bytes: Uint8Array): { study: StudyFile; beside: FileBeside } {
  const files = unpacked(bytes);
  const text = files.get(STUDY);
  if (!text) throw new FormatError(`The archive holds no ${STUDY}.`, AGAIN);
  let json: unknown;
  try {
    json = JSON.parse(strFromU8(text));
  } catch {
    throw new FormatError(`The ${STUDY} in the archive is no valid JSON.`, AGAIN);
  }
  const parsed = studyFileSchema.safeParse(takenOver(json));
  if (!parsed.success)
    throw new FormatError(
      `The ${STUDY} in the archive can not be taken: ${describeIssues(parsed.error, json)}`,
      'Mend the file, or export the study again.',
    );
  const beside: FileBeside = (path) => {
    const content = files.get(path);
    if (!content) throw new FormatError(`The study names “${path}”, which is not in the archive.`, AGAIN);
    return content;
  };
  return { study: parsed.data, beside };
}

function unpacked(bytes: Uint8Array): Map<string, Uint8Array> {
  const tooLarge = (why: string) => new FormatError(`The archive is too large: ${why}.`, AGAIN);
  let entries = 0;
  let total = 0;
  try {
    const files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (++entries > MAX_ENTRIES) throw tooLarge(`it holds more than ${MAX_ENTRIES} files`);
        if (name === STUDY && originalSize > MAX_STUDY) throw tooLarge(`its study has more than ${MAX_STUDY >> 20} MB`);
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
