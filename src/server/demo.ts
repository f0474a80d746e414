import { readFileSync } from 'node:fs';
import path from 'node:path';
import { readStl } from '../core/formats/stl';
import { weld } from '../core/geometry/mesh';
import { inMetres } from '../core/pipeline/importPart';
import { emptyInputs } from '../core/model/study';
import type { Database } from './db/client';
import { projects } from './db/schema';
import { saveGeometry } from './geometry';
import { homeDir } from './paths';
import { createProject } from './studies';

/** Puts the demo project into an empty database; one that holds any project is left as it is. */
export async function seedDemo(db: Database): Promise<void> {
  const existing = await db.select({ id: projects.id }).from(projects).limit(1);
  if (existing.length) return;
  const { mesh } = weld(readStl(readFileSync(path.join(homeDir(), 'samples', 'feeder-tray.stl'))));
  const part = await saveGeometry(db, inMetres(mesh, 'mm'));
  await createProject(db, 'Feeder tray', {
    ...emptyInputs(part.hash, 'Feeder tray'),
    gates: [{ id: 'G1', position: [0.004, 0.003, 0], diameter: 0.0025 }],
  });
}
