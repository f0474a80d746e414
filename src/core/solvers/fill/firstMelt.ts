import type { Cavity } from '../shot/cavity';
import type { FillInput } from './outcome';

/** Apparent shear rate that the guess of a first node's fluidity is made for at most, 1/s, and where it starts, 1/(Pa s). */
const HIGHEST_RATE = 1e4;
const GUESS = 1e-3;

/** Hot sections of the feed are full before the shot, at their own temperature, and not to be filled. Returns their volume, m3. */
export function fillHot(
  { front, columns, heat, grid }: Cavity,
  hot: NonNullable<FillInput['hot']>,
  reachable: Float64Array,
  first: boolean,
): number {
  let sum = 0;
  for (const { node, temperature } of hot) {
    reachable[node] = 0;
    sum += grid.volume[node];
    if (!first) continue;
    front.held[node] = grid.volume[node];
    front.full[node] = 1;
    front.fillTime[node] = 0;
    columns?.temperature.fill(temperature, node * columns.nLayers, (node + 1) * columns.nLayers);
    heat?.admit(grid.volume[node], temperature);
  }
  return sum;
}

/**
 * Nodes that have just become full start with the fluidity of the flow that filled them; the first ones of all with that at the
 * mean shear rate of the flow that is set [m3/s] through the gate's neighbourhood.
 */
export function startFlowing(cavity: Cavity, filled: readonly number[], setFlow: () => number): void {
  const { columns, rheology, grid } = cavity;
  const { fluidity } = cavity.solver;
  for (const i of filled) {
    let sum = 0;
    let weight = 0;
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      const w = grid.transmissibility[grid.rowLink[k]];
      if (fluidity[j] > 0) {
        sum += w * fluidity[j];
        weight += w;
      }
    }
    if (weight > 0) {
      fluidity[i] = sum / weight;
      continue;
    }
    const perFlow = grid.ducts?.rate[i] || 1 / (grid.wallGap[i] * grid.spacing ** 2 + 1e-30);
    columns?.prepare(i, 0);
    fluidity[i] = rheology.fluidityAt(i, Math.min(setFlow() * perFlow, HIGHEST_RATE), 0, GUESS);
  }
}
