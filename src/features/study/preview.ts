import { useEffect, useMemo } from 'react';
import { create } from 'zustand';
import type { TriangleMesh } from '@/core/geometry/mesh';
import type { Inputs } from '@/core/model/study';
import type { GateMap } from '@/core/preview/gateFinder';
import { resolveMachine, resolveResin, resolveSettings, type PartSize } from '@/core/setup/settings';
import { PointMapper } from '@/core/grid/surfaceMap';
import type { PreviewAnswer, PreviewRequest, PreviewSurface } from '@/runtime/previewProtocol';
import { valuesAt, type ViewGrid } from '@/viewer/results';
import type { FieldView } from '@/viewer/Viewport';

type Gates = Extract<PreviewRequest, { type: 'fill' }>['gates'];

/** Coarse grid of the present part in the page, and what was computed on it. Arrays, kept out of stores. */
interface PreviewData {
  key: string;
  surface: PreviewSurface;
  grid: ViewGrid;
  times: Float32Array | null;
  end: number;
  found: { score: Float32Array; pressure: Float32Array; evenness: Float32Array; best: GateMap['best'] } | null;
}

interface PreviewState {
  /** Bumped with every answer of the worker. */
  version: number;
  /** How long the last filling took, ms, and the pressure it needed, Pa. */
  ms: number;
  pressure: number;
  /** A search for gates is under way. */
  search: { fraction: number; message: string } | null;
  /** The map of the gate search is shown. */
  showMap: boolean;
  /** What of it stands in the view now. */
  drawn: 'preview' | 'gate-map' | null;
  problem: string | null;
  set(patch: Partial<Omit<PreviewState, 'set'>>): void;
}

export const usePreview = create<PreviewState>((set) => ({
  version: 0,
  ms: 0,
  pressure: 0,
  search: null,
  showMap: false,
  drawn: null,
  problem: null,
  set: (patch) => set(patch),
}));

let worker: Worker | null = null;
let data: PreviewData | null = null;
let sentKey = '';
let fillId = 0;
let findId = 0;
/** The worker is busy with a filling; the newest wish waits. */
let busy = false;
let waiting: PreviewRequest | null = null;

export const previewData = (): PreviewData | null => data;

function theWorker(): Worker {
  if (worker) return worker;
  worker = new Worker(new URL('../../runtime/preview.worker.ts', import.meta.url), { type: 'module' });
  worker.onmessage = (event: MessageEvent<PreviewAnswer>) => receive(event.data);
  worker.onerror = (event) => {
    busy = false;
    usePreview.setState({ problem: event.message || 'The preview could not be computed.', search: null });
  };
  return worker;
}

function receive(answer: PreviewAnswer): void {
  const bump = (patch: Partial<PreviewState> = {}) =>
    usePreview.setState((s) => ({ version: s.version + 1, problem: null, ...patch }));
  switch (answer.type) {
    case 'grid':
      if (answer.key === sentKey)
        data = {
          key: answer.key,
          surface: answer.surface,
          grid: viewGrid(answer.surface),
          times: null,
          end: 0,
          found: null,
        };
      bump();
      break;
    case 'filled':
      if (data && answer.id === fillId) {
        data.times = answer.times;
        data.end = answer.times.reduce((m, t) => (t > m ? t : m), 0);
        bump({ ms: answer.ms, pressure: answer.pressure });
      }
      break;
    case 'found':
      if (data) data.found = answer;
      bump({ search: null, showMap: true });
      break;
    case 'progress':
      usePreview.setState({ search: { fraction: answer.fraction, message: answer.message } });
      return;
    case 'failed':
      usePreview.setState({ problem: answer.message, search: null });
      break;
    case 'stopped':
      if (answer.id === findId) usePreview.setState({ search: null });
      break;
  }
  busy = false;
  if (pendingSearch && data) return pendingSearch();
  if (waiting) {
    const next = waiting;
    waiting = null;
    ask(next);
  }
}

/** Sends a request, or keeps it until the one under way is answered: pictures follow each other evenly. */
function ask(request: PreviewRequest): void {
  if (busy) {
    waiting = request;
    return;
  }
  busy = true;
  theWorker().postMessage(request);
}

