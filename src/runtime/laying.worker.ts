import { apartFrom, layOnto } from '../core/geometry/laying';
import { inverse } from '../core/geometry/placement';
import { SurfaceTree } from '../core/geometry/surfaceTree';
import { placesThere } from '../core/grid/placesThere';
import type { LayingAnswer, LayingRequest } from './layingProtocol';
import { readGrid, readSurface } from '../core/formats/viewGrid';

/** Worker of the page: how a part lies on another one, where they differ, and what reads one's results on the other. */
const scope = self as unknown as {
  onmessage: ((event: MessageEvent<LayingRequest>) => void) | null;
  postMessage(message: LayingAnswer): void;
};

scope.onmessage = ({ data }) => {
  answerTo(data).then(
    (answer) => scope.postMessage(answer),
    (error: unknown) => scope.postMessage({ type: 'failed', message: String((error as Error)?.message ?? error) }),
  );
};

async function answerTo(request: LayingRequest): Promise<LayingAnswer> {
  if (request.type === 'lay') return { type: 'laid', laying: layOnto(request.from, request.onto, request.marks) };
  if (request.type === 'apart') {
    const { first, second, matrix, apart } = request;
    const added = apartFrom(second, new SurfaceTree(first), inverse(matrix), apart).outside;
    const removed = apartFrom(first, new SurfaceTree(second), matrix, apart).outside;
    return { type: 'apart', added, removed };
  }
  const { from, onto, matrix } = request;
  const [surface, grid, theirs] = await Promise.all([from.surface, from.grid, onto].map(stored));
  return { type: 'placed', places: placesThere(readSurface(surface), readGrid(grid), readGrid(theirs), matrix) };
}

/** A stored file of a result: the browser has it already. */
async function stored(url: string): Promise<ArrayBuffer> {
  const answer = await fetch(url);
  if (!answer.ok) throw new Error(`A part of the result could not be read (${answer.status}). Load the page again.`);
  return answer.arrayBuffer();
}
