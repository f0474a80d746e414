import { createHash } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { strToU8, zipSync } from 'fflate';
import { writeStl } from '../core/formats/stl';
import { joined } from '../core/geometry/shells';
import { PROJECT_FORMAT, PROJECT_VERSION, type ProjectFile } from '../core/model/projectFile';
import { cavities, otherBodies, type Inputs } from '../core/model/study';
import { studyFileOf, type StudyFile } from '../core/model/studyFile';
import { treeRows } from '../core/model/variantTree';
import type { Database } from '../store/db/client';
import { projects, variants } from '../store/db/schema';
import { loadMesh } from './geometry';
import { RequestError } from './requestError';
import { viewProject } from './studies';

const slug = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'study';

/** What an archive holds, by path. */
type Files = Record<string, Uint8Array>;

interface Archive {
  fileName: string;
  bytes: Uint8Array<ArrayBuffer>;
}

const json = (what: unknown) => strToU8(`${JSON.stringify(what, null, 2)}\n`);

/** Study file and geometry of a variant as a zip that the command line tool runs as it is. */
export async function exportStudy(db: Database, variantId: string): Promise<Archive> {
  const [found] = await db
    .select({ variant: variants, project: projects.name })
    .from(variants)
    .innerJoin(projects, eq(projects.id, variants.projectId))
    .where(eq(variants.id, variantId));
  if (!found) throw new RequestError('This variant is no longer there.', 'Reload the page.', 404);
  const { variant, project } = found;
  const files: Files = {};
  const study = studyInto(files, `${project}, ${variant.name}`, variant.inputs, (name, id) => ({
    file: `${slug(name)}${id ? `-${slug(id)}` : ''}.stl`,
    named: '',
  }));
  if (!study) throw new RequestError('There is no cavity to export.', 'Give a body the role Cavity first.');
  return {
    fileName: `${slug(project)}-${slug(variant.name)}.zip`,
    bytes: zipSync({ 'study.json': json(study), ...files }),
  };
}

/** All variants of a project as the tree that they were branched in, each a study in a folder of its own, and their surfaces. */
export async function exportProject(db: Database, projectId: string): Promise<Archive> {
  const view = await viewProject(db, projectId);
  if (!view) throw new RequestError('This project is no longer there.', 'Reload the page.', 404);
  const { name } = view.project;
  const files: Files = {};
  const branches: ProjectFile['variants'] = [];
  const placeOf = new Map<string, number>();
  // From the root on: whatever another hangs under stands before it.
  for (const { variant } of treeRows(view.variants)) {
    const study = studyInto(files, `${name}, ${variant.name}`, variant.inputs, (part, _id, hash) => ({
      file: `parts/${slug(part)}-${hash.slice(0, 12)}.stl`,
      named: '../',
    }));
    // One without a cavity is no study yet.
    if (!study) continue;
    const path = `${String(branches.length + 1).padStart(2, '0')}-${slug(variant.name)}/study.json`;
    files[path] = json(study);
    placeOf.set(variant.id, branches.length);
    const { note, starred, colour } = variant;
    const parent = placeOf.get(variant.parentId ?? '') ?? null;
    branches.push({ name: variant.name, study: path, parent, note, starred, colour });
  }
  if (!branches.length) throw new RequestError('There is no part to export in this project.', 'Bring in a part first.');
  const project: ProjectFile = { format: PROJECT_FORMAT, version: PROJECT_VERSION, name, variants: branches };
  return { fileName: `${slug(name)}.zip`, bytes: zipSync({ 'project.json': json(project), ...files }) };
}

/**
 * Study file of a variant, and its surfaces put into `files`; null without a cavity. `place`: where a surface goes, by
 * the body's name, the id of one besides the cavities, and the hash of what it holds; and what a study writes before it.
 */
function studyInto(
  files: Files,
  name: string,
  inputs: Inputs,
  place: (part: string, id: string | null, hash: string) => { file: string; named: string },
): StudyFile | null {
  const bodies = cavities(inputs);
  if (!bodies.length) return null;
  const put = (part: string, id: string | null, meshes: readonly string[]): string => {
    const hash = meshes.length === 1 ? meshes[0] : createHash('sha256').update(meshes.join()).digest('hex');
    const { file, named } = place(part, id, hash);
    files[file] ??= writeStl(joined(meshes.map(loadMesh)));
    return named + file;
  };
  const geometry = put(
    bodies[0].name,
    null,
    bodies.map((b) => b.mesh),
  );
  const others = otherBodies(inputs).map((body) => ({
    id: body.id,
    name: body.name,
    path: put(body.name, body.id, [body.mesh]),
    unit: 'mm' as const,
    ...(body.shot ? { shot: body.shot } : {}),
  }));
  return studyFileOf(name, inputs, geometry, 'mm', others);
}
