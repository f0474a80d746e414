import type { SurfacePoint } from '../../geometry/closestPoint';
import type { Vec3 } from '../../geometry/mesh';
import type { FineGrid } from '../../grid/grid';
import type { PressureGrid } from '../../grid/pressureGrid';

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
 * The gates' hold on the pressure grid. The melt under a gate's disc shares the gate's pressure, so
 * the nodes there are pinned. On a link that crosses the disc's rim the flow is radial; its
 * two-point flux is corrected to the logarithmic profile, as for a well (Peaceman, SPE J. 18 (1978)
 * 183). Without it the pressure at a small gate depends on the grid.
 */
export interface Inlet {
  /** Gate number of pinned nodes, -1 elsewhere. Length n. */
  gateOfNode: Int16Array;
  /** Factor on the transmissibility of links (1 away from gates). Length nLinks. */
  linkFactor: Float32Array;
  /** Shear rate at the middle of a rim link over that at its outer node (1 away from gates). */
  linkShear: Float32Array;
  /** Gates without a node below the disc's radius of influence: conductance per unit fluidity, m3. */
  attached: { gate: number; node: number; conductance: number }[];
  /** With a feed: links from the gates' nodes into the part, and the node of every gate. */
  rims?: Rim[];
  gateNode?: Int32Array;
}

/** A link over a gate's rim: the outer node speaks for its fluidity, at `shear` times its shear rate. */
export interface Rim {
  link: number;
  gate: number;
  outer: number;
  shear: number;
}

/** Equivalent radius of a square cell that holds a source, in cell edges (Peaceman 1978). */
const SOURCE_RADIUS = 0.2;

export function placeInlet(fine: FineGrid, grid: PressureGrid, gates: GateSite[]): Inlet {
  const inlet: Inlet = {
    gateOfNode: new Int16Array(grid.n).fill(-1),
    linkFactor: new Float32Array(grid.linkFrom.length).fill(1),
    linkShear: new Float32Array(grid.linkFrom.length).fill(1),
    attached: [],
  };
  gates.forEach((gate, g) => {
    const seed = nearestCell(fine, inwards(gate, 0.25 * fine.lattice.spacing));
    const seedNode = grid.nodeOfCell[seed];
    const radius = gate.slot ? Math.max(gate.diameter, grid.spacing) / 2 : gate.diameter / 2;
    if (radius < SOURCE_RADIUS * grid.spacing) {
      const mean = meanTransmissibility(grid, seedNode);
      const conductance = (2 * Math.PI * mean) / Math.log((SOURCE_RADIUS * grid.spacing) / radius);
      inlet.attached.push({ gate: g, node: seedNode, conductance });
      return;
    }
    const depth = Math.min(grid.thickness[seedNode], 1.5 * gate.diameter);
    for (const node of nodesUnder(grid, gate, seedNode, radius, depth)) {
      if (inlet.gateOfNode[node] < 0) inlet.gateOfNode[node] = g;
    }
  });
  // From a slot the melt leaves straight, not radially.
  gates.forEach((gate, g) => !gate.slot && correctRim(grid, inlet, gate, g));
  return inlet;
}

function inwards(gate: GateSite, by: number): Vec3 {
  const { point, normal } = gate.surface;
  return [point[0] - by * normal[0], point[1] - by * normal[1], point[2] - by * normal[2]];
}

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

/** Position of a node (or any point of `position`) seen from the gate: vector across from its middle line, and depth below. */
function lateral(position: ArrayLike<number>, at: number, gate: GateSite): { across: Vec3; depth: number } {
  const { point, normal } = gate.surface;
  const d: Vec3 = [position[at] - point[0], position[at + 1] - point[1], position[at + 2] - point[2]];
  const out = d[0] * normal[0] + d[1] * normal[1] + d[2] * normal[2];
  const across: Vec3 = [d[0] - out * normal[0], d[1] - out * normal[1], d[2] - out * normal[2]];
  if (gate.slot) {
    const { width, along } = gate.slot;
    const reach = Math.max(0, (width - gate.diameter) / 2);
    const on = across[0] * along[0] + across[1] * along[1] + across[2] * along[2];
    const cut = Math.max(-reach, Math.min(reach, on));
    for (let k = 0; k < 3; k++) across[k] -= cut * along[k];
  }
  return { across, depth: -out };
}

