import type { PressureGrid } from '../../grid/pressureGrid';
import { EDGES, HALF_LAYERS, sectionShape } from '../melt/layers';

/** Heat that the fluid in the core takes up at the inner face of the skin. */
export interface InnerFace {
  /** K */
  temperature: number;
  /** W/(m2 K); 0: none, as behind a gas. */
  transfer: number;
}

/** Share of a layer that counts as plastic where none is left: keeps its row solvable. */
const NOTHING = 1e-9;

/**
 * Hollow sections: the layers of a column within `place` of its middle (0 .. 1, in the section's place variable) belong
 * to the fluid over a share of the node's way, the rest of which is solid still. The front of the fluid is one node
 * wide, so the share is 0 or 1 nearly everywhere.
 */
export class Hollow {
  /** Place of the core's face through the wall. Length n. */
  readonly place: Float64Array;
  /** Length n. */
  readonly share: Float64Array;
  private readonly weights: Float64Array;

  constructor(
    private readonly grid: PressureGrid,
    private readonly nHalves: 1 | 2,
    readonly inner: InnerFace,
  ) {
    this.place = new Float64Array(grid.n);
    this.share = new Float64Array(grid.n);
    this.weights = new Float64Array(2 * HALF_LAYERS);
  }

  /** Sets node i: `core` is the share of the section that the fluid fills, over `share` of the node's way. */
  set(i: number, core: number, share: number): void {
    const { s } = sectionShape(this.grid.shape[i]);
    this.place[i] = Math.pow(Math.min(1, Math.max(0, core)), 1 / (s - 1));
    this.share[i] = Math.min(1, Math.max(0, share));
  }

  /** Layer, from the middle, that the core's face lies in. */
  layerOf(i: number): number {
    let l = 0;
    while (l < HALF_LAYERS - 1 && EDGES[l + 1] <= this.place[i]) l++;
    return l;
  }

  /** Layer l (from the middle) of half h as a layer of the column. */
  private at(h: number, l: number): number {
    if (this.nHalves === 1) return l;
    return h === 0 ? HALF_LAYERS - 1 - l : HALF_LAYERS + l;
  }

  /** Share of every layer of node i that is plastic, over its way. The result is overwritten by the next call. */
  plastic(i: number): Float64Array {
    const { weights, place, share } = this;
    const { s, inner, share: sections } = sectionShape(this.grid.shape[i]);
    const core = Math.pow(place[i], s - 1);
    for (let l = 0; l < HALF_LAYERS; l++) {
      const inside = Math.min(1, Math.max(0, (core - inner[l]) / sections[l]));
      const left = Math.max(NOTHING, 1 - share[i] * inside);
      for (let h = 0; h < this.nHalves; h++) weights[this.at(h, l)] = left;
    }
    return weights;
  }

  /** Share of the core that lies in every layer of node i; sums to 1. The result is overwritten by the next call. */
  ofCore(i: number): Float64Array {
    const { weights, place } = this;
    const { s, inner, share: sections } = sectionShape(this.grid.shape[i]);
    const core = Math.max(1e-12, Math.pow(place[i], s - 1));
    for (let l = 0; l < HALF_LAYERS; l++) {
      const inside = Math.min(sections[l], Math.max(0, core - inner[l]));
      for (let h = 0; h < this.nHalves; h++) weights[this.at(h, l)] = inside / core / this.nHalves;
    }
    return weights;
  }

  /** Takes the conduction (length nLayers + 1, by edges) out of the core of node i. */
  openEdges(i: number, conduction: Float64Array): void {
    const left = 1 - this.share[i];
    const last = this.layerOf(i);
    for (let l = 0; l <= last; l++)
      for (let h = 0; h < this.nHalves; h++) {
        if (l === 0 && h === 1) continue;
        conduction[this.nHalves === 1 ? l : h === 0 ? HALF_LAYERS - l : HALF_LAYERS + l] *= left;
      }
  }

  /**
   * What the core's face takes up per kelvin, over volume and `capacity` of the melt [J/(m3 K)], 1/s, in each of the
   * layers it lies in; `reach` is half the wall [m], `conductivity` that of the melt.
   */
  exchange(i: number, reach: number, conductivity: number, capacity: number): number {
    const { transfer } = this.inner;
    if (!(transfer > 0)) return 0;
    const { s } = sectionShape(this.grid.shape[i]);
    const inside = 0.5 * (EDGES[this.layerOf(i) + 1] - this.place[i]) * reach;
    const area = ((s - 1) * Math.pow(this.place[i], s - 2)) / reach;
    return (this.share[i] * area) / (1 / transfer + inside / conductivity) / capacity / this.nHalves;
  }

  /** Layers of the column that the core's face of node i lies in: one a half. */
  faces(i: number): number[] {
    const l = this.layerOf(i);
    return this.nHalves === 1 ? [l] : [this.at(0, l), this.at(1, l)];
  }

  /** Gives the layers that are all fluid the temperature of the skin's inner face, in the halves they lie in. */
  follow(i: number, temperature: Float64Array): void {
    if (this.share[i] < 1) return;
    const nLayers = HALF_LAYERS * this.nHalves;
    const last = this.layerOf(i);
    for (let h = 0; h < this.nHalves; h++) {
      const T = temperature[i * nLayers + this.at(h, last)];
      for (let l = 0; l < last; l++) temperature[i * nLayers + this.at(h, l)] = T;
    }
  }
}
