import { z } from 'zod';
import { real } from '../numerics/real';
import { MAP_IDS, type MapId, type MapInput } from './mapKinds';
import { measure } from '../geometry/mesh';
import { flowRatio } from './flowLength';
import { moulding, SIDE } from './moulding';
import { ribFeet, type RibFoot } from './ribs';
import { CREASE, mapSurface, type MapSurface } from './surface';
import { weightedMedian, weightedRange } from '../numerics/weighted';
import { wallThickness } from './thickness';
import { warningSchema, warningsOf } from './warnings';

export const mapRangeSchema = z.object({
  id: z.enum(MAP_IDS),
  /** Shown range: leaves out 0.5 % of the area at either end. */
  range: z.tuple([real, real]),
});
export type MapRange = z.infer<typeof mapRangeSchema>;

/** What the maps of a part say in numbers. */
export const mapNumbersSchema = z.object({
  ranges: z.array(mapRangeSchema),
  warnings: z.array(warningSchema),
  /** Area-weighted median thickness, m */
  typicalWall: real,
  thinnest: real,
  thickest: real,
  undercutArea: real,
  /** m along the opening direction */
  parting: real,
  ribs: real,
});

export interface PartMaps extends z.infer<typeof mapNumbersSchema> {
  surface: MapSurface;
  /** Facet values, NaN where there is none. */
  values: Record<MapId, Float64Array>;
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
  const [low, high] = weightedRange(values, weights, 0.005);
  if (low !== low) return [0, 1];
  // Draft is judged between nothing and a few degrees; a floor at 90 would flatten that out.
  if (id === 'draft') return [Math.min(0, low), Math.min(high, (6 * Math.PI) / 180)];
  return high > low ? [low, high] : [low - 0.01 * Math.abs(low), low + 0.01 * Math.abs(low) || 1];
}