const length = (v: Vec3) => Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);

/** Nodes within the gate's cylinder that hang together with the one at the gate. */
function nodesUnder(grid: PressureGrid, gate: GateSite, seed: number, radius: number, depth: number): number[] {
  const found = new Set([seed]);
  const queue = [seed];
  for (let q = 0; q < queue.length; q++) {
    for (let k = grid.rowStart[queue[q]]; k < grid.rowStart[queue[q] + 1]; k++) {
      const node = grid.rowNode[k];
      if (found.has(node)) continue;
      const at = lateral(grid.position, 3 * node, gate);
      // The Cartesian centre may lie up to half a block outside the wall.
      if (length(at.across) >= radius || Math.abs(at.depth - depth / 2) > depth / 2 + 0.5 * grid.spacing) continue;
      found.add(node);
      queue.push(node);
    }
  }
  return queue;
}

function meanTransmissibility(grid: PressureGrid, node: number): number {
  const values: number[] = [];
  for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++)
    values.push(grid.transmissibility[grid.rowLink[k]]);
  values.sort((a, b) => b - a);
  const lateralLinks = values.slice(0, 4);
  return lateralLinks.reduce((s, v) => s + v, 0) / Math.max(1, lateralLinks.length);
}

/**
 * Links from a pinned node to one outside the disc: factor = (angle of the face seen from the axis) /
 * ln(distance of the outer node / gate radius). For a single pinned node this is Peaceman's well; for
 * a disc of many nodes it tends to the plain two-point flux with the distance cut at the rim.
 */
function correctRim(grid: PressureGrid, inlet: Inlet, gate: GateSite, g: number): void {
  const radius = gate.diameter / 2;
  for (let l = 0; l < grid.linkFrom.length; l++) {
    const [a, b] = [grid.linkFrom[l], grid.linkTo[l]];
    if ((inlet.gateOfNode[a] === g) === (inlet.gateOfNode[b] === g)) continue;
    const [pinned, outer] = inlet.gateOfNode[a] === g ? [a, b] : [b, a];
    const near = lateral(grid.position, 3 * pinned, gate).across;
    const far = lateral(grid.position, 3 * outer, gate).across;
    const rho = length(far);
    const step: Vec3 = [far[0] - near[0], far[1] - near[1], far[2] - near[2]];
    const stepLength = length(step);
    if (rho <= radius || stepLength < 0.1 * grid.spacing) continue;
    const middle: Vec3 = [near[0] + step[0] / 2, near[1] + step[1] / 2, near[2] + step[2] / 2];
    const angle = faceAngle(middle, step, stepLength, gate.surface.normal, grid.spacing);
    const factor = ((stepLength / grid.spacing) * angle) / Math.log(Math.max(rho / radius, 1.05));
    inlet.linkFactor[l] = Math.min(10, Math.max(0.3, factor));
    inlet.linkShear[l] = Math.sqrt(Math.max(1, rho / radius));
  }
}

/** Angle under which a face of width `width` across `step`, centred at `middle`, is seen from the axis. */
function faceAngle(middle: Vec3, step: Vec3, stepLength: number, normal: Vec3, width: number): number {
  const side: Vec3 = [
    (step[1] * normal[2] - step[2] * normal[1]) / stepLength,
    (step[2] * normal[0] - step[0] * normal[2]) / stepLength,
    (step[0] * normal[1] - step[1] * normal[0]) / stepLength,
  ];
  const ahead = (middle[0] * step[0] + middle[1] * step[1] + middle[2] * step[2]) / stepLength;
  const across = middle[0] * side[0] + middle[1] * side[1] + middle[2] * side[2];
  return Math.abs(Math.atan2(across + width / 2, ahead) - Math.atan2(across - width / 2, ahead));
}
