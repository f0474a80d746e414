import { mapVertices, weld, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';

/** Closed prism over a convex outline in the xy plane, from z0 to z1. Metres. */
export function prism(outline: [number, number][], z0: number, z1: number): TriangleMesh {
  const soup: number[] = [];
  const tri = (...corners: Vec3[]) => corners.forEach((c) => soup.push(...c));
  const n = outline.length;
  const at = (i: number, z: number): Vec3 => [outline[i % n][0], outline[i % n][1], z];
  for (let i = 1; i + 1 < n; i++) {
    tri(at(0, z1), at(i, z1), at(i + 1, z1));
    tri(at(0, z0), at(i + 1, z0), at(i, z0));
  }
  for (let i = 0; i < n; i++) {
    tri(at(i, z0), at(i + 1, z0), at(i + 1, z1));
    tri(at(i, z0), at(i + 1, z1), at(i, z1));
  }
  return weld(soup).mesh;
}

export const box = (lx: number, ly: number, lz: number): TriangleMesh =>
  prism(
    [
      [0, -ly / 2],
      [lx, -ly / 2],
      [lx, ly / 2],
      [0, ly / 2],
    ],
    -lz / 2,
    lz / 2,
  );

/** Polygon of n corners with the area of the circle of radius R, so volumes agree with the closed forms. */
export function circle(R: number, n: number): [number, number][] {
  const r = R * Math.sqrt((2 * Math.PI) / n / Math.sin((2 * Math.PI) / n));
  return Array.from({ length: n }, (_, i) => [
    r * Math.cos((2 * Math.PI * i) / n),
    r * Math.sin((2 * Math.PI * i) / n),
  ]);
}

/** Disc of radius R and thickness H about the z axis. */
export const disc = (R: number, H: number, n = 160): TriangleMesh => prism(circle(R, n), -H / 2, H / 2);

/** Rod of radius R from x = 0 to x = L. */
export const rod = (R: number, L: number, n = 64): TriangleMesh =>
  mapVertices(prism(circle(R, n), 0, L), ([x, y, z]) => [z, x, y]);

const rad = (deg: number) => (deg * Math.PI) / 180;

const aboutZ = (deg: number) => {
  const [c, s] = [Math.cos(rad(deg)), Math.sin(rad(deg))];
  return ([x, y, z]: Vec3): Vec3 => [c * x - s * y, s * x + c * y, z];
};
const aboutX = (deg: number) => {
  const [c, s] = [Math.cos(rad(deg)), Math.sin(rad(deg))];
  return ([x, y, z]: Vec3): Vec3 => [x, c * y - s * z, s * y + c * z];
};

/** The orientations every solver case is run in. */
export const ORIENTATIONS: Record<string, (v: Vec3) => Vec3> = {
  flat: (v) => v,
  'turned 17° about z': aboutZ(17),
  'turned 30° about x, then 17° about z': (v) => aboutZ(17)(aboutX(30)(v)),
};
