import { makeField, type Field } from '../fields/field';
import type { SurfacePoint } from '../geometry/closestPoint';
import type { TriangleMesh } from '../geometry/mesh';
import { buildFineGrid, type FineGrid } from '../grid/grid';
import { latticeFor, MAX_DENSE_CELLS } from '../grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../grid/pressureGrid';
import { nCopies, type Inputs } from '../model/study';
import { toolOnGrid, type ToolOnGrid } from '../grid/tool';
import { airAt } from '../material/air';
import type { Answer } from '../results/answer';
import { summarise, type Findings, type Summary } from '../results/summary';
import { surfaceMap, type SurfaceMap } from '../results/surfaceMap';
import type { FeedCell } from '../feed/network';
import { feedFacts, type FeedFacts } from '../results/feedFacts';
import { feedFields } from '../results/feedFields';
import { placeInlet } from '../solvers/fill/inlet';
import { joinFeed, onJoined, resultOnPart, type JoinedFeed } from '../solvers/fill/joinFeed';
import type { FillHeat, FillOutcome, FillHistory, FillResult } from '../solvers/fill/outcome';
import { runFill } from '../solvers/fill/stage';
import { PROFILE_PLACES } from '../solvers/fill/profilePlaces';
import { checkRun, type Problem } from './checkRun';
import { meshWithCopies, withCopies } from './copies';
import { feedOf, solvedOnce } from './feedOf';
import { gridErrorOf, type GridError } from './gridError';
import { gateSites, pinsOf, tabSites, ventedWithTabs, ventsOn } from './sites';
import { partSize, resolveSettings, type FillSettings } from './settings';
import type { StageContext } from './stage';

/** Bumped whenever the same inputs give other numbers. */
export const SOLVER_VERSION = 'fill-4';

/** Steps over the whole volume: the front should cross about one node per step. */
export const STEPS: Record<Inputs['detail'], number> = { quick: 32, normal: 80, fine: 120 };

/** Frames over time: enough for a smooth time axis, few enough to load at once. */
const FRAMES: Record<Inputs['detail'], number> = { quick: 16, normal: 24, fine: 24 };

/** Change of the fluidities, rms of ln M, that Detail quick lets pass: 1 % of the pressure, a fifth of its grid error. */
const QUICK_FLUIDITY = 0.12;

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
      findings: Findings;
      /** How far the key numbers would still move with the grid; null at Detail quick. */
      gridError: GridError | null;
      history: FillHistory;
      /** Gates in the order of the history; with copies that are solved one by one, those of all. */
      gateIds: string[];
      fields: Field[];
      gridResult: GridResult;
      settings: FillSettings;
      fill: FillResult;
    };

export interface PipelineHooks {
  /** Called once the grid is there, before filling starts. The map is made only when asked for. */
  onGrid?: (result: GridResult, map: () => SurfaceMap) => void;
  /** false leaves the estimate of the grid error out. */
  gridError?: boolean;
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
  if (inputs.cavities && !solvedOnce(inputs))
    return runPipeline(meshWithCopies(mesh, inputs), geometryKey, withCopies(inputs), ctx, hooks);
  const settings = resolveSettings(inputs, partSize(mesh));
  const gridResult = await makeGrid(mesh, geometryKey, inputs, ctx);
  if ('message' in gridResult) return { status: 'failed', ...gridResult };
  const { fine, grid } = gridResult;
  hooks.onGrid?.(gridResult, () => surfaceMap(mesh, fine, grid));
  await ctx.checkpoint();
  const unequal = settings.mouldTemperature !== settings.lowerMouldTemperature;
  const tool = toolOnGrid(mesh, fine, grid, inputs.tool.partingHeight, unequal);
  await ctx.checkpoint();
  const outcome = await fillOn(gridResult, tool, surfaces, inputs, settings, ctx);
  if (outcome.status === 'failed') return { status: 'failed', message: outcome.message, likely: outcome.likely };
  const summary = summarise(mesh, gridResult, outcome, inputs, settings, tool);
  const coarser = COARSER[inputs.detail];
  const gridError =
    coarser && hooks.gridError !== false
      ? await errorAgainst(mesh, geometryKey, { ...inputs, detail: coarser }, summary.summary, ctx)
      : null;
  return {
    status: outcome.status,
    ...summary,
    gridError,
    history: outcome.result.history,
    gateIds: inputs.gates.map((g) => g.id),
    fields: [...fieldsOf(gridResult, outcome.result, inputs), ...(outcome.inFeed ?? [])],
    gridResult,
    settings,
    fill: outcome.result,
  };
}

