import { capOf, loopsOf } from './caps';
import { checkEdges } from './check';
import { count } from './finding';
import { duplicateTriangles, longestSide } from './triangles';
import { acrossEdges, edgeKind, edgeTable, facet, fromVertex, toVertex } from './edges';
import { joinClose } from './joinClose';
import type { TriangleMesh } from './mesh';
import { diagonal, findShells, subMesh } from './shells';

/** What mending did, in words, and what it made. */
export interface Mended {
  mesh: TriangleMesh;
  done: string[];
}

/** Vertices nearer than this share of the body's diagonal are one. */
const WELD_SHARE = 2e-6;

/** Faults of a surface: edges that are open, shared by more than two, or run the same way twice. */
function faultsOf(mesh: TriangleMesh): number {
  const { nOpen, nNonManifold, nMisoriented } = checkEdges(mesh);
  return nOpen + nNonManifold + nMisoriented;
}

/**
 * Repairs a surface as far as that is safe: joins vertices, drops what has no area or is there twice,
 * splits edges at vertices lying on them, removes fins, turns faces the same way and outwards, closes
 * rims, drops hollows and what lies inside. A step that leaves more faults than it found is taken back, and the whole of
 * them where the surface was better before. Overlapping pieces are left to the solid booleans.
 */
export function mendSurface(input: TriangleMesh): Mended {
  const whole = mendBy(input, true);
  if (!faultsOf(whole.mesh)) return whole;
  // What is empty or there twice may hold the rest together: once more with it.
  const keeping = mendBy(input, false);
  const best = faultsOf(keeping.mesh) < faultsOf(whole.mesh) ? keeping : whole;
  return faultsOf(best.mesh) <= faultsOf(input) ? best : { mesh: input, done: [] };
}

function mendBy(input: TriangleMesh, dropping: boolean): Mended {
  const done: string[] = [];
  const note = (n: number, one: string, many: string) => n > 0 && done.push(count(n, one, many));
  const nVertices = input.positions.length / 3;
  let mesh = joinClose(input, WELD_SHARE * diagonal(input));
  note(nVertices - mesh.positions.length / 3, 'vertex joined', 'vertices joined');
  const step = (work: (mesh: TriangleMesh) => Counted, one: string, many: string) => {
    const { mesh: made, n } = work(mesh);
    if (!n || faultsOf(made) > faultsOf(mesh)) return;
    mesh = made;
    note(n, one, many);
  };
  // Empty triangles leave open edges behind, which the vertices on them close: judged together.
  const clean = dropping ? dropUseless(mesh) : { mesh, n: 0 };
  const split = splitAtVertices(clean.mesh);
  const rest = dropping ? dropUseless(split.mesh) : { mesh: split.mesh, n: 0 };
  const closed = closeRims(rest.mesh).mesh;
  if (faultsOf(closed) <= faultsOf(closeRims(mesh).mesh)) {
    mesh = rest.mesh;
    note(clean.n + rest.n, 'empty or double triangle dropped', 'empty or double triangles dropped');
    note(split.n, 'edge split at a vertex on it', 'edges split at vertices on them');
  } else step(splitAtVertices, 'edge split at a vertex on it', 'edges split at vertices on them');
  mesh = counted(dropFins(mesh), (n) => note(n, 'triangle of a fin removed', 'triangles of fins removed'));
  step(orient, 'triangle turned round', 'triangles turned round');
  step(closeRims, 'hole closed', 'holes closed');
  mesh = counted(orient(mesh), () => {});
  step(settleShells, 'piece turned outwards or dropped', 'pieces turned outwards or dropped');
  return { mesh, done };
}

interface Counted {
  mesh: TriangleMesh;
  n: number;
}

function counted(result: Counted, tell: (n: number) => void): TriangleMesh {
  tell(result.n);
  return result.mesh;
}

/** Without triangles of no height and second copies; of copies that face apart neither stays. */
function dropUseless(mesh: TriangleMesh): Counted {
  const { positions: p, triangles: t } = mesh;
  const drop = new Set(duplicateTriangles(mesh));
  for (let i = 0; i < t.length / 3; i++) {
    const longest = longestSide(p, t, i);
    if (!(2 * facet(p, t, i).area > 1e-9 * longest * longest)) drop.add(i);
  }
  return without(mesh, drop);
}

function without(mesh: TriangleMesh, drop: Set<number>): Counted {
  if (!drop.size) return { mesh, n: 0 };
  const keep: number[] = [];
  for (let i = 0; i < mesh.triangles.length / 3; i++) if (!drop.has(i)) keep.push(i);
  return { mesh: subMesh(mesh, keep), n: drop.size };
}

