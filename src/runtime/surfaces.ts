import { readFileSync } from 'node:fs';
import { unpackMesh } from '../core/formats/meshBlob';
import type { TriangleMesh } from '../core/geometry/mesh';

/** Stored surfaces of bodies, read from their files; both by the id of the body. */
export const surfacesOf = (paths: Readonly<Record<string, string>>): ReadonlyMap<string, TriangleMesh> =>
  new Map(Object.entries(paths).map(([id, file]) => [id, unpackMesh(readFileSync(file))]));
