import { create } from 'zustand';
import { unpackArrays } from '@/core/formats/arrays';
import type { SurfaceMap } from '@/core/results/surfaceMap';
import type { Manifest } from '@/runtime/protocol';
import type { BlockCells } from '@/viewer/BlockSlice';
import { readGrid, readSurface, type ViewGrid } from '@/viewer/results';
import { api } from './api';
import { tell } from './store';
import { OF_SHAPE } from '../answers/fields';
import { useView, type FieldId } from './viewStore';

/** Results of one run in the page. Arrays live here, outside any store; components watch the version. */
export interface RunData {
  surface: SurfaceMap | null;
  grid: ViewGrid | null;
  manifest: Manifest | null;
  fields: Map<FieldId, Float32Array>;
  /** Temperatures of the mould block, where it was calculated and asked for. */
  block: BlockCells | null;
  /** Fill times that came in while the run was under way. */
  liveTimes: Float32Array | null;
  liveEnd: number;
}

const cache = new Map<string, RunData>();
const asked = new Set<string>();
const KEPT = 3;

interface Versions {
  versions: Record<string, number>;
  bump(runId: string): void;
}

const useVersions = create<Versions>((set) => ({
  versions: {},
  bump: (runId) => set((s) => ({ versions: { ...s.versions, [runId]: (s.versions[runId] ?? 0) + 1 } })),
}));

export function dataOf(runId: string): RunData {
  let data = cache.get(runId);
  if (!data) {
    data = { surface: null, grid: null, manifest: null, fields: new Map(), block: null, liveTimes: null, liveEnd: 0 };
    cache.set(runId, data);
    // Old runs are large; the newest few stay for switching between variants.
    for (const old of [...cache.keys()].slice(0, Math.max(0, cache.size - KEPT))) forget(old);
  }
  return data;
}

function forget(runId: string): void {
  cache.delete(runId);
  for (const key of [...asked]) if (key.startsWith(runId)) asked.delete(key);
}

/** Data of a run and a number that changes whenever it does. */
export function useRunData(runId: string | null): { data: RunData | null; version: number } {
  const version = useVersions((s) => (runId ? (s.versions[runId] ?? 0) : 0));
  return { data: runId ? dataOf(runId) : null, version };
}

/** Loads something of a run once; failures are shown and may be tried again. */
function loadOnce(runId: string, name: string, store: (buffer: ArrayBuffer) => void): void {
  const key = `${runId}/${name}`;
  if (asked.has(key)) return;
  asked.add(key);
  api
    .binary(`/api/runs/${runId}/blobs/${name}`)
    .then((buffer) => {
      store(buffer);
      useVersions.getState().bump(runId);
    })
    .catch((error: unknown) => {
      asked.delete(key);
      tell(error);
    });
}

export function loadGrid(runId: string): void {
  const data = dataOf(runId);
  loadOnce(runId, 'surface.bin', (buffer) => (data.surface = readSurface(buffer)));
  loadOnce(runId, 'grid.bin', (buffer) => {
    data.grid = readGrid(buffer);
    data.liveTimes ??= new Float32Array(data.grid.nNodes).fill(NaN);
    applyPending(runId);
  });
}

/** Loads the temperatures of the mould block. */
export function loadBlock(runId: string): void {
  const data = dataOf(runId);
  loadOnce(runId, 'block.bin', (buffer) => {
    const { x, y, z, cells } = unpackArrays(buffer).arrays as Record<string, Float32Array>;
    data.block = { planes: [x, y, z], cells };
  });
}

/** Loads what is drawn besides the shown field. */
export function loadField(runId: string, field: FieldId): void {
  const data = dataOf(runId);
  loadOnce(runId, `${field}.f32`, (buffer) => data.fields.set(field, new Float32Array(buffer)));
}

/** Stored fields that a shown one is made of. */
function storedAs(field: FieldId): FieldId[] {
  if (!OF_SHAPE.includes(field)) return [field];
  const { cause, body } = useView.getState().shape;
  const shapes = [
    'displacement',
    ...(cause === 'all' ? [] : [`moved-${cause}`]),
    ...(body === 'counter' ? [body] : []),
  ];
  if (field === 'deviation') return shapes;
  return [field === 'stressAlong' ? 'skinStress' : field, ...shapes];
}

export function loadResults(runId: string, field: FieldId): void {
  const data = dataOf(runId);
  loadGrid(runId);
  loadOnce(
    runId,
    'manifest.json',
    (buffer) => (data.manifest = JSON.parse(new TextDecoder().decode(buffer)) as Manifest),
  );
  for (const id of new Set<FieldId>(['fillTime', ...storedAs(field)]))
    loadOnce(runId, `${id}.f32`, (buffer) => data.fields.set(id, new Float32Array(buffer)));
}

/** Parts of the front that came in before the grid did. */
const pending = new Map<string, { nodes: Int32Array; times: Float32Array }[]>();

export function addFilled(runId: string, nodes: Int32Array, times: Float32Array): void {
  const list = pending.get(runId) ?? [];
  list.push({ nodes, times });
  pending.set(runId, list);
  if (dataOf(runId).liveTimes) drawSoon(runId);
}

/** Drawing a large part in software takes longer than a message: the page must stay free to cancel. */
const DRAW_EVERY_MS = 400;
const drawing = new Set<string>();

function drawSoon(runId: string): void {
  if (drawing.has(runId)) return;
  drawing.add(runId);
  setTimeout(() => {
    drawing.delete(runId);
    applyPending(runId);
    useVersions.getState().bump(runId);
  }, DRAW_EVERY_MS);
}

function applyPending(runId: string): void {
  const data = dataOf(runId);
  for (const { nodes, times } of pending.get(runId) ?? []) {
    nodes.forEach((node, i) => {
      if (data.liveTimes && node < data.liveTimes.length) data.liveTimes[node] = times[i];
      if (times[i] > data.liveEnd) data.liveEnd = times[i];
    });
  }
  pending.delete(runId);
}
