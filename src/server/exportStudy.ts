import { readFileSync } from 'node:fs';
import { eq } from 'drizzle-orm';
import { strToU8, zipSync } from 'fflate';
import { unpackMesh } from '../core/formats/meshBlob';
import { writeStl } from '../core/formats/stl';
import { studyFileOf } from '../core/model/study';
import { toSi } from '../core/units/units';
import type { Database } from './db/client';
import { parts, variants } from './db/schema';
import { RequestError } from './imports';
import { meshPath } from './paths';

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
  const [variant] = await db.select().from(variants).where(eq(variants.id, variantId));
  if (!variant) throw new RequestError('This variant is no longer there.', 'Reload the page.', 404);
  const [part] = variant.inputs.part ? await db.select().from(parts).where(eq(parts.hash, variant.inputs.part)) : [];
  if (!part) throw new RequestError('There is no part to export.', 'Bring in an STL file first.');
  const stlName = `${slug(part.name)}.stl`;
  const study = studyFileOf(variant.name, variant.inputs, stlName, part.unit);
  const stl = writeStl(unpackMesh(readFileSync(meshPath(part.hash))), 1 / toSi(1, part.unit));
  const bytes = zipSync({ 'study.json': strToU8(`${JSON.stringify(study, null, 2)}\n`), [stlName]: stl });
  return { fileName: `${slug(part.name)}-${slug(variant.name)}.zip`, bytes };
}
