import type { SurfacePoint } from '../../geometry/closestPoint';
import type { Vec3 } from '../../geometry/mesh';
import type { FineGrid } from '../../grid/grid';
import type { PressureGrid } from '../../grid/pressureGrid';
import { starOf, type Star } from './star';

/** A gate on the surface: where it sits, which way is out, how wide. Metres. */
export interface GateSite {
  id: string;
  surface: SurfacePoint;
  /** Of a round gate; thickness of a slot. */
  diameter: number;
  /** A slot is this wide along a unit vector in the surface. */
  slot?: { width: number; along: Vec3 };
}

/**
 * Where melt enters the grid: through the near field of every gate (see Star), straight into a node (the first cell of
 * a feed), or over nodes that are the inlet themselves (a section under study).
 */
export interface Inlet {
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
export function placeInlet(fine: FineGrid, grid: PressureGrid, gates: GateSite[]): Inlet {
  const stars = gates.map((gate, g) => starOf(fine, grid, gate, g));
  return {
    ...noInlet(grid),
    stars,
    // In the order of the nodes, so that sums do not depend on that of the gates.
    attached: stars
      .flatMap(({ gate, links }, star) => links.map(({ node, conductance }) => ({ gate, node, conductance, star })))
      .sort((a, b) => a.node - b.node || a.conductance - b.conductance),
  };
}

/** A grid that nothing enters yet. */
export const noInlet = (grid: PressureGrid): Inlet => ({
  gateOfNode: new Int16Array(grid.n).fill(-1),
  linkFactor: new Float32Array(grid.linkFrom.length).fill(1),
  stars: [],
  attached: [],
});

/** The fine cell with substance whose centre is nearest to a point. */
export function nearestCell(fine: FineGrid, p: Vec3): number {
  const { lattice, cells } = fine;
  const { nx, ny, spacing, origin } = lattice;
  const enough = 0.02 * spacing ** 3;
  let best = Infinity;
  let found = 0;
  for (let c = 0; c < cells.n; c++) {
    if (cells.volume[c] < enough) continue;
    const at = cells.index[c];
    const dx = origin[0] + ((at % nx) + 0.5) * spacing - p[0];
    const dy = origin[1] + ((Math.floor(at / nx) % ny) + 0.5) * spacing - p[1];
    const dz = origin[2] + (Math.floor(at / (nx * ny)) + 0.5) * spacing - p[2];
    const d = dx * dx + dy * dy + dz * dz;
    if (d < best) {
      best = d;
      found = c;
    }
  }
  return found;
}
