import { describe, expect, it } from 'vitest';
import { box } from '../../../../verification/shapes';
import { TURNS } from '../../../../verification/solids';
import { mapVertices } from '../../geometry/mesh';
import { buildStructureGrid } from '../../grid/structureGrid';
import { fillWithNoise } from '../../numerics/noise';
import { plainContext } from '../../stage/context';
import { solveElastic } from './elastic';
import { LANES, type StrainAt } from './solid';
import { GeometricModel } from './geometric';
import { lowest } from './largeDeflection';
import type { LinearSystem } from './linearSystem';

const dot = (a: Float64Array, b: Float64Array) => a.reduce((s, v, i) => s + v * b[i], 0);
const solids = [{ young: 2e9, poisson: 0.3 }];
const ctx = plainContext();
const none: StrainAt = (_x, _y, _z, _b, out) => void out.fill(0);
const shrinking: StrainAt = (x, _y, _z, _b, out) => {
  out.fill(0);
  for (let d = 0; d < 3; d++) out[LANES * d] = -0.01 - 0.2 * x;
};

/** A small plate in cells, cut by them where it is turned; noise of a size [m] on its nodes. */
function plate(how: string) {
  const grid = buildStructureGrid([mapVertices(box(0.012, 0.008, 0.002), TURNS[how])], 0.003);
  const noise = (size: number) => {
    const u = new Float64Array(3 * grid.nNodes);
    fillWithNoise(u);
    return u.map((v, i) => size * v * Math.sin(0.1 + i));
  };
  return { grid, noise };
}

describe.each(['as drawn', 'turned 30° about x, then 17° about z'])('what large deflections add, %s', (how) => {
  const { grid, noise } = plate(how);

  it('has forces that are the slope of its energy, which is a polynomial of fourth degree along a line', async () => {
    const model = await GeometricModel.of(grid, solids, shrinking, ctx);
    const [u, p] = [noise(2e-4), noise(1e-4).reverse()];
    const forces = new Float64Array(u.length);
    model.addForces(u, forces);
    const [c1, c2, c3, c4] = model.along(u, p);
    expect(dot(forces, p) / c1).toBeCloseTo(1, 9);
    // The slope a step further on, from there and from here.
    const further = model.along(
      u.map((v, i) => v + p[i]),
      p,
    )[0];
    expect(further / (c1 + 2 * c2 + 3 * c3 + 4 * c4)).toBeCloseTo(1, 9);
  });

  it('leaves a plate that is turned as it is free of force, with that of the linear system', async () => {
    let forces = new Float64Array(0);
    let alone = 0;
    await solveElastic({ grid, solids, strainAt: none, supports: [] }, ctx, async (system, _, loads) => {
      const model = await GeometricModel.of(grid, solids, none, ctx);
      const turn = 0.2;
      const u = new Float64Array(loads.length);
      for (let n = 0; n < grid.nNodes; n++) {
        const [x, y] = [grid.position[3 * n], grid.position[3 * n + 1]];
        u[3 * n] = x * (Math.cos(turn) - 1) - y * Math.sin(turn);
        u[3 * n + 1] = x * Math.sin(turn) + y * (Math.cos(turn) - 1);
      }
      const linear = productOf(system, u);
      alone = Math.max(...linear.map(Math.abs));
      forces = linear.slice();
      model.addForces(u, forces);
    });
    // Springs that the plate rests on have their share in it: they hold three corners where they were.
    const left = [...forces].map(Math.abs).sort((a, b) => b - a);
    expect(left[18]).toBeLessThan(1e-9 * alone);
  });

  it('softens symmetrically, by what is pressed', async () => {
    const model = await GeometricModel.of(grid, solids, shrinking, ctx);
    const soften = model.softening(new Float64Array(3 * grid.nNodes));
    const wide = (u: Float64Array) => {
      const x = new Float64Array(LANES * u.length);
      u.forEach((v, i) => (x[LANES * i] = v));
      return x;
    };
    const [x, y] = [wide(noise(1)), wide(noise(1).reverse())];
    const [sx, sy] = [new Float64Array(x.length), new Float64Array(x.length)];
    soften(x, sx);
    soften(y, sy);
    expect(dot(sx, y) / dot(sy, x)).toBeCloseTo(1, 9);
    // Held where it was, a plate that would shrink is pulled everywhere: nothing softens it.
    expect(dot(sx, x)).toBeLessThan(0);
  });
});

/** K u of one vector. */
function productOf(system: LinearSystem, u: Float64Array): Float64Array {
  const [x, y] = [new Float64Array(LANES * u.length), new Float64Array(LANES * u.length)];
  u.forEach((v, i) => (x[LANES * i] = v));
  system.product(x, y);
  return Float64Array.from(u, (_, i) => y[LANES * i]);
}

it('the system is the same whether it is kept by elements or put together, and its inverse is near', async () => {
  const { grid, noise } = plate('turned 30° about x, then 17° about z');
  const u = noise(1e-4);
  const found: Float64Array[] = [];
  for (const method of ['direct', 'iterative'] as const)
    await solveElastic({ grid, solids, strainAt: none, supports: [], method }, ctx, async (system) => {
      const y = productOf(system, u);
      found.push(y);
      const [r, z] = [new Float64Array(LANES * u.length), new Float64Array(LANES * u.length)];
      y.forEach((v, i) => (r[LANES * i] = v));
      system.precondition(r, z);
      const energy = dot(y, u);
      const nearly = u.reduce((s, _, i) => s + y[i] * z[LANES * i], 0);
      // One cycle takes most of the energy away, the direct solution all of it.
      expect(nearly / energy).toBeGreaterThan(method === 'direct' ? 1 - 1e-6 : 0.3);
      expect(nearly / energy).toBeLessThan(1 + 1e-6);
    });
  const size = Math.max(...found[0].map(Math.abs));
  for (let i = 0; i < u.length; i++) expect(Math.abs(found[0][i] - found[1][i])).toBeLessThan(1e-9 * size);
});

describe('the lowest place along a line', () => {
  it.each([
    [-2, 1, 0, 0, 1],
    [-4, 0, 0, 1, 1],
    // Falls, rises and falls again: the first of two minima, (a - 1)(a - 2)(a - 4) = 0.
    [-8, 7, -7 / 3, 1 / 4, 1],
  ])('of %f a + %f a2 + %f a3 + %f a4', (c1, c2, c3, c4, at) => expect(lowest(c1, c2, c3, c4)).toBeCloseTo(at, 6));

  it('is none where the line rises, or falls without end', () => {
    expect(lowest(1, 1, 0, 0)).toBe(0);
    expect(lowest(-1, -1, 0, 0)).toBe(0);
  });
});
