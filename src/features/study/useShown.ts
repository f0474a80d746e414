import { useEffect, useMemo, useState } from 'react';
import { unpackMesh } from '@/core/formats/meshBlob';
import type { TriangleMesh } from '@/core/geometry/mesh';
import { weightedRange } from '@/core/numerics/weighted';
import { joined } from '@/core/geometry/shells';
import { feedFieldId } from '@/core/results/feedFields';
import { cavities, geometryKey, type Inputs } from '@/core/model/study';
import type { RunView } from '@/runtime/wire';
import { sideOfNormal } from '@/core/grid/wallSides';
import { vertexNormals, WEIGHTS, type PointMap, type SurfaceMap } from '@/core/results/surfaceMap';
import type { DrawMesh } from '@/viewer/PartSurface';
import { frameAt, NO_VALUE, timesToDraw, valuesAt, type ViewGrid } from '@/viewer/results';
import type { FieldView } from '@/viewer/Viewport';
import { OF_SHAPE } from '../answers/fields';
import { useShapeField } from '../answers/shownShape';
import { api } from './api';
import { loadResults, useRunData, type RunData } from './runData';
import { isOutOfDate, latestResult, presentVariant, runUnderWay, tell, useStudy } from './store';
import { useView, type FieldId } from './viewStore';

/** The run whose results the part shows: one under way first, else the newest of the variant on this part. */
export function useShownRun(): { run: RunView | null; live: boolean; outOfDate: boolean } {
  const underWay = useStudy(runUnderWay);
  const result = useStudy(latestResult);
  const variant = useStudy(presentVariant);
  const data = useRunData(underWay?.id ?? null);
  const samePart = (run: RunView | null) =>
    run && geometryKey(run.inputs) === geometryKey(variant.inputs) ? run : null;
  if (underWay && underWay.status === 'running' && data?.grid) return { run: underWay, live: true, outOfDate: false };
  const run = samePart(result);
  return { run, live: false, outOfDate: run !== null && isOutOfDate(run, variant) };
}

const meshes = new Map<string, TriangleMesh>();
const underWay = new Map<string, Promise<void>>();
const KEPT_MESHES = 400;

/** Loads a stored surface once, however many ask for it. */
function loadMesh(hash: string): Promise<void> {
  const known = underWay.get(hash);
  if (known) return known;
  const loading = api
    .binary(`/api/geometries/${hash}`)
    .then((buffer) => {
      meshes.set(hash, unpackMesh(new Uint8Array(buffer)));
      for (const old of [...meshes.keys()].slice(0, Math.max(0, meshes.size - KEPT_MESHES))) meshes.delete(old);
    })
    .finally(() => underWay.delete(hash));
  underWay.set(hash, loading);
  return loading;
}

/** Stored surfaces by hash, as far as they are there yet. The map changes when one arrives. */
export function useMeshes(hashes: readonly string[]): ReadonlyMap<string, TriangleMesh> {
  const key = hashes.join();
  const [present, setPresent] = useState<{ key: string; map: ReadonlyMap<string, TriangleMesh> }>(NO_MESHES);
  useEffect(() => {
    let current = true;
    const wanted = [...new Set(key ? key.split(',') : [])];
    const show = () => {
      if (current)
        setPresent({ key, map: new Map(wanted.flatMap((h) => (meshes.has(h) ? [[h, meshes.get(h)!] as const] : []))) });
    };
    const missing = wanted.filter((h) => !meshes.has(h));
    show();
    // One picture when all are there: hundreds of small bodies would otherwise redraw hundreds of times.
    if (missing.length) Promise.all(missing.map(loadMesh)).then(show, tell);
    return () => {
      current = false;
    };
  }, [key]);
  return present.key === key ? present.map : NO_MESHES.map;
}

/**
 * Surfaces of the cavities joined to one, without their copies, with the key that names them; null while
 * they are coming.
 */
export function useCavity(inputs: Inputs): { key: string | null; mesh: TriangleMesh | null } {
  const hashes = cavities(inputs).map((b) => b.mesh);
  const key = hashes.length ? hashes.join('+') : null;
  const present = useMeshes(hashes);
  const mesh = useMemo(() => {
    const list = (key ? key.split('+') : []).map((h) => present.get(h));
    return list.length && list.every((m) => m !== undefined) ? joined(list) : null;
  }, [key, present]);
  return { key, mesh };
}

const NO_MESHES: { key: string; map: ReadonlyMap<string, TriangleMesh> } = { key: '', map: new Map() };

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

/** Node values of the shown field at the play head, with range and end of the time axis. */
export interface ShownField {
  id: FieldId;
  nodeValues: Float32Array;
  nodeTimes: Float32Array;
  range: [number, number];
  end: number;
  live: boolean;
  /** Values at both sides of every wall, first side first: the surface shows the side it lies on. */
  wallValues?: Float32Array | null;
  /** Values at the vertices of the drawn surface, with the part moved off its drawing. */
  atVertices?: { values: Float32Array; offset: Float32Array; counted: Counted } | null;
  /** What inserts carry, where they are looked at, too. */
  inserts?: ShownInserts | null;
  /** Temperatures through the wall, `components` a node: a section shows them. */
  profile: { values: Float32Array; components: number } | null;
}

