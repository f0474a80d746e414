import { PROFILE_PLACES } from '@/core/solvers/melt/profilePlaces';
import { weightedRange } from '@/core/numerics/weighted';
import { fieldEntry } from '@/core/fields/table';
import { feedFieldId } from '@/core/results/feedFields';
import { format } from '@/core/units/reader';
import { sideOfNormal } from '@/core/grid/wallSides';
import { vertexNormals, WEIGHTS, type PointMap, type SurfaceMap } from '@/core/grid/surfaceMap';
import type { DrawMesh } from '@/viewer/surfaceGeometry';
import { derived, nodeFrames, type NodeFrames } from '@/viewer/frames';
import type { ViewGrid } from '@/core/formats/viewGrid';
import { timesToDraw } from '@/viewer/results';
import { onSomeFaces, rangeRule } from './fields';
import type { LiveFront } from './liveRun';
import type { RunData } from './runData';
import type { FieldId } from './view';

/** What a legend counts: values that are looked at, and the area [m2] that goes with each. */
export interface Counted {
  values: Float32Array;
  areas: Float64Array;
}

/** Inserts beside the part or alone: one value and one offset (3, m) a vertex. */
export interface ShownInserts {
  mesh: DrawMesh;
  values: Float32Array;
  offset: Float32Array;
  /** The part stands faintly around them. */
  alone: boolean;
}

/** Node values of the shown field over the shot, with range and end of the time axis. */
export interface ShownField {
  id: FieldId;
  nodes: NodeFrames;
  nodeTimes: Float32Array;
  range: [number, number];
  end: number;
  live: boolean;
  /** Values at both sides of every wall, first side first: the surface shows the side it lies on. */
  wallValues?: Float32Array | null;
  /** Values at the vertices of the drawn surface, with the part moved off its drawing. */
  atVertices?: {
    values: Float32Array;
    offset: Float32Array;
    counted: Counted;
    /** They hold between the faces of a wall as well, straight from one to the other. */
    through?: boolean;
  } | null;
  /** Values lie to both sides of a zero that means something: the scale has it in its middle. */
  signed?: boolean;
  /** What inserts carry, where they are looked at, too. */
  inserts?: ShownInserts | null;
  /** Temperatures through the wall, `components` a node: a section shows them. */
  profile: NodeFrames | null;
}

/** The front of a run under way. */
export function liveField({ times: known, end }: LiveFront, nNodes: number): ShownField {
  const all = new Float32Array(nNodes).fill(NaN);
  all.set(known.subarray(0, nNodes));
  const times = timesToDraw(all, end);
  const range: [number, number] = [0, Math.max(end, 1e-6)];
  return {
    id: 'fillTime',
    nodes: nodeFrames(times, nNodes, []),
    nodeTimes: times,
    range,
    end,
    live: true,
    profile: null,
  };
}

/** A field of a finished run; what lies through the wall is shown at a depth, 0 in its middle, 1 at its face. */
export function storedField(data: RunData, id: FieldId, feedSeen: boolean, depth = 1): ShownField | null {
  const { manifest, grid } = data;
  const meta = manifest?.fields.find((f) => f.id === id);
  const values = data.fields.get(id);
  const nodeTimes = data.fields.get('fillTime');
  if (!manifest || !grid || !meta || !values || !nodeTimes) return null;
  const end = manifest.history.time.at(-1) ?? 0;
  const drawn = timesToDraw(nodeTimes, end);
  if (meta.location === 'wall') {
    const field = wallField(id, values, grid, drawn, end);
    return id === 'wallChange' && data.moved ? { ...field, inserts: movedInserts(data.moved) } : field;
  }
  const all = nodeFrames(id === 'fillTime' ? drawn : values, grid.nNodes, meta.times, meta.components);
  const nodes = meta.components > 1 ? atDepth(all, grid.nNodes, depth) : id === 'pressure' ? overAir(all) : all;
  // One scale for part and feed: the pressure falls from the nozzle on.
  const inFeed = feedSeen && id === 'pressure' ? manifest.fields.find((f) => f.id === feedFieldId(id)) : undefined;
  const rule = rangeRule(id);
  const range: [number, number] =
    rule === 'cut'
      ? weightedRange(nodes.at(0), grid.nodeVolume, 0.005)
      : rule === 'whole'
        ? [meta.range[0], meta.range[1]]
        : [Math.min(0, meta.range[0]), Math.max(meta.range[1], inFeed?.range[1] ?? 0)];
  const profile = meta.components > 1 ? all : null;
  return { id, nodes, nodeTimes: drawn, range, end, live: false, profile };
}