/** Splits open edges at open vertices that lie on them: T-junctions between patches meshed apart. */
function splitAtVertices(input: TriangleMesh): Counted {
  let mesh = input;
  let total = 0;
  const tolerance = 10 * WELD_SHARE * diagonal(input);
  for (let pass = 0; pass < 8; pass++) {
    const edges = edgeTable(mesh);
    const { positions: p, triangles: t } = mesh;
    const open: number[] = [];
    for (let e = 0; e < edges.nEdges; e++)
      if (edges.start[e + 1] - edges.start[e] === 1) open.push(edges.halfEdges[edges.start[e]]);
    if (!open.length) break;
    const rim = [...new Set(open.flatMap((h) => [fromVertex(t, h), toVertex(t, h)]))];
    rim.sort((a, b) => p[3 * a] - p[3 * b]);
    const xs = rim.map((v) => p[3 * v]);
    const out: number[] = [];
    const split = new Set<number>();
    for (const h of open) {
      const triangle = Math.floor(h / 3);
      if (split.has(triangle)) continue;
      const v = vertexOnEdge(p, fromVertex(t, h), toVertex(t, h), rim, xs, tolerance);
      if (v < 0) continue;
      const [a, b] = [fromVertex(t, h), toVertex(t, h)];
      const c = t[3 * triangle] + t[3 * triangle + 1] + t[3 * triangle + 2] - a - b;
      split.add(triangle);
      out.push(a, v, c, v, b, c);
    }
    if (!split.size) break;
    total += split.size;
    const kept: number[] = [];
    for (let i = 0; i < t.length / 3; i++) if (!split.has(i)) kept.push(t[3 * i], t[3 * i + 1], t[3 * i + 2]);
    mesh = { positions: p, triangles: Uint32Array.from([...kept, ...out]) };
  }
  return { mesh, n: total };
}

function vertexOnEdge(p: Float64Array, a: number, b: number, rim: number[], xs: number[], tolerance: number): number {
  const low = Math.min(p[3 * a], p[3 * b]) - tolerance;
  const high = Math.max(p[3 * a], p[3 * b]) + tolerance;
  const d = [0, 1, 2].map((k) => p[3 * b + k] - p[3 * a + k]);
  const length = Math.hypot(...d);
  let best = -1;
  let bestPlace = Infinity;
  for (let i = lowerBound(xs, low); i < rim.length && xs[i] <= high; i++) {
    const v = rim[i];
    if (v === a || v === b) continue;
    const w = [0, 1, 2].map((k) => p[3 * v + k] - p[3 * a + k]);
    const s = (w[0] * d[0] + w[1] * d[1] + w[2] * d[2]) / length;
    if (s < tolerance || s > length - tolerance) continue;
    const off = Math.hypot(...w.map((x, k) => x - (s * d[k]) / length));
    if (off <= tolerance && s < bestPlace) {
      best = v;
      bestPlace = s;
    }
  }
  return best;
}

