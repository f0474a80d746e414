import type { Field } from '../fields/field';
import { edgeTable } from '../geometry/edges';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import { findShells } from '../geometry/shells';
import type { PressureGrid } from '../grid/pressureGrid';
import { toolHold } from '../grid/toolHold';
import { warpageOf } from '../model/warpage';
import { toolOnGrid } from '../grid/tool';
import { openingOf } from '../model/body';
import type { Inputs } from '../model/study';
import type { Answer } from '../results/answer';
import { failed, guardFill, guardGrid, guardPack, guardShape } from '../results/guard';
import type { Breach } from '../results/guardRules';
import { longestSide } from '../results/shape';
import type { Findings } from '../results/findings';
import { summarise, type Summary } from '../results/summary';
import { surfaceMap, type SurfaceMap } from '../grid/surfaceMap';
import type { FillResult } from '../solvers/fill/outcome';
import type { ShotHistory } from '../solvers/shot/history';
import type { PackResult } from '../solvers/pack/outcome';
import type { WarpInput } from '../solvers/warp/stage';
import { checkRun, type Problem } from './checkRun';
import { fieldsOf } from './fields';
import { makeGrid, type GridResult } from '../setup/grids';
import type { PhaseStore } from './process';
import { planOf, RunProgress } from './progress';
import { gridErrorOf, tellMargins, type GridError } from './gridError';
import { resolve } from '../setup/resolve';
import type { FillSettings } from '../setup/settings';
import { settleMould, type Mould } from '../setup/mould';
import { cooledBy, noShape, whatShape } from '../results/whatShape';
import { shapeOf, shotStrainOf, warpInputOf, type Shape } from './shape';
import { shoot } from './shot';
import type { StageContext } from '../stage/context';

export type PipelineOutcome =
  | { status: 'refused'; problems: Problem[] }
  | { status: 'failed'; message: string; likely: string; place?: Vec3 | null }
  | {
      status: 'filled' | 'stalled';
      summary: Summary;
      answers: Answer[];
      findings: Findings;
      /** Bounds that the result breaks. With one broken it is not shown as a result; it is stored so that the cause can be found. */
      breaches: Breach[];
      /** How far the key numbers would still move with the grid; null at Detail quick. */
      gridError: GridError | null;
      /** Of the whole cycle. */
      history: ShotHistory;
      /** Mass and solid share over time; null when the cycle was not calculated beyond the filling. */
      course: PackResult['course'] | null;
      /** Gates in the order of the history; with copies that are solved one by one, those of all. */
      gateIds: string[];
      fields: Field[];
      gridResult: GridResult;
      settings: FillSettings;
      fill: FillResult;
      pack: PackResult | null;
      /** null where the mould has the temperature that is set. */
      mould: Mould | null;
      /** null where it was not asked for. */
      shape: Shape | null;
      /** Phases that were not run again since nothing that they read has changed. */
      reused: string[];
    };

export interface PipelineHooks {
  /** Called once the grid is there, before filling starts. The map is made only when asked for. */
  onGrid?: (result: GridResult, map: () => SurfaceMap) => void;
  /** Surfaces of bodies that are no cavities, by their id: inserts of the mould. */
  bodies?: ReadonlyMap<string, TriangleMesh>;
  /** false leaves the shape out. */
  shape?: boolean;
  /** false leaves the estimate of the grid error out. */
  gridError?: boolean;
  /** Number of steps in time over the usual; 1 where absent. */
  steps?: number;
  /** Outcomes of phases that earlier runs have left. */
  store?: PhaseStore;
}

/**
 * A whole run of one study. `cavity` must be closed and point outwards; `geometryKey`
 * identifies it (content hash), so that fields of different runs can be told apart.
 */