/** Inserts where the melt pushes them to, coloured by how far. */
function movedInserts({ mesh, offset }: NonNullable<RunData['moved']>): ShownInserts {
  const far = (_: unknown, v: number) => Math.hypot(offset[3 * v], offset[3 * v + 1], offset[3 * v + 2]);
  return { mesh, values: Float32Array.from({ length: offset.length / 3 }, far), offset, alone: false };
}

/** A field of both sides of the walls: nodes get the mean of theirs. */
function wallField(
  id: FieldId,
  wallValues: Float32Array,
  grid: ViewGrid,
  nodeTimes: Float32Array,
  end: number,
): ShownField {
  const nodeValues = Float32Array.from(
    { length: grid.nNodes },
    // Where one side alone has a value it is that.
    (_, i) => meanOf(wallValues[2 * i], wallValues[2 * i + 1]),
  );
  const weights = Float32Array.from(wallValues, (_, k) => grid.nodeVolume[k >> 1]);
  const range = weightedRange(wallValues, weights, 0.003);
  return {
    id,
    nodes: nodeFrames(nodeValues, grid.nNodes, []),
    wallValues,
    nodeTimes,
    range,
    end,
    live: false,
    profile: null,
  };
}

const meanOf = (a: number, b: number): number => (a !== a ? b : b !== b ? a : (a + b) / 2);

/** The map of a surface to the sides of the walls its points lie on. */
const sided = new WeakMap<SurfaceMap, PointMap>();
export function mapToSides(surface: SurfaceMap): PointMap {
  let map = sided.get(surface);
  if (!map) {
    const normals = vertexNormals(surface);
    const nodes = surface.nodes.map((node, k) => {
      const v = 3 * Math.floor(k / WEIGHTS);
      return 2 * node + sideOfNormal(normals[v], normals[v + 1], normals[v + 2]);
    });
    sided.set(surface, (map = { nodes, weights: surface.weights }));
  }
  return map;
}

/** The place of half a wall, of those whose values are stored, that is nearest to a depth: 0 in the middle. */
export const placeAt = (depth: number): number =>
  PROFILE_PLACES.reduce(
    (best, place, k) => (Math.abs(place - depth) < Math.abs(PROFILE_PLACES[best] - depth) ? k : best),
    0,
  );

/** A place of a profile: what the surface shows. */
const atDepth = (profile: NodeFrames, n: number, depth: number): NodeFrames =>
  derived(profile, 1, (all) => {
    const out = new Float32Array(n);
    const inwards = depth < 1 ? PROFILE_PLACES.length - 1 - placeAt(depth) : 0;
    for (let i = 0; i < n; i++) out[i] = all[(i + 1) * profile.components - 1 - inwards];
    return out;
  });

/** Of places that are less than this share nothing is told. */
const LEAST_BARE = 1e-3;

/**
 * Which share of the filled part has no value in a field that is one for the whole shot, and what that says; '' where
 * that is next to nothing.
 */
export function bareSaid({ id, nodes, nodeTimes, end, live, atVertices }: ShownField, volumes: Float32Array): string {
  if (live || atVertices || nodes.times.length > 1 || onSomeFaces(id)) return '';
  const values = nodes.at(0);
  let [bare, whole] = [0, 0];
  for (let i = 0; i < volumes.length; i++) {
    if (!(nodeTimes[i] <= end)) continue;
    whole += volumes[i];
    if (values[i] !== values[i]) bare += volumes[i];
  }
  const share = bare / whole;
  return share >= LEAST_BARE ? `plain: ${fieldEntry(id)?.none ?? 'no value'} (${format(share, '%', 2)})` : '';
}

/** Ahead of the front the pressure is that of the air, from which it rises. */
const overAir = (pressure: NodeFrames): NodeFrames =>
  derived(pressure, 1, (all) => {
    const out = all.slice();
    for (let i = 0; i < out.length; i++) if (out[i] !== out[i]) out[i] = 0;
    return out;
  });
