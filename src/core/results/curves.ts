import type { Vec3 } from '../geometry/mesh';

/** A curve through scattered points, with the points that belong to it. */
export interface Curve {
  points: Vec3[];
  length: number;
  /** Numbers of the given points nearest to this curve. */
  members: number[];
}

/**
 * Curves through points scattered about lines, at most about `spacing` apart: points are thinned, joined
 * by a minimum spanning tree (Prim), and the tree is read off as its longest path, then the longest of
 * what is left. Smoothed: the staircase of the grid is not the line's.
 */
export function curvesThrough(points: Vec3[], spacing: number): Curve[] {
  const { centres, groupOf } = thinned(points, 0.9 * spacing);
  const curves: Curve[] = [];
  for (const tree of spanningTrees(centres, 2.3 * spacing)) {
    const left = new Map(tree);
    for (;;) {
      const path = longestPath(left, centres);
      if (path.length < 3 && curves.length) break;
      if (path.length < 2) break;
      const own = new Set(path);
      const smooth = smoothed(path.map((k) => centres[k]));
      curves.push({
        points: smooth,
        length: lengthOf(smooth),
        members: points.flatMap((_, i) => (own.has(groupOf[i]) ? [i] : [])),
      });
      for (const k of path) left.delete(k);
      for (const [k, near] of left)
        left.set(
          k,
          near.filter((j) => left.has(j)),
        );
    }
  }
  return curves;
}

const distance = (a: Vec3, b: Vec3) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
const lengthOf = (p: Vec3[]) => p.slice(1).reduce((s, x, i) => s + distance(x, p[i]), 0);

/** Means of points that lie within `radius` of a first one. */
function thinned(points: Vec3[], radius: number): { centres: Vec3[]; groupOf: Int32Array } {
  const groupOf = new Int32Array(points.length).fill(-1);
  const centres: Vec3[] = [];
  points.forEach((p, i) => {
    if (groupOf[i] >= 0) return;
    const sum: Vec3 = [0, 0, 0];
    let n = 0;
    for (let j = i; j < points.length; j++) {
      if (groupOf[j] >= 0 || distance(p, points[j]) > radius) continue;
      groupOf[j] = centres.length;
      for (let d = 0; d < 3; d++) sum[d] += points[j][d];
      n++;
    }
    centres.push(sum.map((x) => x / n) as Vec3);
  });
  return { centres, groupOf };
}

/** Neighbours in the minimum spanning tree of each cluster of points no further apart than `reach`. */
function spanningTrees(p: Vec3[], reach: number): Map<number, number[]>[] {
  const done = new Uint8Array(p.length);
  const trees: Map<number, number[]>[] = [];
  for (let start = 0; start < p.length; start++) {
    if (done[start]) continue;
    const tree = new Map<number, number[]>();
    const best = new Float64Array(p.length).fill(Infinity);
    const from = new Int32Array(p.length).fill(-1);
    best[start] = 0;
    for (;;) {
      let next = -1;
      for (let i = 0; i < p.length; i++)
        if (!done[i] && best[i] <= reach && (next < 0 || best[i] < best[next])) next = i;
      if (next < 0) break;
      done[next] = 1;
      tree.set(next, []);
      if (from[next] >= 0) {
        tree.get(next)?.push(from[next]);
        tree.get(from[next])?.push(next);
      }
      for (let i = 0; i < p.length; i++) {
        const d = done[i] ? Infinity : distance(p[next], p[i]);
        if (d < best[i]) {
          best[i] = d;
          from[i] = next;
        }
      }
    }
    trees.push(tree);
  }
  return trees;
}

/** Longest path in a forest: to the farthest point, and from there to the farthest again. */
function longestPath(tree: Map<number, number[]>, p: Vec3[]): number[] {
  let best: number[] = [];
  let bestLength = -1;
  const seen = new Set<number>();
  for (const start of tree.keys()) {
    if (seen.has(start)) continue;
    const first = farthest(tree, start, p);
    first.reached.forEach((k) => seen.add(k));
    const { path, length } = farthest(tree, first.path[first.path.length - 1], p);
    if (length > bestLength) {
      bestLength = length;
      best = path;
    }
  }
  return best;
}

function farthest(tree: Map<number, number[]>, start: number, p: Vec3[]) {
  const from = new Map([[start, -1]]);
  const along = new Map([[start, 0]]);
  const queue = [start];
  let end = start;
  for (let q = 0; q < queue.length; q++) {
    const i = queue[q];
    const here = along.get(i) as number;
    if (here > (along.get(end) as number)) end = i;
    for (const j of tree.get(i) ?? []) {
      if (from.has(j)) continue;
      from.set(j, i);
      along.set(j, here + distance(p[i], p[j]));
      queue.push(j);
    }
  }
  const path: number[] = [];
  for (let i = end; i >= 0; i = from.get(i) as number) path.push(i);
  return { path, length: along.get(end) as number, reached: queue };
}

const ROUNDS = 3;

function smoothed(points: Vec3[]): Vec3[] {
  let p = points;
  for (let round = 0; round < ROUNDS; round++) {
    p = p.map((x, i) =>
      i === 0 || i === p.length - 1 ? x : (x.map((v, d) => 0.25 * p[i - 1][d] + 0.5 * v + 0.25 * p[i + 1][d]) as Vec3),
    );
  }
  return p;
}
