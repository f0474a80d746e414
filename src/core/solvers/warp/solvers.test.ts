import { CholeskyDecomposition, Matrix } from 'ml-matrix';
import { describe, expect, it } from 'vitest';
import { random } from '../../../../verification/random';
import { box, ORIENTATIONS } from '../../../../verification/shapes';
import { mapVertices, type Vec3 } from '../../geometry/mesh';
import { bestFit, without } from '../../geometry/alignment';
import { buildStructureGrid, locate } from '../../grid/structureGrid';
import { plainContext } from '../../stage/context';
import { solveElastic, type ElasticInput, type ElasticSolution } from './elastic';
import { LANES } from './solid';
import { FrontalSolver } from './frontal';
import { ElasticKernel, StructureError } from './kernel';
import { displacementAt } from './stress';

/** Bricks of eight nodes in a block, each with a matrix that is symmetric and positive definite. */
function bricks([nx, ny, nz]: [number, number, number], seed: number) {
  const draw = random(seed);
  const nodeAt = (i: number, j: number, k: number) => i + (nx + 1) * (j + (ny + 1) * k);
  const nNodes = (nx + 1) * (ny + 1) * (nz + 1);
  const nodes: number[] = [];
  const centres: number[] = [];
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        for (let c = 0; c < 8; c++) nodes.push(nodeAt(i + (c & 1), j + ((c >> 1) & 1), k + (c >> 2)));
        centres.push(i, j, k);
      }
  const n = nx * ny * nz;
  const matrices = Array.from({ length: n }, () => {
    const a = Matrix.from1DArray(
      24,
      24,
      Array.from({ length: 576 }, () => draw() - 0.5),
    );
    return a.transpose().mmul(a).add(Matrix.eye(24).mul(0.1));
  });
  return { nNodes, nodes: Int32Array.from(nodes), centres: Float64Array.from(centres), matrices };
}

/** Solutions of four load cases by the frontal solver and by a dense factor. */
function both(size: [number, number, number], seed: number, spoil?: (m: Matrix[]) => void) {
  const { nNodes, nodes, centres, matrices } = bricks(size, seed);
  spoil?.(matrices);
  const kernel = new ElasticKernel();
  const at = kernel.put(Float64Array.from(matrices.flatMap((m) => m.to1DArray())));
  const draw = random(seed + 1);
  const loads = Float64Array.from({ length: 3 * LANES * nNodes }, () => draw() - 0.5);
  const solver = new FrontalSolver(kernel, { nNodes, nodes, perElement: 8, centres, matrices: at });
  const x = kernel.put(loads);
  solver.solve(x);
  const found = kernel.f64(x, loads.length).slice();
  const whole = Matrix.zeros(3 * nNodes, 3 * nNodes);
  matrices.forEach((m, e) => {
    for (let a = 0; a < 24; a++)
      for (let b = 0; b < 24; b++) {
        const row = 3 * nodes[8 * e + Math.floor(a / 3)] + (a % 3);
        const column = 3 * nodes[8 * e + Math.floor(b / 3)] + (b % 3);
        whole.set(row, column, whole.get(row, column) + m.get(a, b));
      }
  });
  const right = Matrix.from1DArray(3 * nNodes, LANES, Array.from(loads));
  return { found, expected: new CholeskyDecomposition(whole).solve(right).to1DArray() };
}

describe('the direct solver', () => {
  it.each([
    [[1, 1, 1], 1],
    [[3, 1, 1], 2],
    [[4, 3, 2], 3],
    [[7, 5, 1], 4],
  ] as [[number, number, number], number][])('agrees with a dense factor in a block of %j', (size, seed) => {
    const { found, expected } = both(size, seed);
    const scale = Math.max(...expected.map(Math.abs));
    expect(scale).toBeGreaterThan(0);
    expected.forEach((x, i) => expect(Math.abs(found[i] - x)).toBeLessThan(1e-10 * scale));
  });

  it('says so where a matrix holds nothing', () => {
    expect(() => both([3, 2, 1], 5, (m) => m[2].mul(-1))).toThrow(StructureError);
  });
});

describe('the two ways to a shape', () => {
  it.each(Object.entries(ORIENTATIONS))('come to the same, %s', async (_, turn) => {
    const grid = buildStructureGrid([mapVertices(box(0.03, 0.016, 0.002), turn)], 0.002);
    const axis = turn([1, 0, 0]);
    const input: ElasticInput = {
      grid,
      solids: [{ young: 2e9, poisson: 0.35 }],
      supports: [],
      strainAt: (x, y, z, _body, out) => {
        out.fill(0);
        const along = x * axis[0] + y * axis[1] + z * axis[2];
        for (let k = 0; k < 3; k++) out[LANES * k] = -0.01 * (1 + 20 * along);
      },
    };
    const direct = await solveElastic({ ...input, method: 'direct' }, plainContext());
    const iterative = await solveElastic({ ...input, method: 'iterative' }, plainContext());
    expect(direct.iterations).toBe(0);
    expect(iterative.iterations).toBeGreaterThan(2);
    expect(iterative.iterations).toBeLessThan(40);
    // Free bodies may lie anywhere: what counts is their shape.
    const points = [0.001, 0.01, 0.02, 0.029].flatMap((x) => [-0.007, 0, 0.007].map((y) => turn([x, y, 0])));
    const places = Float64Array.from(points.flat());
    const even = new Float64Array(points.length).fill(1);
    const displacementOf = ({ displacement }: ElasticSolution, p: Vec3) => {
      const [local, u] = [new Float64Array(3), new Float64Array(3 * LANES)];
      displacementAt(grid, displacement, locate(grid, ...p, local), local, u);
      return [u[0], u[LANES], u[2 * LANES]];
    };
    const shapeOf = (solution: ElasticSolution) => {
      const u = Float32Array.from(points.flatMap((p) => displacementOf(solution, p)));
      return without(places, u, bestFit(places, u, even));
    };
    const [a, b] = [shapeOf(direct), shapeOf(iterative)];
    const scale = a.reduce((m, u) => Math.max(m, Math.abs(u)), 0);
    expect(scale).toBeGreaterThan(1e-5);
    a.forEach((u, i) => expect(Math.abs(u - b[i])).toBeLessThan(2e-3 * scale));
  });
});
