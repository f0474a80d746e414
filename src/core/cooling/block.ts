import type { Bounds, Vec3 } from '../geometry/mesh';
import type { Cooling } from '../model/cooling';

/** Steel beside the part, and above and below it, where no block is given: room for channels and for strength, m. */
const BESIDE = 0.04;
const BEYOND = 0.05;
/** Sizes are rounded up to this, m. */
const ROUND = 5e-3;

/** The block as set, or one around the part and the places that must lie in it, rounded outwards to 5 mm. */
export function blockOf({ block }: Pick<Cooling, 'block'>, part: Bounds, inside: readonly Vec3[] = []): Bounds {
  if (block) return block;
  const margin = [BESIDE, BESIDE, BEYOND];
  const least = part.min.map((x, d) => Math.min(x, ...inside.map((p) => p[d])));
  const most = part.max.map((x, d) => Math.max(x, ...inside.map((p) => p[d])));
  return {
    min: least.map((x, d) => ROUND * Math.floor((x - margin[d]) / ROUND + 1e-9)) as Vec3,
    max: most.map((x, d) => ROUND * Math.ceil((x + margin[d]) / ROUND - 1e-9)) as Vec3,
  };
}

export const boxHolds = ({ min, max }: Bounds, p: readonly number[], margin = 0): boolean =>
  p.every((x, d) => x >= min[d] + margin && x <= max[d] - margin);
