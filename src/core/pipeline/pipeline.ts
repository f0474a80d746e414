import type { Field } from '../fields/field';
import { edgeTable } from '../geometry/edges';
import type { TriangleMesh } from '../geometry/mesh';
import { findShells, joined } from '../geometry/shells';
import { surfaceMap, type SurfaceMap } from '../grid/surfaceMap';
import { asShot, nShots, wholeOf } from '../model/shots';
import { cavities, inSetMould, type Inputs } from '../model/study';
import type { Answer } from '../results/answer';
import { fibreFields, wallFibres, type WallFibres } from '../results/fibreFields';
import { howStrong, strengthFacts } from '../results/howStrong';
import { orientedWalls } from '../solvers/fibres/orientedWalls';
import { loadOf } from '../model/fibres';
import type { Findings } from '../results/findings';
import { failed, guardShape } from '../results/guard';
import type { Breach } from '../results/guardRules';
import { doTheyHold } from '../results/holdTogether';
import { longestSide } from '../results/shape';
import type { CoreFound, FibresFound } from '../results/shotFound';
import type { Summary } from '../results/summary';
import { cooledBy, noShape, whatShape } from '../results/whatShape';
import type { MouldedBefore } from '../setup/behind';
import type { GridResult } from '../setup/grids';
import type { Mould } from '../setup/mould';
import type { FillSettings } from '../setup/settings';
import type { FillResult } from '../solvers/fill/outcome';
import type { PackResult } from '../solvers/pack/outcome';
import type { ShotHistory } from '../solvers/shot/history';
import type { Bent } from '../solvers/warp/bentInsert';
import type { WarpInput } from '../solvers/warp/stage';
import type { StageContext } from '../stage/context';
import { checkShots, type ShotSurfaces } from './checkShots';
import { behindFields, fieldsOf } from './fields';
import { gridErrorOf, tellMargins, type GridError } from './gridError';
import { holdFacts, slowestOver } from './holdFacts';
import type { PhaseStore } from '../formats/phaseStore';
import { planOf, RunProgress } from './progress';
import { earlierPlastic, earlierShape, shapeOf, shotStrainOf, warpInputOf, type OwnShape, type Shape } from './shape';
import { calculateShot, type NoShotRun, type ShotRun } from './shotRun';

/** What a run says of one shot. */
export interface ShotOutcome {
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
  /** That of all shots, with what it says of this one; null where it was not asked for or is none. */
  shape: Shape | null;
  /** Fluid in the core; null where there is none. */
  core: CoreFound | null;
  /** Fibres and what they make of the walls; null where none were followed. */
  fibres: { found: FibresFound; own: WallFibres } | null;
  /** Inserts as the melt has bent them, at most; null where there are none that are held. */
  movedInserts: Bent | null;
  /** Phases that were not run again since nothing that they read has changed. */
  reused: string[];
}

/** What a run says of the first shot, and of those after it as far as they came. */
export type PipelineOutcome = NoShotRun | (ShotOutcome & { later: ShotOutcome[] });

