import type { EdgeReport, MeshReport } from './meshReport';
import { edgeKind, edgeTable, type EdgeTable } from './edges';
import { SEVERITIES, type Finding } from './finding';
import { boundsOf, measure, type TriangleMesh } from './mesh';
import { findShells } from './shells';
import { crossingFindings, edgeFindings, triangleFindings, vertexFindings, volumeFindings } from './surfaceFindings';

/** Counts edges by how their triangles meet. */
export function checkEdges(mesh: TriangleMesh, edges: EdgeTable = edgeTable(mesh)): EdgeReport {
  const report: EdgeReport = { nOpen: 0, nNonManifold: 0, nMisoriented: 0 };
  for (let e = 0; e < edges.nEdges; e++) {
    const kind = edgeKind(mesh.triangles, edges, e);
    if (kind === 'open') report.nOpen++;
    else if (kind === 'non-manifold') report.nNonManifold++;
    else if (kind === 'misoriented') report.nMisoriented++;
  }
  return report;
}

/** Edges, volume, area and size: what a run needs to know of a surface. */
export function inspect(mesh: TriangleMesh, edges: EdgeTable = edgeTable(mesh)): MeshReport {
  const counts = checkEdges(mesh, edges);
  const { volume, area } = measure(mesh);
  const watertight = counts.nOpen === 0 && counts.nNonManifold === 0 && counts.nMisoriented === 0;
  return {
    ...counts,
    nTriangles: mesh.triangles.length / 3,
    nVertices: mesh.positions.length / 3,
    volume: Math.abs(volume),
    area,
    bounds: boundsOf(mesh.positions),
    watertight,
    insideOut: watertight && volume < 0,
  };
}

/** Everything there is to say about one body's surface, worst first. */
export function checkMesh(mesh: TriangleMesh, nDropped = 0): { report: MeshReport; findings: Finding[] } {
  const edges = edgeTable(mesh);
  const report = inspect(mesh, edges);
  const shells = findShells(mesh, edges);
  report.nShells = shells.length;
  const findings = [
    ...edgeFindings(mesh, edges),
    ...volumeFindings(mesh, report, shells),
    ...triangleFindings(mesh, nDropped),
    ...vertexFindings(mesh, edges),
    ...crossingFindings(mesh),
  ];
  findings.sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity));
  return { report, findings };
}
