import type { PressureGrid } from '../../grid/pressureGrid';
import { Breaking, type Breakage } from '../../material/fibres/breakage';
import type { Columns } from '../melt/columns';
import { Resident } from './resident';

/** Fibres that break on their way. */
export interface LengthInput {
  breakage: Breakage;
  /** Numbers in the bins of the melt that comes in. */
  fresh: Float64Array;
}

/**
 * Lengths of the fibres of every node: a balance of numbers, carried along with the mean of the wall, and broken by the stress and shear of
 * the layers, each for its share of the section. Mean of the wall: fibres do not keep to their layer for long enough to tell them apart.
 */
export class FibreLengths extends Resident {
  readonly name = 'lengths of fibres';
  readonly components: number;
  /** Numbers in the bins. Length n * bins. */
  readonly values: Float64Array;
  private readonly breaking: Breaking;
  private readonly rates: Float64Array;
  private readonly own: Float64Array;

  constructor(
    grid: PressureGrid,
    private readonly columns: Columns,
    private readonly input: LengthInput,
    before?: Float64Array,
  ) {
    super(grid);
    const { breakage, fresh } = input;
    this.breaking = new Breaking(breakage);
    this.components = fresh.length;
    this.values = new Float64Array(grid.n * fresh.length);
    if (before?.length) this.values.set(before);
    else for (let i = 0; i < grid.n; i++) this.values.set(fresh, i * fresh.length);
    this.rates = new Float64Array(fresh.length);
    this.own = new Float64Array(fresh.length);
  }

  freshOf(): ArrayLike<number> {
    return this.input.fresh;
  }

  change(node: number, dt: number): void {
    const { columns, rates, own, values, components, breaking } = this;
    const stress = columns.wallStress[node];
    const most = columns.peakRate[node];
    if (!breaking.breaks({ stress, shearRate: most })) return;
    const { share } = columns.layersOf(node);
    rates.fill(0);
    for (let t = 0; t < columns.nLayers; t++) {
      const local = stress * Math.abs(columns.placeOf(t) - columns.noShearAt(node));
      breaking.addRates(rates, { stress: local, shearRate: columns.shearRateOf(node, t) }, share[t]);
    }
    const at = node * components;
    own.set(values.subarray(at, at + components));
    // Melt has been in the node for so long at the end of the step, in the mean.
    breaking.advance(own, rates, 1 / (1 / dt + this.renewal(node)));
    values.set(own, at);
  }
}
