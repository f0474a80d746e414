import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import type { DensityModel } from '../src/core/material/pvt';
import { stressForm } from '../src/core/material/stressForm';
import type { ViscosityModel } from '../src/core/material/viscosity';
import type { Thermal, WallSide } from '../src/core/solvers/fill/columns';
import { CompiledColumns, CompiledHeat } from '../src/core/solvers/fill/compiledColumns';
import { emptyFront } from '../src/core/solvers/fill/front';
import type { Inlet } from '../src/core/solvers/fill/inlet';
import type { FillResult } from '../src/core/solvers/fill/outcome';
import { ValvePins } from '../src/core/solvers/fill/pins';
import { FlowSolver } from '../src/core/solvers/fill/pressure';
import { FrameRecorder } from '../src/core/solvers/fill/record';
import type { PackInput, PackResult } from '../src/core/solvers/pack/outcome';
import { runPack } from '../src/core/solvers/pack/stage';
import { plainContext } from '../src/core/pipeline/stage';

export interface PackCase {
  mesh: TriangleMesh;
  turn?: (v: Vec3) => Vec3;
  detail?: Detail;
  viscosity: ViscosityModel;
  noFlow: number;
  thermal: Thermal;
  walls: WallSide[];
  melt: number;
  /** Pressure in the cavity before packing, Pa. */
  before: number;
  /** Nodes that are the inlet, by their position in the body's own axes. */
  inletAt: (position: Vec3) => boolean;
  density: DensityModel;
}

/** A cavity that is full of melt of one temperature and pressure: where the packing stage begins. */
export function filledCavity(c: PackCase): { grid: PressureGrid; fill: FillResult; place: (i: number) => Vec3 } {
  const turn = c.turn ?? ((v: Vec3) => v);
  const mesh = mapVertices(c.mesh, turn);
  const grid = buildPressureGrid(buildFineGrid(mesh, latticeFor(mesh, c.detail ?? 'normal')));
  const axes = ([0, 1, 2] as const).map((d) => turn([d === 0 ? 1 : 0, d === 1 ? 1 : 0, d === 2 ? 1 : 0]));
  const place = (i: number): Vec3 =>
    axes.map((e) => e.reduce((s, x, d) => s + x * grid.position[3 * i + d], 0)) as Vec3;
  const inlet: Inlet = {
    gateOfNode: Int16Array.from({ length: grid.n }, (_, i) => (c.inletAt(place(i)) ? 0 : -1)),
    linkFactor: new Float32Array(grid.linkFrom.length).fill(1),
    stars: [],
    attached: [],
  };
  const sideOf = new Uint8Array(2 * grid.n);
  for (let i = 0; i < grid.n; i++) sideOf[2 * i + 1] = c.walls.length - 1;
  const walls = { sides: c.walls.map((w) => ({ ...w })), sideOf };
  const columns = new CompiledColumns(grid, stressForm(c.viscosity, c.noFlow), c.thermal, walls, c.melt);
  const heat = new CompiledHeat(grid, columns, c.thermal, c.melt, Math.min(...c.walls.map((w) => w.temperature)));
  const solver = new FlowSolver(grid, inlet, columns);
  solver.pressure.fill(c.before);
  solver.fluidity.fill(1e-3);
  const front = emptyFront(grid);
  front.fillTime.fill(0);
  const history = { time: [0], nozzlePressure: [c.before], pressure: [c.before], flowRate: [0], shareFilled: [1] };
  const fill = {
    fillTime: front.fillTime,
    columns,
    heat,
    history: {
      ...history,
      clampForce: [0],
      phase: ['packing'],
      gateFlow: [[0]],
      gatePressure: [[c.before]],
      gateLoss: [[0]],
    },
    switchedAt: { time: 0, share: 1, pressure: c.before, packing: c.before },
    state: {
      grid,
      inlet,
      solver,
      pins: new ValvePins([], inlet.linkFactor),
      recorder: new FrameRecorder(grid, columns, 0, 10),
    },
  } as unknown as FillResult;
  return { grid, fill, place };
}

/** Packs a case; everything that is not given is plain: held to the end, contact as before. */
export async function pack(
  fill: FillResult,
  density: DensityModel,
  own: Partial<PackInput> & Pick<PackInput, 'control' | 'freezeTime'>,
): Promise<PackResult> {
  const outcome = await runPack(
    {
      fill,
      density,
      detachedTransfer: null,
      ejectionTemperature: 0,
      transitionTemperature: 0,
      noFlowTemperature: 0,
      solidShare: 1,
      openAt: null,
      projectedArea: null,
      ...own,
    },
    plainContext(),
  );
  if (outcome.status === 'failed') throw new Error(outcome.message);
  return outcome.result;
}
