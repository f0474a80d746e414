import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildStructureGrid, locate, structureEdge } from '../src/core/grid/structureGrid';
import { AcrossWall } from '../src/core/grid/acrossWall';
import { plainContext } from '../src/core/stage/context';
import { solveElastic } from '../src/core/solvers/warp/elastic';
import { LANES } from '../src/core/solvers/warp/solid';
import { displacementAt } from '../src/core/solvers/warp/stress';
import { box } from './shapes';
import { prismOf } from './solids';
import { back, EVERY_WAY, turned, type Orientation } from './structureCases';

const reference = JSON.parse(readFileSync(new URL('./reference/corner.json', import.meta.url), 'utf8')) as {
  poisson: number;
  legs_walls: number;
  read_from_to_of_leg: [number, number];
  rows: { innerRadius_walls: number; springIn: number }[];
};
const WALL = 0.002;
const DIFFERENCE = -0.01;

/** L of two walls, centre of its corner at the origin, legs along +x and +z. */
function ell(innerRadius: number) {
  const [R, leg] = [innerRadius * WALL, reference.legs_walls * WALL];
  const arc = (r: number) =>
    Array.from({ length: 25 }, (_, k): [number, number] => {
      const turn = ((Math.PI / 2) * k) / 24;
      return [-r * Math.cos(turn), -r * Math.sin(turn)];
    });
  const outer = R + WALL;
  const inner: [number, number][] = R > 0 ? arc(R).reverse() : [[0, 0]];
  const outside: [number, number][] = R > 0 ? arc(outer) : [[-outer, -outer]];
  return prismOf([[leg, -outer], [leg, -R], ...inner, [-R, leg], [-outer, leg], ...outside], 16 * WALL);
}

/** Closing of the angle over the right angle times the difference, at half the length of the L. */
async function springIn(innerRadius: number, how: Orientation, detail: Detail): Promise<number> {
  const mesh = mapVertices(ell(innerRadius), (p) => turned(p, how));
  const across = new AcrossWall(mesh, buildFineGrid(mesh, latticeFor(mesh, detail)));
  const grid = buildStructureGrid([mesh], structureEdge([mesh], detail));
  const N = new Float64Array(6);
  const strainAt = (x: number, y: number, z: number, _body: number, out: Float64Array) => {
    across.at(x, y, z, N);
    out.fill(0);
    N.forEach((v, k) => (out[LANES * k] = DIFFERENCE * v));
  };
  const solids = [{ young: 2e9, poisson: reference.poisson }];
  const { displacement } = await solveElastic({ grid, solids, strainAt, supports: [] }, plainContext());
  const [local, u] = [new Float64Array(3), new Float64Array(3 * LANES)];
  const at = (p: Vec3) => {
    displacementAt(grid, displacement, locate(grid, ...turned(p, how), local), local, u);
    return back([u[0], u[LANES], u[2 * LANES]], how);
  };
  const middle = -(innerRadius + 0.5) * WALL;
  const [from, to] = reference.read_from_to_of_leg.map((s) => s * reference.legs_walls * WALL);
  const slope = (value: (s: number) => number) => {
    const places = Array.from({ length: 13 }, (_, i) => from + ((to - from) * i) / 12);
    const mean = (from + to) / 2;
    const square = places.reduce((sum, s) => sum + (s - mean) ** 2, 0);
    return places.reduce((sum, s) => sum + (s - mean) * value(s), 0) / square;
  };
  const closing = slope((s) => at([s, 0, middle])[2]) + slope((s) => at([middle, 0, s])[0]);
  return closing / ((Math.PI / 2) * Math.abs(DIFFERENCE));
}

describe('the corner of an L that shrinks more across its walls', () => {
  const [sharp, round] = reference.rows;
  it.each(EVERY_WAY)('springs in as with the resolved direction of heat flow, %s', async (how) => {
    expect(Math.abs((await springIn(round.innerRadius_walls, how, 'normal')) / round.springIn - 1)).toBeLessThan(0.03);
    // A sharp edge asks for more cells than one and a quarter walls across: 7 % where the walls lie along them.
    const allowed = how === 'flat' ? 0.08 : 0.05;
    expect(Math.abs((await springIn(sharp.innerRadius_walls, how, 'normal')) / sharp.springIn - 1)).toBeLessThan(
      allowed,
    );
  });
  it.each(['flat', 'steep'] as const)('and nearer with the finer grid, %s', async (how) => {
    for (const { innerRadius_walls, springIn: wanted } of reference.rows)
      expect(Math.abs((await springIn(innerRadius_walls, how, 'fine')) / wanted - 1)).toBeLessThan(0.035);
  });
});

describe('the direction across the wall', () => {
  it.each(EVERY_WAY)('is the normal of a plate, %s', (how) => {
    const mesh = mapVertices(box(0.04, 0.03, 0.002), (p) => turned(p, how));
    const across = new AcrossWall(mesh, buildFineGrid(mesh, latticeFor(mesh, 'quick')));
    const normal = turned([0, 0, 1], how);
    const N = new Float64Array(6);
    for (const p of [
      [0.02, 0, 0],
      [0.011, 0.007, 0.0006],
      [0.03, -0.009, -0.0009],
    ] as Vec3[]) {
      expect(across.at(...turned(p, how), N)).toBe(true);
      expect(N[0] + N[1] + N[2]).toBeCloseTo(1, 6);
      const along = across.direction(...turned(p, how));
      expect(Math.abs(along[0] * normal[0] + along[1] * normal[1] + along[2] * normal[2])).toBeGreaterThan(1 - 1e-4);
    }
  });

  it('of a mirror image is the mirror image', () => {
    const drawn = ell(0);
    const [a, b] = [drawn, mapVertices(drawn, ([x, y, z]) => [z, -y, x])].map(
      (mesh) => new AcrossWall(mesh, buildFineGrid(mesh, latticeFor(mesh, 'quick'))),
    );
    const [N, M] = [new Float64Array(6), new Float64Array(6)];
    let [off, n] = [0, 0];
    for (let i = 0; i < 400; i++) {
      const p = [0, 1, 2].map(
        (d) => WALL * (((i * [0.7548, 0.5698, 0.4302][d]) % 1) * [2, 8, 2][d] - [1, 4, 1][d]),
      ) as Vec3;
      if (p[0] > 0 && p[2] > 0) continue;
      if (!a.at(...p, N) || !b.at(p[2], -p[1], p[0], M)) continue;
      n++;
      off += (N[0] - M[2]) ** 2 + (N[2] - M[0]) ** 2 + 2 * (N[5] - M[5]) ** 2;
    }
    expect(n).toBeGreaterThan(200);
    expect(Math.sqrt(off / n)).toBeLessThan(0.03);
  });
});
