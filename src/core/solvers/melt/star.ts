import type { Vec3 } from '../../geometry/mesh';
import type { FineGrid } from '../../grid/grid';
import type { PressureGrid } from '../../grid/pressureGrid';
import { nearestCell } from '../../grid/nearestCell';
import type { SurfacePoint } from '../../geometry/closestPoint';

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
 * Near field of a gate in closed form, so that its pressure does not depend on which nodes lie under it.
 *
 * Stokes flow out of a pipe of radius a into a wall of half gap H takes, up to the radius r,
 *   dp = eta Q [ 1.5 / a^3 + 0.15 / (a H^2) + 3 / (4 pi H^3) ln(r / a) ]:
 * half of an orifice (Sampson 1891; Happel & Brenner, Low Reynolds Number Hydrodynamics, 4-29), a term between the
 * two, fitted to an axisymmetric solution for a/H from 0.25 to 10, and the spreading in the wall. A slot of thickness t
 * and width W has half of a plane orifice, 16 / (pi t^2 W) (Hasimoto, J. Phys. Soc. Japan 13 (1958) 633), drawn to that
 * of the round one where it is as thick as wide, and spreads like the ellipse of its axes, as a circle of (W + t) / 4.
 *
 * In the grid the gate is joined to all connected nodes within `rho` of its axis by links mu w, w the share of a smooth
 * kernel. What the grid itself resists from the kernel on is in its own links; mu is such that both together give the
 * formula.
 */
export interface Star {
  gate: number;
  /** Node whose melt speaks for that in the gate. */
  node: number;
  /** Resistance over viscosity, 1/m3: of the entry, which is the gate's own loss, and of the spreading up to the kernel. */
  entry: number;
  spread: number;
  /** Apparent shear rate over flow, 1/m3: in the entry, in the spreading, and at the edge of the kernel. */
  entryRate: number;
  spreadRate: number;
  edgeRate: number;
  /** Links of the gate: node and conductance for unit fluidity, m3. */
  links: { node: number; conductance: number }[];
}

/** Least radius of the kernel: in blocks, and in radii of the gate. */
const KERNEL_BLOCKS = 1.2;
const KERNEL_RADII = 1.4;
/** The kernel goes as deep as the wall is thick, in thick walls only this many of its radii. */
const DEEPEST = 3;
/** Blocks around the kernel on which mu is found. */
const PATCH = 4;
/** Least share of the full circle that the melt spreads over, and the share from which the circle counts as whole. */
const LEAST_OPEN = 0.2;
const WHOLE = 0.97;
/** Least spreading beyond what the kernel does itself, in units of ln(r / a). */
const LEAST_SPREAD = 0.02;
/**
 * Shear rate of the entry over Q / (pi a^3): a power law then takes 4.7 K (Q / pi a^3)^n for n from 0.3 to 1, which an
 * axisymmetric solution gives as 4 to 5.
 */
const ENTRY_RATE = 1.3;

/** Mouth of a gate: thickness and width, m; alike for a round one. */
const mouthOf = ({ diameter, slot }: GateSite) => ({ t: diameter, W: Math.max(slot?.width ?? diameter, diameter) });

/** Links, resistances and shear rates of gate number `g`. Throws when its spot has no melt at all. */
export function starOf(fine: FineGrid, grid: PressureGrid, gate: GateSite, g: number): Star {
  const { t, W } = mouthOf(gate);
  const radius = (W + t) / 4;
  const h = grid.spacing;
  const rho = Math.max(KERNEL_BLOCKS * h, KERNEL_RADII * (t / 2));
  const kernel = weigh(fine, grid, gate, rho);
  const { H, open, nodes, weights } = kernel;
  const plain = 3 / (4 * Math.PI * H ** 3) / open;
  const spread = plain * Math.max(LEAST_SPREAD, -Math.log(radius) - selfEnergy(rho, h, W - t));
  const a = t / 2;
  const entry = gate.slot
    ? (16 / (Math.PI * t * t * W)) * (1 + 0.64 * (t / W)) + (0.15 / (a * H * H)) * (t / W)
    : 1.5 / a ** 3 + 0.15 / (a * H * H);
  const mu = conductanceOf(grid, gate, nodes, weights, entry + spread, rho + PATCH * h);
  const rim = Math.PI * 2 + (2 * (W - t)) / Math.sqrt(a * rho);
  const edge = Math.PI * 2 + (2 * (W - t)) / rho;
  return {
    gate: g,
    node: nodes[weights.indexOf(Math.max(...weights))],
    entry,
    spread,
    entryRate: ENTRY_RATE * (gate.slot ? 2 / (W * t * t) : 1 / (Math.PI * a ** 3)),
    // Flow over the rim and twice the half gap, times 3 / H.
    spreadRate: 3 / (2 * rim * Math.sqrt(a * rho) * H * H) / open,
    edgeRate: 3 / (2 * edge * rho * H * H) / open,
    links: nodes.map((node, k) => ({ node, conductance: mu * weights[k] })),
  };
}

