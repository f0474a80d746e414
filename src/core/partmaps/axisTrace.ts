import { mapSurface } from './surface';
import { weightedMedian } from '../numerics/weighted';
import FlatQueue from 'flatqueue';
import { measure, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { add, distance, dot, normalised, sub, vertexAt } from '../geometry/vec';

export interface TracedAxis {
  nodes: { position: Vec3; diameter: number }[];
  segments: [number, number][];
  /** m */
  length: number;
}

const CONE = Math.tan((40 * Math.PI) / 180);

/**
 * Centre line of a solid channel or runner with its diameters. Every flank facet has a ball that fits
 * between it and the wall opposite; the centres lie on the axis. Facets are gathered around centres half a
 * diameter apart; each gathering becomes a node, and what touches is joined: so bends, branches and loops
 * are kept. Null when the body is no channel: its volume is not that of round sections along the line.
 */
export function traceAxis(mesh: TriangleMesh): TracedAxis | null {
  const { volume, area } = measure(mesh);
  const width = (4 * Math.abs(volume)) / area; // of a long cylinder
  const surface = mapSurface(mesh, 0.35 * width);
  const { n, centroids: c, smoothNormals: m, tree, across, areas } = surface;
  const diameter = new Float64Array(n).fill(NaN);
  const centre = new Float64Array(3 * n);
  for (let i = 0; i < n; i++) {
    const k = 3 * i;
    if (tree.ray(c[k], c[k + 1], c[k + 2], -m[k], -m[k + 1], -m[k + 2], 0, 4 * width, false, i) < 0) continue;
    const d = tree.touchingBall(c[k], c[k + 1], c[k + 2], m[k], m[k + 1], m[k + 2], tree.distance, CONE, -0.3);
    if (d > 3 * width) continue;
    diameter[i] = d;
    for (let x = 0; x < 3; x++) centre[k + x] = c[k + x] - (d / 2) * m[k + x];
  }
  const flank: number[] = [];
  for (let i = 0; i < n; i++) if (diameter[i] > 0 && !isEndFace(i)) flank.push(i);
  if (flank.length < 20) return null;

  /** Facets whose inscribed ball is cut short by the sides look along the axis. */
  function isEndFace(i: number): boolean {
    const k = 3 * i;
    const full = tree.touchingBall(c[k], c[k + 1], c[k + 2], m[k], m[k + 1], m[k + 2], diameter[i], 1.7, 2);
    return full < 0.72 * diameter[i];
  }
  const isFlank = new Uint8Array(n);
  flank.forEach((i) => (isFlank[i] = 1));
  const typical = weightedMedian(
    Float64Array.from(flank, (i) => diameter[i]),
    Float64Array.from(flank, (i) => areas[i]),
  );
  const cluster = clusters(centre, across, isFlank, flank, SPACING * typical);
  const members = new Map<number, number[]>();
  for (const i of flank) {
    const list = members.get(cluster[i]);
    if (list) list.push(i);
    else members.set(cluster[i], [i]);
  }
  const number = new Map<number, number>();
  const nodes: TracedAxis['nodes'] = [];
  for (const [root, list] of members) {
    const weights = Float64Array.from(list, (i) => areas[i]);
    const total = weights.reduce((s, a) => s + a, 0);
    // Slips of surface beside a junction are no piece of channel.
    if (root < 0 || total < 0.15 * Math.PI * typical * SPACING * typical) continue;
    number.set(root, nodes.length);
    nodes.push({
      position: [0, 1, 2].map((d) => list.reduce((s, i) => s + areas[i] * centre[3 * i + d], 0) / total) as Vec3,
      diameter: weightedMedian(
        Float64Array.from(list, (i) => diameter[i]),
        weights,
      ),
    });
  }
  const joined = new Set<string>();
  for (let e = 0; e < across.length; e++) {
    if (across[e] < e) continue;
    const [i, j] = [Math.floor(e / 3), Math.floor(across[e] / 3)];
    if (!isFlank[i] || !isFlank[j]) continue;
    const a = number.get(cluster[i]);
    const b = number.get(cluster[j]);
    if (a !== undefined && b !== undefined && a !== b) joined.add(a < b ? `${a},${b}` : `${b},${a}`);
  }
  const segments = [...joined].map((key) => key.split(',').map(Number) as [number, number]);
  const axis = tidied(mesh, nodes, segments);
  // Something else than a channel: a plate, a block.
  if (!axis || Math.abs(axisVolume(axis) / Math.abs(volume) - 1) > 0.4) return null;
  return axis;
}

const axisVolume = ({ nodes, segments }: TracedAxis): number =>
  segments.reduce((s, [a, b]) => {
    const [p, q] = [nodes[a], nodes[b]];
    const square = (p.diameter ** 2 + p.diameter * q.diameter + q.diameter ** 2) / 3;
    return s + (Math.PI / 4) * square * distance(p.position, q.position);
  }, 0);

/** Distance between nodes, of the diameter. */
const SPACING = 0.5;

/**
 * Flank facets by the nearest of a set of centres spread evenly along the axis (farthest first), found
 * by walking over the surface, so that channels side by side do not mix. -1: not reached.
 */
function clusters(
  centre: Float64Array,
  across: Int32Array,
  isFlank: Uint8Array,
  flank: number[],
  spacing: number,
): Int32Array {
  const nearest = new Float64Array(flank.length).fill(Infinity);
  const seeds: number[] = [];
  let far = 0;
  for (let count = 0; count < 2000; count++) {
    const seed = flank[far];
    seeds.push(seed);
    let most = 0;
    for (let k = 0; k < flank.length; k++) {
      const i = 3 * flank[k];
      const d =
        (centre[i] - centre[3 * seed]) ** 2 +
        (centre[i + 1] - centre[3 * seed + 1]) ** 2 +
        (centre[i + 2] - centre[3 * seed + 2]) ** 2;
      if (d < nearest[k]) nearest[k] = d;
      if (nearest[k] > most) {
        most = nearest[k];
        far = k;
      }
    }
    if (most < spacing * spacing) break;
  }
  const cluster = new Int32Array(isFlank.length).fill(-1);
  const queue = new FlatQueue<number>();
  const from = new Int32Array(isFlank.length).fill(-1);
  const best = new Float64Array(isFlank.length).fill(Infinity);
  for (const seed of seeds) {
    from[seed] = seed;
    best[seed] = 0;
    queue.push(seed, 0);
  }
  while (queue.length) {
    const i = queue.pop()!;
    if (cluster[i] >= 0) continue;
    cluster[i] = from[i];
    for (let e = 3 * i; e < 3 * i + 3; e++) {
      const j = Math.floor(across[e] / 3);
      if (across[e] < 0 || !isFlank[j] || cluster[j] >= 0) continue;
      // Straight from the seed's centre: nothing adds up on the way around the channel.
      const d = distance(vertexAt(centre, from[i]), vertexAt(centre, j));
      if (d >= best[j]) continue;
      best[j] = d;
      from[j] = from[i];
      queue.push(j, d);
    }
  }
  return cluster;
}

/** Ends drawn out to where the body ends, straight runs made one segment, numbering from 0. */
function tidied(mesh: TriangleMesh, nodes: TracedAxis['nodes'], segments: [number, number][]): TracedAxis | null {
  const next = new Map<number, Set<number>>();
  const link = (a: number, b: number) => {
    (next.get(a) ?? next.set(a, new Set()).get(a)!).add(b);
    (next.get(b) ?? next.set(b, new Set()).get(b)!).add(a);
  };
  segments.forEach(([a, b]) => link(a, b));
  if (!next.size) return null;
  const span = ([a, b]: [number, number]) => distance(nodes[a].position, nodes[b].position);
  // Where three pieces meet they all touch: the longest side of each triangle is no channel.
  for (const [a, b] of [...segments].sort((s, t) => span(t) - span(s))) {
    if (![...next.get(a)!].some((k) => next.get(b)!.has(k))) continue;
    next.get(a)!.delete(b);
    next.get(b)!.delete(a);
  }
  for (const [a, around] of next) if (around.size === 1) drawOut(mesh, nodes, next, a);
  straighten(nodes, next);
  const kept = [...next.keys()];
  const renumber = new Map(kept.map((k, i) => [k, i]));
  const out: [number, number][] = [];
  for (const [a, around] of next) for (const b of around) if (a < b) out.push([renumber.get(a)!, renumber.get(b)!]);
  const list = kept.map((k) => nodes[k]);
  return {
    nodes: list,
    segments: out,
    length: out.reduce((s, [a, b]) => s + distance(list[a].position, list[b].position), 0),
  };
}

function drawOut(mesh: TriangleMesh, nodes: TracedAxis['nodes'], next: Map<number, Set<number>>, end: number): void {
  const before = [...next.get(end)!][0];
  // Over two steps: the last band may be a sliver.
  const earlier = [...next.get(before)!].find((k) => k !== end) ?? before;
  const from = nodes[earlier === end ? before : earlier];
  const direction = normalised(sub(nodes[end].position, from.position));
  const node = nodes[end];
  let reach = 0;
  for (let v = 0; v < mesh.positions.length / 3; v++) {
    const offset = sub(vertexAt(mesh.positions, v), node.position);
    const along = dot(offset, direction);
    if (
      Math.hypot(...sub(offset, direction.map((x) => x * along) as Vec3)) < 0.65 * node.diameter &&
      along < 1.5 * node.diameter
    )
      reach = Math.max(reach, along);
  }
  const position = add(node.position, direction, reach);
  // The end takes the diameter of its channel, tapered on: near an edge the balls are smaller.
  const step = distance(nodes[before].position, nodes[earlier].position);
  const slope = step > 0 ? (nodes[before].diameter - nodes[earlier].diameter) / step : 0;
  const grown = nodes[before].diameter + slope * distance(position, nodes[before].position);
  const diameter = Math.min(1.25 * nodes[before].diameter, Math.max(0.8 * nodes[before].diameter, grown));
  nodes[end] = { position, diameter };
}

/** Drops nodes on straight runs of even diameter: within 2 % of the diameter of the line between their neighbours. */
function straighten(nodes: TracedAxis['nodes'], next: Map<number, Set<number>>): void {
  for (let changed = true; changed;) {
    changed = false;
    for (const [k, around] of [...next]) {
      if (around.size !== 2) continue;
      const [a, b] = [...around];
      if (next.get(a)!.has(b)) continue;
      const [p, q, r] = [nodes[a], nodes[k], nodes[b]];
      const line = sub(r.position, p.position);
      const length = Math.hypot(...line);
      const s = dot(sub(q.position, p.position), line) / (length * length);
      const off = distance(q.position, add(p.position, line, s));
      const between = p.diameter + s * (r.diameter - p.diameter);
      if (off > 0.01 * q.diameter || Math.abs(q.diameter - between) > 0.02 * q.diameter) continue;
      next.delete(k);
      next.get(a)!.delete(k);
      next.get(b)!.delete(k);
      next.get(a)!.add(b);
      next.get(b)!.add(a);
      changed = true;
    }
  }
}
