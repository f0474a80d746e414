import type { RawBody } from './rawBody';
import { FormatError } from '../core/formats/formatError';
import { readStlSolids } from '../core/formats/stl';
import { weld, type TriangleMesh } from '../core/geometry/mesh';
import { joinClose } from '../core/geometry/joinClose';
import { checkEdges } from '../core/geometry/check';
import { diagonal } from '../core/geometry/shells';
import { readCad, type CadKind } from './step';
import { readObj } from './obj';
import { read3mf } from './threemf';

/** A body as a file holds it, in the file's unit. */
export interface FileBody {
  name: string;
  /** #rrggbb */
  colour: string | null;
  mesh: TriangleMesh;
  /** Triangles left out because they collapsed to a line or point. */
  nDropped: number;
}

export interface FileContent {
  bodies: FileBody[];
  /** Metres per unit where the file says so. */
  metresPerUnit: number | null;
}

export const READABLE = ['stl', 'obj', '3mf', 'step', 'stp', 'iges', 'igs', 'brep', 'brp'] as const;
type Extension = (typeof READABLE)[number];

const CAD: Partial<Record<Extension, CadKind>> = {
  step: 'step',
  stp: 'step',
  iges: 'iges',
  igs: 'iges',
  brep: 'brep',
  brp: 'brep',
};

/** Past this a coordinate is no place on a part, whatever the unit. */
const FARTHEST = 1e7;

/** Reads any file the application knows, by its extension. Throws FormatError with what to do. */
export async function readFile(fileName: string, bytes: Uint8Array): Promise<FileContent> {
  const extension = fileName.toLowerCase().split('.').pop() as Extension;
  if (!READABLE.includes(extension))
    throw new FormatError(
      `Files of the kind ".${extension}" cannot be read.`,
      'Export the part as STEP, 3MF, STL, OBJ, IGES or BREP.',
    );
  if (bytes.length === 0) throw new FormatError('The file is empty.', 'Export the part again and choose the new file.');
  const { bodies, metresPerUnit } = await readRaw(extension, bytes);
  const base = fileName.replace(/\.[^.]+$/, '').slice(0, 80) || 'Part';
  const read = bodies.map((raw, i) => finish(raw, raw.name.trim() || (bodies.length > 1 ? `${base} ${i + 1}` : base)));
  const filled = read.filter((b) => b.mesh.triangles.length > 0);
  if (!filled.length) throw new FormatError('The file holds no triangles.', 'Export a solid body.');
  return { bodies: filled, metresPerUnit };
}

async function readRaw(
  extension: Extension,
  bytes: Uint8Array,
): Promise<{ bodies: RawBody[]; metresPerUnit: number | null }> {
  const kind = CAD[extension];
  if (kind) return readCad(kind, bytes);
  if (extension === '3mf') return read3mf(bytes);
  if (extension === 'obj') return { bodies: readObj(bytes), metresPerUnit: null };
  const solids = readStlSolids(bytes);
  return { bodies: solids.map(({ name, soup }) => ({ name, colour: null, soup })), metresPerUnit: null };
}

function finish(raw: RawBody, name: string): FileBody {
  for (let i = 0; i < raw.soup.length; i++) {
    if (!Number.isFinite(raw.soup[i]))
      throw new FormatError(
        `Triangle ${Math.floor(i / 9) + 1} of "${name}" has a coordinate that is not a number.`,
        'Export the part again; if it stays, rebuild the face in the CAD model.',
      );
    if (Math.abs(raw.soup[i]) > FARTHEST)
      throw new FormatError(
        `"${name}" has a point ${raw.soup[i].toExponential(1)} units from the origin.`,
        'Move the part near the origin and export it again; a damaged file shows this too.',
      );
  }
  const { mesh, nDropped } = weld(raw.soup);
  return { name: name.slice(0, 120), colour: raw.colour, mesh: sharper(mesh), nDropped };
}

/** Faces meshed apart may differ in the last digit along their edge: joined when that closes the surface. */
function sharper(mesh: TriangleMesh): TriangleMesh {
  if (mesh.triangles.length === 0 || checkEdges(mesh).nOpen === 0) return mesh;
  const joined = joinClose(mesh, 1e-7 * diagonal(mesh));
  return checkEdges(joined).nOpen === 0 ? joined : mesh;
}
