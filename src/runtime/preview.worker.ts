import { AbortError, type StageContext } from '../core/stage/context';
import { findGates } from '../core/preview/gateFinder';
import { fillFrom, previewFill, previewGrid, previewSurface, siteOf, type PreviewGrid } from '../core/preview/preview';
import type { PreviewAnswer, PreviewRequest, PreviewSurface } from './previewProtocol';

/** Worker of the page: coarse fillings that follow the gate, and the search for gates. */
const scope = self as unknown as {
  onmessage: ((event: MessageEvent<PreviewRequest>) => void) | null;
  postMessage(message: PreviewAnswer, transfer?: Transferable[]): void;
};

let coarse: PreviewGrid | null = null;
let running: AbortController | null = null;
let queue: Promise<void> = Promise.resolve();

scope.onmessage = ({ data }) => {
  running?.abort();
  if (data.type === 'stop') return;
  // One after the other: the aborted work ends at its next checkpoint.
  queue = queue.then(() => serve(data));
};

async function serve(request: Exclude<PreviewRequest, { type: 'stop' }>): Promise<void> {
  const controller = new AbortController();
  running = controller;
  const id = request.type === 'part' ? -1 : request.id;
  try {
    if (request.type === 'part') return sendGrid(request);
    if (!coarse) return;
    const started = performance.now();
    if (request.type === 'fill') {
      const { fillTime, pressure } = await previewFill(coarse, request.gates, request.melt, context(controller, false));
      const times = Float32Array.from(fillTime);
      const ms = performance.now() - started;
      scope.postMessage({ type: 'filled', id, times, pressure, ms }, [times.buffer]);
    } else if (request.type === 'pressures') {
      const { mesh } = coarse;
      const pressures: (number | null)[] = [];
      for (const { gates, melt } of request.fillings) {
        const sites = gates.map((g) => siteOf(mesh, g));
        pressures.push((await fillFrom(coarse, sites, melt, context(controller, false)))?.pressure ?? null);
      }
      scope.postMessage({ type: 'pressures', id, pressures });
    } else {
      const within = (p: readonly number[]) =>
        request.forbidden.some((f) => Math.hypot(...f.position.map((x, d) => x - p[d])) < f.radius);
      const found = await findGates(coarse, within, request.melt, request.diameter, context(controller, true));
      scope.postMessage({
        type: 'found',
        id,
        score: Float32Array.from(found.score),
        pressure: Float32Array.from(found.pressure),
        evenness: Float32Array.from(found.evenness),
        best: found.best,
      });
    }
  } catch (error) {
    if (error instanceof AbortError) scope.postMessage({ type: 'stopped', id });
    else scope.postMessage({ type: 'failed', id, message: (error as Error).message });
  }
}

function sendGrid({ key, positions, triangles }: Extract<PreviewRequest, { type: 'part' }>): void {
  coarse = previewGrid({ positions, triangles });
  const { fine, grid } = coarse;
  const surface: PreviewSurface = {
    ...previewSurface(coarse),
    lattice: fine.lattice,
    spacing: grid.spacing,
    index: fine.cells.index,
    cellVolume: Float32Array.from(fine.cells.volume),
    nodeOfCell: grid.nodeOfCell,
    position: Float32Array.from(grid.position),
    rowStart: grid.rowStart,
    rowNode: grid.rowNode,
    nodeVolume: Float32Array.from(grid.volume),
    centroid: grid.centroid,
    thickness: grid.thickness,
  };
  scope.postMessage({ type: 'grid', key, surface });
}

function context(controller: AbortController, tell: boolean): StageContext {
  let last = performance.now();
  return {
    signal: controller.signal,
    report: ({ fraction, message }) => {
      if (tell) scope.postMessage({ type: 'progress', fraction, message });
    },
    async checkpoint() {
      if (performance.now() - last > 40) {
        await new Promise<void>((resolve) => setTimeout(resolve, 0));
        last = performance.now();
      }
      if (controller.signal.aborted) throw new AbortError();
    },
  };
}
