import { SYMMETRIC } from '../../geometry/vec';

/** Cosines of the angle between two streams from which on their frames are turned into each other, and up to which they are not. */
const TURNED = Math.cos(Math.PI / 6);
const APART = Math.cos(Math.PI / 3);
/** Streams along each other to this have one frame. */
const ALONG = 1 - 1e-9;

const ROTATION = new Float64Array(9);
/** Components of a symmetric tensor. */
export const TENSOR = SYMMETRIC.length;

/**
 * Map of the six components of a symmetric tensor (rows as SYMMETRIC orders them) that turns it from the frame of a stream along
 * `velocity` (3 from `at`) into that of one along the unit vector `to`, by the least rotation. What lies beside a streamline is then
 * mixed as the melt of it would be: of a flow that spreads, the grid smears nothing. Streams that meet have no frame in common: from
 * 30 to 60 degrees less and less is turned. False where nothing is.
 */
export function intoStream(map: Float64Array, velocity: Float64Array, at: number, to: ArrayLike<number>): boolean {
  const [u, v, w] = [velocity[at], velocity[at + 1], velocity[at + 2]];
  const speed = Math.sqrt(u * u + v * v + w * w);
  if (!(speed > 0)) return false;
  const cos = (u * to[0] + v * to[1] + w * to[2]) / speed;
  const share = Math.min(1, (cos - APART) / (TURNED - APART));
  if (!(share > 0) || cos > ALONG) return false;
  const r = rotation(
    (v * to[2] - w * to[1]) / speed,
    (w * to[0] - u * to[2]) / speed,
    (u * to[1] - v * to[0]) / speed,
    cos,
  );
  for (let row = 0; row < TENSOR; row++) {
    const [p, q] = SYMMETRIC[row];
    for (let c = 0; c < TENSOR; c++) {
      const [k, l] = SYMMETRIC[c];
      const turned = r[3 * p + k] * r[3 * q + l] + (k === l ? 0 : r[3 * p + l] * r[3 * q + k]);
      map[TENSOR * row + c] = share * turned + (row === c ? 1 - share : 0);
    }
  }
  return true;
}

/** Rotation about the axis (x, y, z), as long as the sine of the angle whose cosine is given (Rodrigues). */
function rotation(x: number, y: number, z: number, cos: number): Float64Array {
  const f = 1 / (1 + cos);
  const r = ROTATION;
  r[0] = cos + f * x * x;
  r[1] = f * x * y - z;
  r[2] = f * x * z + y;
  r[3] = f * x * y + z;
  r[4] = cos + f * y * y;
  r[5] = f * y * z - x;
  r[6] = f * x * z - y;
  r[7] = f * y * z + x;
  r[8] = cos + f * z * z;
  return r;
}
