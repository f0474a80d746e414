import { boundsOf, measure, type Bounds, type TriangleMesh } from './mesh';

export interface EdgeReport {
  /** Edges with one triangle: the rim of a hole. */
  nOpen: number;
  /** Edges shared by more than two triangles. */
  nNonManifold: number;
  /** Edges whose two triangles run the same way: one of them faces inwards. */
  nMisoriented: number;
}

export interface MeshReport extends EdgeReport {
  nTriangles: number;
  nVertices: number;
  /** m3, always positive */
  volume: number;
  /** m2 */
  area: number;
  bounds: Bounds;
  watertight: boolean;
  /** True when every face pointed inwards. */
  insideOut: boolean;
}

export interface Finding {
  severity: 'blocks' | 'misleads' | 'cosmetic';
  code: 'open' | 'non-manifold' | 'misoriented' | 'inside-out' | 'no-volume' | 'dropped';
  message: string;
  remedy: string;
}

/** Counts edges by how their triangles meet. Sorts edge keys, so half a million triangles stay cheap. */
export function checkEdges(mesh: TriangleMesh): EdgeReport {
  const { triangles: t } = mesh;
  const nVertices = mesh.positions.length / 3;
  // Two bits are not needed: one marks the direction, the rest is the pair of vertices.
  const keys = new Float64Array(t.length);
  for (let i = 0; i < t.length; i += 3) {
    for (let e = 0; e < 3; e++) {
      const a = t[i + e];
      const b = t[i + ((e + 1) % 3)];
      keys[i + e] = a < b ? (a * nVertices + b) * 2 : (b * nVertices + a) * 2 + 1;
    }
  }
  keys.sort();
  let nOpen = 0;
  let nNonManifold = 0;
  let nMisoriented = 0;
  for (let i = 0; i < keys.length;) {
    const edge = Math.floor(keys[i] / 2);
    let forward = 0;
    let backward = 0;
    while (i < keys.length && Math.floor(keys[i] / 2) === edge) {
      if (keys[i] % 2 === 0) forward++;
      else backward++;
      i++;
    }
    const n = forward + backward;
    if (n === 1) nOpen++;
    else if (n > 2 && forward !== backward) nNonManifold++;
    else if (forward !== backward) nMisoriented++;
  }
  return { nOpen, nNonManifold, nMisoriented };
}

export function inspect(mesh: TriangleMesh): MeshReport {
  const edges = checkEdges(mesh);
  const { volume, area } = measure(mesh);
  const watertight = edges.nOpen === 0 && edges.nNonManifold === 0 && edges.nMisoriented === 0;
  return {
    ...edges,
    nTriangles: mesh.triangles.length / 3,
    nVertices: mesh.positions.length / 3,
    volume: Math.abs(volume),
    area,
    bounds: boundsOf(mesh.positions),
    watertight,
    insideOut: watertight && volume < 0,
  };
}

const count = (n: number, one: string, many: string) => `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`;

/** What the check has to say, worst first, in words a designer can act on. */
export function findingsOf(report: MeshReport, nDropped: number): Finding[] {
  const findings: Finding[] = [];
  const add = (severity: Finding['severity'], code: Finding['code'], message: string, remedy: string) =>
    findings.push({ severity, code, message, remedy });
  if (report.nOpen > 0)
    add(
      'blocks',
      'open',
      `The surface is not closed: ${count(report.nOpen, 'edge has', 'edges have')} a triangle on one side only.`,
      'Close the hole in the CAD model and export again, with a finer tolerance if faces do not meet.',
    );
  if (report.nNonManifold > 0)
    add(
      'blocks',
      'non-manifold',
      `${count(report.nNonManifold, 'edge is', 'edges are')} shared by more than two triangles.`,
      'Join the bodies that touch along these edges, or leave a gap between them, and export again.',
    );
  if (report.nMisoriented > 0)
    add(
      'blocks',
      'misoriented',
      `Some faces are flipped: ${count(report.nMisoriented, 'edge', 'edges')} between faces that point in opposite directions.`,
      'Unify the face directions in the CAD model and export again.',
    );
  if (report.watertight && report.volume <= 1e-9 * Math.pow(report.area, 1.5))
    add('blocks', 'no-volume', 'The surface encloses no volume.', 'Export a solid body, not a sheet.');
  if (report.insideOut)
    add('cosmetic', 'inside-out', 'All faces pointed inwards.', 'They were turned round; nothing else changed.');
  if (nDropped > 0)
    add(
      'cosmetic',
      'dropped',
      `${count(nDropped, 'triangle was', 'triangles were')} collapsed to a line or point and left out.`,
      'Nothing to do.',
    );
  return findings;
}
