import { CAUSE_NAMES } from '@/core/results/shape';
import type { FieldId, ShapeLook } from './view';

/** Fields that the chosen direction is read along. */
const ALONG_A_WAY: ReadonlySet<FieldId> = new Set(['deviation', 'stressAlong']);

/** Whether a field of the shape has values to both sides of a zero that means something. */
export const isSigned = (id: FieldId, { along }: Pick<ShapeLook, 'along'>): boolean =>
  id === 'stressAlong' || (id === 'deviation' && along !== 'total');

/** How a field of the shape is looked at, in words: cause, direction, alignment, how large it is drawn. */
export function shapeSaid(id: FieldId, look: ShapeLook): string {
  const { cause, along, align, frame, scale, body } = look;
  const points = 'by three points';
  return [
    cause === 'all' ? '' : CAUSE_NAMES[cause].toLowerCase(),
    !ALONG_A_WAY.has(id) || along === 'total' ? '' : along === 'normal' ? 'square to the face' : `along ${along}`,
    frame === 'points' && ALONG_A_WAY.has(id) && along !== 'normal' && along !== 'total' ? `axes ${points}` : '',
    align === 'three-points' && id === 'deviation' && body === 'shape' ? 'laid on three points' : '',
    scale === 1 ? '' : scale === 0 ? 'drawn as the drawing' : `drawn ${scale} ×`,
  ]
    .filter(Boolean)
    .join(', ');
}
