import { SYMMETRIC } from '../../geometry/vec';
import type { PressureGrid } from '../../grid/pressureGrid';
import { PLACE } from '../../material/fibres/tensor';
import type { OrientedWalls } from '../fibres/orientedWalls';
import type { LayerMoments, LayerStrain, NodeShrinkage } from './strainField';

/** What the directions of fibres add to the strain of walls that are alike in all directions. */
export interface OrientedStrain {
  walls: OrientedWalls;
  /** Along the wall, six a node, by the moments of `NodeShrinkage`. */
  mean: Float32Array;
  bend: Float32Array;
  bow: Float32Array;
  /** Across the wall, by the same mass; a node. */
  across: Float32Array;
}

export function orientedStrain(
  walls: OrientedWalls,
  frozen: LayerStrain,
  { even, first, second }: LayerMoments,
  { inPlane, across, volumetric }: Record<'inPlane' | 'across', Float32Array> & { volumetric: ArrayLike<number> },
): OrientedStrain {
  const { nLayers } = frozen;
  const n = inPlane.length;
  const of = () => new Float32Array(6 * n);
  const out: OrientedStrain = { walls, mean: of(), bend: of(), bow: of(), across: new Float32Array(n) };
  const own = new Float64Array(6);
  for (let i = 0; i < n; i++) {
    for (let t = 0; t < nLayers; t++) {
      const strain = frozen.inPlane[i * nLayers + t];
      if (!orientedLayer(walls, i * nLayers + t, i, strain, own)) continue;
      for (let k = 0; k < 6; k++) {
        out.mean[6 * i + k] += even[t] * own[k];
        out.bend[6 * i + k] += first[t] * own[k];
        out.bow[6 * i + k] += second[t] * own[k];
      }
    }
    const more = (out.mean[6 * i] + out.mean[6 * i + 1] + out.mean[6 * i + 2]) / 2;
    out.across[i] = (1 - volumetric[i]) / (1 + inPlane[i] + more) ** 2 - 1 - across[i] || 0;
  }
  return out;
}

/** What fibres add to the strain [1] of a layer along its wall, into `out`; false where there is none. */
export function orientedLayer(
  walls: OrientedWalls,
  layer: number,
  node: number,
  strain: number,
  out: Float64Array,
): boolean {
  if (strain !== strain) return false;
  const { stretch, across } = walls;
  const n = [across[3 * node], across[3 * node + 1], across[3 * node + 2]];
  for (let k = 0; k < 6; k++) out[k] = stretch[6 * layer + k] - (k < 3 ? 1 : 0);
  // What lies in the plane of the wall: P g P, P = 1 - n n.
  const q = [0, 3, 6].map((row) => out[PLACE[row]] * n[0] + out[PLACE[row + 1]] * n[1] + out[PLACE[row + 2]] * n[2]);
  const own = q[0] * n[0] + q[1] * n[1] + q[2] * n[2];
  for (let k = 0; k < 6; k++) {
    const [a, b] = SYMMETRIC[k];
    out[k] = strain * (out[k] - q[a] * n[b] - n[a] * q[b] + own * n[a] * n[b]);
  }
  return true;
}

/** Strain along the wall in the plane's own directions, most shrinkage last; a node of `shrinkage`. */
export function fibreStrains({ inPlane, oriented }: NodeShrinkage, i: number): [number, number] {
  if (!oriented) return [inPlane[i], inPlane[i]];
  const [xx, yy, zz, xy, yz, xz] = oriented.mean.subarray(6 * i, 6 * i + 6);
  // Nothing of it lies across the wall: the two values follow from trace and square.
  const half = (xx + yy + zz) / 2;
  const square = xx * xx + yy * yy + zz * zz + 2 * (xy * xy + yz * yz + xz * xz);
  const apart = Math.sqrt(Math.max(0, square / 2 - half * half));
  return [inPlane[i] + half + apart, inPlane[i] + half - apart];
}

/** Mean linear shrinkage of walls along their fibres and square to them. */
export interface OnFibres {
  along: number;
  square: number;
}

export function onFibres({ volume }: PressureGrid, shrinkage: NodeShrinkage): OnFibres | null {
  if (!shrinkage.oriented) return null;
  let [along, square, whole] = [0, 0, 0];
  for (let i = 0; i < volume.length; i++) {
    const [a, b] = fibreStrains(shrinkage, i);
    along -= volume[i] * a;
    square -= volume[i] * b;
    whole += volume[i];
  }
  return { along: along / whole, square: square / whole };
}
