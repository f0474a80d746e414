import { makeField, type Field } from '../fields/field';
import type { TriangleMesh } from '../geometry/mesh';
import { buildFineGrid, type FineGrid } from '../grid/grid';
import { latticeFor, MAX_DENSE_CELLS } from '../grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../grid/pressureGrid';
import type { Inputs } from '../model/study';
import { summarise, type Summary } from '../results/summary';
import { surfaceMap, type SurfaceMap } from '../results/surfaceMap';
import type { Answer } from '../results/willItFill';
import { placeInlet } from '../solvers/fill/inlet';
import { runFill, type FillHistory, type FillResult } from '../solvers/fill/stage';
import { checkRun, type Problem } from './checkRun';
import { partSize, resolveSettings, type FillSettings } from './settings';
import type { StageContext } from './stage';

/** Bumped whenever the same inputs give other numbers. */
export const SOLVER_VERSION = 'fill-1';

/** Steps over the whole volume: the front should cross about one node per step. */
export const STEPS: Record<Inputs['detail'], number> = { quick: 50, normal: 110, fine: 150 };

export interface GridResult {
  fine: FineGrid;
  grid: PressureGrid;
  gridKey: string;
}

export type PipelineOutcome =
  | { status: 'refused'; problems: Problem[] }
  | { status: 'failed'; message: string; likely: string }
  | {
      status: 'filled' | 'stalled';
      summary: Summary;
      answers: Answer[];
      history: FillHistory;
      fields: Field[];
      gridResult: GridResult;
      settings: FillSettings;
      fill: FillResult;
    };

export interface PipelineHooks {
  /** Called once the grid is there, before filling starts. The map is made only when asked for. */
  onGrid?: (result: GridResult, map: () => SurfaceMap) => void;
}

/**
 * Grid and fill for one set of inputs. `mesh` must be closed and point outwards; `geometryKey`
 * identifies it (content hash), so that fields of different runs can be told apart.
 */
export async function runPipeline(
  mesh: TriangleMesh,
  geometryKey: string,
  inputs: Inputs,
  ctx: StageContext,
  hooks: PipelineHooks = {},
): Promise<PipelineOutcome> {
  const { problems, surfaces } = checkRun(inputs, mesh);
  if (problems.length) return { status: 'refused', problems };
  const settings = resolveSettings(inputs, partSize(mesh));
  const gridResult = await makeGrid(mesh, geometryKey, inputs, ctx);
  if ('message' in gridResult) return { status: 'failed', ...gridResult };
  const { fine, grid } = gridResult;
  hooks.onGrid?.(gridResult, () => surfaceMap(mesh, fine, grid));
  const inlet = placeInlet(
    fine,
    grid,
    inputs.gates.map((gate, g) => ({ id: gate.id, surface: surfaces[g], diameter: gate.diameter })),
  );
  const outcome = await runFill(
    {
      grid,
      inlet,
      nGates: inputs.gates.length,
      viscosity: settings.resin.viscosity,
      meltTemperature: settings.meltTemperature,
      flowRate: settings.flowRate,
      pressureLimit: settings.pressureLimit,
      timeLimit: settings.freezeTime,
      nSteps: STEPS[inputs.detail],
    },
    ctx,
  );
  if (outcome.status === 'failed') return { status: 'failed', message: outcome.message, likely: outcome.likely };
  const { summary, answers } = summarise(mesh, gridResult, outcome, inputs, settings);
  return {
    status: outcome.status,
    summary,
    answers,
    history: outcome.result.history,
    fields: fieldsOf(gridResult, outcome.result),
    gridResult,
    settings,
    fill: outcome.result,
  };
}

async function makeGrid(
  mesh: TriangleMesh,
  geometryKey: string,
  inputs: Inputs,
  ctx: StageContext,
): Promise<GridResult | { message: string; likely: string }> {
  const report = (fraction: number, message: string) => ctx.report({ stage: 'grid', fraction, message });
  report(0, 'Cutting the part into cells');
  await ctx.checkpoint();
  const lattice = latticeFor(mesh, inputs.detail);
  const nDense = lattice.nx * lattice.ny * lattice.nz;
  if (nDense > MAX_DENSE_CELLS)
    return {
      message: `At this detail the box around the part has ${Math.round(nDense / 1e6)} million cells, more than fit.`,
      likely:
        'Choose a coarser Detail, or check the unit: a wall much thinner than the part is long suggests a wrong one.',
    };
  const fine = buildFineGrid(mesh, lattice);
  report(0.7, `${fine.cells.n.toLocaleString('en-GB')} cells; joining them into the pressure grid`);
  await ctx.checkpoint();
  const grid = buildPressureGrid(fine);
  report(1, `${fine.cells.n.toLocaleString('en-GB')} cells, ${grid.n.toLocaleString('en-GB')} pressure nodes`);
  await ctx.checkpoint();
  return { fine, grid, gridKey: `${geometryKey.slice(0, 16)}-${inputs.detail}` };
}

function fieldsOf({ grid, gridKey }: GridResult, result: FillResult): Field[] {
  return [
    makeField('fillTime', 'Fill time', 's', gridKey, [result.fillTime]),
    makeField('pressure', 'Pressure', 'Pa', gridKey, result.pressureFrames, result.frameTimes),
    makeField('thickness', 'Wall thickness', 'm', gridKey, [grid.thickness]),
    makeField('peakShearRate', 'Peak shear rate', '1/s', gridKey, [result.peakShearRate]),
  ];
}