export function useShownField(run: RunView | null, live: boolean): { data: RunData | null; field: ShownField | null } {
  const id = useView((s) => s.field);
  const time = useView((s) => s.time);
  const feedSeen = useView((s) => s.feedShown === 'full' || s.feedShown === 'alone');
  const data = useRunData(run?.id ?? null);
  const ofShape = useShapeField(live ? null : run, data, id);
  useEffect(() => {
    if (run && !live && !OF_SHAPE.includes(id)) loadResults(run.id, [id]);
  }, [run, live, id]);
  const field = useMemo(() => {
    if (!data?.grid) return null;
    if (live) return liveField(data);
    return OF_SHAPE.includes(id) ? ofShape : storedField(data, id, time, feedSeen);
  }, [data, live, id, time, feedSeen, ofShape]);
  return { data, field };
}

function liveField(data: RunData): ShownField | null {
  if (!data.liveTimes) return null;
  const times = timesToDraw(data.liveTimes, data.liveEnd);
  const range: [number, number] = [0, Math.max(data.liveEnd, 1e-6)];
  return { id: 'fillTime', nodeValues: times, nodeTimes: times, range, end: data.liveEnd, live: true, profile: null };
}

function storedField(data: RunData, id: FieldId, time: number, feedSeen: boolean): ShownField | null {
  const { manifest, grid } = data;
  const meta = manifest?.fields.find((f) => f.id === id);
  const values = data.fields.get(id);
  const nodeTimes = data.fields.get('fillTime');
  if (!manifest || !grid || !meta || !values || !nodeTimes) return null;
  const end = manifest.history.time.at(-1) ?? 0;
  const drawn = timesToDraw(nodeTimes, end);
  const now = Math.min(time, end);
  const full =
    id === 'fillTime' ? drawn : frameAt(values, grid.nNodes * meta.components, meta.times, now, id === 'pressure');
  if (meta.location === 'wall') return wallField(id, values, grid, drawn, end);
  const nodeValues = meta.components > 1 ? atWall(full, grid.nNodes, meta.components) : full;
  // Ahead of the front the pressure is that of the air.
  if (id === 'pressure') nodeValues.forEach((p, i) => p !== p && (nodeValues[i] = 0));
  // One scale for part and feed: the pressure falls from the nozzle on.
  const inFeed = feedSeen && id === 'pressure' ? manifest.fields.find((f) => f.id === feedFieldId(id)) : undefined;
  const range: [number, number] = CUT_RANGES.has(id)
    ? // Single cells at edges say little.
      weightedRange(nodeValues, grid.nodeVolume, 0.005)
    : meta.unit === 'K' || meta.unit === ''
      ? [meta.range[0], meta.range[1]]
      : [Math.min(0, meta.range[0]), Math.max(meta.range[1], inFeed?.range[1] ?? 0)];
  const profile = meta.components > 1 ? { values: full, components: meta.components } : null;
  return { id, nodeValues, nodeTimes: drawn, range, end, live: false, profile };
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
    (_, i) => (wallValues[2 * i] + wallValues[2 * i + 1]) / 2,
  );
  const weights = Float32Array.from(wallValues, (_, k) => grid.nodeVolume[k >> 1]);
  const range = weightedRange(wallValues, weights, 0.003);
  return { id, nodeValues, wallValues, nodeTimes, range, end, live: false, profile: null };
}

/** The map of a surface to the sides of the walls its points lie on. */
const sided = new WeakMap<SurfaceMap, PointMap>();
function mapToSides(surface: SurfaceMap): PointMap {
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

const CUT_RANGES = new Set<FieldId>([
  'thickness',
  'peakShearRate',
  'peakStress',
  'frontSpeed',
  'frontTemperature',
  'shrinkage',
  'linearShrinkage',
  'shrinkageAtEjection',
  'holdReach',
  'sinkDepth',
  'voidRisk',
  'frozenAt',
  'ejectableAt',
  'density',
  'mouldDifference',
]);

/** The outermost place of a profile: what the surface shows. */
function atWall(profile: Float32Array, n: number, components: number): Float32Array {
  return Float32Array.from({ length: n }, (_, i) => profile[(i + 1) * components - 1]);
}

const drawn = (values: Float32Array): Float32Array => values.map((v) => (v === v ? v : NO_VALUE));

/** What the viewer needs, per vertex. */
export function useFieldView(data: RunData | null, field: ShownField | null): FieldView | null {
  const brush = useView((s) => s.brush);
  const scale = useView((s) => s.shape.scale);
  const moving = useView((s) => s.shape.moving);
  const time = useView((s) => s.time);
  const surface = data?.surface ?? null;
  const perVertex = useMemo(() => {
    if (!surface || !field) return null;
    const n = surface.positions.length / 3;
    const times = valuesAt(surface, field.nodeTimes, new Float32Array(n));
    const values = field.atVertices
      ? drawn(field.atVertices.values)
      : field.wallValues
        ? valuesAt(mapToSides(surface), field.wallValues, new Float32Array(n))
        : field.nodeValues === field.nodeTimes
          ? times
          : valuesAt(surface, field.nodeValues, new Float32Array(n));
    return { times, values };
  }, [surface, field]);
  const deformed = useMemo(
    () => (field?.atVertices ? { offset: field.atVertices.offset, scale, moving } : null),
    [field, scale, moving],
  );
  return useMemo(() => {
    if (!perVertex || !field) return null;
    const head = Math.min(time, field.end);
    return {
      ...perVertex,
      nodeValues: field.nodeValues,
      nodeTimes: field.nodeTimes,
      grid: data?.grid ?? null,
      range: field.range,
      profile: field.profile,
      deformed,
      brush: field.live ? null : brush,
      time: field.live ? field.end : head,
      showFront: field.live || head < field.end,
      inserts: field.inserts && { ...field.inserts, values: drawn(field.inserts.values) },
    };
  }, [perVertex, field, data, brush, time, deformed]);
}
