import { combine } from '../../src/cad/solids';
import { mapVertices, weld, type TriangleMesh, type Vec3 } from '../../src/core/geometry/mesh';
import { random } from '../random';
import { box, disc, rod } from '../shapes';
import { prismOf, revolve } from '../solids';
import { moved, type Draw, type StormPart } from './parts';

/** Solids of the kind that people bring along: threads, teeth, wires, holes, letters. Metres. */
export const OBJECT_KINDS = [
  'gear',
  'screw',
  'nut',
  'spring',
  'lattice',
  'sieve',
  'lever',
  'shell with bosses',
  'letters in relief',
  'hook',
  'pulley',
  'bracket with gussets',
] as const;
export type ObjectKind = (typeof OBJECT_KINDS)[number];

interface Solid {
  mesh: TriangleMesh;
  gate: Vec3;
}

const onEdge = (mesh: TriangleMesh) => mapVertices(mesh, ([x, y, z]) => [x, -z, y]);

async function all(how: 'join' | 'cut', [first, ...rest]: TriangleMesh[]): Promise<TriangleMesh> {
  let mesh = first;
  for (const other of rest) {
    const next = await combine(mesh, other, how);
    if (!next) throw new Error('the solids of an object do not combine');
    mesh = next;
  }
  return mesh;
}

/** A closed section (x across, z up, anticlockwise seen along the path) swept along a path; ends are closed by fans. */
function swept(
  section: [number, number][],
  path: (s: number) => { at: Vec3; x: Vec3; z: Vec3 },
  steps: number,
): TriangleMesh {
  const soup: number[] = [];
  const n = section.length;
  const place = (i: number, s: number): Vec3 => {
    const { at, x, z } = path(s / steps);
    const [u, v] = section[i % n];
    return at.map((c, d) => c + u * x[d] + v * z[d]) as Vec3;
  };
  for (let s = 0; s < steps; s++)
    for (let i = 0; i < n; i++) {
      const [a, b, c, d] = [place(i, s), place(i + 1, s), place(i + 1, s + 1), place(i, s + 1)];
      soup.push(...a, ...c, ...b, ...a, ...d, ...c);
    }
  for (let i = 1; i + 1 < n; i++) {
    soup.push(...place(0, 0), ...place(i, 0), ...place(i + 1, 0));
    soup.push(...place(0, steps), ...place(i + 1, steps), ...place(i, steps));
  }
  return weld(soup).mesh;
}

const ring = (r: number, n = 16): [number, number][] =>
  Array.from({ length: n }, (_, k) => [r * Math.cos((2 * Math.PI * k) / n), r * Math.sin((2 * Math.PI * k) / n)]);

/** Around z with a pitch; the section's x points away from the axis. */
const helix = (radius: number, pitch: number, turns: number) => (s: number) => {
  const angle = 2 * Math.PI * turns * s;
  const [c, w] = [Math.cos(angle), Math.sin(angle)];
  return { at: [radius * c, radius * w, pitch * turns * s] as Vec3, x: [c, w, 0] as Vec3, z: [0, 0, 1] as Vec3 };
};

/** 3 x 5 dots of some capitals. */
const LETTERS: Record<string, string> = { B: '65656', E: '74747', L: '44447', O: '75557', S: '74717', W: '55577' };