export interface PipelineHooks {
  /** Called once the grid of a shot (from 1) is there, before its filling starts. The map is made only when asked for. */
  onGrid?: (result: GridResult, map: () => SurfaceMap, shot: number) => void;
  /** Surfaces of bodies that the first shot does not fill, by their id: inserts, pieces of the mould, later shots. */
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
 * A whole run of one study, all its shots. `cavity`, the surface that the first shot fills, must be closed and point
 * outwards; `geometryKey` identifies it (content hash), so that fields of different runs can be told apart.
 */
export async function runPipeline(
  cavity: TriangleMesh,
  geometryKey: string,
  study: Inputs,
  ctx: StageContext,
  hooks: PipelineHooks = {},
): Promise<PipelineOutcome> {
  const whole = wholeOf(study);
  const bodies = hooks.bodies ?? NONE;
  const shots = surfacesOf(whole, cavity, geometryKey, bodies);
  const checked = checkShots(whole, shots, bodies);
  if (checked.problems.length) return { status: 'refused', problems: checked.problems };
  const runs: ShotRun[] = [];
  const before: MouldedBefore[] = [];
  for (const { mesh, key, number, inputs } of shots) {
    const run = await calculateShot(
      {
        mesh,
        geometryKey: key,
        study: number < shots.length ? upToOpening(inputs) : inputs,
        surfaces: checked.surfaces[number - 1],
        bodies,
        before: [...before],
        transfer: whole.later?.[number - 1]?.transfer ?? null,
        steps: hooks.steps,
        store: hooks.store,
        onGrid: (part, result) => hooks.onGrid?.(result, () => surfaceMap(part, result.fine, result.grid), number),
      },
      number > 1 || shots.length > 1 ? inShot(ctx, number, shots.length) : ctx,
    );
    if (run.status !== 'done') return run;
    runs.push(run);
    if (!run.left) break;
    before.push(run.left);
  }
  const shape = hooks.shape === false || runs.length < shots.length ? null : await shapeOfAll(runs, ctx);
  const outcomes = runs.map((run) => outcomeOf(run, shape));
  const coarser = COARSER[whole.detail];
  if (coarser && hooks.gridError !== false)
    await tellErrors(outcomes, cavity, geometryKey, atDetail(whole, coarser), hooks, ctx);
  const [first, ...later] = outcomes.map((o) => ({ ...o, answers: failed(o.answers, o.breaches) }));
  return { ...first, later };
}

/** Every shot with its surface. Bodies that are not there make an empty one: see checkShots. */
function surfacesOf(
  whole: Inputs,
  cavity: TriangleMesh,
  geometryKey: string,
  bodies: ReadonlyMap<string, TriangleMesh>,
): ShotSurfaces[] {
  return Array.from({ length: nShots(whole) }, (_, k) => {
    const inputs = k ? inSetMould(asShot(whole, k + 1)) : whole;
    const own = cavities(inputs);
    const mesh = k ? joined(own.flatMap((b) => bodies.get(b.id) ?? [])) : cavity;
    return { number: k + 1, inputs, mesh, key: k ? own.map((b) => b.mesh).join('+') : geometryKey };
  });
}

/** A shot with others after it has to come to its opening, whatever is asked of the last. */
function upToOpening(inputs: Inputs): Inputs {
  const { upTo: _, ...rest } = inputs;
  return rest;
}

/** Reports of one of several shots. */
const inShot = (ctx: StageContext, number: number, of: number): StageContext => ({
  ...ctx,
  checkpoint: () => ctx.checkpoint(),
  report: (p) => ctx.report({ ...p, shot: number, message: `Shot ${number} of ${of}: ${p.message}` }),
});

/** The structure of all shots, or why there is none. */
type ShapeOfAll =
  { status: 'solved'; shape: Shape; breaches: Breach[] } | { status: 'failed'; message: string; likely: string };

/** null where nobody asks, or the last shot was not followed to the room. */
async function shapeOfAll(runs: readonly ShotRun[], ctx: StageContext): Promise<ShapeOfAll | null> {
  const last = runs[runs.length - 1];
  const { run, gridResult, shot, mould, behind } = last;
  const strain =
    shot.pack && !run.inputs.upTo
      ? shotStrainOf(
          shot.pack,
          run.settings,
          mould,
          shot.core && !run.settings.second ? { found: shot.core, grid: gridResult.grid } : null,
          shot.fibres,
        )
      : null;
  if (!strain || !last.found.summary.pack) return null;
  const earlier = runs.slice(0, -1).flatMap((r) => earlierPlastic(r) ?? []);
  const inserts = behind?.inserts ?? runs[0].behind?.inserts ?? [];
  const input = warpInputOf(run, gridResult, strain, inserts, earlier);
  const solved = await shapeOf(input, strain, gridResult.gridKey, run.inputs, ctx);
  if (solved.status === 'failed') return solved;
  const { shape } = solved;
  return { ...solved, breaches: guardShape(shape.facts, shape.result, shapeBounds(shape.input)) };
}

/** Fibres of a shot and what they make of its walls; null where none were followed. */
function fibresOfShot({ run: { settings }, shot: { fibres: found } }: ShotRun) {
  if (!found || !settings.fibres) return null;
  return { found, own: wallFibres(found, orientedWalls(found, settings.fibres)) };
}

/** What a run says of one of its shots. */
function outcomeOf(shotRun: ShotRun, all: ShapeOfAll | null): ShotOutcome {
  const { number, run, gridResult, shot, mould, steel, found, behind } = shotRun;
  const { summary } = found;
  const slow = behind && slowestOver(shotRun, behind);
  const answers = found.answers.map((a) => (a.id === 'how-long-to-cool' && slow ? { ...a, why: [slow, ...a.why] } : a));
  const breaches = [...shotRun.breaches];
  let own: OwnShape | null = null;
  if (all?.status === 'solved') {
    const { shape } = all;
    own =
      shape.input.grid === gridResult.grid
        ? { ...shape, surface: shape.input.surface }
        : earlierShape(shape, number, gridResult.gridKey, run.inputs);
    breaches.push(...all.breaches);
  }
  if (behind && shot.behind) {
    summary.hold = holdFacts(shotRun, behind, shot.behind, own);
    answers.push(doTheyHold(summary.hold, run.inputs, run.settings));
  }
  if (own && summary.pack) {
    summary.shape = own.facts;
    const cooled = cooledBy(summary.cool, answers);
    answers.push(whatShape(own.facts, run.inputs, run.settings, summary.pack, cooled));
    // The cycle is there all the same.
  } else if (all?.status === 'failed') answers.push(noShape(all));
  const fibres = fibresOfShot(shotRun);
  if (fibres && summary.pack) {
    const { weldLines } = found.findings;
    summary.strength = strengthFacts(
      run.mesh,
      gridResult.grid,
      fibres.found,
      fibres.own,
      weldLines,
      run.inputs,
      run.settings,
    );
    answers.push(howStrong(summary.strength, summary.shape, run.inputs, run.settings));
  }
  return {
    status: shot.status,
    summary,
    answers,
    findings: found.findings,
    breaches,
    gridError: null,
    history: shot.pack?.history ?? shot.result.history,
    course: shot.pack?.course ?? null,
    gateIds: run.inputs.gates.map((g) => g.id),
    fields: [
      ...fieldsOf(
        gridResult,
        shot.result,
        shot.frames,
        shot.pack,
        found.sinks,
        run.inputs,
        mould,
        steel,
        run.settings.resin,
        shot.core,
      ),
      ...(shot.inFeed ?? []),
      ...(fibres
        ? fibreFields(gridResult, fibres.found, fibres.own, loadOf(run.inputs.fibres), run.settings.resin)
        : []),
      ...(behind && shot.behind
        ? behindFields(gridResult, behind, shot.behind, shotRun.loads.wallChange, shot.frames)
        : []),
      ...(own?.fields ?? []),
    ],
    gridResult,
    settings: run.settings,
    fill: shot.result,
    pack: shot.pack,
    mould,
    shape: all?.status === 'solved' && own ? { ...all.shape, facts: own.facts, fields: own.fields } : null,
    core: shot.core,
    fibres,
    movedInserts: shotRun.loads.moved,
    reused: shot.reused,
  };
}

/** What the shape of a part is held against: loose pieces, size [m] and stiffness [Pa]. */
function shapeBounds({ part, inserts, plastic }: WarpInput) {
  const loose = (mesh: TriangleMesh) => findShells(mesh, edgeTable(mesh)).filter((s) => s.volume > 0).length;
  const pieces = [part, ...inserts.map((i) => i.mesh)].reduce((n, mesh) => n + loose(mesh), 0);
  return { pieces, size: longestSide(part.positions), young: plastic.young };
}

const NONE: ReadonlyMap<string, TriangleMesh> = new Map();

const COARSER: Record<Inputs['detail'], Inputs['detail'] | null> = { quick: null, normal: 'quick', fine: 'normal' };

/** The study at another Detail, that of the structure included. */
const atDetail = (inputs: Inputs, detail: Inputs['detail']): Inputs => ({
  ...inputs,
  detail,
  ...(inputs.warpage ? { warpage: { ...inputs.warpage, detail: null } } : {}),
});

/** The same study one Detail coarser, for its key numbers only: tells each shot how far they would still move. */
async function tellErrors(
  outcomes: readonly ShotOutcome[],
  mesh: TriangleMesh,
  geometryKey: string,
  coarser: Inputs,
  { bodies, store }: PipelineHooks,
  ctx: StageContext,
): Promise<void> {
  const message = `Grid error: the same at Detail ${coarser.detail}`;
  const run = async (steps: number, shape: boolean, from: number): Promise<(Summary | null)[]> => {
    const progress = new RunProgress({ ...planOf(coarser, false), shape });
    const quiet: StageContext = {
      signal: ctx.signal,
      checkpoint: () => ctx.checkpoint(),
      report: ({ stage, fraction, shot }) =>
        ctx.report({ stage: 'grid-error', fraction: from + 0.5 * progress.share(stage, fraction, shot), message }),
    };
    const outcome = await runPipeline(mesh, geometryKey, coarser, quiet, {
      gridError: false,
      bodies,
      store,
      steps,
      shape,
    });
    if (outcome.status === 'refused' || outcome.status === 'failed') return [];
    return [outcome, ...outcome.later].map((o) => (o.breaches.length ? null : o.summary));
  };
  const plain = await run(
    1,
    outcomes.some((o) => o.summary.shape),
    0,
  );
  if (!plain.length) return;
  const longer = await run(LONG_STEPS, false, 0.5);
  outcomes.forEach((outcome, k) => {
    const coarse = plain[k];
    if (!coarse) return;
    outcome.gridError = gridErrorOf(outcome.summary, coarse, longer[k] ?? null, coarser.detail);
    outcome.answers = tellMargins(outcome.answers, outcome.gridError, outcome.settings, outcome.summary);
  });
}

/** Number of steps of the run that shows what their length does. */
const LONG_STEPS = 0.5;
