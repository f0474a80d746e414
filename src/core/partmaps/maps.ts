import type { Place } from '../geometry/check';
import { measure, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { UnionFind } from '../numerics/unionFind';
import type { Unit } from '../units/units';
import { format } from '../units/units';
import { flowRatio } from './flowLength';
import { moulding, SIDE, type Moulding } from './moulding';
import { ribFeet, type RibFoot } from './ribs';
import { DESIGN_RULES, type RuleId, type Rules } from './rules';
import { CREASE, mapSurface, type MapSurface } from './surface';
import { wallThickness, weightedMedian } from './thickness';

export const MAP_IDS = ['thickness', 'step', 'rib', 'draft', 'side', 'flowRatio'] as const;
export type MapId = (typeof MAP_IDS)[number];

export const MAPS: Record<MapId, { label: string; unit: Unit }> = {
  thickness: { label: 'Wall thickness', unit: 'mm' },
  step: { label: 'Thickness step', unit: '×' },
  rib: { label: 'Rib to wall', unit: '%' },
  draft: { label: 'Draft', unit: '°' },
  side: { label: 'Mould half', unit: '' },
  flowRatio: { label: 'Flow length to thickness', unit: '×' },
};

export interface MapRange {
  id: MapId;
  /** Shown range: leaves out 0.5 % of the area at either end. */
  range: [number, number];
}

/** A design rule that is broken somewhere. */
export interface Warning {
  rule: RuleId | 'undercut';
  map: MapId;
  message: string;
  why: string;
  /** Area concerned, m2; ribs: 0 */
  area: number;
  places: Place[];
}

export interface PartMaps {
  surface: MapSurface;
  /** Facet values, NaN where there is none. */
  values: Record<MapId, Float64Array>;
  ranges: MapRange[];
  warnings: Warning[];
  /** Area-weighted median thickness, m */
  typicalWall: number;
  thinnest: number;
  thickest: number;
  undercutArea: number;
  /** m along the opening direction */
  parting: number;
  ribs: number;
}

export interface MapInput {
  mesh: TriangleMesh;
  opening: Vec3;
  partingHeight: number | null;
  gates: readonly Vec3[];
  rules: Rules;
}

/** Facets wanted over a part: enough to see a rib, few enough to answer while one waits. */
const TARGET_FACETS = 45_000;

/** All maps of a closed part and the design rules it breaks. `progress` is called with 0..1. */
export function partMaps(input: MapInput, progress: (fraction: number, what: string) => void = () => {}): PartMaps {
  const { volume, area } = measure(input.mesh);
  const wall = (2 * Math.abs(volume)) / area;
  progress(0, 'Dividing the surface');
  // Halving edges leaves facets of about a twenty-fifth of the square of the longest edge.
  const edge = Math.max(0.5 * wall, Math.sqrt((25 * area) / TARGET_FACETS));
  const surface = mapSurface(input.mesh, edge);
  progress(0.2, 'Measuring the wall');
  const thickness = wallThickness(surface);
  const typicalWall = weightedMedian(thickness.value, surface.areas);
  progress(0.6, 'Looking along the opening direction');
  const mould = moulding(surface, input.opening, input.partingHeight);
  progress(0.75, 'Looking for ribs');
  const feet = ribFeet(surface, typicalWall);
  progress(0.85, 'Following the flow');
  const values: Record<MapId, Float64Array> = {
    thickness: thickness.value,
    step: thicknessStep(surface, thickness.value),
    rib: ribField(surface, feet),
    draft: mould.draft,
    side: Float64Array.from(mould.side),
    flowRatio: flowRatio(surface, thickness, input.gates),
  };
  const ranges = MAP_IDS.map((id) => ({ id, range: shownRange(id, values[id], surface.areas) }));
  const [thinnest, thickest] = ranges[0].range;
  return {
    surface,
    values,
    ranges,
    warnings: warningsOf(surface, values, mould, feet, typicalWall, input),
    typicalWall,
    thinnest,
    thickest,
    undercutArea: mould.undercutArea,
    parting: mould.parting,
    ribs: feet.length,
  };
}

/** Largest ratio of thickness between a facet and what lies within a wall and a half of it on the same face. */
function thicknessStep(surface: MapSurface, value: Float64Array): Float64Array {
  const { n, across, centroids: c, normals: m } = surface;
  const out = new Float64Array(n).fill(NaN);
  const seen = new Int32Array(n).fill(-1);
  const list: number[] = [];
  for (let i = 0; i < n; i++) {
    if (!(value[i] > 0)) continue;
    const reach = 1.5 * value[i];
    let [low, high] = [value[i], value[i]];
    list.length = 0;
    list.push(i);
    seen[i] = i;
    for (let k = 0; k < list.length && k < 400; k++) {
      const a = list[k];
      if (value[a] < low) low = value[a];
      if (value[a] > high) high = value[a];
      for (let e = 3 * a; e < 3 * a + 3; e++) {
        if (across[e] < 0) continue;
        const b = Math.floor(across[e] / 3);
        if (seen[b] === i || !(value[b] > 0)) continue;
        seen[b] = i;
        if (m[3 * a] * m[3 * b] + m[3 * a + 1] * m[3 * b + 1] + m[3 * a + 2] * m[3 * b + 2] < CREASE) continue;
        const dx = c[3 * b] - c[3 * i];
        const dy = c[3 * b + 1] - c[3 * i + 1];
        const dz = c[3 * b + 2] - c[3 * i + 2];
        if (dx * dx + dy * dy + dz * dz <= reach * reach) list.push(b);
      }
    }
    out[i] = high / low;
  }
  return out;
}

/** Ratio at the flanks of ribs, spread over the flank up to three rib thicknesses from the foot. */
function ribField(surface: MapSurface, feet: RibFoot[]): Float64Array {
  const { n, across, centroids: c, normals: m } = surface;
  const out = new Float64Array(n).fill(NaN);
  for (const foot of feet) {
    const reach = 3 * foot.rib;
    const list = [foot.facet];
    const seen = new Set(list);
    for (let k = 0; k < list.length && k < 500; k++) {
      const a = list[k];
      if (!(out[a] >= foot.ratio)) out[a] = foot.ratio;
      for (let e = 3 * a; e < 3 * a + 3; e++) {
        const b = Math.floor(across[e] / 3);
        if (across[e] < 0 || seen.has(b)) continue;
        seen.add(b);
        if (m[3 * a] * m[3 * b] + m[3 * a + 1] * m[3 * b + 1] + m[3 * a + 2] * m[3 * b + 2] < CREASE) continue;
        if (Math.hypot(...foot.position.map((x, d) => c[3 * b + d] - x)) <= reach) list.push(b);
      }
    }
  }
  return out;
}

function shownRange(id: MapId, values: Float64Array, weights: Float64Array): [number, number] {
  if (id === 'side') return [SIDE.upper, SIDE.undercut];
  const order = Uint32Array.from({ length: values.length }, (_, i) => i).filter((i) => Number.isFinite(values[i]));
  if (!order.length) return [0, 1];
  order.sort((a, b) => values[a] - values[b]);
  const total = order.reduce((s, i) => s + weights[i], 0);
  const at = (share: number) => {
    let sum = 0;
    for (const i of order) {
      sum += weights[i];
      if (sum >= share * total) return values[i];
    }
    return values[order[order.length - 1]];
  };
  const [low, high] = [at(0.005), at(0.995)];
  // Draft is judged between nothing and a few degrees; a floor at 90 would flatten that out.
  if (id === 'draft') return [Math.min(0, low), Math.min(high, (6 * Math.PI) / 180)];
  return high > low ? [low, high] : [low - 0.01 * Math.abs(low), low + 0.01 * Math.abs(low) || 1];
}

function warningsOf(
  surface: MapSurface,
  values: Record<MapId, Float64Array>,
  mould: Moulding,
  feet: RibFoot[],
  wall: number,
  { rules }: MapInput,
): Warning[] {
  const warnings: Warning[] = [];
  const add = (rule: RuleId, map: MapId, chosen: (i: number) => boolean, message: (area: string) => string) => {
    const { area, places } = patches(surface, chosen);
    if (area > 0)
      warnings.push({ rule, map, area, places, why: DESIGN_RULES[rule].why, message: message(format(area, 'cm²')) });
  };
  const undercut = patches(surface, (i) => mould.side[i] === SIDE.undercut);
  if (undercut.area > 0)
    warnings.push({
      rule: 'undercut',
      map: 'side',
      ...undercut,
      message: `${format(undercut.area, 'cm²')} cannot be freed along the opening direction.`,
      why: 'Part of the mould would be locked in: turn the part, change the face, or plan a slide or a lifter.',
    });
  const percent = (share: number) => format(share, '%', 2);
  add(
    'thinWall',
    'thickness',
    (i) => values.thickness[i] < rules.thinWall * wall,
    (area) => `${area} thinner than ${percent(rules.thinWall)} of the typical wall of ${format(wall, 'mm')}.`,
  );
  add(
    'thickWall',
    'thickness',
    (i) => values.thickness[i] > rules.thickWall * wall,
    (area) => `${area} thicker than ${percent(rules.thickWall)} of the typical wall of ${format(wall, 'mm')}.`,
  );
  add(
    'thicknessStep',
    'step',
    (i) => values.step[i] > rules.thicknessStep,
    (area) => `${area} where the wall changes by more than ${format(rules.thicknessStep, '×', 2)} within one wall.`,
  );
  const thick = feet.filter((f) => f.ratio > rules.ribToWall);
  if (thick.length)
    warnings.push({
      rule: 'ribToWall',
      map: 'rib',
      area: 0,
      places: ribPlaces(thick),
      message: `Ribs up to ${percent(Math.max(...thick.map((f) => f.ratio)))} of the wall they stand on; the rule is ${percent(rules.ribToWall)}.`,
      why: DESIGN_RULES.ribToWall.why,
    });
  add(
    'draft',
    'draft',
    (i) => mould.side[i] !== SIDE.undercut && values.draft[i] < rules.draft - 1e-4,
    (area) => `${area} with less than ${format(rules.draft, '°', 2)} of draft.`,
  );
  add(
    'flowRatio',
    'flowRatio',
    (i) => values.flowRatio[i] > rules.flowRatio,
    (area) => `${area} farther from the gate than ${format(rules.flowRatio, '×')} the wall.`,
  );
  return warnings;
}

/** Connected patches of chosen facets, largest first; specks of less than a thousandth of the part are left out. */
function patches(surface: MapSurface, chosen: (i: number) => boolean): { area: number; places: Place[] } {
  const { n, areas, across, centroids: c } = surface;
  const sets = new UnionFind(n);
  const on = new Uint8Array(n);
  let whole = 0;
  for (let i = 0; i < n; i++) {
    whole += areas[i];
    if (chosen(i)) on[i] = 1;
  }
  for (let h = 0; h < across.length; h++) {
    if (across[h] < h) continue;
    const [a, b] = [Math.floor(h / 3), Math.floor(across[h] / 3)];
    if (on[a] && on[b]) sets.union(a, b);
  }
  const found = new Map<number, { area: number; sum: Vec3; facet: number }>();
  for (let i = 0; i < n; i++) {
    if (!on[i]) continue;
    const root = sets.find(i);
    const patch = found.get(root) ?? { area: 0, sum: [0, 0, 0] as Vec3, facet: i };
    patch.area += areas[i];
    for (let d = 0; d < 3; d++) patch.sum[d] += areas[i] * c[3 * i + d];
    found.set(root, patch);
  }
  const large = [...found.values()].filter((p) => p.area > 1e-4 * whole).sort((a, b) => b.area - a.area);
  return {
    area: large.reduce((s, p) => s + p.area, 0),
    places: large.slice(0, 24).map((p) => {
      // On the surface: the middle of a ring would float in the air.
      const middle = p.sum.map((x) => x / p.area) as Vec3;
      surface.tree.closest(...middle);
      return { position: [...surface.tree.point] as Vec3, size: Math.sqrt(p.area) };
    }),
  };
}

/** One place a rib: feet farther apart than twenty rib thicknesses, worst first. */
function ribPlaces(feet: RibFoot[]): Place[] {
  const places: Place[] = [];
  for (const foot of [...feet].sort((a, b) => b.ratio - a.ratio)) {
    if (places.length >= 24) break;
    if (places.every((p) => Math.hypot(...p.position.map((x, d) => x - foot.position[d])) > 20 * foot.rib))
      places.push({ position: foot.position, size: foot.rib });
  }
  return places;
}

/**
 * A surface ready to draw, three vertices a facet so that values may jump at creases. `corner(id)`: values
 * per drawn vertex; those of thickness, step and flow ratio are smoothed within each face.
 */
export function drawable({ surface, values }: PartMaps): {
  positions: Float32Array;
  corner: (id: MapId) => Float32Array;
} {
  const { mesh, n, areas } = surface;
  const { positions: p, triangles: t } = mesh;
  const positions = new Float32Array(9 * n);
  for (let c = 0; c < 3 * n; c++) for (let d = 0; d < 3; d++) positions[3 * c + d] = p[3 * t[c] + d];
  const corner = (id: MapId): Float32Array => {
    const v = values[id];
    const out = new Float32Array(3 * n);
    if (id === 'side' || id === 'draft' || id === 'rib') {
      for (let c = 0; c < 3 * n; c++) out[c] = v[Math.floor(c / 3)];
      return out;
    }
    return smoothed(surface, v, areas, out);
  };
  return { positions, corner };
}

function smoothed(surface: MapSurface, v: Float64Array, areas: Float64Array, out: Float32Array): Float32Array {
  const { mesh, n, normals: m } = surface;
  const { triangles: t } = mesh;
  const nVertices = mesh.positions.length / 3;
  const start = new Int32Array(nVertices + 1);
  for (let c = 0; c < t.length; c++) start[t[c] + 1]++;
  for (let k = 0; k < nVertices; k++) start[k + 1] += start[k];
  const around = new Int32Array(t.length);
  const fill = start.slice();
  for (let c = 0; c < t.length; c++) around[fill[t[c]]++] = Math.floor(c / 3);
  for (let c = 0; c < 3 * n; c++) {
    const i = Math.floor(c / 3);
    let [sum, weight] = [0, 0];
    for (let k = start[t[c]]; k < start[t[c] + 1]; k++) {
      const j = around[k];
      if (v[j] !== v[j]) continue;
      if (m[3 * i] * m[3 * j] + m[3 * i + 1] * m[3 * j + 1] + m[3 * i + 2] * m[3 * j + 2] < CREASE) continue;
      sum += areas[j] * v[j];
      weight += areas[j];
    }
    out[c] = weight > 0 ? sum / weight : NaN;
  }
  return out;
}