/** Distance from the gate's axis (from the slot's middle plane) and depth below the surface of a point, m. */
export function seenFrom({ surface, slot, diameter }: GateSite, p: Vec3): { across: number; depth: number } {
  const { point, normal } = surface;
  const d: Vec3 = [p[0] - point[0], p[1] - point[1], p[2] - point[2]];
  const out = d[0] * normal[0] + d[1] * normal[1] + d[2] * normal[2];
  const across: Vec3 = [d[0] - out * normal[0], d[1] - out * normal[1], d[2] - out * normal[2]];
  if (slot) {
    const reach = Math.max(0, (slot.width - diameter) / 2);
    const on = across[0] * slot.along[0] + across[1] * slot.along[1] + across[2] * slot.along[2];
    const cut = Math.max(-reach, Math.min(reach, on));
    for (let k = 0; k < 3; k++) across[k] -= cut * slot.along[k];
  }
  return { across: Math.hypot(...across), depth: -out };
}

const clamp01 = (x: number) => Math.max(0, Math.min(1, x));

/** Kernel at a distance from the axis: 1 inside, falling to 0 over a block at its edge. */
const kernelAt = (r: number, rho: number, h: number) => clamp01((rho - r) / h + 0.5);

interface Kernel {
  nodes: number[];
  /** Shares of the nodes; they sum to 1. */
  weights: number[];
  /** Half gap under the kernel, m. */
  H: number;
  /** Share of the full circle that is there to spread into: less than 1 beside an edge. */
  open: number;
}

/** Weights of the nodes under the kernel that hang together with the gate's spot. */
function weigh(fine: FineGrid, grid: PressureGrid, gate: GateSite, rho: number): Kernel {
  const { cells, lattice } = fine;
  const { spacing, nx, ny, origin } = lattice;
  const h = grid.spacing;
  const { point, normal } = gate.surface;
  const inside = point.map((x, d) => x - 0.25 * spacing * normal[d]) as Vec3;
  const seed = nearestCell(fine, inside);
  const slotLength = Math.max(0, (gate.slot?.width ?? 0) - gate.diameter);
  const around = cellsAround(fine, seed, rho + h / 2 + spacing + slotLength / 2, Math.max(DEEPEST * rho, 2 * h), gate);
  const place = (c: number): Vec3 => {
    const at = cells.index[c];
    return [
      origin[0] + ((at % nx) + 0.5) * spacing,
      origin[1] + ((Math.floor(at / nx) % ny) + 0.5) * spacing,
      origin[2] + (Math.floor(at / (nx * ny)) + 0.5) * spacing,
    ];
  };
  let H = 0.5 * grid.thickness[grid.nodeOfCell[seed]];
  const weightOf = new Map<number, number>();
  let covered = 0;
  // The half gap decides how deep the kernel goes, and is its mean over the kernel.
  for (let round = 0; round < 3; round++) {
    weightOf.clear();
    covered = 0;
    let [sum, weight] = [0, 0];
    const reach = Math.min(2 * H + 0.5 * spacing, DEEPEST * rho);
    for (const c of around) {
      const { across, depth } = seenFrom(gate, place(c));
      const w = kernelAt(across, rho, h) * clamp01((reach - depth) / spacing + 0.5) * cells.volume[c];
      if (!(w > 0)) continue;
      const node = grid.nodeOfCell[c];
      weightOf.set(node, (weightOf.get(node) ?? 0) + w);
      covered += w;
      sum += w * Math.sqrt(3 * cells.mobility[c]);
      weight += w;
    }
    if (weight > 0) H = sum / weight;
  }
  if (!(covered > 0)) weightOf.set(grid.nodeOfCell[seed], (covered = 1));
  const area = Math.PI * (rho * rho + (h * h) / 12) + 2 * rho * slotLength;
  const whole = area * Math.min(2 * H, DEEPEST * rho);
  const nodes = [...weightOf.keys()].sort((a, b) => a - b);
  return {
    nodes,
    weights: nodes.map((i) => (weightOf.get(i) as number) / covered),
    H,
    open: Math.min(1, Math.max(LEAST_OPEN, covered / whole / WHOLE)),
  };
}

