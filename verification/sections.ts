import type { Vec3 } from '../src/core/geometry/mesh';
import { prepare, slope, type Prepared } from './run';
import { box, rod } from './shapes';

/** A slit is wide: 160 mm instead of the reference's width, at the same flow per width. */
export const SLIT = { width: 0.16, length: 0.08 };
const N_GATES = 10;

export function slitCase(H: number, turn: (v: Vec3) => Vec3): Prepared {
  const gates = Array.from({ length: N_GATES }, (_, i) => ({
    at: [0, ((i + 0.5) / N_GATES - 0.5) * SLIT.width, 0] as Vec3,
    diameter: 0.0015,
  }));
  return prepare({ mesh: box(SLIT.length, SLIT.width, H), gates, turn });
}

export function tubeCase(R: number, L: number, turn: (v: Vec3) => Vec3): Prepared {
  return prepare({ mesh: rod(R, L), gates: [{ at: [0, 0, 0], diameter: 2 * R }], turn });
}

/** -dp/dx when the melt reaches the far end, between 35 % and 75 % of the length, middle half of the width. */
export function gradientOf(
  prepared: Prepared,
  pressure: Float32Array,
  length: number,
  halfWidth: number,
  turn: (v: Vec3) => Vec3,
) {
  const ex = turn([1, 0, 0]);
  const ey = turn([0, 1, 0]);
  const x: number[] = [];
  const p: number[] = [];
  const { position, n } = prepared.grid;
  for (let i = 0; i < n; i++) {
    const c = [position[3 * i], position[3 * i + 1], position[3 * i + 2]];
    const along = c[0] * ex[0] + c[1] * ex[1] + c[2] * ex[2];
    const across = c[0] * ey[0] + c[1] * ey[1] + c[2] * ey[2];
    if (along < 0.35 * length || along > 0.75 * length || Math.abs(across) > halfWidth || !(pressure[i] > 0)) continue;
    x.push(along);
    p.push(pressure[i]);
  }
  return -slope(x, p);
}