function lowerBound(sorted: number[], value: number): number {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sorted[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Removes sheets hanging on an edge of three or more: triangles with an open edge that reach a crowded one. */
function dropFins(input: TriangleMesh): Counted {
  let mesh = input;
  let total = 0;
  for (let pass = 0; pass < 50; pass++) {
    const { triangles: t } = mesh;
    const edges = edgeTable(mesh);
    const crowded: number[] = [];
    for (let e = 0; e < edges.nEdges; e++) if (edgeKind(t, edges, e) === 'non-manifold') crowded.push(e);
    if (!crowded.length) break;
    const isOpen = (h: number) => edges.start[edges.edgeOf[h] + 1] - edges.start[edges.edgeOf[h]] === 1;
    const drop = new Set<number>();
    const across = acrossEdges(edges);
    const looked = new Set<number>();
    for (const e of crowded) {
      const members = Array.from(edges.halfEdges.subarray(edges.start[e], edges.start[e + 1]), (h) =>
        Math.floor(h / 3),
      );
      // Through regular edges: a fin is a sheet that comes to an open rim.
      for (const triangle of members) {
        if (looked.has(triangle)) continue;
        const sheet = sheetFrom(triangle, across);
        for (const i of sheet ?? [triangle]) looked.add(i);
        if (sheet && sheet.some((i) => [0, 1, 2].some((c) => isOpen(3 * i + c)))) sheet.forEach((i) => drop.add(i));
      }
    }
    if (!drop.size || drop.size === t.length / 3) break;
    total += drop.size;
    mesh = without(mesh, drop).mesh;
  }
  return { mesh, n: total };
}

/** Triangles reached from one through edges of exactly two; null when it is most of the surface. */
function sheetFrom(start: number, across: Int32Array): number[] | null {
  const limit = across.length / 6;
  const seen = new Set([start]);
  const list = [start];
  for (let i = 0; i < list.length; i++) {
    for (let c = 0; c < 3; c++) {
      const h = across[3 * list[i] + c];
      if (h < 0) continue;
      const next = Math.floor(h / 3);
      if (seen.has(next)) continue;
      seen.add(next);
      list.push(next);
      if (list.length > limit) return null;
    }
  }
  return list;
}

/** Turns triangles so that neighbours over edges of two run opposite ways along them. */
export function orient(mesh: TriangleMesh): Counted {
  const { triangles: t } = mesh;
  const n = t.length / 3;
  const edges = edgeTable(mesh);
  const across = acrossEdges(edges);
  const state = new Int8Array(n); // 0 not seen, 1 as it is, -1 to be turned
  const turned: number[] = [];
  for (let seed = 0; seed < n; seed++) {
    if (state[seed]) continue;
    state[seed] = 1;
    const members = [seed];
    for (let i = 0; i < members.length; i++) {
      for (let c = 0; c < 3; c++) {
        const h = 3 * members[i] + c;
        const g = across[h];
        if (g < 0) continue;
        const next = Math.floor(g / 3);
        if (state[next]) continue;
        state[next] = (fromVertex(t, h) === fromVertex(t, g) ? -state[members[i]] : state[members[i]]) as 1 | -1;
        members.push(next);
      }
    }
    const minus = members.filter((i) => state[i] < 0);
    const plus = members.length - minus.length;
    // The fewer are turned.
    turned.push(...(minus.length <= plus ? minus : members.filter((i) => state[i] > 0)));
  }
  if (!turned.length) return { mesh, n: 0 };
  const triangles = t.slice();
  for (const i of turned) {
    triangles[3 * i + 1] = t[3 * i + 2];
    triangles[3 * i + 2] = t[3 * i + 1];
  }
  return { mesh: { positions: mesh.positions, triangles }, n: turned.length };
}

/** Closes every rim with triangles over its own vertices. */
function closeRims(mesh: TriangleMesh): Counted {
  const { positions: p, triangles: t } = mesh;
  const edges = edgeTable(mesh);
  const next = new Map<number, number[]>();
  for (let e = 0; e < edges.nEdges; e++) {
    if (edges.start[e + 1] - edges.start[e] !== 1) continue;
    const h = edges.halfEdges[edges.start[e]];
    // The cap runs the other way round.
    const list = next.get(toVertex(t, h));
    if (list) list.push(fromVertex(t, h));
    else next.set(toVertex(t, h), [fromVertex(t, h)]);
  }
  const key = (a: number, b: number) => Math.min(a, b) * (p.length / 3) + Math.max(a, b);
  const known = new Set<number>();
  for (let e = 0; e < edges.nEdges; e++) {
    const h = edges.halfEdges[edges.start[e]];
    known.add(key(fromVertex(t, h), toVertex(t, h)));
  }
  const added: number[] = [];
  let nClosed = 0;
  for (const loop of loopsOf(next)) {
    const cap = capOf(p, loop, (a, b) => known.has(key(a, b)));
    if (!cap) continue;
    cap.forEach((a, i) => known.add(key(a, cap[i % 3 === 2 ? i - 2 : i + 1])));
    added.push(...cap);
    nClosed++;
  }
  if (!nClosed) return { mesh, n: 0 };
  const triangles = new Uint32Array(t.length + added.length);
  triangles.set(t);
  triangles.set(added, t.length);
  return { mesh: { positions: p, triangles }, n: nClosed };
}

/** Outer pieces face outwards; hollows and what lies inside another piece is dropped, as are empty pieces. */
function settleShells(mesh: TriangleMesh): Counted {
  const edges = edgeTable(mesh);
  const shells = findShells(mesh, edges);
  const triangles = mesh.triangles.slice();
  const drop = new Set<number>();
  let n = 0;
  for (const shell of shells) {
    const empty = Math.abs(shell.volume) <= 1e-9 * Math.pow(shell.area, 1.5);
    if ((shell.closed && empty && shells.length > 1) || shell.inside >= 0) {
      shell.triangles.forEach((i) => drop.add(i));
      n++;
    } else if (shell.closed && shell.volume < 0) {
      for (const i of shell.triangles) {
        triangles[3 * i + 1] = mesh.triangles[3 * i + 2];
        triangles[3 * i + 2] = mesh.triangles[3 * i + 1];
      }
      n++;
    }
  }
  return { mesh: without({ positions: mesh.positions, triangles }, drop).mesh, n };
}

/** Whether the surface can be handed to solid booleans. */
export const isClosed = (mesh: TriangleMesh): boolean => {
  const { nOpen, nNonManifold, nMisoriented } = checkEdges(mesh);
  return nOpen + nNonManifold + nMisoriented === 0;
};
