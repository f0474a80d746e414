import { UnionFind } from '../numerics/unionFind';
import { checkEdges } from './check';
import { acrossEdges, edgeTable, facets, fromVertex, toVertex } from './edges';
import { flatPatches } from './flatPatches';
import { findFillets, removeFillets, type Fillet } from './fillets';
import { capOf, loopsOf } from './caps';
import { joinClose } from './joinClose';
import { measure, type Bounds, type TriangleMesh, type Vec3 } from './mesh';
import { diagonal, diagonalOf, subMesh } from './shells';

/** A small thing on a body that can be taken away and the face behind it closed. */
export interface Feature {
  id: number;
  kind: 'hole' | 'pocket' | 'boss' | 'round' | 'fillet';
  /** Largest extent, m */
  size: number;
  centre: Vec3;
  triangles: Uint32Array;
  /** What the body's volume changes by when it goes, m3. */
  volumeChange: number;
  /** Set on rounds (of outer edges) and fillets (of inner ones). */
  fillet?: Fillet;
}

/**
 * Holes, pockets, bosses and letters no larger than `limit` [m] that stand in flat faces: connected bits
 * of surface bordered by inner loops of flat faces only. Taking one away means closing those loops flat,
 * so nothing else changes. What runs over an edge of a face, or stands on a curved one, is left alone.
 * Rounds and fillets between flat faces come after them.
 */
export function findFeatures(mesh: TriangleMesh, limit: number): Feature[] {
  const { triangles: t } = mesh;
  const n = t.length / 3;
  const { nNonManifold, nMisoriented, nOpen } = checkEdges(mesh);
  if (nNonManifold + nMisoriented + nOpen > 0) return [];
  const across = acrossEdges(edgeTable(mesh));
  const patch = flatPatches(facets(mesh).normals, across);
  const boxes = boundsOfSets(mesh, patch, n);
  const large = (i: number) => diagonalOf(boxes.get(patch[i])!) > limit;
  const rest = new UnionFind(n);
  for (let h = 0; h < t.length; h++) {
    if (across[h] < h) continue;
    const [a, b] = [Math.floor(h / 3), Math.floor(across[h] / 3)];
    if (!large(a) && !large(b)) rest.union(a, b);
  }
  const groups = new Map<number, number[]>();
  for (let i = 0; i < n; i++) {
    if (large(i)) continue;
    const root = rest.find(i);
    const list = groups.get(root);
    if (list) list.push(i);
    else groups.set(root, [i]);
  }
  const outer = outerLoops(mesh, across, patch, large);
  const features: Feature[] = [];
  for (const list of groups.values()) {
    const box = boundsOfSets(mesh, new Int32Array(n), n, list).get(0)!;
    if (diagonalOf(box) > limit || list.length === n) continue;
    const members = new Set(list);
    const border = loopsAround(mesh, across, members);
    if (!border || border.some(({ loop, facet }) => outer.has(`${patch[facet]}:${Math.min(...loop)}`))) continue;
    const closed = closedWith(mesh, list, border);
    if (!closed) continue;
    const volumeChange = -measure(closed).volume;
    features.push({
      id: features.length,
      kind: border.length > 1 ? 'hole' : volumeChange > 0 ? 'pocket' : 'boss',
      size: diagonalOf(box),
      centre: box.min.map((x, d) => (x + box.max[d]) / 2) as Vec3,
      triangles: Uint32Array.from(list),
      volumeChange,
    });
  }
  for (const fillet of findFillets(mesh, limit))
    features.push({
      id: features.length,
      kind: fillet.volumeChange > 0 ? 'round' : 'fillet',
      size: fillet.depth,
      centre: fillet.centre,
      triangles: fillet.triangles,
      volumeChange: fillet.volumeChange,
      fillet,
    });
  return features.sort((a, b) => b.size - a.size).map((f, id) => ({ ...f, id }));
}

/** The mesh without the features, its flat faces closed over them; null when the result is not closed. */
export function removeFeatures(mesh: TriangleMesh, features: readonly Feature[]): TriangleMesh | null {
  const fillets = features.flatMap((f) => f.fillet ?? []);
  const rest = features.filter((f) => !f.fillet);
  // Roundings first: they move vertices but keep the numbering until they are applied.
  const closed = rest.length ? closeFaces(mesh, rest, fillets) : mesh;
  return closed && fillets.length && !rest.length ? removeFillets(mesh, fillets) : closed;
}

/** Takes features out of flat faces, after moving the vertices of roundings. */
function closeFaces(
  input: TriangleMesh,
  features: readonly Feature[],
  fillets: readonly Fillet[],
): TriangleMesh | null {
  const positions = input.positions.slice();
  for (const { moved } of fillets) for (const [v, to] of moved) positions.set(to, 3 * v);
  const mesh = { positions, triangles: input.triangles };
  const across = acrossEdges(edgeTable(mesh));
  const drop = new Set<number>();
  const caps: number[] = [];
  for (const feature of features) {
    const border = loopsAround(mesh, across, new Set(feature.triangles));
    if (!border) return null;
    for (const { loop } of border) {
      const cap = capOf(mesh.positions, loop);
      if (!cap) return null;
      caps.push(...cap);
    }
    feature.triangles.forEach((i) => drop.add(i));
  }
  const kept: number[] = [];
  for (let i = 0; i < mesh.triangles.length / 3; i++)
    if (!drop.has(i)) kept.push(mesh.triangles[3 * i], mesh.triangles[3 * i + 1], mesh.triangles[3 * i + 2]);
  const triangles = Uint32Array.from([...kept, ...caps]);
  const all = Array.from({ length: triangles.length / 3 }, (_, i) => i);
  const result = joinClose(subMesh({ positions: mesh.positions, triangles }, all), 1e-7 * diagonal(mesh));
  const { nOpen, nNonManifold, nMisoriented } = checkEdges(result);
  return nOpen + nNonManifold + nMisoriented === 0 ? result : null;
}