const viewGrid = (s: PreviewSurface): ViewGrid => ({
  gridKey: 'preview',
  nNodes: s.nodeVolume.length,
  nodeVolume: s.nodeVolume,
  centroid: s.centroid,
  thickness: s.thickness,
  spacing: s.spacing,
  mapper: new PointMapper(
    { lattice: s.lattice, cells: { n: s.index.length, index: s.index, volume: s.cellVolume } },
    { spacing: s.spacing, nodeOfCell: s.nodeOfCell, position: s.position, rowStart: s.rowStart, rowNode: s.rowNode },
  ),
});

function sendPart(key: string, mesh: TriangleMesh): void {
  if (key === sentKey) return;
  sentKey = key;
  data = null;
  pendingSearch = null;
  usePreview.setState((s) => ({ version: s.version + 1, showMap: false, search: null }));
  worker?.terminate();
  worker = null;
  busy = true;
  waiting = null;
  theWorker().postMessage({ type: 'part', key, positions: mesh.positions.slice(), triangles: mesh.triangles.slice() });
}

function meltOf(inputs: Inputs, size: PartSize) {
  if (!resolveResin(inputs) || !resolveMachine(inputs, size)) return null;
  const settings = resolveSettings(inputs, size);
  return {
    viscosity: settings.resin.viscosity,
    temperature: settings.meltTemperature,
    flowRate: settings.flowRate,
  };
}

interface Wanted {
  on: boolean;
  key: string | null;
  mesh: TriangleMesh | null;
  size: PartSize | null;
  inputs: Inputs;
  gates: Gates;
}

/** Keeps the preview of the given gates and inputs up to date while it is wanted. */
export function usePreviewOf({
  on,
  key,
  mesh,
  size,
  inputs,
  gates,
}: Wanted): { view: FieldView; surface: PreviewSurface } | null {
  const version = usePreview((s) => s.version);
  useEffect(() => {
    if (on && key && mesh) sendPart(key, mesh);
  }, [on, key, mesh]);
  const wish = JSON.stringify([gates, inputs.resin, inputs.cycle]);
  const there = data !== null && data.key === key;
  useEffect(() => {
    if (!on || !there || !gates.length || !size) return;
    const melt = meltOf(inputs, size);
    if (melt) ask({ type: 'fill', id: ++fillId, gates, melt });
    // The text names all that the filling depends on.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [on, there, wish, size]);
  return useMemo(() => {
    if (!on || !data || data.key !== key || !data.times || !gates.length) return null;
    const { surface, times, end, grid } = data;
    const n = surface.positions.length / 3;
    const drawn = times.map((t) => (t === t ? t : 1.04 * end));
    const values = valuesAt(surface, drawn, new Float32Array(n));
    const view: FieldView = {
      values,
      times: values,
      nodeValues: drawn,
      nodeTimes: drawn,
      grid,
      range: [0, end],
      brush: null,
      time: Infinity,
      showFront: false,
    };
    return { view, surface };
    // `version` stands for what changes inside `data`.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [on, key, version, gates.length]);
}

/** A search that was asked for before the coarse grid was there. */
let pendingSearch: (() => void) | null = null;

/** Starts the search for single gates; `diameter` in m. */
export function searchGates(inputs: Inputs, size: PartSize, diameter: number): void {
  const melt = meltOf(inputs, size);
  if (!melt) return;
  usePreview.setState({ search: { fraction: 0, message: 'Cutting the part into coarse cells' }, showMap: false });
  pendingSearch = () => {
    pendingSearch = null;
    waiting = null;
    busy = true;
    findId = ++fillId;
    theWorker().postMessage({ type: 'find', id: findId, forbidden: inputs.noGate, melt, diameter });
  };
  if (data) pendingSearch();
}

export function stopSearch(): void {
  pendingSearch = null;
  theWorker().postMessage({ type: 'stop' });
  usePreview.setState({ search: null });
}

/** The map of the gate search as a field, when it is shown. */
export function useGateMapView(on: boolean): { view: FieldView; surface: PreviewSurface } | null {
  const version = usePreview((s) => s.version);
  const show = usePreview((s) => s.showMap);
  return useMemo(() => {
    if (!on || !show || !data?.found) return null;
    const { surface, grid, found } = data;
    const n = surface.positions.length / 3;
    const values = valuesAt(surface, found.score, new Float32Array(n));
    const times = new Float32Array(n);
    const view: FieldView = {
      values,
      times,
      nodeValues: found.score,
      nodeTimes: new Float32Array(grid.nNodes),
      grid,
      range: [0, 1],
      brush: null,
      time: 1,
      showFront: false,
    };
    return { view, surface };
    // `version` stands for what changes inside `data`.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [on, show, version]);
}
