import type { Vec3 } from '../geometry/mesh';
import { CREASE, type MapSurface } from './surface';

/** A place where a rib (or boss wall) stands on a wall. */
export interface RibFoot {
  position: Vec3;
  rib: number;
  wall: number;
  /** rib / wall */
  ratio: number;
  /** Facet of the rib's flank. */
  facet: number;
}

/**
 * Feet of ribs: inner edges where one face belongs to a protrusion, with the wall going on beyond it.
 * Rib and wall thickness are measured straight through, half a wall away from the edge. `wall`: typical
 * wall of the part, m.
 */
export function ribFeet(surface: MapSurface, wall: number): RibFoot[] {
  const { mesh, across, normals } = surface;
  const { positions: p, triangles: t } = mesh;
  const feet: RibFoot[] = [];
  const at = (i: number): Vec3 => [normals[3 * i], normals[3 * i + 1], normals[3 * i + 2]];
  for (let h = 0; h < across.length; h++) {
    const g = across[h];
    if (g < h) continue;
    const [f1, f2] = [Math.floor(h / 3), Math.floor(g / 3)];
    const [n1, n2] = [at(f1), at(f2)];
    if (dot(n1, n2) > CREASE) continue;
    const [a, b] = [3 * t[h], 3 * t[h % 3 === 2 ? h - 2 : h + 1]];
    const middle = [0, 1, 2].map((d) => (p[a + d] + p[b + d]) / 2) as Vec3;
    // Inner edge: the other face rises in front of this one.
    const far = 3 * t[g - (g % 3) + ((g + 2) % 3)];
    if (dot(n1, [p[far] - middle[0], p[far + 1] - middle[1], p[far + 2] - middle[2]]) <= 0) continue;
    const foot = footAt(surface, middle, n1, n2, f1, wall) ?? footAt(surface, middle, n2, n1, f2, wall);
    if (foot) feet.push(foot);
  }
  return feet;
}

const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const step = (a: Vec3, u: Vec3, s: number, v: Vec3, r: number): Vec3 =>
  [0, 1, 2].map((d) => a[d] + s * u[d] + r * v[d]) as Vec3;

/** The edge as foot of a rib with flank normal `flank` on a wall with normal `face`; null when it is none. */
function footAt(surface: MapSurface, edge: Vec3, flank: Vec3, face: Vec3, facet: number, wall: number): RibFoot | null {
  const { tree, normals } = surface;
  const reach = 0.5 * wall;
  const off = 0.25 * wall;
  /** Thickness along -n from a point in front of the face: from where the ray enters to where it leaves. */
  const through = (from: Vec3, n: Vec3) => {
    const ray = (start: number) => tree.ray(...from, -n[0], -n[1], -n[2], start, Infinity);
    if (ray(0) < 0 || tree.distance > 2 * off) return 0;
    const enters = tree.distance;
    return ray(enters + 1e-3 * off) < 0 ? 0 : tree.distance - enters;
  };
  const rib = through(step(edge, face, reach, flank, off), flank);
  const thickness = through(step(edge, flank, reach, face, off), face);
  // A ray that leaves along a gap or through a whole side has not measured a rib on a wall.
  if (!(rib > 0.05 * wall && rib < 2 * wall) || !(thickness > 0.4 * wall && thickness < 2.5 * wall)) return null;
  // Beyond the rib there must be air above the same wall.
  const beyond = step(edge, flank, -(rib + reach), face, reach);
  const hit = tree.ray(...beyond, -face[0], -face[1], -face[2], 0, 2 * reach);
  if (hit < 0) return null;
  const facing = normals[3 * hit] * face[0] + normals[3 * hit + 1] * face[1] + normals[3 * hit + 2] * face[2];
  if (facing < 0.8 || Math.abs(tree.distance - reach) > 0.4 * reach) return null;
  // Where the protrusion goes on behind the wall, two ribs cross: no open face there to sink.
  if (tree.inside(...step(edge, flank, -rib / 2, face, -(thickness + reach)))) return null;
  return { position: edge, rib, wall: thickness, ratio: rib / thickness, facet };
}
