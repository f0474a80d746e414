import { Matrix, solve } from 'ml-matrix';
import { describe, expect, it } from 'vitest';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { SYMMETRIC } from '../src/core/geometry/vec';
import { buildStructureGrid, locate } from '../src/core/grid/structureGrid';
import { isotropicStiffness, solve6, stiffnessOf as alongFibres } from '../src/core/material/fibres/stiffness';
import { plainContext } from '../src/core/stage/context';
import { solveElastic, type PointForce, type Support } from '../src/core/solvers/warp/elastic';
import { LANES, PAIRS, stressOf, type StiffnessAt, type StrainAt } from '../src/core/solvers/warp/solid';
import { bimetalCurvature } from '../src/core/solvers/warp/equations';
import { displacementAt, planeStress, youngAlong } from '../src/core/solvers/warp/stress';
import { box } from './shapes';
import { back, EVERY_WAY, turned, type Orientation } from './structureCases';

/** Half as stiff again along as a filled polyamide. */
const FIBRES = alongFibres({ E1: 9e9, E2: 3.5e9, G12: 1.6e9, nu12: 0.36, nu23: 0.45 });

/** Components of a stiffness whose axes are turned: `axes[m]` is where direction m points. */
function turnedStiffness(C: Float64Array, axes: readonly Vec3[]): Float64Array {
  const place = [
    [0, 3, 5],
    [3, 1, 4],
    [5, 4, 2],
  ];
  const out = new Float64Array(PAIRS);
  SYMMETRIC.forEach(([i, j], p) =>
    SYMMETRIC.forEach(([k, l], q) => {
      for (let a = 0; a < 3; a++)
        for (let b = 0; b < 3; b++)
          for (let c = 0; c < 3; c++)
            for (let d = 0; d < 3; d++)
              out[6 * p + q] += axes[a][i] * axes[b][j] * axes[c][k] * axes[d][l] * C[6 * place[a][b] + place[c][d]];
    }),
  );
  return out;
}

/** Fibres at an angle to x in the plane of z, as drawn and in a turned part. */
const atAngle = (degrees: number): Vec3[] => {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  return [
    [c, s, 0],
    [-s, c, 0],
    [0, 0, 1],
  ];
};
const plyOf = (degrees: number) => turnedStiffness(FIBRES, atAngle(degrees));

interface Bodies {
  size: Vec3;
  edge: number;
  stiffness: (p: Vec3) => Float64Array;
  strain?: (p: Vec3) => number[];
  forces?: PointForce[];
}

/** Displacement at places of the drawing, in its axes; held in six motions at three corners. */
async function moved({ size, edge, stiffness, strain, forces = [] }: Bodies, how: Orientation) {
  const mesh = mapVertices(box(...size), (p) => turned(p, how));
  const grid = buildStructureGrid([mesh], edge);
  const turns = ([0, 1, 2] as const).map((m) => turned([0, 1, 2].map((d) => Number(d === m)) as Vec3, how));
  const known = new Map<Float64Array, Float64Array>();
  const stiffnessAt: StiffnessAt = (x, y, z, _body, out) => {
    const own = stiffness(back([x, y, z], how));
    if (!known.has(own)) known.set(own, turnedStiffness(own, turns));
    out.set(known.get(own)!);
    return true;
  };
  const strainAt: StrainAt = (x, y, z, _body, out) => {
    out.fill(0);
    const e = strain?.(back([x, y, z], how));
    if (!e) return;
    SYMMETRIC.forEach(([i, j], k) => {
      for (let a = 0; a < 3; a++)
        for (let b = 0; b < 3; b++) out[LANES * k] += turns[a][i] * turns[b][j] * e[AT[3 * a + b]];
    });
  };
  const [x, y] = [size[0], size[1] / 2];
  const hold = (position: Vec3, ...directions: number[]): Support[] =>
    directions.map((d) => ({ position: turned(position, how), direction: turns[d] }));
  const supports = forces.length
    ? [
        ...hold([0.02 * x, -0.96 * y, 0], 0, 1, 2),
        ...hold([0.98 * x, -0.96 * y, 0], 1, 2),
        ...hold([0.02 * x, 0.96 * y, 0], 2),
      ]
    : [];
  const { displacement } = await solveElastic(
    {
      grid,
      solids: [{ young: 5e9, poisson: 0.35 }],
      stiffnessAt,
      strainAt,
      supports,
      forces: forces.map((f) => ({ position: turned(f.position, how), force: turned(f.force, how) })),
      tolerance: 1e-7,
    },
    plainContext(),
  );
  const [local, u] = [new Float64Array(3), new Float64Array(3 * LANES)];
  return (p: Vec3): Vec3 => {
    displacementAt(grid, displacement, locate(grid, ...turned(p, how), local), local, u);
    return back([u[0], u[LANES], u[2 * LANES]], how);
  };
}
const AT = [0, 3, 5, 3, 1, 4, 5, 4, 2];

