import type { SurfacePoint } from '../geometry/closestPoint';
import type { TriangleMesh, Vec3 } from '../geometry/mesh';
import type { PressureGrid } from '../grid/pressureGrid';
import { toolHold, type ToolHold } from '../grid/toolHold';
import { toolOnGrid } from '../grid/tool';
import { meltThermal } from '../material/properties';
import { plasticSolid } from '../material/solid';
import { openingOf } from '../model/body';
import { shotNumber } from '../model/shots';
import type { Inputs, Transfer } from '../model/study';
import { warpageOf } from '../model/warpage';
import { guardFibres, guardFill, guardGrid, guardPack } from '../results/guard';
import type { Breach } from '../results/guardRules';
import type { Shot } from '../results/shotFound';
import { summarise } from '../results/summary';
import { behindsOf, laidInserts, type Behinds, type MouldedBefore } from '../setup/behind';
import { makeGrid, type GridResult } from '../setup/grids';
import { healingOf } from '../setup/healing';
import { openTool } from '../setup/press';
import { settleMould, type Mould } from '../setup/mould';
import { resolve, type Resolved } from '../setup/resolve';
import { thermalTables } from '../solvers/melt/thermalTables';
import type { StageContext } from '../stage/context';
import type { PhaseStore } from '../formats/phaseStore';
import { doseProblem } from './checkCompression';
import { checkRun, type Problem } from './checkRun';
import { insertLoads, type InsertLoads } from './insertLoads';
import { shoot } from './shot';
import { mouldAtSides } from './shotInput';

/** One shot of a study, calculated from its grid to the opening of its mould. */
export interface ShotRun {
  status: 'done';
  /** From 1. */
  number: number;
  run: Resolved;
  gridResult: GridResult;
  shot: Shot;
  behind: Behinds | null;
  /** null where the mould has the temperature that is set. */
  mould: Mould | null;
  steel: ToolHold | null;
  found: ReturnType<typeof summarise>;
  breaches: Breach[];
  /** What the melt does to inserts. */
  loads: InsertLoads;
  /** What it leaves for the shots to come; null where there is none, or it did not come out. */
  left: MouldedBefore | null;
}

export type NoShotRun =
  | { status: 'refused'; problems: Problem[] }
  | { status: 'failed'; message: string; likely: string; place?: Vec3 | null };

export interface ShotRunInput {
  mesh: TriangleMesh;
  geometryKey: string;
  /** As this shot: see `asShot`. */
  study: Inputs;
  surfaces: SurfacePoint[];
  bodies: ReadonlyMap<string, TriangleMesh>;
  before: readonly MouldedBefore[];
  /** null after the last shot. */
  transfer: Transfer | null;
  steps?: number;
  store?: PhaseStore;
  /** Called once the grid is there, before filling starts. */
  onGrid(mesh: TriangleMesh, result: GridResult): void;
}

/** K */
const MOULD_MOVED = 2;

