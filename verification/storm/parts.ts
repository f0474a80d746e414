import { combine } from '../../src/cad/solids';
import { boundsOf, mapVertices, type TriangleMesh, type Vec3 } from '../../src/core/geometry/mesh';
import { random } from '../random';
import { box, disc, rod } from '../shapes';
import { prismOf, revolve } from '../solids';

/** A random solid and where it is gated, as drawn: the tool opens along +z. Metres. */
export interface StormPart {
  seed: number;
  kind: Kind;
  mesh: TriangleMesh;
  /** m */
  wall: number;
  gate: { at: Vec3; diameter: number };
}

export const KINDS = [
  'plate',
  'disc',
  'rod',
  'tube',
  'ring',
  'box',
  'ribbed plate',
  'channel',
  'T section',
  'cross section',
  'block with fins',
  'plate with bosses',
] as const;
export type Kind = (typeof KINDS)[number];

/** A number drawn evenly between two. */
export type Draw = (from: number, to: number) => number;
interface Solid {
  mesh: TriangleMesh;
  wall: number;
  /** Where a gate would sit; moved onto the surface by the run. */
  gate: Vec3;
}

export const moved = (mesh: TriangleMesh, by: Vec3) =>
  mapVertices(mesh, ([x, y, z]) => [x + by[0], y + by[1], z + by[2]]);

async function union(parts: TriangleMesh[]): Promise<TriangleMesh> {
  let all = parts[0];
  for (const part of parts.slice(1)) {
    const next = await combine(all, part, 'join');
    if (!next) throw new Error('the solids of a storm part do not join');
    all = next;
  }
  return all;
}

/** Sizes are drawn so that flow length over wall stays within what the resin fills at the machine's limit. */
const MAKERS: Record<Kind, (wall: number, draw: Draw) => Promise<Solid> | Solid> = {
  plate: (wall, draw) => {
    const [l, b] = [wall * draw(10, 34), wall * draw(8, 24)];
    return { mesh: moved(box(l, b, wall), [0, 0, 0]), wall, gate: [l * draw(0.1, 0.9), b * draw(-0.4, 0.4), wall / 2] };
  },
  disc: (wall, draw) => {
    const R = wall * draw(5, 18);
    return { mesh: disc(R, wall, 96), wall, gate: [R * draw(-0.6, 0.6), R * draw(-0.6, 0.6), wall / 2] };
  },
  rod: (wall, draw) => {
    const l = wall * draw(6, 20);
    return { mesh: rod(wall / 2, l, 48), wall, gate: [l * draw(0.05, 0.95), 0, wall / 2] };
  },
  tube: (wall, draw) => {
    const [r, l] = [wall * draw(3, 8), wall * draw(6, 20)];
    const mesh = revolve(
      [
        [r, 0],
        [r + wall, 0],
        [r + wall, l],
        [r, l],
      ],
      64,
    );
    return { mesh, wall, gate: [r + wall, 0, l * draw(0.1, 0.9)] };
  },
  ring: (wall, draw) => {
    const R = wall * draw(2.5, 8);
    const profile = Array.from({ length: 24 }, (_, k): [number, number] => {
      const angle = (2 * Math.PI * k) / 24;
      return [R + (wall / 2) * Math.cos(angle), (wall / 2) * Math.sin(angle)];
    });
    return { mesh: revolve(profile, 64), wall, gate: [R + wall / 2, 0, 0] };
  },
  box: async (wall, draw) => {
    const [l, b, h] = [wall * draw(10, 22), wall * draw(8, 18), wall * draw(4, 10)];
    const mesh = await combine(box(l, b, h), moved(box(l - 2 * wall, b - 2 * wall, h), [wall, 0, wall]), 'cut');
    if (!mesh) throw new Error('no box');
    return { mesh, wall, gate: [l * draw(0.3, 0.7), b * draw(-0.2, 0.2), -h / 2] };
  },
  'ribbed plate': async (wall, draw) => {
    const [l, b, h] = [wall * draw(12, 26), wall * draw(10, 20), wall * draw(2, 6)];
    const rib = wall * draw(0.4, 0.8);
    const ribs = [0.25, 0.6].map((x) => moved(box(rib, b, h), [l * x, 0, h / 2 + wall / 2 - 0.1 * wall]));
    return { mesh: await union([box(l, b, wall), ...ribs]), wall, gate: [l * 0.42, b * draw(-0.3, 0.3), -wall / 2] };
  },
  channel: (wall, draw) => {
    const [b, h, l] = [wall * draw(6, 14), wall * draw(4, 10), wall * draw(12, 26)];
    const outline: [number, number][] = [
      [0, 0],
      [b, 0],
      [b, h],
      [b - wall, h],
      [b - wall, wall],
      [wall, wall],
      [wall, h],
      [0, h],
    ];
    return { mesh: prismOf(outline, l), wall, gate: [b / 2, l * draw(-0.4, 0.4), 0] };
  },
  'T section': (wall, draw) => {
    const [b, h, l] = [wall * draw(6, 12), wall * draw(4, 9), wall * draw(10, 22)];
    const stem = wall * draw(0.5, 1);
    const outline: [number, number][] = [
      [-b / 2, 0],
      [b / 2, 0],
      [b / 2, wall],
      [stem / 2, wall],
      [stem / 2, h],
      [-stem / 2, h],
      [-stem / 2, wall],
      [-b / 2, wall],
    ];
    return { mesh: prismOf(outline, l), wall, gate: [0, l * draw(-0.4, 0.4), 0] };
  },
  'cross section': (wall, draw) => {
    const [a, w, l] = [wall * draw(2.5, 6), wall / 2, wall * draw(8, 20)];
    const outline: [number, number][] = [
      [-a, -w],
      [-w, -w],
      [-w, -a],
      [w, -a],
      [w, -w],
      [a, -w],
      [a, w],
      [w, w],
      [w, a],
      [-w, a],
      [-w, w],
      [-a, w],
    ];
    return { mesh: prismOf(outline, l), wall, gate: [0, l * draw(-0.4, 0.4), a] };
  },
  'block with fins': (wall, draw) => {
    const [b, l] = [wall * draw(4, 7), wall * draw(4, 8)];
    const [base, fin, h] = [wall * draw(1, 2), wall * draw(0.25, 0.4), wall * draw(1.5, 2.5)];
    const n = 4;
    const pitch = (b - fin) / (n - 1);
    const outline: [number, number][] = [
      [0, 0],
      [b, 0],
    ];
    for (let k = n - 1; k >= 0; k--) {
      const x = k * pitch;
      if (k < n - 1) outline.push([x + fin, base]);
      outline.push([x + fin, base + h], [x, base + h]);
      if (k > 0) outline.push([x, base]);
    }
    return { mesh: prismOf(outline, l), wall, gate: [b * draw(0.3, 0.7), l * draw(-0.3, 0.3), 0] };
  },
  'plate with bosses': async (wall, draw) => {
    const [l, b, h] = [wall * draw(12, 24), wall * draw(10, 20), wall * draw(2, 5)];
    const boss = (x: number, y: number) => moved(disc(wall * draw(0.7, 1.3), h, 40), [x, y, h / 2 + 0.4 * wall]);
    const bosses = [boss(0.25 * l, 0.2 * b), boss(0.7 * l, -0.25 * b)];
    return { mesh: await union([box(l, b, wall), ...bosses]), wall, gate: [l * 0.5, 0, -wall / 2] };
  },
};