/** Stiffness of a ply in plane stress, 3 x 3 of xx yy xy (engineering shear). */
function reduced(C: Float64Array): Matrix {
  const S = [0, 1, 3].map((row) => {
    const stress = new Float64Array(6);
    stress[row] = 1;
    const e = solve6(C, stress);
    return [e[0], e[1], 2 * e[3]];
  });
  return solve(new Matrix(S), Matrix.eye(3));
}

/** Curvature of a surface w(x, y) along x and twist, from nine places about a middle. */
function curvatures(at: (p: Vec3) => Vec3, [x, y]: readonly number[], step: number) {
  const w = (i: number, j: number) => at([x + i * step, y + j * step, 0])[2];
  return {
    xx: -(w(1, 0) - 2 * w(0, 0) + w(-1, 0)) / step ** 2,
    yy: -(w(0, 1) - 2 * w(0, 0) + w(0, -1)) / step ** 2,
    xy: (-2 * (w(1, 1) - w(1, -1) - w(-1, 1) + w(-1, -1))) / (4 * step ** 2),
  };
}

const near = (found: number, expected: number, share: number) =>
  expect(Math.abs(found / expected - 1), `${found} for ${expected}`).toBeLessThan(share);

describe.each(EVERY_WAY)('a structure with fibres, %s', (how) => {
  it('a bar pulled at an angle to its fibres stretches and shears as their compliance says', async () => {
    const size: Vec3 = [0.12, 0.012, 0.006];
    const C = plyOf(30);
    const places = [-1, 0, 1].flatMap((i) => [-1, 1].map((j) => [i / 3, j / 4]));
    const pull = 1000;
    const forces = [0, size[0]].flatMap((x, end) =>
      places.map(([i, j]): PointForce => ({
        position: [x + (end ? -1e-5 : 1e-5), i * size[1], j * size[2]],
        force: [((end ? 1 : -1) * pull) / places.length, 0, 0],
      })),
    );
    const at = await moved({ size, edge: 0.0021, stiffness: () => C, forces }, how);
    const stress = pull / (size[1] * size[2]);
    const strain = solve6(C, [stress, 0, 0, 0, 0, 0]);
    const d = (a: Vec3, b: Vec3) => at(b).map((v, k) => v - at(a)[k]);
    near(d([0.03, 0, 0], [0.09, 0, 0])[0] / 0.06, strain[0], 0.02);
    near(1 / youngAlong(C, [1, 0, 0]), strain[0] / stress, 1e-9);
    // Shear: difference of the slopes of its two directions.
    const lean = d([0.03, 0, 0], [0.09, 0, 0])[1] / 0.06 + d([0.06, -0.004, 0], [0.06, 0.004, 0])[0] / 0.008;
    near(lean, 2 * strain[3], 0.02);
  });

  it('a plate twisted at its corners bends by the inverse of its stiffness', async () => {
    const size: Vec3 = [0.06, 0.06, 0.001];
    const C = plyOf(25);
    const P = 1;
    const corner = (i: number, j: number): PointForce => ({
      position: [0.03 + i * 0.02999, j * 0.02999, 0],
      force: [0, 0, i * j * P],
    });
    const forces = [corner(-1, -1), corner(1, -1), corner(-1, 1), corner(1, 1)];
    const at = await moved({ size, edge: 0.0021, stiffness: () => C, forces }, how);
    const D = reduced(C).mul(size[2] ** 3 / 12);
    // Pure twist M_xy = P / 2 (Timoshenko, Plates and Shells).
    const k = solve(D, Matrix.columnVector([0, 0, -P / 2]));
    const found = curvatures(at, [0.03, 0], 0.012);
    // Free edges give way over about a third of the wall (Timoshenko & Goodier, torsion of thin bars).
    const narrow = (1 - (0.63 * size[2]) / size[0]) ** 2;
    near(found.xy, k.get(2, 0) / narrow, 0.02);
    near(found.xx, k.get(0, 0) / narrow, 0.03);
  });

  it('a strip of two plies across each other curls as a bimetal', async () => {
    const size: Vec3 = [0.036, 0.002, 0.002];
    const plies = [plyOf(0), plyOf(90)];
    const expansions = [-0.002, -0.008];
    const strains = [
      [-0.002, -0.008, -0.008, 0, 0, 0],
      [-0.008, -0.002, -0.008, 0, 0, 0],
    ];
    const ply = ([, , z]: Vec3) => (z < 0 ? 0 : 1);
    const bodies = { size, edge: 0.00052, stiffness: (p: Vec3) => plies[ply(p)], strain: (p: Vec3) => strains[ply(p)] };
    const at = await moved(bodies, how);
    const [first, second] = plies.map((C, k) => ({
      young: youngAlong(C, [1, 0, 0]),
      thickness: size[2] / 2,
      expansion: expansions[k],
    }));
    const w = [0.011, 0.018, 0.025].map((x) => at([x, 0, 0])[2]);
    near(Math.abs(w[0] - 2 * w[1] + w[2]) / 0.007 ** 2, Math.abs(bimetalCurvature(first, second, 1)), 0.02);
  });

  it('a bar of one stiffness that shrinks unevenly by itself is free of stress', async () => {
    const size: Vec3 = [0.05, 0.02, 0.004];
    const C = plyOf(40);
    const e = [-0.002, -0.006, -0.01, 0.001, 0, 0];
    const at = await moved({ size, edge: 0.0021, stiffness: () => C, strain: () => e }, how);
    const d = (a: Vec3, b: Vec3) => at(b).map((v, k) => v - at(a)[k]);
    near(d([0.01, 0, 0], [0.04, 0, 0])[0] / 0.03, e[0], 1e-4);
    near(d([0.025, -0.008, 0], [0.025, 0.008, 0])[1] / 0.016, e[1], 1e-4);
  });
});

