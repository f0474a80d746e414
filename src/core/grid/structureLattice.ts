import { boundsOf, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import type { Lattice } from './lattice';

/** Box of nx x ny x nz equal cells, edges in m along each axis. */
export interface StructureLattice {
  origin: Vec3;
  edges: Vec3;
  nx: number;
  ny: number;
  nz: number;
}

/** The box begins such a share of a cell below the part: plane faces then do not lie in the planes of the cells. */
const OFFSET: Vec3 = [0.3819, 0.4142, 0.3643];
/** Edges may be this much smaller or larger than asked for, so that planes meet the faces of inserts. */
const SMALLEST = 0.75;
const LARGEST = 1.15;
/** So small they may become where two faces of an insert ask for it. */
const SMALLEST_BETWEEN = 0.45;
const TRIES = 80;
/** A face is square to an axis when its normal is. */
const SQUARE = 1 - 1e-6;
/** A face this near to a plane, in cells, lies on it. */
const ON_PLANE = 1e-4;

/**
 * The lattice over all bodies. Where inserts (among the first `nFitted`) have faces square to an axis, as many of these as possible, by
 * area, come to lie in planes between cells: elements then hold one material each.
 */
export function structureLattice(
  bodies: readonly TriangleMesh[],
  edge: number,
  nFitted = bodies.length,
): StructureLattice {
  const boxes = bodies.map((b) => boundsOf(b.positions));
  const min = [0, 1, 2].map((d) => Math.min(...boxes.map((b) => b.min[d])));
  const max = [0, 1, 2].map((d) => Math.max(...boxes.map((b) => b.max[d])));
  const axes = [0, 1, 2].map((d) => {
    const faces = squareFaces(bodies.slice(1, nFitted), d, min[d], max[d]);
    const { size, plane } = faces.length ? best(faces, edge) : { size: edge, plane: min[d] - OFFSET[d] * edge };
    // One empty cell below and above the part.
    const origin = plane - size * (Math.ceil((plane - min[d]) / size - 1e-9) + 1);
    return { size, origin, count: Math.ceil((max[d] - origin) / size + 1) };
  });
  const [nx, ny, nz] = axes.map((a) => a.count);
  return { origin: axes.map((a) => a.origin) as Vec3, edges: axes.map((a) => a.size) as Vec3, nx, ny, nz };
}

interface Face {
  at: number;
  area: number;
}

/** Places of insert faces square to axis d with their areas; faces on the outside of everything do not matter. */
function squareFaces(inserts: readonly TriangleMesh[], d: number, min: number, max: number): Face[] {
  const faces: Face[] = [];
  const near = 1e-6 * (max - min);
  for (const { positions: p, triangles: t } of inserts)
    for (let i = 0; i < t.length; i += 3) {
      const [a, b, c] = [3 * t[i], 3 * t[i + 1], 3 * t[i + 2]];
      const [u, v] = [(d + 1) % 3, (d + 2) % 3];
      const cross = (j: number, k: number) =>
        (p[b + j] - p[a + j]) * (p[c + k] - p[a + k]) - (p[b + k] - p[a + k]) * (p[c + j] - p[a + j]);
      const normal = cross(u, v);
      if (Math.abs(normal) < SQUARE * Math.hypot(normal, cross(v, d), cross(d, u))) continue;
      const at = p[a + d];
      if (at < min + near || at > max - near) continue;
      const known = faces.find((f) => Math.abs(f.at - at) < near);
      if (known) known.area += Math.abs(normal) / 2;
      else faces.push({ at, area: Math.abs(normal) / 2 });
    }
  return faces;
}

/** Size and a plane such that most of the faces' area lies on planes; of equals the size nearest to `edge`. */
function best(faces: readonly Face[], edge: number): { size: number; plane: number } {
  const anchor = faces.reduce((a, b) => (b.area > a.area ? b : a));
  const sizes = Array.from({ length: TRIES + 1 }, (_, i) => edge * (SMALLEST + ((LARGEST - SMALLEST) * i) / TRIES));
  for (const { at } of faces) {
    const distance = Math.abs(at - anchor.at);
    for (let n = Math.ceil(distance / (LARGEST * edge)); n > 0 && distance / n >= SMALLEST_BETWEEN * edge; n++)
      sizes.push(distance / n);
  }
  const score = (size: number) => {
    const met = faces.reduce((sum, { at, area }) => {
      const k = (at - anchor.at) / size;
      return sum + (Math.abs(k - Math.round(k)) < ON_PLANE ? area : 0);
    }, 0);
    return met - 1e-3 * anchor.area * Math.abs(size / edge - 1);
  };
  const size = sizes.reduce((a, b) => (score(b) > score(a) ? b : a));
  return { size, plane: anchor.at };
}

/** The bodies in units of the cells, and the lattice in which they are. */
export function inCells(bodies: readonly TriangleMesh[], lattice: StructureLattice): [TriangleMesh[], Lattice] {
  const { origin, edges, nx, ny, nz } = lattice;
  const scaled = bodies.map(({ positions, triangles }) => ({
    triangles,
    positions: positions.map((x, i) => {
      const c = (x - origin[i % 3]) / edges[i % 3];
      const plane = Math.round(c);
      // A face that was meant to lie in a plane lies in it, rounding apart.
      return Math.abs(c - plane) < 1e-9 ? plane : c;
    }),
  }));
  return [scaled, { origin: [0, 0, 0], spacing: 1, nx, ny, nz }];
}
