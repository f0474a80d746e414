import { z } from 'zod';
import { real } from '../numerics/real';
import { vec3Schema } from '../geometry/schemas';
import type { Vec3 } from '../geometry/mesh';
import { cross, normalised } from '../geometry/vec';
import type { MapSurface } from './surface';

/** Which half of the mould forms a facet. */
export const SIDE = { upper: 1, lower: 2, undercut: 3 } as const;

export interface Moulding {
  /** SIDE of each facet. */
  side: Uint8Array;
  /** Angle between facet and opening direction, rad; negative at undercuts. */
  draft: Float64Array;
  undercutArea: number;
  /** Where the halves meet: length-weighted median height of the edges between them, m along `opening`. */
  parting: number;
}

/** A face within this of the opening direction counts as parallel to it. */
const PARALLEL = Math.sin((0.02 * Math.PI) / 180);

/**
 * Halves of the mould, draft and undercuts for an opening direction (unit vector). A facet can be freed
 * when nothing of the part lies in front of it along the way its half moves. Faces parallel to the
 * direction go to the half their height is on; `partingHeight` null takes where the halves meet.
 */
export function moulding(surface: MapSurface, opening: Vec3, partingHeight: number | null): Moulding {
  const { n, normals, centroids: c, areas } = surface;
  const side = new Uint8Array(n);
  const draft = new Float64Array(n);
  const parallel: number[] = [];
  let undercutArea = 0;
  for (let i = 0; i < n; i++) {
    const up = dotAt(normals, i, opening);
    draft[i] = Math.asin(Math.min(1, Math.abs(up)));
    if (Math.abs(up) <= PARALLEL) {
      parallel.push(i);
      continue;
    }
    const sign = up > 0 ? 1 : -1;
    side[i] = blocked(surface, i, opening, sign) ? SIDE.undercut : sign > 0 ? SIDE.upper : SIDE.lower;
  }
  const parting = partingHeight ?? meetingHeight(surface, side, opening);
  for (const i of parallel) {
    const above = dotAt(c, i, opening) >= parting;
    const [first, second] = above ? [1, -1] : [-1, 1];
    if (!blocked(surface, i, opening, first)) side[i] = above ? SIDE.upper : SIDE.lower;
    else if (!blocked(surface, i, opening, second)) side[i] = above ? SIDE.lower : SIDE.upper;
    else side[i] = SIDE.undercut;
  }
  for (let i = 0; i < n; i++) {
    if (side[i] !== SIDE.undercut) continue;
    draft[i] = -draft[i];
    undercutArea += areas[i];
  }
  return { side, draft, undercutArea, parting };
}

/** Edges at which the two halves of the mould meet: places of their ends in `mesh.positions`, 2 an edge. */
export function partingEdges({ across, mesh }: MapSurface, { side }: Moulding): [number, number][] {
  const { triangles: t } = mesh;
  const edges: [number, number][] = [];
  for (let e = 0; e < across.length; e++) {
    if (across[e] < e) continue;
    const pair = [side[Math.floor(e / 3)], side[Math.floor(across[e] / 3)]];
    if (pair.includes(SIDE.upper) && pair.includes(SIDE.lower))
      edges.push([3 * t[e], 3 * t[e % 3 === 2 ? e - 2 : e + 1]]);
  }
  return edges;
}

const dotAt = (a: Float64Array, i: number, d: Vec3) => a[3 * i] * d[0] + a[3 * i + 1] * d[1] + a[3 * i + 2] * d[2];

function blocked({ tree, centroids: c, normals: m, areas }: MapSurface, i: number, d: Vec3, sign: number): boolean {
  // A little off the surface: a ray along a parallel face would graze its own neighbours.
  const off = 1e-3 * Math.sqrt(areas[i]);
  const at = (k: number) => c[3 * i + k] + off * m[3 * i + k];
  return tree.ray(at(0), at(1), at(2), sign * d[0], sign * d[1], sign * d[2], off, Infinity, true, i) >= 0;
}

