import { CENTRES, HALF_LAYERS } from './layers';

/** Places through half the wall at which what layers have is published: 0 middle .. 1 wall. */
export const PROFILE_PLACES = Array.from({ length: 9 }, (_, k) => 1 - (1 - k / 8) ** 1.5);

/**
 * Values of layers (`nLayers` a node, of half walls from the middle out, of whole ones from wall to wall) at PROFILE_PLACES
 * of each half, the first half from its wall to the middle: as profiles are published.
 */
export function profileOf(values: ArrayLike<number>, nLayers: number, scale: number): Float32Array {
  const halves = nLayers / HALF_LAYERS;
  const nPlaces = PROFILE_PLACES.length;
  const nNodes = values.length / nLayers;
  const out = new Float32Array(nNodes * nPlaces * halves);
  for (let i = 0; i < nNodes; i++)
    for (let half = 0; half < halves; half++)
      PROFILE_PLACES.forEach((place, k) => {
        const upper = halves === 2 && half === 0;
        // Layer l from the middle, and where a place lies between the middles of layers.
        const of = (l: number) =>
          values[i * nLayers + (halves === 1 ? l : upper ? HALF_LAYERS - 1 - l : HALF_LAYERS + l)];
        let l = 0;
        while (l < HALF_LAYERS - 2 && CENTRES[l + 1] < place) l++;
        const s = Math.min(1, Math.max(0, (place - CENTRES[l]) / (CENTRES[l + 1] - CENTRES[l])));
        const at = (i * halves + half) * nPlaces + (upper ? nPlaces - 1 - k : k);
        out[at] = scale * (of(l) * (1 - s) + of(l + 1) * s);
      });
  return out;
}
