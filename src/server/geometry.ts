import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { zipSync } from 'fflate';
import { eq, inArray } from 'drizzle-orm';
import { write3mf } from '../core/formats/threemf';
import { packMesh, unpackMesh } from '../core/formats/meshBlob';
import { writeStl } from '../core/formats/stl';
import { inspect } from '../core/geometry/check';
import { moveFinding, type Finding } from '../core/geometry/finding';
import { edgeTable } from '../core/geometry/edges';
import type { TriangleMesh } from '../core/geometry/mesh';
import { findShells } from '../core/geometry/shells';
import type { GeometryResults, GeometryTask } from '../core/model/geometryTask';
import type { Body } from '../core/model/body';
import { placed } from '../core/geometry/placement';
import { checkBody } from '../core/pipeline/importPart';
import { keepFile } from '../runtime/files';
import type { GeometryMessage, GeometryWork } from '../runtime/protocol';
import type { GeometryAnswer, GeometryView } from '../runtime/wire';
import type { Database } from '../store/db/client';
import { geometries, variants } from '../store/db/schema';
import { mapsDir, meshDir, meshPath } from '../store/paths';
import { RequestError } from './requestError';
import { workInWorker, type Report } from './workers';

/** Findings made in file units, and what took the file to where the surface lies. */
interface Checked {
  findings: Finding[];
  factor: number;
  placement: readonly number[];
}

/** Stores a surface (metres) under its content hash; checks it unless that has been done. */
export async function saveGeometry(db: Database, mesh: TriangleMesh, checked?: Checked): Promise<GeometryView> {
  const ready = checked
    ? {
        mesh,
        report: { ...inspect(mesh), nShells: findShells(mesh, edgeTable(mesh)).length },
        findings: checked.findings.map((f) =>
          moveFinding(
            f,
            ([x, y, z]) => placed(checked.placement, [x * checked.factor, y * checked.factor, z * checked.factor]),
            checked.factor,
          ),
        ),
      }
    : checkBody(mesh);
  const packed = packMesh(ready.mesh);
  const hash = createHash('sha256').update(packed).digest('hex');
  keepFile(meshPath(hash), packed);
  const row: GeometryView = { hash, report: ready.report, findings: ready.findings };
  await db
    .insert(geometries)
    .values({ ...row, createdAt: new Date() })
    .onConflictDoNothing();
  return row;
}

/** Does work on surfaces in a worker of its own and keeps what it made. */
export async function runGeometryTask(
  db: Database,
  task: GeometryTask,
  report: Report,
  signal: AbortSignal,
): Promise<GeometryAnswer<GeometryResults[keyof GeometryResults]>> {
  for (const hash of hashesOf(task))
    if (!existsSync(meshPath(hash)))
      throw new RequestError(
        'One of the bodies is no longer stored.',
        'Reload the page, then bring the file in again.',
        404,
      );
  const work: GeometryWork = { task, meshDir: meshDir(), blobDir: mapsDir() };
  const { result, made } = await workInWorker<GeometryMessage>('geometry', work, report, signal);
  for (const row of made)
    await db
      .insert(geometries)
      .values({ ...row, createdAt: new Date() })
      .onConflictDoNothing();
  return { answer: result, geometries: made };
}

function hashesOf(task: GeometryTask): string[] {
  if ('body' in task) return [task.body.mesh];
  if (task.do === 'combine') return [task.a.mesh, task.b.mesh];
  return 'bodies' in task ? task.bodies.flatMap((b) => ('mesh' in b ? [b.mesh] : [])) : [];
}

/** Surfaces named by the bodies given, stand-ins and what they stand for. */
export async function geometriesOf(db: Database, bodies: readonly Body[]): Promise<GeometryView[]> {
  const hashes = [...new Set(bodies.flatMap((b) => (b.original ? [b.mesh, b.original] : [b.mesh])))];
  if (!hashes.length) return [];
  const rows = await db.select().from(geometries).where(inArray(geometries.hash, hashes));
  return rows.map(({ hash, report, findings }) => ({ hash, report, findings }));
}

export const loadMesh = (hash: string): TriangleMesh => unpackMesh(readFileSync(meshPath(hash)));

const fileSafe = (name: string) => name.replace(/[^\p{L}\p{N} _.-]+/gu, '-').trim() || 'body';

/** Bodies of a variant as one 3MF, or as STL in millimetres (a zip of them when there are several). */
export async function exportBodies(
  db: Database,
  variantId: string,
  format: 'stl' | '3mf',
  ids: readonly string[] | null,
): Promise<{ fileName: string; bytes: Uint8Array }> {
  const [variant] = await db.select().from(variants).where(eq(variants.id, variantId));
  if (!variant) throw new RequestError('This variant is no longer there.', 'Reload the page.', 404);
  const bodies = variant.inputs.bodies.filter((b) => !ids || ids.includes(b.id));
  if (!bodies.length) throw new RequestError('There is no body to export.', 'Bring in a part first.');
  const loaded = bodies.map((b) => ({ ...b, mesh: loadMesh(b.mesh) }));
  const name = fileSafe(bodies.length === 1 ? bodies[0].name : variant.name);
  if (format === '3mf') return { fileName: `${name}.3mf`, bytes: write3mf(loaded) };
  if (loaded.length === 1) return { fileName: `${name}.stl`, bytes: writeStl(loaded[0].mesh) };
  const files: Record<string, Uint8Array> = {};
  loaded.forEach((b, i) => (files[`${i + 1} ${fileSafe(b.name)}.stl`] = writeStl(b.mesh)));
  return { fileName: `${name}.zip`, bytes: zipSync(files) };
}
