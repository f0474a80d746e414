import type { PressureGrid } from '../../grid/pressureGrid';

/** Shortest way to a front that has just come into a runner, over the way from cell to cell. */
const LEAST_WAY = 0.05;

/** Where the front stands in every node: how long the ways to it are, and the pressure in the nodes that it stands in. */
export class FrontWays {
  /** Share of each node that holds melt, as the front stood when it was last placed; 0.5 before. Length n. */
  private readonly share: Float64Array;
  private readonly flow: Float64Array;

  constructor(private readonly grid: PressureGrid) {
    this.share = new Float64Array(grid.n).fill(0.5);
    this.flow = new Float64Array(grid.n);
  }

  /**
   * Where the front stands in nodes that are not full, from the melt `held` [m3] in each: the way of a
   * link to the front is half a node and what the front has gone beyond the face, not a whole node.
   */
  place(held: Float64Array, full: Uint8Array): void {
    const { share, grid } = this;
    for (let i = 0; i < grid.n; i++) share[i] = full[i] || !(grid.volume[i] > 0) ? 1 : held[i] / grid.volume[i];
  }

  /** The same for nodes with a fluid in their core: the way of a link is to where it stands. */
  placeAt(core: { standInto(share: Float64Array): void }): void {
    core.standInto(this.share);
  }

  /**
   * Way from the middle of the full node behind a link to the front in `node`, over the way from node to
   * node. A node cut by the part's rim reaches as far as its volume fills the passage of the link.
   */
  to(node: number, link: number): number {
    const { grid, share } = this;
    if (grid.ducts && grid.linkShare && grid.ducts.rate[node] > 0) {
      const behind = grid.linkTo[link] === node ? grid.linkShare[link] : 1 - grid.linkShare[link];
      return Math.max(LEAST_WAY, behind + 2 * (1 - behind) * share[node]);
    }
    const passage = (3 * grid.transmissibility[link] * grid.spacing ** 2) / grid.wallGap[node] ** 2;
    return 0.5 + share[node] * Math.min(1, grid.volume[node] / passage);
  }

  /**
   * Adds to `mean` (length n) the pressure above the air's [Pa] in nodes the front stands in, mean over the
   * whole node: it falls to none at the front. Neighbours speak by what they pass on.
   */
  addPressure(full: Uint8Array, pressure: Float64Array, conductance: Float64Array, mean: Float64Array): void {
    const { grid, share, flow } = this;
    flow.fill(0);
    for (let pass = 0; pass < 2; pass++)
      for (let l = 0; l < conductance.length; l++) {
        const c = conductance[l];
        if (!(c > 0) || full[grid.linkFrom[l]] === full[grid.linkTo[l]]) continue;
        const [behind, node] = full[grid.linkFrom[l]]
          ? [grid.linkFrom[l], grid.linkTo[l]]
          : [grid.linkTo[l], grid.linkFrom[l]];
        if (pass === 0) {
          flow[node] += c;
          continue;
        }
        const way = this.to(node, l);
        const atFace = ((pressure[behind] - pressure[node]) * (way - 0.5)) / way;
        mean[node] += (c / flow[node]) * 0.5 * share[node] * atFace;
      }
  }
}
