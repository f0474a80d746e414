import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { toolOnGrid } from '../src/core/grid/tool';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { plainContext } from '../src/core/stage/context';
import { constantFlow } from '../src/core/solvers/melt/drive';
import { placeGating } from '../src/core/solvers/melt/gating';
import { runFill } from '../src/core/solvers/fill/stage';
import { relative } from './run';
import { disc } from './shapes';

const reference = JSON.parse(readFileSync(new URL('./reference/clamp.json', import.meta.url), 'utf8')) as {
  H: number;
  r0: number;
  R: number;
  Q: number;
  K: number;
  n: number;
  eta: number;
  packing: number;
  powerLaw: { gatePressure: number; force: number };
  newtonian: { gatePressure: number; force: number };
  uniform: number;
};
const { H, r0, R, Q, K, n, eta } = reference;

/** Force of a disc filled to R, gate disc included. */
function powerLawForce(Rf: number): number {
  const A = ((2 * K) / H) * Math.pow(((2 * n + 1) * Q) / (n * Math.PI * H * H), n);
  const gate = (A * (Rf ** (1 - n) - r0 ** (1 - n))) / (1 - n);
  const ring = Rf ** (1 - n) * ((Rf * Rf - r0 * r0) / 2) - (Rf ** (3 - n) - r0 ** (3 - n)) / (3 - n);
  return Math.PI * r0 * r0 * gate + ((2 * Math.PI * A) / (1 - n)) * ring;
}
function newtonianForce(Rf: number): number {
  const gate = ((6 * eta * Q) / (Math.PI * H ** 3)) * Math.log(Rf / r0);
  return (Math.PI * gate * (Rf * Rf - r0 * r0)) / (2 * Math.log(Rf / r0));
}

describe('clamp force of a centre-gated disc', () => {
  const turn = ([x, y, z]: Vec3): Vec3 => [x * 0.8 - y * 0.6, x * 0.6 + y * 0.8, z];
  const mesh = mapVertices(disc(R, H), turn);
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'normal'));
  const grid = buildPressureGrid(fine);
  const tool = toolOnGrid(mesh, fine, grid, { opening: [0, 0, 1], partingHeight: null });
  const gating = placeGating(fine, grid, [{ id: 'G1', surface: closestPoint(mesh, [0, 0, H / 2]), diameter: 2 * r0 }]);

  it('the closed forms agree with the reference', () => {
    expect(Math.abs(relative(powerLawForce(R), reference.powerLaw.force))).toBeLessThan(1e-9);
    expect(Math.abs(relative(newtonianForce(R), reference.newtonian.force))).toBeLessThan(1e-9);
  });

  it('the shadow is the disc: uniform packing pressure', () => {
    const area = tool.projectedArea.reduce((s, a) => s + a, 0);
    expect(Math.abs(relative(area * reference.packing, reference.uniform))).toBeLessThan(0.005);
  });

  it.each([
    ['power law', { kind: 'power-law', K, n } as const, powerLawForce],
    ['newtonian', { kind: 'newtonian', eta } as const, newtonianForce],
  ])(
    '%s',
    async (_name, viscosity, force) => {
      const outcome = await runFill(
        {
          grid,
          gating,
          nGates: 1,
          viscosity,
          meltTemperature: 500,
          control: constantFlow(Q),
          heat: null,
          air: null,
          projectedArea: tool.projectedArea,
          timeLimit: Infinity,
        },
        plainContext(),
      );
      if (outcome.status !== 'filled') throw new Error(outcome.status);
      const { history } = outcome.result;
      const at = (share: number) => {
        const i = history.shareFilled.findIndex((s) => s >= share);
        return { share: history.shareFilled[i], force: history.clampForce[i] };
      };
      for (const share of [0.5, 0.6, 0.7, 0.8]) {
        const now = at(share);
        expect(Math.abs(relative(now.force, force(R * Math.sqrt(now.share))))).toBeLessThan(0.005);
      }
      // To the last step: the rim stays a front until all of it is full.
      for (const share of [0.9, 0.95, 0.97, 0.99]) {
        const now = at(share);
        expect(Math.abs(relative(now.force, force(R * Math.sqrt(now.share))))).toBeLessThan(0.02);
      }
      const full = history.clampForce[history.clampForce.length - 1];
      expect(Math.abs(relative(full, force(R)))).toBeLessThan(0.02);
    },
    60_000,
  );
});
