import { weightedMedian } from '../numerics/weighted';
import { CREASE, type MapSurface } from './surface';

/** Half-angle within which the opposite wall is looked for: wide enough for a draft of 14 degrees a side. */
const CONE = Math.tan((28 * Math.PI) / 180);
/** Facets whose normals make a larger cosine than this do not face each other. */
const OPPOSITE = -0.3;
/**
 * Looking through more than this many typical walls, or at a face that does not face it, a facet is an end
 * face: a rim, the top of a rib or boss.
 */
const END_FACE = 3;
const END_CONE = Math.tan((60 * Math.PI) / 180);
/** A ball also speaks for the corners beside it: those of a square lie 1.41 radii from its middle. */
const CORNER = 1.5;

export interface Thickness {
  /** Wall thickness at each facet, m; NaN where nothing lies opposite (open surfaces). */
  value: Float64Array;
  /** Facet met straight through the wall, -1 where none. */
  opposite: Int32Array;
}

/**
 * Wall thickness at every facet: the diameter of the largest ball that touches the wall there from
 * within and fits between it and the wall opposite. On a plate, tube or sphere that is the drawn
 * thickness; in a taper the thickness across the middle plane; where a rib stands on a wall the ball
 * grows into the junction. Side walls at an edge do not count, so a plate keeps its thickness up to
 * its rim. End faces, which look along the wall instead of through it, take the largest inscribed ball
 * that reaches them (local thickness: Hildebrand & Ruegsegger, J. Microscopy 185 (1997)) or the wall
 * they end, whichever is more.
 */
export function wallThickness(surface: MapSurface): Thickness {
  const { n, centroids: c, smoothNormals: m, normals, tree } = surface;
  const straight = new Float64Array(n).fill(NaN);
  const opposite = new Int32Array(n).fill(-1);
  for (let i = 0; i < n; i++) {
    const k = 3 * i;
    const hit = tree.ray(c[k], c[k + 1], c[k + 2], -m[k], -m[k + 1], -m[k + 2], 0, Infinity, false, i);
    if (hit < 0) continue;
    opposite[i] = hit;
    straight[i] = tree.distance;
  }
  const longest = END_FACE * weightedMedian(straight, surface.areas);
  const value = new Float64Array(n).fill(NaN);
  const ends: number[] = [];
  for (let i = 0; i < n; i++) {
    if (!(straight[i] > 0)) continue;
    const k = 3 * i;
    const hit = 3 * opposite[i];
    const facing = m[k] * normals[hit] + m[k + 1] * normals[hit + 1] + m[k + 2] * normals[hit + 2];
    const end = straight[i] > longest || facing > OPPOSITE;
    if (end) ends.push(i);
    value[i] = tree.touchingBall(
      c[k],
      c[k + 1],
      c[k + 2],
      m[k],
      m[k + 1],
      m[k + 2],
      straight[i],
      end ? END_CONE : CONE,
      end ? 2 : OPPOSITE,
    );
  }
  spreadOverEndFaces(surface, value, ends);
  continueOntoEnds(surface, value, ends);
  return { value, opposite };
}

/** Each end facet takes the largest ball of its face that reaches it. */
function spreadOverEndFaces(surface: MapSurface, value: Float64Array, ends: number[]): void {
  const { centroids: c, smoothNormals: m, normals, across } = surface;
  const isEnd = new Set(ends);
  const own = value.slice();
  const seen = new Int32Array(surface.n).fill(-1);
  // Largest first: where a larger ball has been, a smaller one has nothing to add.
  for (const i of [...ends].sort((a, b) => own[b] - own[a])) {
    if (value[i] > 1.001 * own[i]) continue;
    const r = own[i] / 2;
    const [x, y, z] = [0, 1, 2].map((d) => c[3 * i + d] - r * m[3 * i + d]);
    const list = [i];
    seen[i] = i;
    for (let k = 0; k < list.length; k++) {
      const a = list[k];
      value[a] = Math.max(value[a], own[i]);
      for (let e = 3 * a; e < 3 * a + 3; e++) {
        const b = Math.floor(across[e] / 3);
        if (across[e] < 0 || seen[b] === i || !isEnd.has(b)) continue;
        const dot =
          normals[3 * a] * normals[3 * b] +
          normals[3 * a + 1] * normals[3 * b + 1] +
          normals[3 * a + 2] * normals[3 * b + 2];
        if (dot < CREASE) continue;
        if (Math.hypot(c[3 * b] - x, c[3 * b + 1] - y, c[3 * b + 2] - z) > CORNER * r) continue;
        seen[b] = i;
        list.push(b);
      }
    }
  }
}

/** End faces are no thinner than the wall that ends there: its value, carried on from the nearest facets. */
function continueOntoEnds({ across }: MapSurface, value: Float64Array, ends: number[]): void {
  const waiting = new Set(ends);
  let front: { facet: number; wall: number }[] = [];
  const offer = (facet: number, wall: number, next: typeof front) => {
    for (let e = 3 * facet; e < 3 * facet + 3; e++) {
      const other = Math.floor(across[e] / 3);
      if (across[e] < 0 || !waiting.delete(other)) continue;
      value[other] = Math.max(value[other], wall);
      next.push({ facet: other, wall });
    }
  };
  for (const i of ends)
    for (let e = 3 * i; e < 3 * i + 3; e++) {
      const other = Math.floor(across[e] / 3);
      if (across[e] >= 0 && !waiting.has(other) && value[other] > 0) front.push({ facet: other, wall: value[other] });
    }
  while (front.length) {
    const next: typeof front = [];
    for (const { facet, wall } of front) offer(facet, wall, next);
    front = next;
  }
}
