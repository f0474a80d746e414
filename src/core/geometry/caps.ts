import earcut from 'earcut';
import type { Vec3 } from './mesh';
import { cross, normalised } from './vec';

/** Simple closed loops of a directed graph; where loops meet at a vertex they are taken apart there. */
export function loopsOf(next: Map<number, number[]>): number[][] {
  const loops: number[][] = [];
  for (const start of next.keys()) {
    while (next.get(start)?.length) {
      const path = [start];
      const at = new Map([[start, 0]]);
      for (;;) {
        const to = next.get(path[path.length - 1])?.pop();
        if (to === undefined) break;
        const seen = at.get(to);
        if (seen === undefined) {
          at.set(to, path.length);
          path.push(to);
          continue;
        }
        const loop = path.splice(seen);
        loop.forEach((v) => at.delete(v));
        if (loop.length > 2) loops.push(loop);
        if (!path.length) break;
        at.set(to, path.length);
        path.push(to);
      }
    }
  }
  return loops;
}

/** Loops of more vertices are not closed in space: the work grows with the cube of their number. */
const LONGEST_IN_SPACE = 160;
/** A loop is flat when its own area is so much of the smallest skin over it. */
const FLAT = 0.999;

/**
 * Triangles over a loop, which runs anticlockwise seen from outside; flat loops by clipping ears, others by the
 * smallest skin in space. `taken` tells edges that a cap may not have: two triangles hang on them already.
 */
export function capOf(
  p: Float64Array,
  loop: number[],
  taken: (a: number, b: number) => boolean = () => false,
): number[] | null {
  if (loop.length === 3) return loop;
  const flat = flatCap(p, loop);
  if (flat && isFlat(p, loop, flat) && !innerEdges(loop, flat).some(([a, b]) => taken(a, b))) return flat;
  return spaceCap(p, loop, taken);
}

const triangleArea = (p: Float64Array, a: number, b: number, c: number) => Math.hypot(...loopNormal(p, [a, b, c])) / 2;

function isFlat(p: Float64Array, loop: number[], cap: readonly number[]): boolean {
  let sum = 0;
  for (let i = 0; i < cap.length; i += 3) sum += triangleArea(p, cap[i], cap[i + 1], cap[i + 2]);
  return Math.hypot(...loopNormal(p, loop)) / 2 >= FLAT * sum;
}

function innerEdges(loop: readonly number[], cap: readonly number[]): [number, number][] {
  const next = new Map(loop.map((v, i) => [v, loop[(i + 1) % loop.length]]));
  return cap.flatMap((a, i): [number, number][] => {
    const b = cap[i % 3 === 2 ? i - 2 : i + 1];
    return next.get(a) === b || next.get(b) === a ? [] : [[a, b]];
  });
}

/** The triangulation of a loop in space with the least area, by dynamic programming (Barequet & Sharir 1995). */
function spaceCap(p: Float64Array, loop: number[], taken: (a: number, b: number) => boolean): number[] | null {
  const n = loop.length;
  if (n > LONGEST_IN_SPACE) return null;
  const least = new Float64Array(n * n);
  const through = new Int32Array(n * n).fill(-1);
  for (let span = 2; span < n; span++)
    for (let i = 0; i + span < n; i++) {
      const k = i + span;
      least[n * i + k] = Infinity;
      if (span < n - 1 && taken(loop[i], loop[k])) continue;
      for (let j = i + 1; j < k; j++) {
        const sum = least[n * i + j] + least[n * j + k];
        if (!(sum < least[n * i + k])) continue;
        const area = triangleArea(p, loop[i], loop[j], loop[k]);
        if (!(sum + area < least[n * i + k])) continue;
        least[n * i + k] = sum + area;
        through[n * i + k] = j;
      }
    }
  if (!(least[n - 1] < Infinity)) return null;
  const out: number[] = [];
  const spans: [number, number][] = [[0, n - 1]];
  for (let span = spans.pop(); span; span = spans.pop()) {
    const [i, k] = span;
    if (k - i < 2) continue;
    const j = through[n * i + k];
    out.push(loop[i], loop[j], loop[k]);
    spans.push([i, j], [j, k]);
  }
  return out;
}

/** Triangles over a loop by clipping ears in the plane it lies in on average; null where it overlaps itself there. */
function flatCap(p: Float64Array, loop: number[]): number[] | null {
  const normal = loopNormal(p, loop);
  const length = Math.hypot(...normal);
  if (!(length > 0)) return null;
  const n = normal.map((x) => x / length) as Vec3;
  const axis = n.map(Math.abs).indexOf(Math.min(...n.map(Math.abs)));
  const unit: Vec3 = [0, 0, 0];
  unit[axis] = 1;
  const u = normalised(cross(unit, n));
  const v = cross(n, u);
  const flat = loop.flatMap((i) => [u, v].map((w) => w[0] * p[3 * i] + w[1] * p[3 * i + 1] + w[2] * p[3 * i + 2]));
  const ears = earcut(flat);
  if (ears.length !== 3 * (loop.length - 2)) return null;
  const corner = (i: number) => [flat[2 * ears[i]], flat[2 * ears[i] + 1]];
  const out: number[] = [];
  for (let i = 0; i < ears.length; i += 3) {
    const [a, b, c] = [corner(i), corner(i + 1), corner(i + 2)];
    const anticlockwise = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) >= 0;
    out.push(loop[ears[i]], loop[ears[i + (anticlockwise ? 1 : 2)]], loop[ears[i + (anticlockwise ? 2 : 1)]]);
  }
  return out;
}

/** Twice the vector area of a loop (Newell). */
export function loopNormal(p: Float64Array, loop: number[]): Vec3 {
  const n: Vec3 = [0, 0, 0];
  const o = 3 * loop[0];
  for (let i = 0; i < loop.length; i++) {
    const [a, b] = [3 * loop[i], 3 * loop[(i + 1) % loop.length]];
    const u = [p[a] - p[o], p[a + 1] - p[o + 1], p[a + 2] - p[o + 2]];
    const w = [p[b] - p[o], p[b + 1] - p[o + 1], p[b + 2] - p[o + 2]];
    n[0] += u[1] * w[2] - u[2] * w[1];
    n[1] += u[2] * w[0] - u[0] * w[2];
    n[2] += u[0] * w[1] - u[1] * w[0];
  }
  return n;
}
