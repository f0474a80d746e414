import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import { stressForm } from '../src/core/material/stressForm';
import type { ViscosityModel } from '../src/core/material/viscosity';
import { Carrier } from '../src/core/solvers/melt/carrier';
import { Columns, type Thermal, type WallSide } from '../src/core/solvers/melt/columns';
import { Behind } from '../src/core/solvers/melt/behind';
import { Heat } from '../src/core/solvers/melt/heat';
import type { Gating } from '../src/core/solvers/melt/gating';
import { FlowSolver } from '../src/core/solvers/melt/pressure';
import { behindSpec } from '../src/core/solvers/melt/stacks';
import { box } from './shapes';

export interface ChannelCase {
  /** A body along x from 0; melt enters over the whole section. */
  mesh: TriangleMesh;
  length: number;
  turn: (v: Vec3) => Vec3;
  detail?: Detail;
  viscosity: ViscosityModel;
  thermal: Thermal;
  melt: number;
  walls: WallSide[];
  noFlow?: number;
  /** Only the middle row of nodes along a plate, cut off from its sides: a slit without side walls. */
  strip?: boolean;
}

/**
 * Steady flow through a channel with the classes of the fill stage: the first block of the body is the
 * inlet, the last one stays open to the air.
 */
export class Channel {
  readonly grid: PressureGrid;
  readonly columns: Columns;
  readonly heat: Heat;
  private readonly carrier: Carrier;
  readonly solver: FlowSolver;
  readonly full: Uint8Array;
  /** Place of each node along the channel from the inlet's face, and across it, m. */
  readonly along: Float64Array;
  readonly across: Float64Array;
  /** Clear length between the faces of inlet and outlet, m. */
  readonly length: number;
  private readonly order: () => Int32Array;
  private readonly gating: Gating;
  private readonly air: Float64Array;
  private readonly pinned: Uint8Array;

  constructor(c: ChannelCase) {
    const turned = mapVertices(c.mesh, c.turn);
    const fine = buildFineGrid(turned, latticeFor(turned, c.detail ?? 'normal'));
    const grid = (this.grid = buildPressureGrid(fine));
    const [ex, ey] = [c.turn([1, 0, 0]), c.turn([0, 1, 0])];
    const on = (e: Vec3, i: number) => e.reduce((s, x, d) => s + x * grid.position[3 * i + d], 0);
    const x = Float64Array.from({ length: grid.n }, (_, i) => on(ex, i));
    this.across = Float64Array.from({ length: grid.n }, (_, i) => on(ey, i));
    if (c.strip)
      for (let l = 0; l < grid.linkAxis.length; l++) if (grid.linkAxis[l] === 1) grid.transmissibility[l] = 0;
    const row = c.strip ? this.across.reduce((m, y) => (Math.abs(y) < Math.abs(m) ? y : m), Infinity) : NaN;
    const kept = (i: number) => !c.strip || Math.abs(this.across[i] - row) < 1e-9;
    const [start, end] = [1.5 * grid.spacing, c.length - 1.5 * grid.spacing];
    this.gating = {
      gateOfNode: Int16Array.from(x, (v, i) => (v < start && kept(i) ? 0 : -1)),
      linkFactor: new Float32Array(grid.linkFrom.length).fill(1),
      stars: [],
      attached: [],
    };
    this.full = Uint8Array.from(x, (v, i) => (v < end && kept(i) ? 1 : 0));
    const form = stressForm(c.viscosity, c.noFlow ?? 0);
    const sideOf = new Uint8Array(2 * grid.n);
    for (let i = 0; i < grid.n; i++) sideOf[2 * i + 1] = c.walls.length - 1;
    this.columns = new Columns(grid, form, c.thermal, { sides: c.walls, sideOf }, c.melt);
    this.heat = new Heat(grid, this.columns, c.thermal, c.melt, c.walls[0].temperature);
    this.carrier = new Carrier(grid, this.columns, this.gating, this.heat);
    this.solver = new FlowSolver(grid, this.gating, this.columns);
    this.solver.fluidity.fill(1e-3);
    this.air = new Float64Array(grid.n);
    this.pinned = Uint8Array.from(this.gating.gateOfNode, (g) => (g >= 0 ? 1 : 0));
    // Gating and outlet faces: midway between the last node on one side and the first on the other.
    const inside = x.filter((v) => v >= start && v < end);
    const last = x.filter((v) => v < start).reduce((m, v) => Math.max(m, v), -Infinity);
    const first = inside.reduce((m, v) => Math.min(m, v), Infinity);
    const face = (last + first) / 2;
    this.along = x.map((v) => v - face);
    const outer = x.filter((v) => v >= end).reduce((m, v) => Math.min(m, v), Infinity);
    this.length = (inside.reduce((m, v) => Math.max(m, v), 0) + outer) / 2 - face;
    const gate = this.gating.gateOfNode;
    this.order = () =>
      Int32Array.from([...this.full.keys()].filter((i) => this.full[i] && gate[i] < 0)).sort(
        (a, b) => this.solver.pressure[b] - this.solver.pressure[a],
      );
  }

  /** Flow [m3/s] with the present temperatures, then one step of heat. */
  step(flow: number, dt: number, passes = 6): void {
    const { solver, columns, full, gating } = this;
    for (let i = 0; i < full.length; i++) if (full[i] && gating.gateOfNode[i] < 0) columns.prepare(i, 0);
    for (let pass = 0; pass < passes; pass++) {
      solver.solve(full, this.air, { flow }, 1e-6, pass > 0);
      if (solver.updateFluidity(full, 1) < 1e-4) break;
    }
    const volume = this.grid.volume.map((v, i) => (full[i] ? v : 0));
    this.carrier.advance(dt, solver, full, this.order(), this.pinned, volume, volume);
  }

