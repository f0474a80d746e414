import type { PressureGrid } from '../../grid/pressureGrid';
import type { Columns, Thermal } from './columns';
import { Heat } from './heat';
import { CENTRES, EDGES, HALF_LAYERS } from './layers';

/** Plastic that was moulded before and lies between the melt and the second wall. */
export interface Backing extends Thermal {
  /** m */
  thickness: number;
  /** Between melt and backing, W/(m2 K); Infinity for one that is fused. */
  contact: number;
}

/** Heat in whole columns of which the second half is a backing, the first one the melt over its full gap. */
export class BackedHeat extends Heat {
  private readonly shares: Float64Array;

  constructor(
    grid: PressureGrid,
    columns: Columns,
    thermal: Thermal,
    meltTemperature: number,
    reference: number,
    private readonly backing: Backing,
  ) {
    super(grid, columns, thermal, meltTemperature, reference);
    if (columns.nHalves !== 2) throw new Error('a backing needs columns from wall to wall');
    this.shares = new Float64Array(columns.nLayers);
  }

  protected override capacities(): Float64Array {
    return this.shares;
  }

  /** Two plates in series: conductances of layers, walls and the joint over the melt's heat capacity. */
  protected override setConduction(i: number): void {
    const { columns, conduction, shares, thermal, backing } = this;
    const [melt, solid] = [2 * columns.reach[i], backing.thickness];
    const scale = 1 / (this.capacity * melt);
    const [first, second] = [thermal.conductivity / melt, backing.conductivity / solid];
    const outer = 1 - CENTRES[HALF_LAYERS - 1];
    const n = HALF_LAYERS;
    conduction[0] = scale / (1 / columns.side(i, 0).transfer + outer / first);
    conduction[n] = scale / (CENTRES[0] / first + 1 / backing.contact + CENTRES[0] / second);
    conduction[2 * n] = scale / (1 / columns.side(i, 1).transfer + outer / second);
    const ratio = (backing.density * backing.specificHeat * solid) / (this.capacity * melt);
    for (let l = 0; l < n; l++) {
      const size = EDGES[l + 1] - EDGES[l];
      shares[n - 1 - l] = size;
      shares[n + l] = ratio * size;
      if (l === 0) continue;
      const apart = CENTRES[l] - CENTRES[l - 1];
      conduction[n - l] = (scale * first) / apart;
      conduction[n + l] = (scale * second) / apart;
    }
  }

  /** Temperatures on both sides of the joint between melt and backing, K. */
  jointTemperatures(i: number): [number, number] {
    const { columns, backing, thermal } = this;
    this.setConduction(i);
    const at = i * columns.nLayers + HALF_LAYERS;
    const [hot, cold] = [columns.temperature[at - 1], columns.temperature[at]];
    const melt = 2 * columns.reach[i];
    const flux = this.conduction[HALF_LAYERS] * this.capacity * melt * (hot - cold);
    return [
      hot - (flux * CENTRES[0] * melt) / thermal.conductivity,
      cold + (flux * CENTRES[0] * backing.thickness) / backing.conductivity,
    ];
  }
}