function boundsOfSets(mesh: TriangleMesh, set: Int32Array, n: number, only?: number[]): Map<number, Bounds> {
  const boxes = new Map<number, Bounds>();
  const take = (i: number) => {
    let box = boxes.get(set[i]);
    if (!box)
      boxes.set(set[i], (box = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] }));
    for (let c = 0; c < 3; c++) {
      for (let d = 0; d < 3; d++) {
        const x = mesh.positions[3 * mesh.triangles[3 * i + c] + d];
        if (x < box.min[d]) box.min[d] = x;
        if (x > box.max[d]) box.max[d] = x;
      }
    }
  };
  if (only) only.forEach(take);
  else for (let i = 0; i < n; i++) take(i);
  return boxes;
}

/** Outer rims of the large flat faces, as "patch:lowest vertex": the longest loop of each. */
function outerLoops(
  mesh: TriangleMesh,
  across: Int32Array,
  patch: Int32Array,
  large: (i: number) => boolean,
): Set<string> {
  const { triangles: t, positions: p } = mesh;
  const next = new Map<number, Map<number, number[]>>();
  for (let h = 0; h < t.length; h++) {
    const i = Math.floor(h / 3);
    if (!large(i) || patch[Math.floor(across[h] / 3)] === patch[i]) continue;
    const own = next.get(patch[i]) ?? next.set(patch[i], new Map()).get(patch[i])!;
    const list = own.get(fromVertex(t, h));
    if (list) list.push(toVertex(t, h));
    else own.set(fromVertex(t, h), [toVertex(t, h)]);
  }
  const outer = new Set<string>();
  for (const [id, edges] of next) {
    let best = -1;
    let name = '';
    for (const loop of loopsOf(edges)) {
      const box: Bounds = { min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] };
      for (const v of loop)
        for (let d = 0; d < 3; d++) {
          box.min[d] = Math.min(box.min[d], p[3 * v + d]);
          box.max[d] = Math.max(box.max[d], p[3 * v + d]);
        }
      if (diagonalOf(box) > best) {
        best = diagonalOf(box);
        name = `${id}:${Math.min(...loop)}`;
      }
    }
    outer.add(name);
  }
  return outer;
}

/** Loops around a set of facets, in the direction of the faces that stay, each with a facet beyond it; null when one borders several faces. */
function loopsAround(
  mesh: TriangleMesh,
  across: Int32Array,
  members: Set<number>,
): { loop: number[]; facet: number }[] | null {
  const { triangles: t } = mesh;
  const next = new Map<number, number[]>();
  const beyond = new Map<string, number>();
  for (const i of members) {
    for (let h = 3 * i; h < 3 * i + 3; h++) {
      const other = Math.floor(across[h] / 3);
      if (members.has(other)) continue;
      const [a, b] = [fromVertex(t, h), toVertex(t, h)];
      // The cap takes the place of the facets that go: it runs along the border as they did.
      const list = next.get(a);
      if (list) list.push(b);
      else next.set(a, [b]);
      beyond.set(`${a},${b}`, other);
    }
  }
  const loops = loopsOf(next);
  if (!loops.length) return null;
  const { normals: m } = facets({ positions: mesh.positions, triangles: trianglesOf(mesh, [...beyond.values()]) });
  const order = [...beyond.keys()];
  const normalOf = new Map(order.map((key, k) => [key, [m[3 * k], m[3 * k + 1], m[3 * k + 2]]]));
  const found: { loop: number[]; facet: number }[] = [];
  for (const loop of loops) {
    const keys = loop.map((v, k) => `${v},${loop[(k + 1) % loop.length]}`);
    const first = normalOf.get(keys[0])!;
    if (keys.some((key) => normalOf.get(key)!.reduce((s, x, d) => s + x * first[d], 0) < 1 - 1e-6)) return null;
    found.push({ loop, facet: beyond.get(keys[0])! });
  }
  return found;
}

const trianglesOf = (mesh: TriangleMesh, list: number[]): Uint32Array =>
  Uint32Array.from(list.flatMap((i) => [...mesh.triangles.subarray(3 * i, 3 * i + 3)]));

/** The feature's own surface closed by its caps turned round: a solid whose volume the body gains or loses. */
function closedWith(mesh: TriangleMesh, list: number[], border: { loop: number[] }[]): TriangleMesh | null {
  const triangles = Array.from(trianglesOf(mesh, list));
  for (const { loop } of border) {
    const cap = capOf(mesh.positions, loop);
    if (!cap) return null;
    for (let i = 0; i < cap.length; i += 3) triangles.push(cap[i], cap[i + 2], cap[i + 1]);
  }
  return { positions: mesh.positions, triangles: Uint32Array.from(triangles) };
}