const MAKERS: Record<ObjectKind, (w: number, draw: Draw) => Promise<Solid> | Solid> = {
  gear: async (w, draw) => {
    const [teeth, R, h] = [Math.round(draw(10, 18)), w * draw(5, 8), w * draw(1, 2)];
    const outline = Array.from({ length: 4 * teeth }, (_, k): [number, number] => {
      const r = R * (k % 4 === 1 || k % 4 === 2 ? 1.16 : 1);
      const angle = (2 * Math.PI * (k + (k % 4 === 1 ? 0.25 : k % 4 === 2 ? -0.25 : 0))) / (4 * teeth);
      return [r * Math.cos(angle), r * Math.sin(angle)];
    });
    return {
      mesh: await all('cut', [onEdge(prismOf(outline, h)), disc(0.3 * R, 3 * h, 32)]),
      gate: [0.6 * R, 0, h / 2],
    };
  },
  screw: async (w, draw) => {
    const [core, pitch, turns] = [w * draw(0.8, 1.2), w * draw(0.7, 0.9), Math.round(draw(4, 6))];
    const shaft = moved(disc(core, pitch * (turns + 1.5), 40), [0, 0, (pitch * turns) / 2]);
    const thread = swept(
      [
        [-0.12 * w, -0.32 * pitch],
        [0.35 * w, -0.1 * pitch],
        [0.35 * w, 0.1 * pitch],
        [-0.12 * w, 0.32 * pitch],
      ],
      helix(core, pitch, turns),
      24 * turns,
    );
    const top = pitch * (turns + 0.7);
    const head = moved(disc(2 * core, w, 6), [0, 0, top + 0.45 * w]);
    return { mesh: await all('join', [shaft, thread, head]), gate: [0, 0, top + w] };
  },
  nut: async (w, draw) => {
    const [r, h] = [w * draw(1, 1.6), w * draw(1, 1.6)];
    return { mesh: await all('cut', [disc(r + 1.1 * w, h, 6), disc(r, 2 * h, 40)]), gate: [r + w / 2, 0, h / 2] };
  },
  spring: (w, draw) => {
    const [R, turns] = [w * draw(2.5, 4), draw(1.5, 2.5)];
    return {
      mesh: swept(ring(w / 2), helix(R, 1.8 * w, turns), Math.round(28 * turns)),
      gate: [-R, 0, 0.9 * w + w / 2],
    };
  },
  lattice: async (w, draw) => {
    const [n, pitch] = [3, w * draw(3, 4)];
    const bars: TriangleMesh[] = [];
    const bar = rod(w / 2, (n - 1) * pitch, 12);
    for (let i = 0; i < n; i++)
      for (const z of [0, pitch]) {
        bars.push(moved(bar, [0, i * pitch, z]));
        bars.push(
          moved(
            mapVertices(bar, ([x, y, h]) => [-y, x, h]),
            [i * pitch, 0, z],
          ),
        );
      }
    const post = disc(w / 2, pitch, 12);
    for (let i = 0; i < n; i += 2)
      for (let j = 0; j < n; j += 2) bars.push(moved(post, [i * pitch, j * pitch, pitch / 2]));
    return { mesh: await all('join', bars), gate: [pitch, pitch, pitch + w / 2] };
  },
  sieve: async (w, draw) => {
    const [n, pitch] = [4, w * draw(2.6, 3.2)];
    const holes: TriangleMesh[] = [];
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) holes.push(moved(disc(0.8 * w, 3 * w, 16), [(i + 1) * pitch, (j - 1.5) * pitch, 0]));
    return {
      mesh: await all('cut', [box((n + 1) * pitch, n * pitch + w, w), ...holes]),
      gate: [0.35 * pitch, 0, w / 2],
    };
  },
  lever: async (w, draw) => {
    const [l, h] = [w * draw(8, 12), w * draw(1.2, 2)];
    const arm = moved(box(l, 1.6 * w, w), [0, 0, 0]);
    const eyes = [moved(disc(1.8 * w, h, 40), [0, 0, 0]), moved(disc(1.2 * w, h, 40), [l, 0, 0])];
    const bores = [moved(disc(0.9 * w, 3 * h, 32), [0, 0, 0]), moved(disc(0.5 * w, 3 * h, 32), [l, 0, 0])];
    return { mesh: await all('cut', [await all('join', [arm, ...eyes]), ...bores]), gate: [l / 2, 0, w / 2] };
  },
  'shell with bosses': async (w, draw) => {
    const [l, b, h] = [w * draw(14, 18), w * draw(10, 14), w * draw(4, 6)];
    const shell = await all('cut', [box(l, b, h), moved(box(l - 2 * w, b - 2 * w, h), [w, 0, w])]);
    const tube = async (x: number, y: number) => {
      const pin = moved(disc(0.9 * w, h - 1.5 * w, 32), [x, y, -0.2 * w]);
      return all('cut', [pin, moved(disc(0.45 * w, h, 24), [x, y, 0.8 * w])]);
    };
    const tubes = [await tube(3 * w, 0.25 * b), await tube(l - 3 * w, -0.25 * b)];
    return { mesh: await all('join', [shell, ...tubes]), gate: [l / 2, 0, -h / 2] };
  },
  'letters in relief': async (w, draw) => {
    const dot = w * draw(0.6, 0.9);
    const word = ['SOLE', 'BOWL', 'LOBE'][Math.floor(draw(0, 2.999))];
    const plate = moved(box(dot * (4 * word.length + 1), 7 * dot, w), [0, 0, 0]);
    const dots = [...word].flatMap((letter, k) =>
      [...LETTERS[letter]].flatMap((row, j) =>
        [4, 2, 1].flatMap((bit, i) =>
          // A little over one dot, so that neighbours are one letter.
          Number(row) & bit
            ? [moved(box(1.04 * dot, 1.04 * dot, 0.7 * w), [dot * (4 * k + 1 + i), dot * (2 - j), 0.75 * w])]
            : [],
        ),
      ),
    );
    return { mesh: await all('join', [plate, ...dots]), gate: [dot * 2 * word.length, 0, -w / 2] };
  },
  hook: async (w, draw) => {
    const R = w * draw(2, 3.5);
    const arc = swept(
      ring(w / 2, 20),
      (s) => {
        const angle = Math.PI * (1.5 * s - 0.5);
        const [c, z] = [Math.cos(angle), Math.sin(angle)];
        return { at: [R * c, 0, R * z], x: [-c, 0, -z], z: [0, 1, 0] };
      },
      40,
    );
    const shank = moved(rod(w / 2, 3 * R, 20), [-3 * R, 0, -R]);
    return { mesh: await all('join', [arc, moved(shank, [0.02 * w, 0, 0])]), gate: [-2 * R, 0, -R + w / 2] };
  },
  pulley: (w, draw) => {
    const [r, R, h] = [w * draw(1.5, 2.5), w * draw(5, 8), w * draw(3, 4)];
    const mesh = revolve(
      [
        [r, -h / 2],
        [r + w, -h / 2],
        [r + w, -w / 2],
        [R - w, -w / 2],
        [R - w, -h / 2],
        [R + w / 2, -h / 2],
        [R, 0],
        [R + w / 2, h / 2],
        [R - w, h / 2],
        [R - w, w / 2],
        [r + w, w / 2],
        [r + w, h / 2],
        [r, h / 2],
      ],
      64,
    );
    return { mesh, gate: [(r + R) / 2, 0, w / 2] };
  },
  'bracket with gussets': async (w, draw) => {
    const [a, b] = [w * draw(7, 11), w * draw(8, 12)];
    const ell = prismOf(
      [
        [0, 0],
        [a, 0],
        [a, w],
        [w, w],
        [w, a],
        [0, a],
      ],
      b,
    );
    const gusset = (y: number) =>
      moved(
        prismOf(
          [
            [0.9 * w, 0.9 * w],
            [0.6 * a, 0.9 * w],
            [0.9 * w, 0.6 * a],
          ],
          0.6 * w,
        ),
        [0, y, 0],
      );
    return { mesh: await all('join', [ell, gusset(0.25 * b), gusset(-0.25 * b)]), gate: [0.7 * a, 0, w] };
  },
};

/** The object of a seed: kinds in turn, walls of 1 to 5 mm, proportions of its own. */
export async function objectPart(seed: number): Promise<Omit<StormPart, 'kind'> & { kind: string }> {
  const next = random(seed ^ 0x2545f491);
  const draw: Draw = (from, to) => from + (to - from) * next();
  const kind = OBJECT_KINDS[seed % OBJECT_KINDS.length];
  const wall = 0.001 * 5 ** next();
  const { mesh, gate } = await MAKERS[kind](wall, draw);
  return { seed, kind, mesh, wall, gate: { at: gate, diameter: Math.max(0.0006, 0.7 * wall) } };
}