export async function runPipeline(
  cavity: TriangleMesh,
  geometryKey: string,
  study: Inputs,
  ctx: StageContext,
  hooks: PipelineHooks = {},
): Promise<PipelineOutcome> {
  const asGiven = checkRun(study, cavity);
  if (asGiven.problems.length) return { status: 'refused', problems: asGiven.problems };
  const run = resolve(cavity, study);
  const { mesh, inputs, settings } = run;
  // Gates of copies that are solved one by one are held against their surfaces like any.
  const { problems, surfaces } = mesh === cavity ? asGiven : checkRun(inputs, mesh);
  if (problems.length) return { status: 'refused', problems };
  const gridResult = await makeGrid(mesh, geometryKey, inputs, ctx);
  if ('message' in gridResult) return { status: 'failed', ...gridResult };
  const { fine, grid } = gridResult;
  const [unsound] = guardGrid(mesh, fine, grid);
  if (unsound) return { status: 'failed', message: unsound.message, likely: unsound.remedy, place: unsound.place };
  hooks.onGrid?.(gridResult, () => surfaceMap(mesh, fine, grid));
  await ctx.checkpoint();
  const unequal = !inputs.cooling && settings.mouldTemperature !== settings.lowerMouldTemperature;
  const tool = toolOnGrid(mesh, fine, grid, toolOf(inputs), unequal);
  await ctx.checkpoint();
  let mould: Mould | null = null;
  if (inputs.cooling) {
    const settled = await settleMould(run, gridResult, hooks.bodies ?? NONE, ctx);
    if (settled.status === 'failed') return settled;
    mould = settled.mould;
  }
  const walls = mould?.source.wallTemperature ?? null;
  const packs = inputs.upTo !== 'fill' && warpageOf(inputs).hold === 'tool';
  const steel = packs ? toolHold(mesh, fine, grid) : null;
  await ctx.checkpoint();
  const shot = { ...run, gridResult, tool, surfaces, walls, steel, steps: hooks.steps };
  let outcome = await shoot(shot, ctx, hooks.store);
  if (mould && outcome.status !== 'failed' && outcome.pack && settings.coolingTime === null) {
    const moved = await mould.resettle(outcome.pack.node.ejectableAt, ctx);
    // The shot has set the length of the cycle, and that the temperature of the mould: where it matters, once more.
    if (Math.abs(moved) > MOULD_MOVED) outcome = await shoot(shot, ctx, hooks.store);
  }
  if (outcome.status === 'failed') {
    const { message, likely, node } = outcome;
    return { status: 'failed', message, likely, place: node >= 0 && node < grid.n ? nodePlace(grid, node) : null };
  }
  const breaches = [
    ...guardFill(grid, outcome, settings),
    ...(outcome.pack ? guardPack(grid, outcome.pack, settings) : []),
  ];
  const summary = summarise(run, gridResult, outcome, tool, mould);
  let shape: Shape | null = null;
  const packed = summary.summary.pack;
  const strain =
    outcome.pack && !inputs.upTo && hooks.shape !== false ? shotStrainOf(outcome.pack, settings, mould) : null;
  if (strain && packed) {
    const input = warpInputOf(run, gridResult, strain, hooks.bodies ?? NONE);
    const solved = await shapeOf(input, strain, gridResult.gridKey, inputs, ctx);
    if (solved.status === 'solved') {
      shape = solved.shape;
      summary.summary.shape = shape.facts;
      summary.answers.push(
        whatShape(shape.facts, inputs, settings, packed, cooledBy(summary.summary.cool, summary.answers)),
      );
      breaches.push(...guardShape(shape.facts, shape.result, shapeBounds(shape.input)));
      // The cycle is there all the same.
    } else summary.answers.push(noShape(solved));
  }
  const coarser = COARSER[inputs.detail];
  const gridError =
    coarser && hooks.gridError !== false
      ? await errorAgainst(mesh, geometryKey, atDetail(inputs, coarser), summary.summary, hooks, ctx)
      : null;
  const judged = gridError ? tellMargins(summary.answers, gridError, settings, summary.summary) : summary.answers;
  return {
    status: outcome.status,
    ...summary,
    answers: failed(judged, breaches),
    breaches,
    gridError,
    history: outcome.pack?.history ?? outcome.result.history,
    course: outcome.pack?.course ?? null,
    gateIds: inputs.gates.map((g) => g.id),
    fields: [
      ...fieldsOf(
        gridResult,
        outcome.result,
        outcome.frames,
        outcome.pack,
        summary.sinks,
        inputs,
        mould,
        steel,
        settings.resin,
      ),
      ...(outcome.inFeed ?? []),
      ...(shape?.fields ?? []),
    ],
    gridResult,
    settings,
    fill: outcome.result,
    pack: outcome.pack,
    mould,
    shape,
    reused: outcome.reused,
  };
}

/** What the shape of a part is held against: loose pieces, size [m] and stiffness [Pa]. */
function shapeBounds({ part, inserts, plastic }: WarpInput) {
  const loose = (mesh: TriangleMesh) => findShells(mesh, edgeTable(mesh)).filter((s) => s.volume > 0).length;
  const pieces = [part, ...inserts.map((i) => i.mesh)].reduce((n, mesh) => n + loose(mesh), 0);
  return { pieces, size: longestSide(part.positions), young: plastic.young };
}

const toolOf = ({ tool }: Inputs) => ({ opening: openingOf(tool), partingHeight: tool.partingHeight });

const nodePlace = ({ centroid }: PressureGrid, i: number): Vec3 => [
  centroid[3 * i],
  centroid[3 * i + 1],
  centroid[3 * i + 2],
];

const NONE: ReadonlyMap<string, TriangleMesh> = new Map();

/** K */
const MOULD_MOVED = 2;

const COARSER: Record<Inputs['detail'], Inputs['detail'] | null> = { quick: null, normal: 'quick', fine: 'normal' };

/** The study at another Detail, that of the structure included. */
const atDetail = (inputs: Inputs, detail: Inputs['detail']): Inputs => ({
  ...inputs,
  detail,
  ...(inputs.warpage ? { warpage: { ...inputs.warpage, detail: null } } : {}),
});

/** The same study one Detail coarser, for its key numbers only. null when the coarser grid cannot answer. */
async function errorAgainst(
  mesh: TriangleMesh,
  geometryKey: string,
  coarser: Inputs,
  summary: Summary,
  { bodies, store }: PipelineHooks,
  ctx: StageContext,
): Promise<GridError | null> {
  const message = `Grid error: the same at Detail ${coarser.detail}`;
  const run = async (steps: number, shape: boolean, from: number): Promise<Summary | null> => {
    const progress = new RunProgress({ ...planOf(coarser, false), shape });
    const quiet: StageContext = {
      signal: ctx.signal,
      checkpoint: () => ctx.checkpoint(),
      report: ({ stage, fraction }) =>
        ctx.report({ stage: 'grid-error', fraction: from + 0.5 * progress.share(stage, fraction), message }),
    };
    const outcome = await runPipeline(mesh, geometryKey, coarser, quiet, {
      gridError: false,
      bodies,
      store,
      steps,
      shape,
    });
    const whole = (outcome.status === 'filled' || outcome.status === 'stalled') && !outcome.breaches.length;
    return whole ? outcome.summary : null;
  };
  const plain = await run(1, Boolean(summary.shape), 0);
  return plain && gridErrorOf(summary, plain, await run(LONG_STEPS, false, 0.5), coarser.detail);
}

/** Number of steps of the run that shows what their length does. */
const LONG_STEPS = 0.5;