  /** Mean of a value over the nodes near a place along the channel, in the middle of its width. */
  at(place: number, halfWidth: number, value: (node: number) => number): number {
    const { grid, along, across, full } = this;
    let sum = 0;
    let weight = 0;
    for (let i = 0; i < grid.n; i++) {
      if (!full[i] || Math.abs(across[i]) > halfWidth || this.gating.gateOfNode[i] >= 0) continue;
      const w = Math.max(0, 1 - Math.abs(along[i] - place) / grid.spacing) * grid.volume[i];
      if (w <= 0) continue;
      sum += w * value(i);
      weight += w;
    }
    return sum / weight;
  }
}

/** The middle of a plate through which nothing flows: one column of the real grid, conduction only. */
export function coolingPlate(
  thermal: Thermal,
  thickness: number,
  melt: number,
  walls: [number, number],
  transfer: number,
) {
  const width = 8 * thickness;
  const mesh = box(width, width, thickness);
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'normal'));
  const grid = buildPressureGrid(fine);
  const sides = walls[0] === walls[1] ? [walls[0]] : walls;
  const sideOf = new Uint8Array(2 * grid.n);
  for (let i = 0; i < grid.n; i++) sideOf[2 * i + 1] = sides.length - 1;
  const columns = new Columns(
    grid,
    stressForm({ kind: 'newtonian', eta: 100 }),
    thermal,
    { sides: sides.map((temperature) => ({ temperature, transfer })), sideOf },
    melt,
  );
  const heat = new Heat(grid, columns, thermal, melt, walls[0]);
  let node = 0;
  let nearest = Infinity;
  for (let i = 0; i < grid.n; i++) {
    const d = Math.hypot(grid.position[3 * i] - width / 2, grid.position[3 * i + 1], grid.position[3 * i + 2]);
    if (d < nearest) [nearest, node] = [d, i];
  }
  const reach = columns.reach[node];
  const last = columns.nHalves - 1;
  return {
    columns,
    node,
    rest: (dt: number) => heat.rest(dt, [node], grid.volume),
    /** Heat in the column and given to the walls, J. */
    stored: () => heat.stored(grid.volume.map((v, i) => (i === node ? v : 0))),
    lost: () => heat.balance.lost,
    mean: () => columns.meanTemperature(node),
    middle: () => columns.middleTemperature(node),
    skin: (limit: number) => columns.colderShare(node, limit) * reach,
    /** W/m2 through the second wall. */
    flux: () => transfer * (columns.surfaceTemperature(node, last) - walls[1]),
    /** 12 / s^3 times the first moment of T about the middle, K/m, from the first wall to the second. */
    gradient: () => {
      const N = 4000;
      let moment = 0;
      for (let k = 0; k < N; k++) {
        const zeta = (k + 0.5) / N;
        moment +=
          (zeta * reach * (columns.temperatureAt(node, 1, zeta) - columns.temperatureAt(node, 0, zeta)) * reach) / N;
      }
      return (12 * moment) / (2 * reach) ** 3;
    },
  };
}

/** A plate of fresh melt on a moulded plate: a column of the real grid with a body behind it, conduction only. */
export function backedPlate(
  melt: Thermal & { thickness: number; start: number },
  backing: Thermal & { thickness: number; start: number },
  walls: [number, number],
  contact: number,
) {
  const width = 8 * melt.thickness;
  const mesh = box(width, width, melt.thickness);
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'normal'));
  const grid = buildPressureGrid(fine);
  const sideOf = Uint8Array.from({ length: 2 * grid.n }, (_, i) => i % 2);
  const sides = [
    { temperature: walls[0], transfer: 1e9 },
    { temperature: backing.start, transfer: 1e9, behind: 0 },
  ];
  const columns = new Columns(grid, stressForm({ kind: 'newtonian', eta: 100 }), melt, { sides, sideOf }, melt.start);
  const slab = { material: backing, thickness: backing.thickness, joint: contact, plastic: true };
  const spec = behindSpec([
    { slabs: [{ ...slab, temperature: () => backing.start }], far: { temperature: walls[1], transfer: 1e9 }, area: 1 },
  ]);
  const behind = new Behind(spec);
  const heat = new Heat(grid, columns, melt, melt.start, walls[0], behind);
  let node = 0;
  let nearest = Infinity;
  for (let i = 0; i < grid.n; i++) {
    const d = Math.hypot(grid.position[3 * i] - width / 2, grid.position[3 * i + 1], grid.position[3 * i + 2]);
    if (d < nearest) [nearest, node] = [d, i];
  }
  let [taken, flux] = [0, 0];
  const joint = (): [number, number] => {
    const surface = columns.surfaceTemperature(node, 1);
    return [surface, behind.faceTemperature(0, flux)];
  };
  const at = node * columns.nLayers;
  const { thickness } = spec.layer;
  return {
    rest: (dt: number) => {
      heat.rest(dt, [node], grid.volume);
      flux = (behind.memory.taken[0] - taken) / dt;
      taken = behind.memory.taken[0];
    },
    meanMelt: () => columns.meanTemperature(node),
    meanBacking: () => behind.memory.temperature.reduce((s, T, j) => s + T * thickness[j], 0) / backing.thickness,
    joint,
    hottest: () => Math.max(joint()[0], ...columns.temperature.subarray(at, at + columns.nLayers)),
    /** Heat that the backing has more than at its start, and what has gone through it, J/m2; from the melt. */
    heat: () => ({ gained: behind.gained(0), passedOn: behind.memory.passedOn[0], taken: behind.memory.taken[0] }),
  };
}
