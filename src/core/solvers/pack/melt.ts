import { ATMOSPHERE, densityInto, isPlain, type DensityModel } from '../../material/pvt';
import type { Columns } from '../fill/columns';

/** Mean density over the section of a node, and its slope with pressure. */
export interface SectionDensity {
  density: number;
  slope: number;
}

/** Density of columns: the mean of the layers by their share, each at its own temperature. */
export class MeltDensity {
  private readonly point = { density: 0, slope: 0 };

  constructor(
    private readonly model: DensityModel,
    private readonly columns: Columns,
  ) {}

  /** Of a node at pressure p [Pa above the atmosphere]; `out` is overwritten. */
  section(node: number, p: number, out: SectionDensity): void {
    const { columns, model, point } = this;
    const absolute = p + ATMOSPHERE;
    if (isPlain(model)) {
      densityInto(model, 0, p, out);
      return;
    }
    const { nLayers, temperature } = columns;
    const { share } = columns.layersOf(node);
    const at = node * nLayers;
    let [density, slope] = [0, 0];
    for (let t = 0; t < nLayers; t++) {
      densityInto(model, temperature[at + t], absolute, point);
      density += share[t] * point.density;
      slope += share[t] * point.slope;
    }
    out.density = density;
    out.slope = slope;
  }

  /** Of melt of one temperature. */
  at(T: number, p: number): number {
    densityInto(this.model, T, isPlain(this.model) ? p : p + ATMOSPHERE, this.point);
    return this.point.density;
  }
}
