import type { FineGrid } from '../../grid/grid';
import type { PressureGrid } from '../../grid/pressureGrid';
import { starOf, type GateSite, type Star } from './star';

/**
 * Where melt enters the grid: through the near field of every gate (see Star), straight into a node (the first cell of
 * a feed), or over nodes that are the inlet themselves (a section under study).
 */
export interface Gating {
  /** Gate number of nodes that are the inlet, -1 elsewhere. Length n. */
  gateOfNode: Int16Array;
  /** Factor on the transmissibility of links: what a valve pin leaves open. Length nLinks. */
  linkFactor: Float32Array;
  /** Near field of every gate that opens into the part, and of every mouth of a tab. */
  stars: Star[];
  /** Links from the inlet into nodes: conductance per unit fluidity, m3; `star` -1 where the node speaks for itself. */
  attached: { gate: number; node: number; conductance: number; star: number }[];
  /** With a feed: the links of the stars, from the gates' nodes into the part, and the node of every gate. */
  rims?: Rim[];
  gateNode?: Int32Array;
}

/** A link of a star on a grid with a feed; `outer` is its node in the part. */
export interface Rim {
  link: number;
  gate: number;
  outer: number;
  star: number;
}

/** Gates on the grid of a part, without a feed. */
export function placeGating(fine: FineGrid, grid: PressureGrid, gates: GateSite[]): Gating {
  const stars = gates.map((gate, g) => starOf(fine, grid, gate, g));
  return {
    ...noGating(grid),
    stars,
    // In the order of the nodes, so that sums do not depend on that of the gates.
    attached: stars
      .flatMap(({ gate, links }, star) => links.map(({ node, conductance }) => ({ gate, node, conductance, star })))
      .sort((a, b) => a.node - b.node || a.conductance - b.conductance),
  };
}

/** A grid that nothing enters yet. */
export const noGating = (grid: PressureGrid): Gating => ({
  gateOfNode: new Int16Array(grid.n).fill(-1),
  linkFactor: new Float32Array(grid.linkFrom.length).fill(1),
  stars: [],
  attached: [],
});
