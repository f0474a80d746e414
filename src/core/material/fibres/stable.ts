import { eigenOf, frame } from '../../numerics/eigen';
import type { Closure } from '../../model/fibres';
import { Orientation, type FibreModel } from './orientation';
import { isotropic, symProduct, sym, type Sym } from './tensor';

/** Simple shear in which a model is tried: strain from look to look, and of all. */
const STEP = 5;
const WHOLE = 600;
/** What still moves by more than this over the last of it never comes to rest. */
const AT_REST = 0.02;
const LAST = 100;
/** Less spread than this of the largest, below 0, is rounding. */
const ROUNDING = 1e-6;

/**
 * What is wrong with the numbers of a model, in words that go on after a name; null where nothing is. In simple shear from no
 * direction before another it has to spread directions, never gather them, and come to rest.
 */
export function instability(model: FibreModel, closure: Closure): string | null {
  const follow = new Orientation(model, closure);
  const a = isotropic();
  let before = a.slice();
  for (let strain = 0; strain <= WHOLE; strain += STEP) {
    if (least(a, model) < 0) return 'gather the fibres of some directions instead of spreading them';
    if (strain === WHOLE - LAST) before = a.slice();
    follow.advance(a, [0, 1, 0, 0, 0, 0, 0, 0, 0], STEP);
  }
  const moved = Math.hypot(...a.map((v, k) => v - before[k]));
  return moved > AT_REST ? 'never let the fibres come to rest in a steady flow' : null;
}

/** Least eigenvalue of the spread of directions, over its largest; 0 where it is none below. */
function least(a: Sym, { interaction }: FibreModel): number {
  if (interaction.by !== 'five') return 0;
  const [b1, b2, b3, b4, b5] = interaction.b;
  // Simple shear of rate 1.
  const d = Float64Array.of(0, 0, 0, 0.5, 0, 0);
  const [a2, d2] = [symProduct(a, a, sym()), symProduct(d, d, sym())];
  const C = a.map((v, k) => (k < 3 ? b1 : 0) + b2 * v + b3 * a2[k] + b4 * d[k] + b5 * d2[k]);
  const { values } = eigenOf(C, frame());
  return values[2] < -ROUNDING * Math.max(values[0], 1e-6) ? values[2] : 0;
}
