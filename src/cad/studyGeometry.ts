import { createHash } from 'node:crypto';
import { FormatError } from '../core/formats/formatError';
import { packMesh } from '../core/formats/meshBlob';
import type { TriangleMesh } from '../core/geometry/mesh';
import { joined } from '../core/geometry/shells';
import { freshBodyId, type Body } from '../core/model/body';
import { cavityBody, type Inputs } from '../core/model/study';
import { inputsOf, type StudyFile } from '../core/model/studyFile';
import { checkBody, scaled } from '../core/pipeline/importPart';
import { toSi } from '../core/units/units';
import { readFile } from './readFile';

export interface StudyGeometry {
  inputs: Inputs;
  /** Surface of the cavities, m, and the key that names it. */
  mesh: TriangleMesh;
  key: string;
  /** Surfaces of inserts and of what later shots fill, by their ids. */
  bodies: Map<string, TriangleMesh>;
}

/** Content of a file that a study names, by the path that it has there. */
export type FileBeside = (path: string) => Uint8Array;

/** A surface, m, and the hash that names it. */
interface NamedSurface {
  mesh: TriangleMesh;
  hash: string;
}

/** Surfaces that were read, by path and unit: several studies may name the same. */
export type KnownSurfaces = Map<string, Promise<NamedSurface>>;

/** Surface of a file beside the study. @throws FormatError when it can not be filled. */
function surfaceOf(beside: FileBeside, file: StudyFile['geometry'], known: KnownSurfaces): Promise<NamedSurface> {
  const key = `${file.unit} ${file.path}`;
  let found = known.get(key);
  if (!found) known.set(key, (found = readSurface(beside, file)));
  return found;
}

async function readSurface(beside: FileBeside, { path: file, unit }: StudyFile['geometry']): Promise<NamedSurface> {
  const { bodies, metresPerUnit } = await readFile(file, beside(file));
  const checked = bodies.map((b) => checkBody(b.mesh, b.nDropped));
  const blocking = checked.flatMap((c) => c.findings.filter((f) => f.severity === 'blocks'));
  if (blocking.length)
    throw new FormatError(
      blocking.map((f) => `${file}: ${f.message}`).join('\n'),
      [...new Set(blocking.map((f) => f.remedy))].join('\n'),
    );
  const mesh = scaled(joined(checked.map((c) => c.mesh)), metresPerUnit ?? toSi(1, unit));
  return { mesh, hash: createHash('sha256').update(packMesh(mesh)).digest('hex') };
}

/** Everything that a study file names beside itself. */
export async function readGeometry(
  study: StudyFile,
  beside: FileBeside,
  known: KnownSurfaces = new Map(),
): Promise<StudyGeometry> {
  const { mesh, hash } = await surfaceOf(beside, study.geometry, known);
  const bodies = new Map<string, TriangleMesh>();
  const others: Body[] = [];
  for (const { id, name, shot, ...file } of study.bodies) {
    const other = await surfaceOf(beside, file, known);
    bodies.set(id, other.mesh);
    others.push({ ...cavityBody(other.hash, name), id, ...(shot ? { shot } : { role: 'insert' as const }) });
  }
  const part = { ...cavityBody(hash), id: freshBodyId(others) };
  return { inputs: { ...inputsOf(study), bodies: [part, ...others] }, mesh, key: hash, bodies };
}