/** The part of a seed: the same on every machine. Walls of 0.8 to 12 mm, evenly in their logarithm. */
export async function stormPart(seed: number): Promise<StormPart> {
  const next = random(seed);
  const draw: Draw = (from, to) => from + (to - from) * next();
  const kind = KINDS[seed % KINDS.length];
  const wall = 0.0008 * (0.012 / 0.0008) ** next();
  const { mesh, gate } = await MAKERS[kind](wall, draw);
  const diameter = Math.min(0.008, Math.max(0.0006, wall * draw(0.4, 1.2)));
  return { seed, kind, mesh, wall, gate: { at: gate, diameter } };
}

/** A motion of space, a mirror among them. */
export interface Turn {
  name: string;
  apply: (v: Vec3) => Vec3;
  mirrors: boolean;
}

const rad = (deg: number) => (deg * Math.PI) / 180;
const spin = (angle: number, i: number, j: number) => (v: Vec3) => {
  const out: Vec3 = [...v];
  out[i] = Math.cos(angle) * v[i] - Math.sin(angle) * v[j];
  out[j] = Math.sin(angle) * v[i] + Math.cos(angle) * v[j];
  return out;
};

/** A turn about three axes, of its own for each seed. */
export function turnOf(seed: number): Turn {
  const next = random(seed ^ 0x5bd1e995);
  const angles = [0, 1, 2].map(() => Math.round(5 + 80 * next()));
  const turns = [spin(rad(angles[0]), 0, 1), spin(rad(angles[1]), 1, 2), spin(rad(angles[2]), 0, 1)];
  const apply = (v: Vec3) => turns.reduce((w, t) => t(w), v);
  return { name: `turned ${angles.join('/')}°`, apply, mirrors: false };
}

/** The mirror image in the plane x = 0, turned as well. */
export function mirrorOf(seed: number): Turn {
  const { apply } = turnOf(seed + 7919);
  return { name: 'mirrored and turned', apply: ([x, y, z]) => apply([-x, y, z]), mirrors: true };
}

/** Largest edge of a surface's box, m. */
export function sizeOf(mesh: TriangleMesh): number {
  const { min, max } = boundsOf(mesh.positions);
  return Math.max(...max.map((m, d) => m - min[d]));
}