describe('stress at faces', () => {
  it('of a stiffness that is alike in all directions is that of plane stress, and a face bears none', () => {
    const solid = { young: 2e9, poisson: 0.38 };
    const strain = Float64Array.of(1e-3, -4e-4, 7e-4, 3e-4, 1e-4, -2e-4);
    const out = new Float64Array(6);
    planeStress(strain, [0, 0, 1], isotropicStiffness(solid), out);
    const { young: E, poisson: nu } = solid;
    near(out[0], (E / (1 - nu * nu)) * (1e-3 - nu * 4e-4), 1e-9);
    near(out[1], (E / (1 - nu * nu)) * (-4e-4 + nu * 1e-3), 1e-9);
    near(out[3], (E / (1 + nu)) * 3e-4, 1e-9);
    const n: Vec3 = [0.48, 0.6, 0.64];
    planeStress(strain, n, plyOf(35), out);
    for (const row of [
      [0, 3, 5],
      [3, 1, 4],
      [5, 4, 2],
    ])
      expect(Math.abs(row.reduce((s, k, j) => s + out[k] * n[j], 0))).toBeLessThan(1);
    stressOf(isotropicStiffness(solid), 0, strain, out);
    near(out[0], (E / (1 + nu)) * (1e-3 + (nu / (1 - 2 * nu)) * 1.3e-3), 1e-9);
  });
});
