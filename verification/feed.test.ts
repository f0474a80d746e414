import { describe, expect, it } from 'vitest';
import type { FeedNetwork, FeedSegment } from '../src/core/feed/network';
import type { Section } from '../src/core/feed/section';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import type { ViscosityModel } from '../src/core/material/viscosity';
import { plainContext } from '../src/core/stage/context';
import { constantFlow } from '../src/core/solvers/melt/drive';
import { placeGating } from '../src/core/solvers/melt/gating';
import { joinFeed } from '../src/core/solvers/melt/joinFeed';
import { runFill } from '../src/core/solvers/fill/stage';
import { relative } from './run';
import { box, ORIENTATIONS } from './shapes';

const round = (diameter: number): Section => ({ shape: 'round', diameter });
const segment = (id: string, from: number, to: number, diameter: number): FeedSegment => ({
  id,
  from,
  to,
  section: round(diameter),
  endSection: null,
  hot: null,
});

/** Hagen-Poiseuille for a power law: dp = 4 L / d K ((3n + 1) / (4n) 32 Q / (pi d^3))^n. */
const drop = (L: number, d: number, Q: number, K: number, n: number) =>
  ((4 * L) / d) * K * (((3 * n + 1) / (4 * n)) * ((32 * Q) / (Math.PI * d ** 3))) ** n;

/** A plate with a gate near each end; a sprue, a bend, then two branches of unlike length and width. */
function branched(turn: (v: Vec3) => Vec3) {
  const mesh = mapVertices(box(0.08, 0.03, 0.002), turn);
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'quick'));
  const grid = buildPressureGrid(fine);
  const places: Vec3[] = [
    [0.015, 0, 0.001],
    [0.065, 0, 0.001],
  ];
  const gates = places.map((p, g) => ({ id: `G${g + 1}`, surface: closestPoint(mesh, turn(p)), diameter: 0.003 }));
  const points: Vec3[] = [
    [0.03, 0.02, 0.05],
    [0.03, 0.02, 0.011],
    [0.03, 0, 0.011],
    [0.015, 0, 0.011],
    [0.065, 0, 0.011],
    places[0],
    places[1],
  ];
  const network: FeedNetwork = {
    points: points.map(turn),
    segments: [
      segment('S', 0, 1, 0.006),
      segment('R', 1, 2, 0.005),
      segment('A', 2, 3, 0.004),
      segment('B', 2, 4, 0.0045),
      segment('GA', 3, 5, 0.003),
      segment('GB', 4, 6, 0.003),
    ],
    nozzle: 0,
    gatePoints: [5, 6],
  };
  const joined = joinFeed(grid, placeGating(fine, grid, gates), network);
  return { joined, points };
}

async function fill(joined: ReturnType<typeof joinFeed>, viscosity: ViscosityModel, Q: number) {
  const outcome = await runFill(
    {
      grid: joined.grid,
      gating: joined.gating,
      nGates: 2,
      viscosity,
      meltTemperature: 500,
      control: constantFlow(Q),
      heat: null,
      air: null,
      projectedArea: null,
      timeLimit: Infinity,
      tolerance: 1e-7,
    },
    plainContext(),
  );
  if (outcome.status !== 'filled') throw new Error(outcome.status);
  return outcome.result;
}

const Q = 1.2e-5;

describe.each(Object.entries(ORIENTATIONS))('a runner with a bend and a branch, %s', (_name, turn) => {
  const { joined } = branched(turn);

  it.each([
    ['newtonian', { kind: 'newtonian', eta: 210 } as const, 210, 1],
    ['power law', { kind: 'power-law', K: 8600, n: 0.36 } as const, 8600, 0.36],
  ])('%s: pressure from nozzle to gates, mass at the branch', async (_law, viscosity, K, n) => {
    const { history, massError, cavityVolume } = await fill(joined, viscosity, Q);
    expect(massError).toBeLessThan(1e-9);
    const part = 0.08 * 0.03 * 0.002;
    const feed =
      (Math.PI / 4) *
      (0.039 * 0.006 ** 2 + 0.02 * 0.005 ** 2 + 0.015 * 0.004 ** 2 + 0.035 * 0.0045 ** 2 + 2 * 0.01 * 0.003 ** 2);
    expect(Math.abs(relative(cavityVolume, part + feed))).toBeLessThan(1e-3);
    for (const share of [0.7, 0.85]) {
      const i = history.shareFilled.findIndex((s) => s >= share);
      const [qa, qb] = history.gateFlow[i];
      expect(Math.abs(relative(qa + qb, history.flowRate[i]))).toBeLessThan(1e-6);
      const trunk = drop(0.039, 0.006, Q, K, n) + drop(0.02, 0.005, Q, K, n);
      const expected = [
        trunk + drop(0.015, 0.004, qa, K, n) + drop(0.01, 0.003, qa, K, n),
        trunk + drop(0.035, 0.0045, qb, K, n) + drop(0.01, 0.003, qb, K, n),
      ];
      expected.forEach((dp, g) => {
        const found = history.nozzlePressure[i] - history.gatePressure[i][g];
        expect(Math.abs(relative(found, dp))).toBeLessThan(0.005);
      });
    }
  });
});
