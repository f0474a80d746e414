import { useEffect } from 'react';
import { create } from 'zustand';
import { unpackArrays } from '@/core/formats/arrays';
import type { SurfaceMap } from '@/core/grid/surfaceMap';
import type { Manifest } from '@/runtime/protocol';
import type { BlockCells } from '@/viewer/BlockSlice';
import type { DrawMesh } from '@/viewer/PartSurface';
import { readGrid, readSurface, type ViewGrid } from '@/viewer/results';
import { api } from './api';
import { tell } from './store';
import type { FieldId } from './view';

/** Results of one run in the page, as far as they are there. Replaced, never changed, when something arrives. */
export interface RunData {
  surface: SurfaceMap | null;
  grid: ViewGrid | null;
  manifest: Manifest | null;
  fields: Map<FieldId, Float32Array>;
  /** Temperatures of the mould block, where it was calculated and asked for. */
  block: BlockCells | null;
  /** Surfaces of inserts in one, m, where they were asked for. */
  inserts: DrawMesh | null;
  /** Fill times that came in while the run was under way. */
  liveTimes: Float32Array | null;
  liveEnd: number;
}

const cache = new Map<string, RunData>();
const asked = new Set<string>();
const KEPT = 3;

const EMPTY: RunData = {
  surface: null,
  grid: null,
  manifest: null,
  fields: new Map(),
  block: null,
  inserts: null,
  liveTimes: null,
  liveEnd: 0,
};

/** Counts what arrived: the data themselves are large and stay outside. */
const useArrivals = create<{ n: number }>(() => ({ n: 0 }));

/** Whether a result breaks bounds of its own: it is there to be looked at, not to be used. */
export const failsItsChecks = (runId: string | null): boolean =>
  Boolean(runId && cache.get(runId)?.manifest?.breaches?.length);

/** What files made of a run that fails its checks begin their names with. */
export const fileMark = (runId: string | null): string => (failsItsChecks(runId) ? 'failed-checks-' : '');

export const FAILED_CHECKS = 'Fails its own checks: take no number from it.';

/** Runs that something on the page shows, and how often. */
const shown = new Map<string, number>();

export function dataOf(runId: string): RunData {
  let data = cache.get(runId);
  if (!data) {
    cache.set(runId, (data = EMPTY));
    // Runs are large: besides what is on the screen the newest few stay, for switching between variants.
    const spare = [...cache.keys()].filter((id) => id !== runId && !shown.has(id));
    for (const old of spare.slice(0, Math.max(0, cache.size - KEPT))) forget(old);
  }
  return data;
}

/** Keeps a run from being forgotten; the returned function lets it go. */
export function keepShown(runId: string): () => void {
  shown.set(runId, (shown.get(runId) ?? 0) + 1);
  return () => {
    const n = (shown.get(runId) ?? 1) - 1;
    if (n > 0) shown.set(runId, n);
    else shown.delete(runId);
  };
}

/** What has arrived of a run that is still kept. */
function arrived(runId: string, change: (data: RunData) => Partial<RunData>): void {
  const data = cache.get(runId);
  if (!data) return;
  cache.set(runId, { ...data, ...change(data) });
  useArrivals.setState(({ n }) => ({ n: n + 1 }));
}

function forget(runId: string): void {
  cache.delete(runId);
  for (const key of [...asked]) if (key.startsWith(runId)) asked.delete(key);
}

/** Data of a run: another object whenever something of it has arrived. */
export function useRunData(runId: string | null): RunData | null {
  useEffect(() => (runId ? keepShown(runId) : undefined), [runId]);
  return useArrivals(() => (runId ? dataOf(runId) : null));
}

/** Loads something of a run once; failures are shown and may be tried again. */
function loadOnce(runId: string, name: string, read: (buffer: ArrayBuffer, data: RunData) => Partial<RunData>): void {
  const key = `${runId}/${name}`;
  if (asked.has(key)) return;
  asked.add(key);
  dataOf(runId);
  api
    .binary(`/api/runs/${runId}/blobs/${name}`)
    .then((buffer) => arrived(runId, (data) => read(buffer, data)))
    .catch((error: unknown) => {
      asked.delete(key);
      tell(error);
    });
}

export function loadGrid(runId: string): void {
  loadOnce(runId, 'surface.bin', (buffer) => ({ surface: readSurface(buffer) }));
  loadOnce(runId, 'grid.bin', (buffer, data) => {
    const grid = readGrid(buffer);
    return { grid, ...filledSoFar(runId, data.liveTimes ?? new Float32Array(grid.nNodes).fill(NaN), data.liveEnd) };
  });
}

/** Loads the temperatures of the mould block. */
export function loadBlock(runId: string): void {
  loadOnce(runId, 'block.bin', (buffer) => {
    const { x, y, z, cells } = unpackArrays(buffer).arrays as Record<string, Float32Array>;
    return { block: { planes: [x, y, z], cells } };
  });
}

/** Loads the surfaces of inserts with what they carry. */
export function loadInserts(runId: string): void {
  loadOnce(runId, 'inserts.bin', (buffer) => {
    const { positions, triangles } = unpackArrays(buffer).arrays as Record<string, Float32Array>;
    return { inserts: { positions, triangles: triangles as unknown as Uint32Array } };
  });
  for (const id of ['insertStress', 'insertMoved']) loadField(runId, id);
}

/** Loads what is drawn besides the shown field. */
export function loadField(runId: string, field: FieldId): void {
  loadOnce(runId, `${field}.f32`, (buffer, data) => ({
    fields: new Map(data.fields).set(field, new Float32Array(buffer)),
  }));
}

/** Loads what a result is drawn with and some stored fields. */
export function loadResults(runId: string, fields: readonly FieldId[]): void {
  loadGrid(runId);
  loadOnce(runId, 'manifest.json', (buffer) => ({
    manifest: JSON.parse(new TextDecoder().decode(buffer)) as Manifest,
  }));
  for (const id of ['fillTime', ...fields]) loadField(runId, id);
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
    arrived(runId, ({ liveTimes, liveEnd }) => (liveTimes ? filledSoFar(runId, liveTimes, liveEnd) : {}));
  }, DRAW_EVERY_MS);
}

/** The front so far with what has come in since. */
function filledSoFar(runId: string, before: Float32Array, end: number): Pick<RunData, 'liveTimes' | 'liveEnd'> {
  const liveTimes = before.slice();
  let liveEnd = end;
  for (const { nodes, times } of pending.get(runId) ?? []) {
    nodes.forEach((node, i) => {
      if (node < liveTimes.length) liveTimes[node] = times[i];
      liveEnd = Math.max(liveEnd, times[i]);
    });
  }
  pending.delete(runId);
  return { liveTimes, liveEnd };
}