/** Cells that hang together with `seed` within a cylinder about the gate's axis. */
function cellsAround(
  { lattice, cells }: FineGrid,
  seed: number,
  radius: number,
  depth: number,
  gate: GateSite,
): number[] {
  const { nx, ny, spacing, origin } = lattice;
  const { point } = gate.surface;
  const near = (c: number) => {
    const at = cells.index[c];
    const dx = origin[0] + ((at % nx) + 0.5) * spacing - point[0];
    const dy = origin[1] + ((Math.floor(at / nx) % ny) + 0.5) * spacing - point[1];
    const dz = origin[2] + (Math.floor(at / (nx * ny)) + 0.5) * spacing - point[2];
    return dx * dx + dy * dy + dz * dz <= radius * radius + depth * depth;
  };
  // Links lead upwards only: those from below are found once for the cells near by.
  const local: number[] = [];
  for (let c = 0; c < cells.n; c++) if (c === seed || near(c)) local.push(c);
  const known = new Set(local);
  const back = new Map<number, number[]>();
  for (const c of local)
    for (let d = 0; d < 3; d++) {
      const other = cells.next[3 * c + d];
      if (other < 0 || !known.has(other)) continue;
      back.set(c, [...(back.get(c) ?? []), other]);
      back.set(other, [...(back.get(other) ?? []), c]);
    }
  const found = new Set([seed]);
  for (const c of found) for (const other of back.get(c) ?? []) found.add(other);
  return [...found];
}

/** Samples along a radius of the kernel when its energy is taken. */
const SAMPLES = 14;

/**
 * Mean of ln(1 / distance) over all pairs of points of a kernel of radius rho (m) with an edge of width h, drawn out
 * along a slot by `length`: what a source spread like it lacks of one at a point.
 */
function selfEnergy(rho: number, h: number, length: number): number {
  const step = (rho + h / 2) / SAMPLES;
  const reach = Math.max(0, length) / 2;
  // A long slot is sampled as finely along it as its kernel asks, up to a bound.
  const along = Math.max(step, (reach + rho + h / 2) / 60);
  const points: [number, number, number][] = [];
  let total = 0;
  for (let y = -(SAMPLES - 0.5) * step; y < rho + h / 2; y += step)
    for (let x = along / 2; x < reach + rho + h / 2; x += along)
      for (const sign of [-1, 1]) {
        const w = kernelAt(Math.hypot(Math.max(0, x - reach), y), rho, h);
        if (!(w > 0)) continue;
        points.push([sign * x, y, w]);
        total += w;
      }
  let sum = 0;
  for (let i = 0; i < points.length; i++) {
    const [x, y, w] = points[i];
    // Two points of one cell: mean of the logarithm over a square, and its known stretch.
    sum -= w * w * (Math.log(Math.sqrt(step * along)) - 0.805);
    for (let j = 0; j < i; j++) {
      const [dx, dy] = [points[j][0] - x, points[j][1] - y];
      sum -= w * points[j][2] * Math.log(dx * dx + dy * dy);
    }
  }
  return sum / (total * total);
}

