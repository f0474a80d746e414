import type { TriangleMesh } from '../geometry/mesh';
import { refine } from '../geometry/refine';
import { cross, dot, normalised, sub, vertexAt } from '../geometry/vec';

/** Longest edge of the drawn surface over the spacing of the nodes, away from where walls meet and there. */
export const SURFACE_EDGE = 2.6;
const EDGE_AT_JOINTS = 1.1;
/** How far from a joint values may change from node to node, over the spacing. */
const REACH = 2;
/** Of a surface of more triangles the joints stay as they are: its saw teeth are small. */
const LARGE = 200_000;
/** Walls that meet at less than this are one that bends. */
const BEND = Math.cos((25 * Math.PI) / 180);

/**
 * Surface of a part as results are drawn on it: fine enough that linear colours follow the grid. Where walls meet, values
 * change from one node to the next; longer edges would make saw teeth of that along the joint.
 */
export function drawnSurface(mesh: TriangleMesh, spacing: number): TriangleMesh {
  const even = refine(mesh, SURFACE_EDGE * spacing);
  if (even.triangles.length / 3 > LARGE) return even;
  const atJoint = nearJoints(mesh, REACH * spacing);
  return refine(even, (x, y, z) => spacing * (atJoint(x, y, z) ? EDGE_AT_JOINTS : SURFACE_EDGE));
}

/** Tells whether a place is within about `reach` [m] of an edge at which the surface is bent inwards: of the foot of a rib. */
function nearJoints(mesh: TriangleMesh, reach: number): (x: number, y: number, z: number) => boolean {
  const marked = new Set<number>();
  const cellOf = (x: number) => Math.floor(x / reach);
  const key = (i: number, j: number, k: number) => (i + 100_000) * 4e10 + (j + 100_000) * 2e5 + (k + 100_000);
  const mark = (p: readonly number[]) => {
    const [i, j, k] = p.map(cellOf);
    for (let a = -1; a <= 1; a++)
      for (let b = -1; b <= 1; b++) for (let c = -1; c <= 1; c++) marked.add(key(i + a, j + b, k + c));
  };
  for (const [p, q] of inwardEdges(mesh)) {
    const steps = Math.max(1, Math.ceil((2 * Math.hypot(...sub(q, p))) / reach));
    for (let s = 0; s <= steps; s++) mark(p.map((x, d) => x + (s / steps) * (q[d] - x)));
  }
  return (x, y, z) => marked.size > 0 && marked.has(key(cellOf(x), cellOf(y), cellOf(z)));
}

/** Ends of the edges at which two faces are bent towards each other. */
function inwardEdges({ positions, triangles }: TriangleMesh) {
  const n = positions.length / 3;
  /** First triangle at an edge, times 3, with the number of the corner that it begins at. */
  const first = new Map<number, number>();
  const found: [ReturnType<typeof vertexAt>, ReturnType<typeof vertexAt>][] = [];
  const corner = (k: number) => vertexAt(positions, triangles[k]);
  const normalOf = (t: number) => normalised(cross(sub(corner(t + 1), corner(t)), sub(corner(t + 2), corner(t))));
  for (let t = 0; t < triangles.length; t += 3)
    for (let c = 0; c < 3; c++) {
      const [a, b] = [triangles[t + c], triangles[t + ((c + 1) % 3)]];
      const edge = a < b ? a * n + b : b * n + a;
      const other = first.get(edge);
      if (other === undefined) {
        first.set(edge, 3 * t + c);
        continue;
      }
      const [t1, c1] = [Math.floor(other / 3), other % 3];
      const [mine, theirs] = [normalOf(t), normalOf(t1)];
      if (dot(mine, theirs) >= BEND) continue;
      const beyond = sub(corner(t1 + ((c1 + 2) % 3)), corner(t + c));
      if (dot(beyond, mine) > 0) found.push([vertexAt(positions, a), vertexAt(positions, b)]);
    }
  return found;
}
