import { create } from 'zustand';
import type { TriangleMesh } from '@/core/geometry/mesh';
import type { Inputs } from '@/core/model/study';
import type { GateMap } from '@/core/preview/gateFinder';
import { resolveMachine, resolveResin, resolveSettings, type PartSize } from '@/core/setup/settings';
import { PointMapper } from '@/core/grid/surfaceMap';
import type { PreviewAnswer, PreviewFilling, PreviewRequest, PreviewSurface } from '@/runtime/previewProtocol';
import type { ViewGrid } from '@/core/formats/viewGrid';

export type PreviewGates = PreviewFilling['gates'];

type Wish = Exclude<PreviewRequest, { type: 'stop' | 'pressures' }>;

/** Coarse grid of the present part in the page, and what was computed on it. Replaced, never changed. */
interface PreviewData {
  key: string;
  surface: PreviewSurface;
  grid: ViewGrid;
  times: Float32Array | null;
  end: number;
  found: { score: Float32Array; pressure: Float32Array; evenness: Float32Array; best: GateMap['best'] } | null;
}

interface PreviewState {
  /** null until the coarse grid is there. */
  data: PreviewData | null;
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
  data: null,
  ms: 0,
  pressure: 0,
  search: null,
  showMap: false,
  drawn: null,
  problem: null,
  set: (patch) => set(patch),
}));

let worker: Worker | null = null;
let sentKey = '';
let lastId = 0;
let findId = 0;
/** Number of the request that the worker answers next; null while it rests. */
let awaited: number | null = null;
/** The newest wish, while another one is under way. */
let waiting: Wish | null = null;
/** A search that was asked for before the coarse grid was there. */
let pendingSearch: (() => void) | null = null;

/** Number of the request for the coarse grid. */
const PART = -1;

const previewData = (): PreviewData | null => usePreview.getState().data;

export const previewWorker = (): Worker =>
  new Worker(new URL('../../runtime/preview.worker.ts', import.meta.url), { type: 'module' });

function theWorker(): Worker {
  if (worker) return worker;
  worker = previewWorker();
  worker.onmessage = (event: MessageEvent<PreviewAnswer>) => receive(event.data);
  worker.onerror = (event) => {
    awaited = null;
    usePreview.setState({ problem: event.message || 'The preview could not be computed.', search: null });
  };
  return worker;
}

function receive(answer: PreviewAnswer): void {
  const put = (patch: Partial<PreviewState>) => usePreview.setState({ problem: null, ...patch });
  const data = previewData();
  switch (answer.type) {
    case 'grid': {
      if (answer.key !== sentKey) break;
      const { key, surface } = answer;
      put({ data: { key, surface, grid: viewGrid(surface), times: null, end: 0, found: null } });
      break;
    }
    case 'filled': {
      if (!data || answer.id !== awaited) break;
      const { times, ms, pressure } = answer;
      put({ data: { ...data, times, end: times.reduce((m, t) => (t > m ? t : m), 0) }, ms, pressure });
      break;
    }
    case 'found':
      put({ data: data && { ...data, found: answer }, search: null, showMap: true });
      break;
    case 'progress':
      usePreview.setState({ search: { fraction: answer.fraction, message: answer.message } });
      return;
    case 'failed':
      usePreview.setState({ problem: answer.message, search: null });
      break;
    case 'pressures':
      break;
    case 'stopped':
      if (answer.id === findId) usePreview.setState({ search: null });
      break;
  }
  // What was broken off for something newer says so, too: the newer one is still under way.
  if ((answer.type === 'grid' ? PART : answer.id) !== awaited) return;
  awaited = null;
  if (pendingSearch && previewData()) return pendingSearch();
  if (waiting) {
    const next = waiting;
    waiting = null;
    ask(next);
  }
}

/** Sends a request, or keeps it until the one under way is answered: pictures follow each other evenly. */
function ask(request: Wish): void {
  if (awaited !== null) {
    waiting = request;
    return;
  }
  send(request);
}

function send(request: Wish): void {
  awaited = request.type === 'part' ? PART : request.id;
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

/** Gives the worker another part: what it had of the one before is dropped. */
export function sendPart(key: string, mesh: TriangleMesh): void {
  if (key === sentKey) return;
  sentKey = key;
  pendingSearch = null;
  usePreview.setState({ data: null, showMap: false, search: null });
  worker?.terminate();
  worker = null;
  waiting = null;
  send({ type: 'part', key, positions: mesh.positions.slice(), triangles: mesh.triangles.slice() });
}

/** Asks for a filling from these gates; nothing without a resin. */
export function askFilling(inputs: Inputs, size: PartSize, gates: PreviewGates): void {
  const melt = meltOf(inputs, size);
  if (melt) ask({ type: 'fill', id: ++lastId, gates, melt });
}

/** Melt of a filling at one temperature; null without a resin or a machine. */
export function meltOf(inputs: Inputs, size: PartSize) {
  if (!resolveResin(inputs) || !resolveMachine(inputs, size)) return null;
  const settings = resolveSettings(inputs, size);
  return {
    viscosity: settings.resin.viscosity,
    temperature: settings.meltTemperature,
    flowRate: settings.flowRate,
  };
}

/** Starts the search for single gates; `diameter` in m. */
export function searchGates(inputs: Inputs, size: PartSize, diameter: number): void {
  const melt = meltOf(inputs, size);
  if (!melt) return;
  usePreview.setState({ search: { fraction: 0, message: 'Cutting the part into coarse cells' }, showMap: false });
  pendingSearch = () => {
    pendingSearch = null;
    waiting = null;
    findId = ++lastId;
    send({ type: 'find', id: findId, forbidden: inputs.noGate, melt, diameter });
  };
  if (previewData()) pendingSearch();
}

export function stopSearch(): void {
  pendingSearch = null;
  theWorker().postMessage({ type: 'stop' });
  usePreview.setState({ search: null });
}
