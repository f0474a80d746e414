import { UnionFind } from '../numerics/unionFind';
import type { MeshReport } from './meshReport';
import { edgeKind, facet, fromVertex, toVertex, type EdgeTable } from './edges';
import { count, finding, MAX_PLACES, placeOf, type Finding, type Place } from './finding';
import { selfIntersections } from './intersections';
import type { Bounds, TriangleMesh, Vec3 } from './mesh';
import type { Shell } from './shells';
import { SurfaceTree } from './surfaceTree';
import { centroid, duplicateTriangles, longestSide } from './triangles';

/** A triangle lower than this share of its longest side is a sliver; this much lower still, it has no area. */
const SLIVER = 2e-3;
const NO_HEIGHT = 1e-9;

export function edgeFindings(mesh: TriangleMesh, edges: EdgeTable): Finding[] {
  const of: Record<string, number[]> = { open: [], 'non-manifold': [], misoriented: [] };
  for (let e = 0; e < edges.nEdges; e++) of[edgeKind(mesh.triangles, edges, e)]?.push(e);
  const findings: Finding[] = [];
  const { open, misoriented } = of;
  if (open.length) {
    const loops = clusters(mesh, edges, open);
    findings.push(
      finding(
        'blocks',
        'open',
        open.length,
        loops,
        `The surface is not closed: ${count(open.length, 'edge has', 'edges have')} a triangle on one side only, along ${count(loops.length, 'rim', 'rims')}.`,
        'Mend closes holes and gaps. If the result is not what was drawn, close the hole in the CAD model and export again.',
      ),
    );
  }
  const fins = of['non-manifold'];
  if (fins.length)
    findings.push(
      finding(
        'blocks',
        'non-manifold',
        fins.length,
        clusters(mesh, edges, fins),
        `${count(fins.length, 'edge is', 'edges are')} shared by more than two triangles.`,
        'Mend removes fins and parts bodies that touch. What it leaves has to be changed in the CAD model.',
      ),
    );
  if (misoriented.length)
    findings.push(
      finding(
        'blocks',
        'misoriented',
        misoriented.length,
        clusters(mesh, edges, misoriented),
        `Some faces are flipped: ${count(misoriented.length, 'edge', 'edges')} between faces that point in opposite directions.`,
        'Mend turns them the same way.',
      ),
    );
  return findings;
}

/** Connected runs of edges as places: middle and extent. */
function clusters(mesh: TriangleMesh, edges: EdgeTable, list: number[]): Place[] {
  const { positions: p, triangles: t } = mesh;
  const ends = list.map((e) => {
    const h = edges.halfEdges[edges.start[e]];
    return [fromVertex(t, h), toVertex(t, h)];
  });
  const number = new Map<number, number>();
  for (const v of ends.flat()) if (!number.has(v)) number.set(v, number.size);
  const sets = new UnionFind(number.size);
  for (const [a, b] of ends) sets.union(number.get(a)!, number.get(b)!);
  const boxes = new Map<number, Bounds>();
  for (const [v, i] of number) {
    const root = sets.find(i);
    let box = boxes.get(root);
    if (!box) boxes.set(root, (box = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] }));
    for (let d = 0; d < 3; d++) {
      box.min[d] = Math.min(box.min[d], p[3 * v + d]);
      box.max[d] = Math.max(box.max[d], p[3 * v + d]);
    }
  }
  return [...boxes.values()].map(placeOf);
}

export function volumeFindings(mesh: TriangleMesh, report: MeshReport, shells: Shell[]): Finding[] {
  const findings: Finding[] = [];
  const place = (s: Shell) => placeOf(s.bounds);
  const thin = (volume: number, area: number) => Math.abs(volume) <= 1e-9 * Math.pow(area, 1.5);
  if (mesh.triangles.length === 0 || (report.watertight && thin(report.volume, report.area)))
    findings.push(
      finding('blocks', 'no-volume', 1, [], 'The surface encloses no volume.', 'Export a solid body, not a sheet.'),
    );
  if (report.insideOut) {
    findings.push(
      finding(
        'cosmetic',
        'inside-out',
        1,
        [],
        'All faces pointed inwards.',
        'They were turned round; nothing else changed.',
      ),
    );
  }
  const sign = report.insideOut ? -1 : 1;
  const closed = shells.filter((s) => s.closed && !thin(s.volume, s.area));
  const depth = (s: Shell): number => (s.inside < 0 ? 0 : 1 + depth(shells[s.inside]));
  const turned = closed.filter((s) => sign * s.volume < 0 && depth(s) % 2 === 0);
  if (turned.length && report.watertight)
    findings.push(
      finding(
        'blocks',
        'misoriented',
        turned.length,
        turned.map(place),
        `${count(turned.length, 'closed piece is', 'closed pieces are')} inside out while the rest is not.`,
        'Mend turns them outwards.',
      ),
    );
  const voids = closed.filter((s) => sign * s.volume < 0 && depth(s) % 2 === 1);
  if (voids.length)
    findings.push(
      finding(
        'misleads',
        'internal-void',
        voids.length,
        voids.map(place),
        `${count(voids.length, 'closed hollow lies', 'closed hollows lie')} inside the body; no mould can make ${voids.length === 1 ? 'it' : 'them'}.`,
        'Mend fills hollows. Keep them only when they stand for a lost core.',
      ),
    );
  const nested = closed.filter((s) => sign * s.volume > 0 && depth(s) % 2 === 1);
  if (nested.length)
    findings.push(
      finding(
        'misleads',
        'nested',
        nested.length,
        nested.map(place),
        `${count(nested.length, 'piece lies', 'pieces lie')} wholly inside another and would be counted twice.`,
        'Mend drops what lies inside.',
      ),
    );
  return findings;
}

