import { closestPoint } from '../src/core/geometry/closestPoint';
import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import type { ViscosityModel } from '../src/core/material/viscosity';
import { plainContext } from '../src/core/stage/context';
import type { CoreControl, CoreFluid } from '../src/core/solvers/core/fluid';
import type { Filled, FillInput } from '../src/core/solvers/fill/outcome';
import { fill } from '../src/core/solvers/fill/stage';
import { constantFlow } from '../src/core/solvers/melt/drive';
import { placeGating } from '../src/core/solvers/melt/gating';
import { emptyState } from '../src/core/solvers/shot/state';

export const NITROGEN: CoreFluid = { gasConstant: 296.8, density: 0, temperature: 300, transfer: 0 };
/** A steady pressure, Pa. */
export const steady = (value: number, until = 1e4): CoreControl => ({
  by: 'pressure',
  points: [
    { at: 0, value },
    { at: until, value },
  ],
});

export interface CoreCase {
  mesh: TriangleMesh;
  turn: (v: Vec3) => Vec3;
  detail?: Detail;
  gate: { at: Vec3; diameter: number };
  needle: Vec3;
  viscosity: ViscosityModel;
  flowRate: number;
  /** Share of the cavity that is filled before the fluid comes. */
  prefill: number;
  control: CoreControl;
  fluid?: CoreFluid;
  delay?: number;
  surfaceTension?: number;
  /** Melt and walls, K; alike where absent: the melt keeps its temperature. */
  wall?: number;
  noFlow?: number;
}

export interface CoreRun {
  grid: PressureGrid;
  before: Filled;
  after: Filled;
  input: FillInput;
}

const MELT = 500;

/** A short shot and what a fluid in its core then does, through the stage itself. */
export async function shootCore(c: CoreCase): Promise<CoreRun> {
  const turned = mapVertices(c.mesh, c.turn);
  const fine = buildFineGrid(turned, latticeFor(turned, c.detail ?? 'normal'));
  const grid = buildPressureGrid(fine);
  const surface = closestPoint(turned, c.turn(c.gate.at));
  const gating = placeGating(fine, grid, [{ id: 'G1', surface, diameter: c.gate.diameter }]);
  const wall = c.wall ?? MELT;
  const input: FillInput = {
    grid,
    gating,
    nGates: 1,
    viscosity: c.viscosity,
    meltTemperature: MELT,
    control: { ...constantFlow(c.flowRate), switchover: { by: 'share', share: c.prefill }, packing: null },
    heat: {
      conductivity: 0.2,
      density: 900,
      specificHeat: 2200,
      sides: [{ temperature: wall, transfer: 1e4 }],
      sideOf: new Uint8Array(2 * grid.n),
      noFlowTemperature: c.noFlow ?? 0,
      transitionTemperature: c.noFlow ?? 0,
    },
    air: null,
    projectedArea: null,
    timeLimit: 1e5,
  };
  const before = await fill(emptyState(grid, gating), input, plainContext());
  if (before.status !== 'switched') throw new Error(`the melt ended ${before.status}`);
  const needle = c.turn(c.needle);
  const away = (i: number) => Math.hypot(...needle.map((x, d) => grid.centroid[3 * i + d] - x));
  const nearest = [...grid.volume.keys()].reduce((best, i) => (away(i) < away(best) ? i : best));
  const core = {
    needles: [nearest],
    from: before.state.time + (c.delay ?? 0),
    control: c.control,
    fluid: c.fluid ?? NITROGEN,
    surfaceTension: c.surfaceTension ?? 0,
  };
  const next = { ...input, core, before: before.result };
  const after = await fill(before.state, next, plainContext());
  if (after.status === 'failed') throw new Error(after.message);
  return { grid, before, after, input: next };
}
