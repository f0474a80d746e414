import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import { toolOnGrid } from '../src/core/grid/tool';
import type { ViscosityModel } from '../src/core/material/viscosity';
import { footprint, type Footprint } from '../src/core/setup/charge';
import { plainContext } from '../src/core/stage/context';
import type { Filled, FillInput } from '../src/core/solvers/fill/outcome';
import type { Following } from '../src/core/solvers/fill/settleFlow';
import { fill } from '../src/core/solvers/fill/stage';
import { constantFlow } from '../src/core/solvers/melt/drive';
import type { Thermal } from '../src/core/solvers/melt/columns';
import { noGating } from '../src/core/solvers/melt/gating';
import { emptyState } from '../src/core/solvers/shot/state';

export interface PressCase {
  mesh: TriangleMesh;
  turn: (v: Vec3) => Vec3;
  detail?: Detail;
  /** Along z before the turn, as the charge. */
  charge: Omit<Footprint, 'along' | 'at'> & { at: Vec3 };
  /** Volume of the charge, m3. */
  volume: number;
  viscosity: ViscosityModel;
  speed: number;
  force: number;
  /** How long the force is kept on a full cavity, s. */
  hold?: number;
  /** Melt and walls, K; alike where absent: the melt keeps its temperature. */
  melt?: number;
  wall?: number;
  noFlow?: number;
  thermal?: Thermal;
  following?: Following;
}

const MELT = 500;
const PLAIN: Thermal = { conductivity: 0.2, density: 900, specificHeat: 2200 };

export interface PressRun {
  grid: PressureGrid;
  input: FillInput;
  after: Filled;
  /** Gap at the start, m, and projected area, m2. */
  gap: number;
  area: number;
  growth: Float64Array;
}

/** A charge in an open tool that closes, through the stage itself. */
export async function press(c: PressCase): Promise<PressRun> {
  const melt = c.melt ?? MELT;
  const turned = mapVertices(c.mesh, c.turn);
  const fine = buildFineGrid(turned, latticeFor(turned, c.detail ?? 'normal'));
  const grid = buildPressureGrid(fine);
  const opening = c.turn([0, 0, 1]);
  const tool = toolOnGrid(turned, fine, grid, { opening, partingHeight: null }, { halves: false, growth: true });
  const growth = tool.growth!;
  const { share, gap } = footprint(
    fine,
    grid,
    growth,
    { ...c.charge, at: [c.turn(c.charge.at)], along: opening, across: c.turn(c.charge.across ?? [1, 0, 0]) },
    c.volume,
  );
  const input: FillInput = {
    grid,
    gating: noGating(grid),
    nGates: 0,
    viscosity: c.viscosity,
    meltTemperature: melt,
    control: { ...constantFlow(1e-6), packing: null },
    heat: {
      ...(c.thermal ?? PLAIN),
      sides: [{ temperature: c.wall ?? melt, transfer: 2000 }],
      sideOf: new Uint8Array(2 * grid.n),
      noFlowTemperature: c.noFlow ?? 0,
      transitionTemperature: c.noFlow ?? 0,
    },
    air: null,
    projectedArea: tool.projectedArea,
    timeLimit: 1e5,
    ...c.following,
    press: {
      growth,
      area: tool.projectedArea,
      gap,
      closing: { from: 0, speed: c.speed, force: c.force, hold: c.hold ?? 1 },
      charge: { share, temperature: melt },
    },
  };
  const after = await fill(emptyState(grid, input.gating), input, plainContext());
  if (after.status === 'failed') throw new Error(after.message);
  return { grid, input, after, gap, area: tool.projectedArea.reduce((s, a) => s + a, 0), growth };
}