const COARSER: Record<Inputs['detail'], Inputs['detail'] | null> = { quick: null, normal: 'quick', fine: 'normal' };

/** The same study one Detail coarser, for its key numbers only. null when the coarser grid cannot answer. */
async function errorAgainst(
  mesh: TriangleMesh,
  geometryKey: string,
  coarser: Inputs,
  summary: Summary,
  ctx: StageContext,
): Promise<GridError | null> {
  const quiet: StageContext = {
    signal: ctx.signal,
    checkpoint: () => ctx.checkpoint(),
    report: ({ fraction }) =>
      ctx.report({ stage: 'grid-error', fraction, message: `Grid error: the same at Detail ${coarser.detail}` }),
  };
  const outcome = await runPipeline(mesh, geometryKey, coarser, quiet, { gridError: false });
  if (outcome.status === 'refused' || outcome.status === 'failed') return null;
  return gridErrorOf(summary, outcome.summary, coarser.detail);
}

async function fillOn(
  { fine, grid, gridKey }: GridResult,
  tool: ToolOnGrid,
  surfaces: SurfacePoint[],
  inputs: Inputs,
  settings: FillSettings,
  ctx: StageContext,
): Promise<FillOutcome & { feed?: FeedFacts; inFeed?: Field[] }> {
  const tabs = inputs.tabs ?? [];
  const inlet = placeInlet(fine, grid, [...gateSites(inputs, surfaces), ...tabSites(tabs)]);
  const vented = inputs.cycle.venting === 'parting-line' ? tool.vented : new Uint8Array(grid.n);
  const vents = inputs.cycle.venting === 'sealed' ? [] : ventsOn(inputs, fine, grid, tool);
  const copies = nCopies(inputs);
  const plain = {
    nGates: inputs.gates.length,
    viscosity: settings.resin.viscosity,
    meltTemperature: settings.meltTemperature,
    control: ofOne(settings.control, copies),
    timeLimit: GIVE_UP * settings.freezeTime,
    nSteps: STEPS[inputs.detail],
    nFrames: FRAMES[inputs.detail],
    fluidityTolerance: inputs.detail === 'quick' ? QUICK_FLUIDITY : undefined,
  };
  const state = airAt(settings.mouldTemperature);
  const heat = heatOf(settings, tool);
  if (!inputs.feed && !tabs.length) {
    const input = { ...plain, grid, inlet, heat, air: { state, vented, vents }, projectedArea: tool.projectedArea };
    return ofAll(await runFill(input, ctx), copies);
  }
  const network = feedOf(inputs, settings.meltTemperature);
  const joined = joinFeed(grid, inlet, network);
  const shadow = onJoined(tool.projectedArea, joined);
  for (const { node, cell } of joined.cells) shadow[node] = cell.hot === null ? shadowOf(cell) : 0;
  const outcome = await runFill(
    {
      ...plain,
      grid: joined.grid,
      inlet: joined.inlet,
      heat: heatInFeed(heat, joined),
      air: {
        state,
        vented: ventedWithTabs(vented, joined, network, tabs),
        vents: vents.map((v) => ({ ...v, nodes: v.nodes.map((i) => joined.nodeOf[i]) })),
      },
      projectedArea: shadow,
      pins: pinsOf(inputs, fine, grid, joined, network),
      hot: joined.cells.flatMap(({ node, cell }) => (cell.hot === null ? [] : [{ node, temperature: cell.hot }])),
    },
    ctx,
  );
  if (outcome.status === 'failed') return outcome;
  const facts = feedFacts(outcome.result, joined, network, inputs.gates, copies);
  return {
    ...ofAll({ ...outcome, result: resultOnPart(outcome.result, grid, joined) }, copies),
    feed: facts,
    inFeed: feedFields(outcome.result, joined, gridKey),
  };
}

/** What the machine does for one of `n` equal cavities. */
function ofOne(control: FillSettings['control'], n: number): FillSettings['control'] {
  if (n === 1) return control;
  return { ...control, flowRateAt: (v) => control.flowRateAt(n * v) / n, maxFlowRate: control.maxFlowRate / n };
}

/** What the machine sees of `n` cavities of which one was solved. Flows of single gates stay theirs. */
function ofAll<T extends FillOutcome>(outcome: T, n: number): T {
  if (n === 1 || outcome.status === 'failed') return outcome;
  const { result } = outcome;
  const times = (list: number[]) => list.map((x) => n * x);
  const { history } = result;
  return {
    ...outcome,
    result: {
      ...result,
      history: { ...history, flowRate: times(history.flowRate), clampForce: times(history.clampForce) },
    },
  };
}