/** A shot of a study that has passed its checks. */
export async function calculateShot(input: ShotRunInput, ctx: StageContext): Promise<ShotRun | NoShotRun> {
  const { mesh: cavity, geometryKey, study, bodies, before, transfer, steps, store } = input;
  const run = resolve(cavity, study);
  const { mesh, inputs, settings } = run;
  let { surfaces } = input;
  if (mesh !== cavity) {
    // Gates of copies that are solved one by one are held against their surfaces like any.
    const checked = checkRun(inputs, mesh);
    if (checked.problems.length) return { status: 'refused', problems: checked.problems };
    surfaces = checked.surfaces;
  }
  const gridResult = await makeGrid(mesh, geometryKey, inputs, ctx);
  if ('message' in gridResult) return { status: 'failed', ...gridResult };
  const { fine, grid } = gridResult;
  const [unsound] = guardGrid(mesh, fine, grid);
  if (unsound) return { status: 'failed', message: unsound.message, likely: unsound.remedy, place: unsound.place };
  input.onGrid(mesh, gridResult);
  await ctx.checkpoint();
  const unequal = !inputs.cooling && settings.mouldTemperature !== settings.lowerMouldTemperature;
  const opening = openingOf(inputs.tool);
  const halves = { opening, partingHeight: inputs.tool.partingHeight };
  const tool = toolOnGrid(mesh, fine, grid, halves, {
    halves: unequal || transfer?.on === 'lower-half',
    growth: inputs.compression !== undefined,
  });
  await ctx.checkpoint();
  const open = openTool(inputs, fine, grid, tool);
  const unfit = open && doseProblem(inputs, open.gap, open.open, open.melt);
  if (unfit) return { status: 'failed', ...unfit };
  let mould: Mould | null = null;
  if (inputs.cooling) {
    const settled = await settleMould(run, gridResult, bodies, ctx, store);
    if (settled.status === 'failed') return settled;
    mould = settled.mould;
  }
  const walls = mould?.source.wallTemperature ?? null;
  const inserts = laidInserts(inputs, bodies, settings.mouldTemperature);
  const behind = behindsOf({ mesh, gridResult }, inserts, before, settings, mouldAtSides(settings, tool, walls));
  const packs = inputs.upTo !== 'fill' && warpageOf(inputs).hold === 'tool';
  const steel = packs ? toolHold(mesh, fine, grid) : null;
  await ctx.checkpoint();
  const shotInput = { ...run, gridResult, tool, open, surfaces, walls, steel, behind, transfer, steps };
  let shot = await shoot(shotInput, ctx, store);
  if (mould && shot.status !== 'failed' && shot.pack && settings.coolingTime === null) {
    const moved = await mould.resettle(shot.pack.node.ejectableAt, ctx);
    // The shot has set the length of the cycle, and that the temperature of the mould: where it matters, once more.
    if (Math.abs(moved) > MOULD_MOVED) shot = await shoot(shotInput, ctx, store);
  }
  if (shot.status === 'failed') {
    const { message, likely, node } = shot;
    return { status: 'failed', message, likely, place: node >= 0 && node < grid.n ? nodePlace(grid, node) : null };
  }
  const loads = behind
    ? await insertLoads(behind, mesh, gridResult, shot.frames, inputs.detail, ctx)
    : { loads: [], wallChange: new Float32Array(0), moved: null };
  const coldest = Math.min(...inserts.map((i) => i.temperature), Infinity);
  return {
    status: 'done',
    number: shotNumber(study),
    run,
    gridResult,
    shot: mould?.reused ? { ...shot, reused: ['mould', ...shot.reused] } : shot,
    behind,
    mould,
    steel,
    found: summarise(run, gridResult, shot, { ...tool, open }, mould),
    breaches: [
      ...guardFill(grid, shot, settings, coldest),
      ...(shot.pack ? guardPack(grid, shot.pack, settings) : []),
      ...(shot.fibres ? guardFibres(grid, shot.fibres) : []),
    ],
    loads,
    left: leftBy(shotNumber(study), mesh, gridResult, run, shot, behind),
  };
}

/** What a shot leaves for those to come; null where it is the last, or did not come to its opening. */
function leftBy(
  number: number,
  mesh: TriangleMesh,
  gridResult: GridResult,
  { settings: { resin, meltTemperature } }: Resolved,
  { left }: Shot,
  behind: Behinds | null,
): MouldedBefore | null {
  if (!left) return null;
  const thermal = meltThermal(resin, meltTemperature);
  const tables = thermalTables(resin.specificHeat, resin.conductivity, thermal);
  return {
    number,
    mesh,
    gridResult,
    material: { ...thermal, tables, softens: resin.transitionTemperature, healing: healingOf(resin) },
    family: resin.family,
    young: plasticSolid(resin).young,
    nLayers: left.temperature.length / gridResult.grid.n,
    temperature: left.temperature,
    behind: behind && left.behind ? { walls: behind.walls, spec: behind.spec, memory: left.behind } : null,
  };
}

const nodePlace = ({ centroid }: PressureGrid, i: number): Vec3 => [
  centroid[3 * i],
  centroid[3 * i + 1],
  centroid[3 * i + 2],
];
