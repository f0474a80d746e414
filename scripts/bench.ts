/**
 * `npm run bench`: seconds for grid, one pressure solve and the whole fill of the Feeder tray at each
 * detail, with counts. Nothing is asserted; machines differ, compare ratios.
 */
import { readFileSync } from 'node:fs';
import { readStl } from '../src/core/formats/stl';
import { weld } from '../src/core/geometry/mesh';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { sectionFlow } from '../src/core/material/sectionFlow';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import { STEPS } from '../src/core/pipeline/pipeline';
import { partSize, resolveSettings } from '../src/core/pipeline/settings';
import { plainContext } from '../src/core/pipeline/stage';
import { surfaceMap } from '../src/core/results/surfaceMap';
import { placeInlet } from '../src/core/solvers/fill/inlet';
import { FlowSolver } from '../src/core/solvers/fill/pressure';
import { runFill } from '../src/core/solvers/fill/stage';

const details = (process.argv[2]?.split(',') ?? ['quick', 'normal', 'fine']) as Detail[];
const soup = readStl(readFileSync(new URL('../samples/feeder-tray.stl', import.meta.url)));
const { mesh } = weld(Float64Array.from(soup, (x) => x / 1000));
const since = (t: number) => ((performance.now() - t) / 1000).toFixed(2);
const rows: Record<string, string | number>[] = [];

for (const detail of details) {
  const inputs: Inputs = { ...emptyInputs('feeder-tray'), detail };
  const settings = resolveSettings(inputs, partSize(mesh));
  let t = performance.now();
  const fine = buildFineGrid(mesh, latticeFor(mesh, detail));
  const grid = buildPressureGrid(fine);
  const gridSeconds = since(t);
  t = performance.now();
  const map = surfaceMap(mesh, fine, grid);
  const mapSeconds = since(t);
  const gate = { id: 'G1', surface: closestPoint(mesh, [0.004, 0.003, 0]), diameter: 0.002 };
  const inlet = placeInlet(fine, grid, [gate]);
  const solver = new FlowSolver(grid, inlet, sectionFlow(settings.resin.viscosity, settings.meltTemperature));
  solver.fluidity.fill(1e-3);
  const full = new Uint8Array(grid.n).fill(1);
  // A front somewhere: the last twentieth of the nodes is empty.
  full.fill(0, Math.floor(0.95 * grid.n));
  t = performance.now();
  solver.solve(full, 1e-8);
  const solveSeconds = since(t);
  t = performance.now();
  const outcome = await runFill(
    {
      grid,
      inlet,
      nGates: 1,
      viscosity: settings.resin.viscosity,
      meltTemperature: settings.meltTemperature,
      flowRate: settings.flowRate,
      pressureLimit: settings.pressureLimit,
      timeLimit: settings.freezeTime,
      nSteps: STEPS[detail],
    },
    plainContext(),
  );
  const fillSeconds = since(t);
  if (outcome.status === 'failed') throw new Error(outcome.message);
  rows.push({
    detail,
    cells: fine.cells.n,
    nodes: grid.n,
    thin: fine.thin.length,
    'grid s': gridSeconds,
    'surface map s': mapSeconds,
    triangles: map.triangles.length / 3,
    'solve s': solveSeconds,
    'solve its': solver.iterations,
    'fill s': fillSeconds,
    steps: outcome.result.steps,
    solves: outcome.result.solves,
    its: outcome.result.iterations,
    'p MPa': (Math.max(...outcome.result.history.pressure.slice(0, -3)) / 1e6).toFixed(2),
    MB: Math.round(process.memoryUsage().rss / 1e6),
  });
  console.table(rows.slice(-1));
}
