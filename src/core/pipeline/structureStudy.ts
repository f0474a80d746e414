import type { StructureAsk } from '../model/structureAsk';
import type { TriangleMesh } from '../geometry/mesh';
import { resolve } from '../setup/resolve';
import type { Inputs } from '../model/study';
import type { ShapeFacts } from '../results/shape';
import { counterWarp, type CounterResult } from './counter';
import { runWarp } from '../solvers/warp/stage';
import { laidInserts } from '../setup/behind';
import { makeGrid } from '../setup/grids';
import { plasticSolid } from '../material/solid';
import { warpInputOf, type ShotStrain } from './shape';
import type { StageContext } from '../stage/context';
import { shapeDeck, shapeVtu, structureTets } from './structureFiles';
import type { TetMesher } from '../grid/tetGrid';

/** What is made of the shape of a run once it is there. */

/** A run as it was stored. */
export interface StoredShape {
  mesh: TriangleMesh;
  inputs: Inputs;
  bodies: ReadonlyMap<string, TriangleMesh>;
  shot: ShotStrain;
  /** 3 a vertex of the drawn surface, m. */
  displacement: ArrayLike<number>;
  facts: Pick<ShapeFacts, 'toolScaled' | 'meanShrinkage' | 'tolerance_m'>;
}

export type StructureOutcome =
  | { status: 'file'; text: string }
  | { status: 'counter'; result: CounterResult }
  | { status: 'refused'; message: string; remedy: string };

/** Deck, points with stress, or the body that comes out right: from the strains of a shot, without shooting it again. */
export async function structureStudy(
  stored: StoredShape,
  ask: StructureAsk,
  ctx: StageContext,
  mesher?: TetMesher,
): Promise<StructureOutcome> {
  const run = resolve(stored.mesh, stored.inputs);
  const { mesh, inputs, settings } = run;
  const grid = await makeGrid(mesh, 'structure', inputs, ctx);
  if ('message' in grid) return { status: 'refused', message: grid.message, remedy: grid.likely };
  if (grid.grid.n !== stored.shot.frozen.mean.length)
    return { status: 'refused', message: 'The part of this run has changed since.', remedy: 'Run the study again.' };
  if (inputs.later)
    return {
      status: 'refused',
      message: 'Files of the structure and counter-warped bodies are made of parts of one shot only.',
      remedy: 'Look at the shape on the page, or take the deck of one shot by itself.',
    };
  const inserts = laidInserts(inputs, stored.bodies, settings.mouldTemperature);
  const input = warpInputOf(run, grid, stored.shot, inserts);
  const { elastic, expansion } = settings.resin;
  if (ask !== 'counter') {
    ctx.report({ stage: 'warp', fraction: 0.1, message: 'Filling the part with tetrahedra' });
    await ctx.checkpoint();
    const meshed = await structureTets(input, mesher, ctx);
    if (meshed.status === 'refused') return meshed;
    const title = `Bellows: shape of ${inputs.bodies.map((b) => b.name).join(', ')} as moulded`;
    if (ask === 'deck') return { status: 'file', text: shapeDeck(input, title, meshed) };
    const solved = await runWarp(input, ctx);
    if (solved.status === 'failed') return { status: 'refused', message: solved.message, remedy: solved.likely };
    const { young, poisson } = plasticSolid(settings.resin);
    const constants = {
      ...elastic,
      young_Pa: young,
      poisson,
      expansionAlong_perK: expansion.along,
      expansionAcross_perK: expansion.across,
    };
    return { status: 'file', text: shapeVtu(input, solved.result, constants, meshed.tets) };
  }
  const { toolScaled, meanShrinkage, tolerance_m } = stored.facts;
  const growth = toolScaled ? meanShrinkage : 0;
  const found = await counterWarp(input, stored.displacement, growth, tolerance_m, ctx);
  return found.status === 'failed'
    ? { status: 'refused', message: found.message, remedy: found.likely }
    : { status: 'counter', result: found.result };
}
