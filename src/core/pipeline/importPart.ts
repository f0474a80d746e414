import { checkMesh, type MeshReport } from '../geometry/check';
import { type Finding } from '../geometry/finding';
import { readStl } from '../formats/stl';
import { flipped, mapVertices, weld, type TriangleMesh, type Vec3 } from '../geometry/mesh';
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

/** Rows of a 3 x 4 matrix applied to a point. */
export const placed = (m: readonly number[], [x, y, z]: Vec3): Vec3 =>
  [0, 4, 8].map((r) => m[r] * x + m[r + 1] * y + m[r + 2] * z + m[r + 3]) as Vec3;

export const placedMesh = (mesh: TriangleMesh, m: readonly number[]): TriangleMesh =>
  mapVertices(mesh, (v) => placed(m, v));

/** The matrix that does b, then a. */
export function after(a: readonly number[], b: readonly number[]): number[] {
  const out: number[] = [];
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 4; c++)
      out.push(a[4 * r] * b[c] + a[4 * r + 1] * b[4 + c] + a[4 * r + 2] * b[8 + c] + (c === 3 ? a[4 * r + 3] : 0));
  return out;
}
