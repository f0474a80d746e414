import { fourthMoment, FourthMoment } from '../../material/fibres/closure';
import { alignedSolid, orientedExpansion, orientedStiffness, type Solid } from '../../material/fibres/stiffness';
import { sym, type Sym } from '../../material/fibres/tensor';
import type { FibresFound } from '../../results/shotFound';
import type { FibreSettings } from '../../setup/fibres';
import { PAIRS } from '../warp/solid';
import { HALF_LAYERS } from '../melt/layers';
import { SIX } from './orientationField';

/** Numbers of a symmetric 6 x 6 matrix: its upper half, row by row. */
export const UPPER = 21;

/** What fibres make of every layer. A wall whose halves are one has what both have in common: nothing tilts out of its plane. */
export interface OrientedWalls {
  nLayers: number;
  /** Direction across the wall, 3 a node. */
  across: Float32Array;
  /** Strain of a layer that shrinks by 1 in all directions together as if it were alike in them; six a layer. */
  stretch: Float32Array;
  /** UPPER a layer, Pa. */
  stiffness: Float32Array;
}

/** Made once of a result: structure and fields look at the same. */
const known = new WeakMap<FibresFound, OrientedWalls>();

export function orientedWalls(found: FibresFound, fibres: FibreSettings): OrientedWalls {
  const made = known.get(found) ?? wallsOf(found, fibres);
  known.set(found, made);
  return made;
}

function wallsOf(found: FibresFound, fibres: FibreSettings): OrientedWalls {
  const { nLayers, orientation, across } = found;
  const solidOf = solidsOf(found, fibres);
  const moment = new FourthMoment(fibres.closure);
  const n = orientation.length / SIX;
  const out = { nLayers, across, stretch: new Float32Array(SIX * n), stiffness: new Float32Array(UPPER * n) };
  const a = sym();
  for (let k = 0; k < n; k++) {
    for (let c = 0; c < SIX; c++) a[c] = orientation[SIX * k + c];
    if (nLayers === HALF_LAYERS) level(a, across, 3 * Math.floor(k / nLayers));
    const solid = solidOf(k);
    const C = orientedStiffness(solid.stiffness, a, fourthMoment(moment, a));
    const expansion = orientedExpansion(solid, C, a);
    const third = (expansion[0] + expansion[1] + expansion[2]) / 3;
    for (let c = 0; c < SIX; c++) out.stretch[SIX * k + c] = expansion[c] / third;
    for (let i = 0, at = UPPER * k; i < SIX; i++)
      for (let j = i; j < SIX; j++) out.stiffness[at++] = 0.5 * (C[SIX * i + j] + C[SIX * j + i]);
  }
  return out;
}

/** Lengths, as a share of each other, and shares of the volume that give the same solid. */
const ALIKE = { length: 0.02, share: 0.002 };

/** Aligned fibres of every layer, as long and as many as there are. */
function solidsOf({ nLayers, share, lengths }: FibresFound, { mechanics, aligned, diameter }: FibreSettings) {
  const made = new Map<string, Solid>();
  const of = (steps: number, parts: number): Solid => {
    const aspect = lengths ? Math.exp(steps * ALIKE.length) : aligned.aspect;
    const own = { ...aligned, aspect, share: share ? parts * ALIKE.share : aligned.share };
    return alignedSolid(mechanics, own);
  };
  return (layer: number): Solid => {
    const steps = lengths
      ? Math.round(Math.log(lengths.byWeight[Math.floor(layer / nLayers)] / diameter) / ALIKE.length)
      : 0;
    const parts = share ? Math.round(share[layer] / ALIKE.share) : 0;
    const key = `${steps} ${parts}`;
    const solid = made.get(key) ?? of(steps, parts);
    made.set(key, solid);
    return solid;
  };
}

/** Takes what tilts a tensor out of the plane across n: its other half has the opposite. */
function level(a: Sym, across: ArrayLike<number>, at: number): void {
  const x = across[at];
  const y = across[at + 1];
  const z = across[at + 2];
  let u = a[0] * x + a[3] * y + a[5] * z;
  let v = a[3] * x + a[1] * y + a[4] * z;
  let w = a[5] * x + a[4] * y + a[2] * z;
  const own = u * x + v * y + w * z;
  u -= own * x;
  v -= own * y;
  w -= own * z;
  a[0] -= 2 * u * x;
  a[1] -= 2 * v * y;
  a[2] -= 2 * w * z;
  a[3] -= u * y + v * x;
  a[4] -= v * z + w * y;
  a[5] -= u * z + w * x;
}

/** The stiffness of a layer, 6 x 6. */
export function layerStiffness({ stiffness }: OrientedWalls, layer: number, out: Float64Array): void {
  for (let i = 0, at = UPPER * layer; i < SIX; i++)
    for (let j = i; j < SIX; j++) out[SIX * i + j] = out[SIX * j + i] = stiffness[at++];
}

/** Mean of all layers by their share of the part's volume: for places of which no layer is known. */
export function meanStiffness(walls: OrientedWalls, volume: ArrayLike<number>, share: ArrayLike<number>): Float64Array {
  const out = new Float64Array(PAIRS);
  const own = new Float64Array(PAIRS);
  let whole = 0;
  for (let i = 0; i < volume.length; i++)
    for (let t = 0; t < walls.nLayers; t++) {
      layerStiffness(walls, i * walls.nLayers + t, own);
      const w = volume[i] * share[t];
      whole += w;
      for (let k = 0; k < PAIRS; k++) out[k] += w * own[k];
    }
  return out.map((c) => c / whole);
}
