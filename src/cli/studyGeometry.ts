import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { readFile } from '../cad/readFile';
import { packMesh } from '../core/formats/meshBlob';
import type { TriangleMesh } from '../core/geometry/mesh';
import { joined } from '../core/geometry/shells';
import { freshBodyId, type Body } from '../core/model/body';
import { cavityBody, type Inputs } from '../core/model/study';
import { inputsOf, type StudyFile } from '../core/model/studyFile';
import { checkBody, scaled } from '../core/pipeline/importPart';
import { toSi } from '../core/units/units';
import { UsageError } from './usageError';

export interface StudyGeometry {
  inputs: Inputs;
  /** Surface of the cavities, m, and the key that names it. */
  mesh: TriangleMesh;
  key: string;
  /** Surfaces of inserts and of what later shots fill, by their ids. */
  bodies: Map<string, TriangleMesh>;
}

/** Surface of a file beside the study, m, and the hash that names it. @throws UsageError when it can not be filled. */
async function surfaceOf(folder: string, { path: file, unit }: StudyFile['geometry']) {
  const { bodies, metresPerUnit } = await readFile(file, readFileSync(path.resolve(folder, file)));
  const checked = bodies.map((b) => checkBody(b.mesh, b.nDropped));
  const blocking = checked.flatMap((c) => c.findings.filter((f) => f.severity === 'blocks'));
  if (blocking.length) throw new UsageError(blocking.map((f) => `${file}: ${f.message} ${f.remedy}`).join('\n'));
  const mesh = scaled(joined(checked.map((c) => c.mesh)), metresPerUnit ?? toSi(1, unit));
  return { mesh, hash: createHash('sha256').update(packMesh(mesh)).digest('hex') };
}

/** Everything that a study file names beside itself. */
export async function readGeometry(study: StudyFile, folder: string): Promise<StudyGeometry> {
  const { mesh, hash } = await surfaceOf(folder, study.geometry);
  const bodies = new Map<string, TriangleMesh>();
  const others: Body[] = [];
  for (const { id, name, shot, ...file } of study.bodies) {
    const other = await surfaceOf(folder, file);
    bodies.set(id, other.mesh);
    others.push({ ...cavityBody(other.hash, name), id, ...(shot ? { shot } : { role: 'insert' as const }) });
  }
  const part = { ...cavityBody(hash), id: freshBodyId(others) };
  return { inputs: { ...inputsOf(study), bodies: [part, ...others] }, mesh, key: hash, bodies };
}