function meetingHeight(surface: MapSurface, side: Uint8Array, d: Vec3): number {
  const { across, mesh } = surface;
  const { positions: p, triangles: t } = mesh;
  const heights: { h: number; w: number }[] = [];
  for (let e = 0; e < across.length; e++) {
    if (across[e] < e) continue;
    const pair = [side[Math.floor(e / 3)], side[Math.floor(across[e] / 3)]];
    // Parallel faces are not decided yet: their upper and lower rims both tell.
    const differs =
      (pair[0] === SIDE.upper) !== (pair[1] === SIDE.upper) || (pair[0] === SIDE.lower) !== (pair[1] === SIDE.lower);
    if (!differs || pair.includes(SIDE.undercut)) continue;
    const [a, b] = [3 * t[e], 3 * t[e % 3 === 2 ? e - 2 : e + 1]];
    const w = Math.hypot(p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]);
    heights.push({ h: ((p[a] + p[b]) * d[0] + (p[a + 1] + p[b + 1]) * d[1] + (p[a + 2] + p[b + 2]) * d[2]) / 2, w });
  }
  heights.sort((a, b) => a.h - b.h);
  const total = heights.reduce((s, x) => s + x.w, 0);
  let sum = 0;
  for (const { h, w } of heights) {
    sum += w;
    // Two rims of one length: the lower one, whatever rounding says.
    if (sum >= (0.5 - 1e-6) * total) return h;
  }
  return 0;
}

export const openingChoiceSchema = z.object({
  direction: vec3Schema,
  /** m2 that neither half can form. */
  undercutArea: real,
  /** Extent of the part along it, m: how deep the halves must be. */
  depth: real,
});
export type OpeningChoice = z.infer<typeof openingChoiceSchema>;

const SAMPLES = 2500;

/**
 * Opening directions with their undercuts, best first: the part's axes, the normals of its larger faces
 * and the diagonals between them. The smaller undercut wins; among equals the shallower mould.
 */
export function openingChoices(surface: MapSurface): OpeningChoice[] {
  const { n, areas, centroids: c } = surface;
  const total = areas.reduce((s, a) => s + a, 0);
  const stride = Math.max(1, Math.floor(n / SAMPLES));
  const choices = candidates(surface).map((direction) => {
    let undercutArea = 0;
    let [sampled, low, high] = [0, Infinity, -Infinity];
    for (let i = 0; i < n; i += stride) {
      const up = dotAt(surface.normals, i, direction);
      const height = dotAt(c, i, direction);
      low = Math.min(low, height);
      high = Math.max(high, height);
      sampled += areas[i];
      const free =
        (up >= -PARALLEL && !blocked(surface, i, direction, 1)) ||
        (up <= PARALLEL && !blocked(surface, i, direction, -1));
      if (!free) undercutArea += areas[i];
    }
    return { direction, undercutArea: (undercutArea * total) / sampled, depth: high - low };
  });
  const step = 2e-3 * total;
  return choices.sort(
    (a, b) => Math.round(a.undercutArea / step) - Math.round(b.undercutArea / step) || a.depth - b.depth,
  );
}

/** Up to about 20 directions, each with its opposite left out: opening either way frees the same faces. */
function candidates({ n, normals, areas }: MapSurface): Vec3[] {
  const list: Vec3[] = [
    [0, 0, 1],
    [1, 0, 0],
    [0, 1, 0],
  ];
  const add = (v: Vec3) => {
    if (Math.hypot(...v) > 0.5 && !list.some((w) => Math.abs(v[0] * w[0] + v[1] * w[1] + v[2] * w[2]) > 0.999))
      list.push(v);
  };
  const bins = new Map<string, { v: Vec3; area: number }>();
  for (let i = 0; i < n; i++) {
    const v = [normals[3 * i], normals[3 * i + 1], normals[3 * i + 2]] as Vec3;
    const sign = v[2] < -1e-6 || (Math.abs(v[2]) <= 1e-6 && v[0] < 0) ? -1 : 1;
    const key = v.map((x) => Math.round(20 * sign * x)).join();
    const bin = bins.get(key);
    if (bin) bin.area += areas[i];
    else bins.set(key, { v: v.map((x) => sign * x) as Vec3, area: areas[i] });
  }
  const faces = [...bins.values()].sort((a, b) => b.area - a.area).slice(0, 8);
  faces.forEach((f) => add(f.v));
  // Along the edges between large faces: the directions both are parallel to.
  for (let i = 0; i < Math.min(4, faces.length); i++)
    for (let j = 0; j < i; j++) add(normalised(cross(faces[i].v, faces[j].v)));
  return list;
}