/** Area of a length of runner seen along the opening direction, m2. */
function shadowOf({ direction, length, duct, alike }: FeedCell): number {
  return (length * Math.hypot(direction[0], direction[1]) * duct.width) / alike + Math.abs(direction[2]) * duct.area;
}

/** Contact of hot sections: the melt has the wall's temperature. */
const HOT_TRANSFER = 1e5;

/** Walls of the joined grid: runners lie in the upper half's steel, hot sections at their own temperature. */
function heatInFeed(heat: FillHeat, joined: JoinedFeed): FillHeat {
  const sideOf = new Uint8Array(2 * joined.grid.n);
  joined.nodeOf.forEach((node, i) => sideOf.set(heat.sideOf.subarray(2 * i, 2 * i + 2), 2 * node));
  const sides = heat.sides.slice();
  for (const { node, cell } of joined.cells) {
    if (cell.hot === null) continue;
    let side = sides.findIndex((s) => s.temperature === cell.hot && s.transfer === HOT_TRANSFER);
    if (side < 0) side = sides.push({ temperature: cell.hot, transfer: HOT_TRANSFER }) - 1;
    sideOf.fill(side, 2 * node, 2 * node + 2);
  }
  return { ...heat, sides, sideOf };
}

/** Sixteen signs of the first surface and, where there is more, a checksum of all (FNV-1a). */
function shortKey(key: string): string {
  let sum = 0x811c9dc5;
  for (let i = 0; i < key.length; i++) sum = Math.imul(sum ^ key.charCodeAt(i), 0x01000193) >>> 0;
  return key.length > 64 ? `${key.slice(0, 16)}~${sum.toString(36)}` : key.slice(0, 16);
}

/** The skin closes every way by itself; this only ends what would creep for ever. */
const GIVE_UP = 2;

function heatOf(settings: FillSettings, tool: ToolOnGrid): FillHeat {
  const { resin, mouldTemperature, lowerMouldTemperature, wallTransfer: transfer } = settings;
  const sides = [{ temperature: mouldTemperature, transfer }];
  if (lowerMouldTemperature !== mouldTemperature) sides.push({ temperature: lowerMouldTemperature, transfer });
  return {
    conductivity: resin.conductivity,
    density: resin.density,
    specificHeat: resin.specificHeat,
    sides,
    sideOf: tool.halfOf,
    noFlowTemperature: resin.noFlowTemperature,
    transitionTemperature: resin.transitionTemperature,
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
  return { fine, grid, gridKey: `${shortKey(geometryKey)}-${inputs.detail}` };
}

function fieldsOf({ grid, gridKey }: GridResult, result: FillResult, inputs: Inputs): Field[] {
  const { frames } = result;
  const { times } = frames;
  const halves = result.columns?.nHalves ?? 1;
  const fields = [
    makeField('fillTime', 'Fill time', 's', gridKey, [result.fillTime]),
    makeField('pressure', 'Pressure', 'Pa', gridKey, frames.pressure, times),
    makeField('temperature', 'Mean temperature', 'K', gridKey, frames.temperature, times),
    makeField('frozen', 'Frozen share of the wall', '', gridKey, frames.frozen, times),
    makeField('velocity', 'Velocity', 'm/s', gridKey, frames.velocity, times, 3),
    makeField(
      'profile',
      'Temperature through the wall',
      'K',
      gridKey,
      frames.profile,
      frames.profileTimes,
      PROFILE_PLACES.length * halves,
    ),
    makeField('frontTemperature', 'Temperature at the front', 'K', gridKey, [result.frontTemperature]),
    makeField('frontSpeed', 'Front speed', 'm/s', gridKey, [result.frontSpeed]),
    makeField('peakShearRate', 'Peak shear rate', '1/s', gridKey, [result.peakShearRate]),
    makeField('peakStress', 'Peak wall shear stress', 'Pa', gridKey, [result.peakStress]),
    makeField('thickness', 'Wall thickness', 'm', gridKey, [grid.thickness]),
  ];
  const n = inputs.gates.length;
  if (n > 1)
    inputs.gates.forEach((gate, g) => {
      const share = Float32Array.from({ length: grid.n }, (_, i) =>
        result.fillTime[i] === result.fillTime[i] ? result.gateShare[i * n + g] : NaN,
      );
      fields.push(makeField(`gateShare-${g + 1}`, `Share from gate ${gate.id}`, '', gridKey, [share]));
    });
  return fields;
}
