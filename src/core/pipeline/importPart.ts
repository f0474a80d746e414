import type { MeshReport } from '../geometry/meshReport';
import { checkMesh } from '../geometry/check';
import { type Finding } from '../geometry/finding';
import { readStl } from '../formats/stl';
import { flipped, weld, type TriangleMesh } from '../geometry/mesh';
import { guessLengthUnit, toSi, type LengthUnit } from '../units/units';

export interface CheckedBody {
  /** Faces point outwards where the surface is closed. */
  mesh: TriangleMesh;
  report: MeshReport;
  findings: Finding[];
}

/** Checks a surface and turns one that is wholly inside out. Lengths in whatever unit they come. */
export function checkBody(input: TriangleMesh, nDropped = 0): CheckedBody {
  const { report, findings } = checkMesh(input, nDropped);
  return { mesh: report.insideOut ? flipped(input) : input, report, findings };
}

export interface ImportedPart extends CheckedBody {
  guessedUnit: LengthUnit;
}

/** Reads and checks an STL file, for those who use the core alone. Throws FormatError when it cannot be read. */
export function importPart(bytes: Uint8Array): ImportedPart {
  const { mesh, nDropped } = weld(readStl(bytes));
  const checked = checkBody(mesh, nDropped);
  const { min, max } = checked.report.bounds;
  return { ...checked, guessedUnit: guessLengthUnit(Math.max(...max.map((m, d) => m - min[d]))) };
}

export const inMetres = (mesh: TriangleMesh, unit: LengthUnit): TriangleMesh => scaled(mesh, toSi(1, unit));

/** A copy, every coordinate times `factor`. */
export const scaled = (mesh: TriangleMesh, factor: number): TriangleMesh => ({
  positions: mesh.positions.map((x) => x * factor),
  triangles: mesh.triangles,
});
