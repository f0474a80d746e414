import { eq } from 'drizzle-orm';
import { strToU8, zipSync } from 'fflate';
import { writeStl } from '../core/formats/stl';
import { joined } from '../core/geometry/shells';
import { cavities, otherBodies } from '../core/model/study';
import { studyFileOf } from '../core/model/studyFile';
import type { Database } from '../store/db/client';
import { projects, variants } from '../store/db/schema';
import { loadMesh } from './geometry';
import { RequestError } from './requestError';

const slug = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'study';

/** Study file and geometry of a variant as a zip that the command line tool runs as it is. */
export async function exportStudy(
  db: Database,
  variantId: string,
): Promise<{ fileName: string; bytes: Uint8Array<ArrayBuffer> }> {
  const [found] = await db
    .select({ variant: variants, project: projects.name })
    .from(variants)
    .innerJoin(projects, eq(projects.id, variants.projectId))
    .where(eq(variants.id, variantId));
  if (!found) throw new RequestError('This variant is no longer there.', 'Reload the page.', 404);
  const { variant, project } = found;
  const bodies = cavities(variant.inputs);
  if (!bodies.length) throw new RequestError('There is no cavity to export.', 'Give a body the role Cavity first.');
  const name = slug(bodies[0].name);
  const stlName = `${name}.stl`;
  const inserts = otherBodies(variant.inputs).map((b) => ({ body: b, path: `${slug(b.name)}-${slug(b.id)}.stl` }));
  const files = inserts.map(({ body: { id, name, shot }, path }) => ({
    id,
    name,
    path,
    unit: 'mm' as const,
    ...(shot ? { shot } : {}),
  }));
  const study = studyFileOf(`${project}, ${variant.name}`, variant.inputs, stlName, 'mm', files);
  const bytes = zipSync({
    'study.json': strToU8(`${JSON.stringify(study, null, 2)}\n`),
    [stlName]: writeStl(joined(bodies.map((b) => loadMesh(b.mesh)))),
    ...Object.fromEntries(inserts.map(({ body, path }) => [path, writeStl(loadMesh(body.mesh))])),
  });
  return { fileName: `${slug(project)}-${slug(variant.name)}.zip`, bytes };
}
