import type { Vec3 } from '../../geometry/mesh';
import { onNodes, perNode, type PerNode } from '../shot/located';
import { ATMOSPHERE, isPlain, ROOM, TAIT_C, transitionAt, type DensityModel } from '../../material/pvt';

/** What the freezing of a resin follows from: its pvT, transition [K] and linear expansion along the wall [1/K]. */
export interface FreezingResin {
  density: DensityModel;
  transition: number;
  expansion: number;
}

/** How a solid layer wants to change its length once it has frozen. */
export interface FreezingLaw {
  /** Temperature [K] at which a layer under pressure p [Pa above the atmosphere] turns solid. */
  solidAt(p: number): number;
  /** Free linear strain from freezing under pressure `p` to temperature T [K] in the room's air. */
  strain(T: number, p: number): number;
}

/**
 * Of a resin by its pvT: a third of the volume that the solid loses from its transition under the pressure
 * frozen in (Jansen & Titomanlio, Polym. Eng. Sci. 36 (1996) 2029). What crystals take up at the transition is taken
 * while the layer is still soft; it goes into the thickness and not into the plane.
 */
export function freezingLaw({ density, transition, expansion }: FreezingResin): FreezingLaw {
  if (isPlain(density)) return { solidAt: () => transition, strain: (T) => expansion * (T - transition) };
  const solid = (T: number, p: number) => {
    const x = T - density.b5;
    return (density.b1s + density.b2s * x) * (1 - TAIT_C * Math.log1p(p / (density.b3s * Math.exp(-density.b4s * x))));
  };
  return {
    solidAt: (p) => transitionAt(density, p + ATMOSPHERE),
    strain: (T, p) => {
      const frozen = transitionAt(density, p + ATMOSPHERE);
      return Math.log(solid(Math.min(T, frozen), ATMOSPHERE) / solid(frozen, p + ATMOSPHERE)) / 3;
    },
  };
}

/** What following the wall needs of its columns. */
export interface LayeredWall {
  nLayers: number;
  /** K, n * nLayers. */
  temperature: ArrayLike<number>;
  layersOf(node: number): { share: ArrayLike<number> };
}

/** Strain that the layers of every wall would have in the room if they were cut free. */
export interface FrozenStrain {
  nLayers: number;
  node: {
    /** Against the cavity; one a layer. */
    inPlane: PerNode;
    /** Mean over the wall. */
    mean: PerNode;
    /** Frozen into each layer, Pa. */
    pressure: PerNode;
  };
  /** What the cold pieces of the feed shrink by, where there are any that one part alone hangs on. */
  feed?: FeedStrain[];
}

/** A straight piece of cold runner, sprue or gate: its ends [m], section [m2], and linear strain in the room. */
export interface FeedStrain {
  from: Vec3;
  to: Vec3;
  area: number;
  strain: number;
}

/**
 * Freezing of the layers of a wall. A layer is a stress-free liquid until it falls below its transition; then it
 * keeps the strain that the wall has at that moment as its own, and shrinks from there. In the mould the wall
 * cannot shrink along itself; out of it, it takes the strain at which the forces of its solid layers cancel.
 */
export class WallStrain {
  private readonly n: number;
  private readonly own: Float32Array;
  private readonly pressure: Float32Array;
  private readonly temperature: Float32Array;
  private readonly lastPressure: Float32Array;
  /** Strain of the wall now. */
  private readonly wall: Float32Array;

  constructor(
    private readonly columns: LayeredWall,
    private readonly law: FreezingLaw,
    private readonly nodes: ArrayLike<number>,
    n: number,
  ) {
    this.n = n;
    const size = n * columns.nLayers;
    this.own = new Float32Array(size).fill(NaN);
    this.pressure = new Float32Array(size).fill(NaN);
    this.temperature = Float32Array.from(columns.temperature);
    this.lastPressure = new Float32Array(n);
    this.wall = new Float32Array(n);
  }

  /**
   * Looks at the columns at the end of a step. `pressure` per node, Pa above the atmosphere; `held`: still in the
   * mould. The first look takes what is solid already as frozen at half of the pressure that it finds.
   */
  look(pressure: ArrayLike<number>, held: boolean, first = false): void {
    const { columns, law, own, temperature, lastPressure } = this;
    const { nLayers } = columns;
    for (let k = 0; k < this.nodes.length; k++) {
      const i = this.nodes[k];
      const p = Math.max(0, pressure[i]);
      const solid = law.solidAt(p);
      if (!held) this.wall[i] = this.freeStrain(i);
      for (let l = i * nLayers; l < (i + 1) * nLayers; l++) {
        const T = columns.temperature[l];
        if (own[l] !== own[l] && T < solid) {
          const before = temperature[l];
          const share = before > T ? Math.min(1, Math.max(0, (before - solid) / (before - T))) : 0;
          this.pressure[l] = first ? p / 2 : lastPressure[i] + share * (p - lastPressure[i]);
          own[l] = this.wall[i];
        }
        temperature[l] = T;
      }
      lastPressure[i] = p;
    }
  }

  /** Strain at which the forces of the solid layers cancel; that of before where nothing is solid. */
  private freeStrain(i: number): number {
    const { columns, law, own, pressure } = this;
    const { nLayers } = columns;
    const { share } = columns.layersOf(i);
    let [sum, solid] = [0, 0];
    for (let t = 0; t < nLayers; t++) {
      const l = i * nLayers + t;
      if (own[l] !== own[l]) continue;
      sum += share[t] * (own[l] + law.strain(columns.temperature[l], pressure[l]));
      solid += share[t];
    }
    return solid > 0 ? sum / solid : this.wall[i];
  }

  /** All layers in the room; those that are still soft freeze without pressure at the wall's present strain. */
  finish(room = ROOM): FrozenStrain {
    const { columns, law } = this;
    const { nLayers } = columns;
    const inPlane = perNode(this.n, nLayers);
    const mean = perNode(this.n);
    const pressure = onNodes(this.pressure, this.n);
    for (let k = 0; k < this.nodes.length; k++) {
      const i = this.nodes[k];
      const { share } = columns.layersOf(i);
      let sum = 0;
      for (let l = i * nLayers; l < (i + 1) * nLayers; l++) {
        const soft = this.own[l] !== this.own[l];
        if (soft) pressure[l] = 0;
        inPlane[l] = (soft ? this.wall[i] : this.own[l]) + law.strain(room, pressure[l]);
        sum += share[l - i * nLayers] * inPlane[l];
      }
      mean[i] = sum;
    }
    return { nLayers, node: { inPlane, mean, pressure } };
  }
}
