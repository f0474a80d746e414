import reference from './reference/structure.json';
import { combine } from '../src/cad/solids';
import { mapVertices, weld, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { buildStructureGrid, locate, structureEdge, type StructureGrid } from '../src/core/grid/structureGrid';
import type { Detail } from '../src/core/grid/lattice';
import { plainContext } from '../src/core/stage/context';
import { solveElastic, type ElasticSolution } from '../src/core/solvers/warp/elastic';
import { LANES } from '../src/core/solvers/warp/solid';
import { displacementAt } from '../src/core/solvers/warp/stress';
import { bestFit, without } from '../src/core/geometry/alignment';
import { prismOf } from './solids';

type Six = [number, number, number, number, number, number];
interface Box {
  min: Vec3;
  max: Vec3;
}

export interface StructureCase {
  name: string;
  what: string;
  maxDisplacement_mm: number;
  maxShape_mm: number;
  tolerance: { displacement: number; shape: number; stress?: number };
  bodies: { boxes_mm: Box[] | null; without_mm: Box[]; young_MPa: number; poisson: number; volume_mm3: number }[];
  samples_mm: Six[];
  stresses?: { place_mm: Vec3; vonMises_MPa: number }[];
  springIn_deg?: number;
}

export const CASES = (reference as unknown as { cases: StructureCase[] }).cases;

const dome = (x: number, span: number) => 1 - (2 * (x / span) - 1) ** 2;
const step = (x: number) => 1 + 0.05 * (1 + Math.tanh((x - 40) / 10));

/** Stress-free strain of each case at a place in mm: one number where it is alike in all directions, else xx yy zz xy yz xz. */
export const STRAINS: Record<string, (p: Vec3, body: number) => number | Six> = {
  'domed-plate': ([x, y, z]) => -0.006 * (1 + 0.4 * dome(x, 100) * dome(y, 60)) * (1 + 0.1 * (z - 1)),
  'bimetal-strip': (_, body) => -60 * (body ? 1.2e-5 : 9e-5),
  // A temperature difference of 20 K through the outer walls, a quarter of it more along the ribs.
  'u-channel': ([x, , z]) => {
    const depth = Math.min(x, 50 - x, z);
    return -20 * 9e-5 * (depth <= 2 ? depth / 2 - 0.5 : 0.5 + (0.25 * (depth - 2)) / 10);
  },
  'linear-tray': ([x, , z]) => -(0.007 - (0.002 * z) / 25) * step(x),
  // Radial in the corner: 0.9 % across the wall, 0.4 % along it.
  'l-bracket': ([x, , z]) => {
    const turn = Math.min(Math.max(Math.atan2(x, -z), 0), Math.PI / 2);
    const n = [Math.sin(turn), 0, -Math.cos(turn)];
    const of = (i: number, j: number) => -(i === j ? 0.004 : 0) - 0.005 * n[i] * n[j];
    return [of(0, 0), of(1, 1), of(2, 2), of(0, 1), of(1, 2), of(0, 2)];
  },
  'embedded-bar': (_, body) => (body ? -0.0007 : -0.008),
  'steep-tray': ([x, , z]) => -(0.007 - 0.002 * (1 - Math.exp(-z / 4))) * step(x),
};

function boxMesh({ min, max }: Box): TriangleMesh {
  const soup: number[] = [];
  const at = (i: number): Vec3 => [0, 1, 2].map((d) => ((i >> d) & 1 ? max[d] : min[d])) as Vec3;
  for (const [a, b, c, d] of [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ])
    soup.push(...at(a), ...at(b), ...at(c), ...at(a), ...at(c), ...at(d));
  return weld(soup).mesh;
}

/** L-bracket: legs of 40 mm, wall 2.5 mm, inner radius 3 mm, 64 chords; 30 mm long from y = 0. */
function bracket(): TriangleMesh {
  const arc = (r: number) =>
    Array.from({ length: 65 }, (_, k): [number, number] => {
      const turn = ((Math.PI / 2) * k) / 64;
      return [r * Math.sin(turn), -r * Math.cos(turn)];
    });
  const outer = arc(5.5);
  const inner = arc(3).reverse();
  const outline: [number, number][] = [[-40, -5.5], ...outer, [5.5, 40], [3, 40], ...inner, [-40, -3]];
  return mapVertices(prismOf(outline, 30), ([x, y, z]) => [x, y + 15, z]);
}

/** Surfaces of a case, mm. */
async function meshesOf(c: StructureCase): Promise<TriangleMesh[]> {
  return Promise.all(
    c.bodies.map(async ({ boxes_mm, without_mm }) => {
      if (!boxes_mm) return bracket();
      let mesh = boxMesh(boxes_mm[0]);
      for (const b of boxes_mm.slice(1)) mesh = (await combine(mesh, boxMesh(b), 'join')) ?? mesh;
      for (const b of without_mm) mesh = (await combine(mesh, boxMesh(b), 'cut')) ?? mesh;
      return mesh;
    }),
  );
}

/** Rows of the rotation by three angles. */
function rotation(a: number, b: number, c: number): Vec3[] {
  const [ca, sa, cb, sb, cc, sc] = [a, b, c].flatMap((t) => [Math.cos(t), Math.sin(t)]);
  return [
    [cb * cc, -cb * sc, sb],
    [ca * sc + cc * sa * sb, ca * cc - sa * sb * sc, -cb * sa],
    [sa * sc - ca * cc * sb, cc * sa + ca * sb * sc, ca * cb],
  ];
}
/** Orientations without any special angle, beside the one of the drawing. */
const TURNS = {
  flat: rotation(0, 0, 0),
  turned: rotation(0.4, 0.3, 0.7),
  steep: rotation(-0.9, 0.55, 0.2),
  level: rotation(0, 0, 0.31),
};
export type Orientation = keyof typeof TURNS;
export const EVERY_WAY = Object.keys(TURNS) as Orientation[];
export const turned = (p: Vec3, how: Orientation): Vec3 =>
  TURNS[how].map((r) => r[0] * p[0] + r[1] * p[1] + r[2] * p[2]) as Vec3;
export const back = (p: Vec3, how: Orientation): Vec3 =>
  [0, 1, 2].map((i) => TURNS[how].reduce((s, r, k) => s + r[i] * p[k], 0)) as Vec3;

const INDEX = [
  [0, 3, 5],
  [3, 1, 4],
  [5, 4, 2],
];

/** The tensor of a case in a turned part. */
function turnedStrain(e: number | Six, how: Orientation): Six {
  const six: Six = typeof e === 'number' ? [e, e, e, 0, 0, 0] : e;
  if (typeof e === 'number') return six;
  const rotation = TURNS[how];
  const out: Six = [0, 0, 0, 0, 0, 0];
  for (let i = 0; i < 3; i++)
    for (let j = i; j < 3; j++)
      for (let k = 0; k < 3; k++)
        for (let l = 0; l < 3; l++) out[INDEX[i][j]] += rotation[i][k] * rotation[j][l] * six[INDEX[k][l]];
  return out;
}

export interface Solved {
  grid: StructureGrid;
  solution: ElasticSolution;
  /** Displacement at a place of the drawing, mm. */
  at: (p: Vec3) => Vec3;
}

/** A case through grid and solver of the stage. */
export async function solved(
  c: StructureCase,
  how: Orientation,
  detail: Detail = 'normal',
  method?: 'direct' | 'iterative',
): Promise<Solved> {
  const meshes = (await meshesOf(c)).map((m) => mapVertices(m, (p) => turned(p.map((x) => x / 1000) as Vec3, how)));
  const grid = buildStructureGrid(meshes, structureEdge(meshes, detail));
  const strain = STRAINS[c.name];
  const solution = await solveElastic(
    {
      grid,
      solids: c.bodies.map((b) => ({ young: 1e6 * b.young_MPa, poisson: b.poisson })),
      supports: [],
      method,
      strainAt: (x, y, z, body, out) => {
        const e = turnedStrain(strain(back([1000 * x, 1000 * y, 1000 * z], how), body), how);
        out.fill(0);
        e.forEach((v, k) => (out[LANES * k] = v));
      },
    },
    plainContext(),
  );
  const local = new Float64Array(3);
  const u = new Float64Array(3 * LANES);
  const at = (p: Vec3): Vec3 => {
    const element = locate(grid, ...turned(p.map((x) => x / 1000) as Vec3, how), local);
    displacementAt(grid, solution.displacement, element, local, u);
    return back([1000 * u[0], 1000 * u[LANES], 1000 * u[2 * LANES]], how);
  };
  return { grid, solution, at };
}

/** Root mean square of what is left of a difference without the nearest rigid motion (and even growth). */
export function difference(
  places: readonly Vec3[],
  u: readonly Vec3[],
  reference: readonly Vec3[],
  growth: boolean,
): number {
  const positions = places.flat();
  const d = u.flatMap((v, i) => v.map((x, k) => x - reference[i][k]));
  const weights = new Float64Array(places.length).fill(1);
  const rest = without(positions, d, bestFit(positions, d, weights, growth));
  return Math.sqrt(rest.reduce((s, x) => s + x * x, 0) / places.length);
}
