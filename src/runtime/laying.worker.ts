import { apartFrom, layOnto } from '../core/geometry/laying';
import { inverse } from '../core/geometry/placement';
import { SurfaceTree } from '../core/geometry/surfaceTree';
import type { LayingAnswer, LayingRequest } from './layingProtocol';

/** Worker of the page: how a part lies on another one, and where they differ. */
const scope = self as unknown as {
  onmessage: ((event: MessageEvent<LayingRequest>) => void) | null;
  postMessage(message: LayingAnswer): void;
};

scope.onmessage = ({ data }) => {
  if (data.type === 'lay') return scope.postMessage({ type: 'laid', laying: layOnto(data.from, data.onto) });
  const { first, second, matrix, apart } = data;
  const added = apartFrom(second, new SurfaceTree(first), inverse(matrix), apart).outside;
  const removed = apartFrom(first, new SurfaceTree(second), matrix, apart).outside;
  scope.postMessage({ type: 'apart', added, removed });
};
