import type { Columns } from '../melt/columns';
import { Resident } from './resident';

/** Numbers of Morris & Boulay, J. Rheol. 43 (1999) 1213, measured with spheres: closest packing, contact stress, normal stress across the flow. */
export const CLOSEST = 0.68;
const IN_SHEAR = 0.1;
const NORMAL = 0.75;
const ACROSS = 0.8;
/** Exponent of how a crowd hinders itself (Miller & Morris, J. Non-Newtonian Fluid Mech. 135 (2006) 149). */
const HINDERED = 4;
/** Shares nearer to closest packing than this count as so far from it. */
const NEAREST = 0.02;

/**
 * Radius [m] of a sphere of the volume of a fibre, which bumps into others as it does: an estimate, since the law was measured with
 * spheres.
 */
export const sphereRadius = (diameter: number, aspect: number): number => (diameter / 2) * (1.5 * aspect) ** (1 / 3);

/** Particles that move across the flow. */
export interface MigrationInput {
  /** Volume of the particles over that of the melt that comes in. */
  share: number;
  /** m; see `sphereRadius`. */
  radius: number;
}

/** Stress by which particles push each other out of the way across the flow, over the shear stress. */
export function pushOver(share: number): number {
  const packed = Math.min(share, CLOSEST - NEAREST) / CLOSEST;
  const crowd = (packed / (1 - packed)) ** 2;
  const viscosity = 1 + (2.5 * share) / (1 - packed) + IN_SHEAR * crowd;
  return (ACROSS * NORMAL * crowd) / viscosity;
}

/** Share by which the growth of the push is told. */
const STEP = 1e-4;

/** Mobility in a crowd over that of one particle. */
const hindrance = (share: number): number =>
  (1 - Math.min(share, CLOSEST - NEAREST) / CLOSEST) * (1 - share) ** (HINDERED - 1);

/**
 * Share of the volume that is fibres, of every layer: carried along, and moved from where the stress is high to where it is low,
 * J = -(2 a2 / 9 eta) f grad(push stress): balance of the suspension. Solid layers have no fluidity, and nothing comes in or goes out.
 * Implicit in time: what leaves a layer comes into its neighbour.
 */
export class FibreShares extends Resident {
  readonly name = 'share of fibres';
  readonly components = 1;
  /** Of the layers of a node: shear stress, Pa, and fluidity, 1/(Pa s). */
  private readonly stress: Float64Array;
  private readonly fluidity: Float64Array;
  /** Push stress, Pa, and how it grows with the share. */
  private readonly push: Float64Array;
  private readonly slope: Float64Array;
  private readonly pivot: Float64Array;
  private readonly right: Float64Array;

  constructor(
    private readonly columns: Columns,
    private readonly input: MigrationInput,
    /** Length n * nLayers. */
    readonly values: Float64Array,
    before?: Float64Array,
  ) {
    super(columns.grid);
    if (before?.length) values.set(before);
    else values.fill(input.share);
    this.stress = new Float64Array(columns.nLayers);
    this.fluidity = new Float64Array(columns.nLayers);
    this.push = new Float64Array(columns.nLayers);
    this.slope = new Float64Array(columns.nLayers);
    this.pivot = new Float64Array(columns.nLayers);
    this.right = new Float64Array(columns.nLayers);
  }

  freshOf(): ArrayLike<number> {
    return [this.input.share];
  }

  /** Stress and fluidity of the layers of a node; false where nothing flows. */
  private stressAt(node: number): boolean {
    const { columns, stress, fluidity, input } = this;
    const wall = columns.wallStress[node];
    if (!(wall > 0) || !(columns.peakRate[node] > 0)) return false;
    // Particles of a size feel more than the stress at a point: the middle of a wall is never quite without (Miller & Morris 2006).
    const least = (input.radius / columns.reach[node]) * wall;
    const neutral = columns.noShearAt(node);
    for (let t = 0; t < columns.nLayers; t++) {
      const own = wall * Math.max(1e-6, Math.abs(columns.placeOf(t) - neutral));
      stress[t] = own + least;
      fluidity[t] = columns.shearRateOf(node, t) / own;
    }
    return true;
  }

  /**
   * Takes a layer for as long as its melt stays: what its neighbours get is what it loses, by volume of what lies in the node and
   * of what flows through it.
   */
  change(node: number, dt: number): void {
    const { columns, stress, fluidity, push, slope, pivot, right, values, input } = this;
    if (!this.stressAt(node)) return;
    const { nLayers, flowShare } = columns;
    const { share, edgeFactor } = columns.layersOf(node);
    const at = node * nLayers;
    const renewal = this.renewal(node);
    const scale = (2 / 9) * (input.radius / columns.reach[node]) ** 2;
    for (let t = 0; t < nLayers; t++) {
      const own = values[at + t];
      push[t] = pushOver(own) * stress[t];
      slope[t] = ((pushOver(own + STEP) - pushOver(own)) / STEP) * stress[t];
    }
    // Newton's step of the whole column: what goes over an edge follows the shares on both sides of it.
    let [fromBefore, toBefore, before] = [0, 0, 0];
    for (let t = 0; t < nLayers; t++) {
      let [toNext, fromNext, after] = [0, 0, 0];
      if (t < nLayers - 1) {
        const [a, b] = [fluidity[t], fluidity[t + 1]];
        const moves = a + b > 0 ? (2 * a * b) / (a + b) : 0;
        const strength = scale * edgeFactor[t + 1] * moves * hindrance(0.5 * (values[at + t] + values[at + t + 1]));
        toNext = strength * slope[t];
        fromNext = strength * slope[t + 1];
        after = strength * (push[t] - push[t + 1]);
      }
      const room = share[t] / dt + renewal * flowShare[at + t];
      const above = t > 0 ? pivot[t - 1] : 0;
      const diagonal = room + toNext + toBefore - fromBefore * above;
      const carried = t > 0 ? fromBefore * right[t - 1] : 0;
      right[t] = (before - after + carried) / diagonal;
      pivot[t] = fromNext / diagonal;
      [fromBefore, toBefore, before] = [toNext, fromNext, after];
    }
    for (let t = nLayers - 2; t >= 0; t--) right[t] += pivot[t] * right[t + 1];
    for (let t = 0; t < nLayers; t++) values[at + t] += right[t];
  }
}
