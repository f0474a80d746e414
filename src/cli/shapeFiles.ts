import { writeStl } from '../core/formats/stl';
import type { Shape } from '../core/pipeline/shape';
import type { StageContext } from '../core/stage/context';
import { shapeDeck, shapeVtu, structureTets } from '../core/pipeline/structureFiles';
import { deviation, movedSurface } from '../core/results/shape';
import { installedMesher } from '../runtime/tetgen';
import { counterWarp } from '../core/pipeline/counter';

/** The shape as files by their names: surfaces in mm, structure for analysis. Throws when no body comes out right. */
export async function shapeFiles(
  { input, result, facts }: Shape,
  title: string,
  elastic: Record<string, number>,
  ctx: StageContext,
): Promise<Record<string, string | Uint8Array>> {
  const { surface } = input;
  const growth = facts.toolScaled ? facts.meanShrinkage : 0;
  const moved = (offset: ArrayLike<number>) => writeStl(movedSurface(surface, offset));
  const meshed = await structureTets(input, installedMesher(), ctx);
  if (meshed.status === 'refused') throw new Error(`${meshed.message} ${meshed.remedy}`);
  const counter = await counterWarp(input, result.displacement, growth, facts.tolerance_m, ctx);
  if (counter.status === 'failed') throw new Error(`${counter.message} ${counter.likely}`);
  return {
    'shape.stl': moved(deviation(surface, result.displacement, growth)),
    'counter-warped.stl': moved(counter.result.offset),
    'structure.inp': shapeDeck(input, `Bellows: shape of ${title} as moulded`, meshed),
    'structure.vtu': shapeVtu(input, result, elastic, meshed.tets),
  };
}
