import { findingsOf, inspect, type Finding, type MeshReport } from '../geometry/check';
import { flipped, mapVertices, weld, type TriangleMesh } from '../geometry/mesh';
import { readStl } from '../formats/stl';
import { guessLengthUnit, toSi, type LengthUnit } from '../units/units';

export interface ImportedPart {
  /** In the file's own unit; faces point outwards. */
  mesh: TriangleMesh;
  report: MeshReport;
  findings: Finding[];
  guessedUnit: LengthUnit;
}

/** Reads and checks a part file. Throws FormatError when it cannot be read. */
export function importPart(bytes: Uint8Array): ImportedPart {
  const { mesh, nDropped } = weld(readStl(bytes));
  const report = inspect(mesh);
  const extent = Math.max(...report.bounds.max.map((m, d) => m - report.bounds.min[d]));
  return {
    mesh: report.insideOut ? flipped(mesh) : mesh,
    report,
    findings: findingsOf(report, nDropped),
    guessedUnit: guessLengthUnit(extent),
  };
}

export const inMetres = (mesh: TriangleMesh, unit: LengthUnit): TriangleMesh =>
  mapVertices(mesh, ([x, y, z]) => [toSi(x, unit), toSi(y, unit), toSi(z, unit)]);
