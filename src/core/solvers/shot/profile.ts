import { placesBetween } from '../melt/columns';
import { HALF_LAYERS } from '../melt/layers';
import { PROFILE_PLACES } from '../melt/profilePlaces';

/** Where the published places lie between the layers. */
export const PLACES = placesBetween(PROFILE_PLACES);

/**
 * Values of layers (`nLayers` a node, of half walls from the middle out, of whole ones from wall to wall) at PROFILE_PLACES
 * of each half, the first half of a whole wall from its face to the middle. Beyond the middles of the outermost layers
 * their values hold.
 */
export function profileOf(values: ArrayLike<number>, nLayers: number, scale: number): Float32Array {
  const halves = nLayers / HALF_LAYERS;
  const nPlaces = PLACES.length;
  const nNodes = values.length / nLayers;
  const out = new Float32Array(nNodes * nPlaces * halves);
  for (let i = 0; i < nNodes; i++)
    for (let half = 0; half < halves; half++) {
      const upper = halves === 2 && half === 0;
      const middle = i * nLayers + (halves === 2 ? HALF_LAYERS - (upper ? 1 : 0) : 0);
      const of = (l: number) => values[middle + (upper ? -1 : 1) * Math.min(HALF_LAYERS - 1, Math.max(0, l))];
      const first = (i * halves + half) * nPlaces;
      PLACES.forEach(({ l, weight }, k) => {
        out[first + (upper ? nPlaces - 1 - k : k)] = scale * (of(l - 1) * (1 - weight) + of(l) * weight);
      });
    }
  return out;
}