/** mu such that gate, links mu w and grid resist as the source w in the grid and `add` (1/m3) before it. */
function conductanceOf(
  grid: PressureGrid,
  gate: GateSite,
  nodes: number[],
  weights: number[],
  add: number,
  reach: number,
): number {
  const patch = new Patch(grid, gate, nodes, reach);
  const source = new Float64Array(patch.n);
  nodes.forEach((node, k) => (source[patch.number.get(node) as number] = weights[k]));
  const start = new Float64Array(patch.n);
  patch.solve(source, null, start);
  const kernel = source.reduce((s, w, i) => s + w * start[i], 0);
  const wanted = kernel + add;
  const pressure = start.fill(0);
  const resistance = (mu: number) => {
    const joined = source.map((w) => mu * w);
    patch.solve(joined, joined, pressure);
    return 1 / joined.reduce((s, c, i) => s + c * (1 - pressure[i]), 0);
  };
  let low = Math.log(0.2 / wanted);
  let high = Math.log(1e3 / Math.max(add, 1e-3 * wanted));
  for (let pass = 0; pass < 24; pass++) {
    const middle = 0.5 * (low + high);
    if (resistance(Math.exp(middle)) > wanted) low = middle;
    else high = middle;
  }
  return Math.exp(0.5 * (low + high));
}

/** Nodes around a gate with the grid's links for unit fluidity; everything farther off is at no pressure. */
class Patch {
  readonly n: number;
  readonly number = new Map<number, number>();
  private readonly rows: [number, number][][];
  private readonly diagonal: Float64Array;

  constructor(grid: PressureGrid, gate: GateSite, seeds: number[], reach: number) {
    const list = [...seeds];
    list.forEach((node, k) => this.number.set(node, k));
    for (let q = 0; q < list.length; q++)
      for (let k = grid.rowStart[list[q]]; k < grid.rowStart[list[q] + 1]; k++) {
        const j = grid.rowNode[k];
        if (this.number.has(j)) continue;
        const { across, depth } = seenFrom(gate, [
          grid.position[3 * j],
          grid.position[3 * j + 1],
          grid.position[3 * j + 2],
        ]);
        if (Math.hypot(across, depth) > reach) continue;
        this.number.set(j, list.push(j) - 1);
      }
    this.n = list.length;
    this.diagonal = new Float64Array(this.n);
    let grounded = 0;
    this.rows = list.map((node, row) => {
      const own: [number, number][] = [];
      for (let k = grid.rowStart[node]; k < grid.rowStart[node + 1]; k++) {
        const c = grid.transmissibility[grid.rowLink[k]];
        this.diagonal[row] += c;
        const other = this.number.get(grid.rowNode[k]);
        if (other === undefined) grounded += c;
        else own.push([other, c]);
      }
      return own;
    });
    const mean = this.diagonal.reduce((s, d) => s + d, 0) / this.n || 1;
    // A part that lies wholly in the patch gives way at its far end.
    if (!(grounded > 0)) for (let row = Math.floor(0.8 * this.n); row < this.n; row++) this.diagonal[row] += mean;
    for (let row = 0; row < this.n; row++) if (!(this.diagonal[row] > 0)) this.diagonal[row] = mean;
  }

  /** Pressures for sources `right`, with `joined` added to the diagonal; conjugate gradients from `x` on. */
  solve(right: Float64Array, joined: Float64Array | null, x: Float64Array): void {
    const { n, rows } = this;
    const diagonal = joined ? this.diagonal.map((d, i) => d + joined[i]) : this.diagonal;
    const [r, z, p, Ap] = [0, 1, 2, 3].map(() => new Float64Array(n));
    const multiply = (v: Float64Array) => {
      for (let i = 0; i < n; i++) {
        let sum = diagonal[i] * v[i];
        for (const [j, c] of rows[i]) sum -= c * v[j];
        Ap[i] = sum;
      }
    };
    multiply(x);
    let rz = 0;
    let scale = 0;
    for (let i = 0; i < n; i++) {
      r[i] = right[i] - Ap[i];
      p[i] = z[i] = r[i] / diagonal[i];
      rz += r[i] * z[i];
      scale += (right[i] * right[i]) / diagonal[i];
    }
    for (let pass = 0; pass < 1000 && rz > 1e-14 * scale; pass++) {
      multiply(p);
      let pAp = 0;
      for (let i = 0; i < n; i++) pAp += p[i] * Ap[i];
      const step = rz / pAp;
      let next = 0;
      for (let i = 0; i < n; i++) {
        x[i] += step * p[i];
        r[i] -= step * Ap[i];
        z[i] = r[i] / diagonal[i];
        next += r[i] * z[i];
      }
      for (let i = 0; i < n; i++) p[i] = z[i] + (next / rz) * p[i];
      rz = next;
    }
  }
}
