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
import type { ShapeFacts } from '@/core/results/shape';
import { frameAt, NO_VALUE, valuesAt, type ViewGrid } from '@/viewer/results';
import type { FieldView } from '@/viewer/Viewport';
import { OF_SHAPE } from '../answers/fields';
import { alignedShape, alongOf, areasOf, deviationOfOther, stressAlong } from '../answers/shapeField';
import { api } from './api';
import { loadField, loadGrid, loadResults, useRunData, type RunData } from './runData';
import { isOutOfDate, latestResult, presentVariant, runUnderWay, tell, useStudy } from './store';
import { useView, type FieldId, type ShapeLook } from './viewStore';

/** The run whose results the part shows: one under way first, else the newest of the variant on this part. */
export function useShownRun(): { run: RunView | null; live: boolean; outOfDate: boolean } {
  const underWay = useStudy(runUnderWay);
  const result = useStudy(latestResult);
  const variant = useStudy(presentVariant);
  const { data } = useRunData(underWay?.id ?? null);
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
  atVertices?: { values: Float32Array; offset: Float32Array } | null;
  /** Temperatures through the wall, `components` a node: a section shows them. */
  profile: { values: Float32Array; components: number } | null;
}

export function useShownField(run: RunView | null, live: boolean): { data: RunData | null; field: ShownField | null } {
  const id = useView((s) => s.field);
  const time = useView((s) => s.time);
  const feedSeen = useView((s) => s.feedShown === 'full' || s.feedShown === 'alone');
  const shape = useView((s) => s.shape);
  const { cause } = shape;
  const { data, version } = useRunData(run?.id ?? null);
  const other = useOtherShape(run?.id ?? null);
  useEffect(() => {
    if (run && !live) loadResults(run.id, id);
  }, [run, live, id, cause, shape.body]);
  const field = useMemo(() => {
    if (!data?.grid) return null;
    if (live) return liveField(data);
    return OF_SHAPE.includes(id)
      ? shapeField(data, id, shape, run?.summary?.shape, other)
      : storedField(data, id, time, feedSeen);
    // `version` stands for what changes inside `data`.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [
    data,
    version,
    live,
    id,
    time,
    feedSeen,
    shape.cause,
    shape.along,
    shape.align,
    shape.points,
    shape.frame,
    shape.body,
    other,
  ]);
  return { data, field };
}

export const growthOf = ({ toolScaled, meanShrinkage }: ShapeFacts): number => (toolScaled ? meanShrinkage : 0);

/** The shape of the run that the shown one is compared with; null without one, or while it is coming. */
function useOtherShape(shownId: string | null): Parameters<typeof deviationOfOther>[1] | null {
  const against = useView((s) => s.shape.against);
  const cause = useView((s) => s.shape.cause);
  const id = against === shownId ? null : against;
  const facts = useStudy((s) => s.runs.find((r) => r.id === id)?.summary?.shape);
  const { data, version } = useRunData(id);
  const name = cause === 'all' ? 'displacement' : `moved-${cause}`;
  useEffect(() => {
    if (!id) return;
    loadGrid(id);
    loadField(id, name);
  }, [id, name]);
  return useMemo(() => {
    const displacement = data?.fields.get(name);
    if (!data?.surface || !displacement || !facts) return null;
    return { surface: data.surface, displacement, growth: growthOf(facts) };
    // `version` stands for what changes inside `data`.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [data, version, facts, name]);
}

/** A field of the shape, on the part as it comes out; it belongs to the end of the cycle. */
function shapeField(
  data: RunData,
  id: FieldId,
  look: ShapeLook,
  facts?: ShapeFacts,
  other?: Parameters<typeof deviationOfOther>[1] | null,
): ShownField | null {
  const { manifest, grid, surface } = data;
  const displacement = data.fields.get(look.cause === 'all' ? 'displacement' : `moved-${look.cause}`);
  const nodeTimes = data.fields.get('fillTime');
  const source = id === 'stressAlong' ? 'skinStress' : id;
  const stored = data.fields.get(source);
  const meta = manifest?.fields.find((f) => f.id === source);
  if (!manifest || !grid || !surface || !displacement || !nodeTimes || !facts) return null;
  if (id !== 'deviation' && (!stored || !meta)) return null;
  const counter = look.body === 'counter' ? data.fields.get('counter') : undefined;
  const offset = counter ?? alignedShape(surface, displacement, look, growthOf(facts));
  if (!counter && other) {
    const theirs = deviationOfOther(surface, other, look);
    for (let k = 0; k < offset.length; k++) offset[k] -= theirs[k];
  }
  const end = manifest.history.time.at(-1) ?? 0;
  const rest = { id, nodeTimes: timesToDraw(nodeTimes, end), end, live: false, profile: null };
  if (meta?.location === 'cell') {
    const nodeValues = stored as Float32Array;
    const values = valuesAt(surface, nodeValues, new Float32Array(surface.positions.length / 3));
    return {
      ...rest,
      nodeValues,
      range: weightedRange(nodeValues, grid.nodeVolume, 0.005),
      atVertices: { values, offset },
    };
  }
  const values =
    id === 'deviation'
      ? alongOf(surface, offset, look)
      : id === 'stressAlong'
        ? stressAlong(stored as Float32Array, look)
        : (stored as Float32Array);
  const range = weightedRange(values, areasOf(surface), id === 'deviation' ? 0 : 0.005);
  if (id === 'deviation' && look.along === 'total') range[0] = 0;
  // The inside of the wall has no value of its own.
  return { ...rest, nodeValues: new Float32Array(grid.nNodes).fill(NaN), range, atVertices: { values, offset } };
}

function liveField(data: RunData): ShownField | null {
  if (!data.liveTimes) return null;
  const times = timesToDraw(data.liveTimes, data.liveEnd);
  const range: [number, number] = [0, Math.max(data.liveEnd, 1e-6)];
  return { id: 'fillTime', nodeValues: times, nodeTimes: times, range, end: data.liveEnd, live: true, profile: null };
}

/**
 * Fill times with those of empty nodes set a little past the end: interpolated over a triangle they
 * then draw the front as a line instead of a row of teeth. Always a new array, so that everything
 * downstream sees the change.
 */
function timesToDraw(times: Float32Array, end: number): Float32Array {
  return times.map((t) => (t === t ? t : 1.04 * end + 1e-9));
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
      ? field.atVertices.values.map((v) => (v === v ? v : NO_VALUE))
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
    };
  }, [perVertex, field, data, brush, time, deformed]);
}