export function triangleFindings(mesh: TriangleMesh, nDropped: number): Finding[] {
  const { positions: p, triangles: t } = mesh;
  const n = t.length / 3;
  const slivers: Place[] = [];
  const flat: Place[] = [];
  let [nSliver, nFlat] = [0, nDropped];
  for (let i = 0; i < n; i++) {
    const longest = longestSide(p, t, i);
    const height = (2 * facet(p, t, i).area) / longest;
    if (height > SLIVER * longest) continue;
    const degenerate = !(height > NO_HEIGHT * longest);
    if (degenerate) nFlat++;
    else nSliver++;
    const list = degenerate ? flat : slivers;
    if (list.length < 10 * MAX_PLACES) list.push({ position: centroid(p, t, i), size: longest });
  }
  const duplicates = duplicateTriangles(mesh);
  const findings: Finding[] = [];
  if (duplicates.length)
    findings.push(
      finding(
        'misleads',
        'duplicate',
        duplicates.length,
        duplicates.slice(0, 200).map((i) => ({ position: centroid(p, t, i), size: longestSide(p, t, i) })),
        `${count(duplicates.length, 'triangle is', 'triangles are')} there twice.`,
        'Mend keeps one of each.',
      ),
    );
  if (nFlat)
    findings.push(
      finding(
        'cosmetic',
        'degenerate',
        nFlat,
        flat,
        nDropped === nFlat
          ? `${count(nFlat, 'triangle was', 'triangles were')} collapsed to a line or point and left out.`
          : `${count(nFlat, 'triangle has', 'triangles have')} no area.`,
        'Nothing to do: they carry no volume.',
      ),
    );
  if (nSliver)
    findings.push(
      finding(
        'cosmetic',
        'sliver',
        nSliver,
        slivers,
        `${count(nSliver, 'triangle is', 'triangles are')} very narrow.`,
        'Harmless for the run; a coarser angle tolerance on export avoids them.',
      ),
    );
  return findings;
}

/** Vertices where several fans of triangles touch at a point only. */
export function vertexFindings(mesh: TriangleMesh, edges: EdgeTable): Finding[] {
  const places = pinchedVertices(mesh, edges).map((v) => ({
    position: [0, 1, 2].map((d) => mesh.positions[3 * v + d]) as Vec3,
    size: 0,
  }));
  if (!places.length) return [];
  return [
    finding(
      'cosmetic',
      'non-manifold-vertex',
      places.length,
      places,
      `At ${count(places.length, 'point', 'points')} the surface touches itself without sharing an edge.`,
      'Harmless for the run: no melt passes through a point.',
    ),
  ];
}

/** Vertices whose triangles fall into several fans not joined by edges. */
export function pinchedVertices(mesh: TriangleMesh, edges: EdgeTable): number[] {
  const { triangles: t } = mesh;
  const nVertices = mesh.positions.length / 3;
  // Corners joined through the edges they share: one set a fan.
  const sets = new UnionFind(t.length);
  for (let e = 0; e < edges.nEdges; e++) {
    const h = edges.halfEdges[edges.start[e]];
    for (let i = edges.start[e] + 1; i < edges.start[e + 1]; i++) {
      const g = edges.halfEdges[i];
      for (const v of [fromVertex(t, h), toVertex(t, h)]) sets.union(cornerAt(t, h, v), cornerAt(t, g, v));
    }
  }
  const fan = new Int32Array(nVertices).fill(-1);
  const pinched = new Set<number>();
  for (let corner = 0; corner < t.length; corner++) {
    const v = t[corner];
    const root = sets.find(corner);
    if (fan[v] < 0) fan[v] = root;
    else if (fan[v] !== root) pinched.add(v);
  }
  return [...pinched];
}

const cornerAt = (t: Uint32Array, h: number, v: number): number => {
  const base = h - (h % 3);
  return t[base] === v ? base : t[base + 1] === v ? base + 1 : base + 2;
};

export function crossingFindings(mesh: TriangleMesh): Finding[] {
  if (mesh.triangles.length < 6) return [];
  const pairs = selfIntersections(mesh, new SurfaceTree(mesh));
  if (!pairs.length) return [];
  const { positions: p, triangles: t } = mesh;
  const places: Place[] = [];
  const sets = new UnionFind(pairs.length);
  const seen = new Map<number, number>();
  pairs.forEach((triangle, i) => {
    if (i % 2) sets.union(i - 1, i);
    for (let c = 0; c < 3; c++) {
      const v = t[3 * triangle + c];
      const other = seen.get(v);
      if (other === undefined) seen.set(v, i);
      else sets.union(other, i);
    }
  });
  // One place a tangle, not one a pair.
  pairs.forEach((triangle, i) => {
    if (sets.find(i) === i) places.push({ position: centroid(p, t, triangle), size: longestSide(p, t, triangle) });
  });
  const n = pairs.length / 2;
  return [
    finding(
      'misleads',
      'self-intersecting',
      n,
      places,
      `The surface runs through itself: ${n >= 2000 ? 'more than 2,000 pairs' : count(n, 'pair', 'pairs')} of triangles cross, at ${count(places.length, 'place', 'places')}.`,
      'Mend joins pieces that overlap. Volumes there are counted twice until then.',
    ),
  ];
}
