import earcut from 'earcut';
import type { TriangleMesh, Vec3 } from '../src/core/geometry/mesh';
import { weld } from '../src/core/geometry/mesh';

/** Small closed shapes for tests; metres. */

/** Slab over [0, lx] x [-ly/2, ly/2], its thickness a function of x, symmetric about z = 0. */
export function slab(lx: number, ly: number, thickness: (x: number) => number): TriangleMesh {
  const soup: number[] = [];
  const corner = (x: number, y: number, s: number): Vec3 => [x, y, (s * thickness(x)) / 2];
  const quad = (a: Vec3, b: Vec3, c: Vec3, d: Vec3) => soup.push(...a, ...b, ...c, ...a, ...c, ...d);
  const [y0, y1] = [-ly / 2, ly / 2];
  quad(corner(0, y0, 1), corner(lx, y0, 1), corner(lx, y1, 1), corner(0, y1, 1));
  quad(corner(0, y0, -1), corner(0, y1, -1), corner(lx, y1, -1), corner(lx, y0, -1));
  quad(corner(0, y0, -1), corner(lx, y0, -1), corner(lx, y0, 1), corner(0, y0, 1));
  quad(corner(0, y1, -1), corner(0, y1, 1), corner(lx, y1, 1), corner(lx, y1, -1));
  quad(corner(0, y0, -1), corner(0, y0, 1), corner(0, y1, 1), corner(0, y1, -1));
  quad(corner(lx, y0, -1), corner(lx, y1, -1), corner(lx, y1, 1), corner(lx, y0, 1));
  return weld(soup).mesh;
}

/** Prism over an anticlockwise outline in the xz plane, `length` along y. */
export function prismOf(outline: [number, number][], length: number): TriangleMesh {
  const soup: number[] = [];
  const n = outline.length;
  const at = (i: number, y: number): Vec3 => [outline[i % n][0], y, outline[i % n][1]];
  const [y0, y1] = [-length / 2, length / 2];
  const ears = earcut(outline.flat());
  for (let i = 0; i < ears.length; i += 3) {
    const [a, b, c] = [ears[i], ears[i + 1], ears[i + 2]];
    const [p, q, r] = [outline[a], outline[b], outline[c]];
    const left = (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]) > 0;
    const [s, t] = left ? [b, c] : [c, b];
    soup.push(...at(a, y0), ...at(s, y0), ...at(t, y0), ...at(a, y1), ...at(t, y1), ...at(s, y1));
  }
  for (let i = 0; i < n; i++)
    soup.push(...at(i, y0), ...at(i, y1), ...at(i + 1, y1), ...at(i, y0), ...at(i + 1, y1), ...at(i + 1, y0));
  return weld(soup).mesh;
}

/** Closed profile (radius, height), anticlockwise, turned about z. A radius of 0 is on the axis. */
export function revolve(profile: [number, number][], steps = 48): TriangleMesh {
  const soup: number[] = [];
  const at = ([r, z]: [number, number], k: number): Vec3 => {
    const angle = (2 * Math.PI * (k % steps)) / steps;
    return r === 0 ? [0, 0, z] : [r * Math.cos(angle), r * Math.sin(angle), z];
  };
  profile.forEach((from, i) => {
    const to = profile[(i + 1) % profile.length];
    for (let k = 0; k < steps; k++) {
      const [a, b, c, d] = [at(from, k), at(from, k + 1), at(to, k + 1), at(to, k)];
      soup.push(...a, ...b, ...c, ...a, ...c, ...d);
    }
  });
  return weld(soup).mesh;
}

export const ball = (R: number, steps = 32): TriangleMesh =>
  revolve(
    Array.from({ length: steps / 2 + 1 }, (_, i): [number, number] => {
      const angle = -Math.PI / 2 + (2 * Math.PI * i) / steps;
      return i === 0 || i === steps / 2 ? [0, R * Math.sin(angle)] : [R * Math.cos(angle), R * Math.sin(angle)];
    }),
    steps,
  );

const rad = (deg: number) => (deg * Math.PI) / 180;
const about = (axis: 0 | 2, deg: number) => {
  const [c, s] = [Math.cos(rad(deg)), Math.sin(rad(deg))];
  return ([x, y, z]: Vec3): Vec3 =>
    axis === 2 ? [c * x - s * y, s * x + c * y, z] : [x, c * y - s * z, s * y + c * z];
};

export const TURNS: Record<string, (v: Vec3) => Vec3> = {
  'as drawn': (v) => v,
  'turned 17° about z': about(2, 17),
  'turned 30° about x, then 17° about z': (v) => about(2, 17)(about(0, 30)(v)),
  'turned 90° about x': about(0, 90),
};

/** A box open at its top: outer size, walls of one thickness, its floor from z = 0 upwards. */
export function openBox(length: number, width: number, height: number, wall: number): TriangleMesh {
  const ring = (dx: number, dy: number, z: number): Vec3[] => [
    [-dx, -dy, z],
    [dx, -dy, z],
    [dx, dy, z],
    [-dx, dy, z],
  ];
  const [a, b] = [length / 2, width / 2];
  const corners = [
    ring(a, b, 0),
    ring(a, b, height),
    ring(a - wall, b - wall, height),
    ring(a - wall, b - wall, wall),
  ].flat();
  const triangles: number[] = [0, 2, 1, 0, 3, 2, 12, 13, 14, 12, 14, 15];
  for (let r = 0; r < 3; r++)
    for (let k = 0; k < 4; k++) {
      const [i, j] = [4 * r + k, 4 * r + ((k + 1) % 4)];
      triangles.push(i, j, j + 4, i, j + 4, i + 4);
    }
  return { positions: Float64Array.from(corners.flat()), triangles: Uint32Array.from(triangles) };
}
