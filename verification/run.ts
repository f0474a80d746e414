import { closestPoint } from '../src/core/geometry/closestPoint';
import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor, type Detail } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import type { ViscosityModel } from '../src/core/material/viscosity';
import { plainContext } from '../src/core/stage/context';
import { constantFlow } from '../src/core/solvers/melt/drive';
import { placeGating } from '../src/core/solvers/melt/gating';
import type { FillResult } from '../src/core/solvers/fill/outcome';
import type { ShotHistory } from '../src/core/solvers/shot/history';
import { runFill } from '../src/core/solvers/fill/stage';

export interface Case {
  mesh: TriangleMesh;
  gates: { at: Vec3; diameter: number }[];
  turn: (v: Vec3) => Vec3;
  detail?: Detail;
}

export interface Prepared {
  grid: PressureGrid;
  fill(viscosity: ViscosityModel, flowRate: number, pressureLimit?: number): Promise<FillResult>;
}

/** Grid and gates of a case, turned in space, through the real stages. */
export function prepare({ mesh, gates, turn, detail = 'normal' }: Case): Prepared {
  const turned = mapVertices(mesh, turn);
  const fine = buildFineGrid(turned, latticeFor(turned, detail));
  const grid = buildPressureGrid(fine);
  const sites = gates.map((g, i) => ({
    id: `G${i + 1}`,
    surface: closestPoint(turned, turn(g.at)),
    diameter: g.diameter,
  }));
  const gating = placeGating(fine, grid, sites);
  return {
    grid,
    async fill(viscosity, flowRate, pressureLimit = Infinity) {
      const outcome = await runFill(
        {
          grid,
          gating,
          nGates: gates.length,
          viscosity,
          meltTemperature: 500,
          control: constantFlow(flowRate, pressureLimit),
          heat: null,
          air: null,
          projectedArea: null,
          timeLimit: Infinity,
        },
        plainContext(),
      );
      if (outcome.status !== 'filled') throw new Error(`the case did not fill: ${outcome.status}`);
      return outcome.result;
    },
  };
}

/** Value of a history at time t, linear between its entries. */
export function at(time: number[], values: number[], t: number): number {
  const i = time.findIndex((x) => x >= t);
  if (i <= 0) return values[0];
  const s = (t - time[i - 1]) / (time[i] - time[i - 1]);
  return values[i - 1] + s * (values[i] - values[i - 1]);
}

/** Pressure in the wall at the gate's rim, Pa: what the nozzle gives less what the gate takes for itself. */
export const inWall = ({ pressure, gateLoss }: ShotHistory): number[] =>
  pressure.map((p, i) => p - Math.max(...gateLoss[i]));

/** Slope of a straight line through points, least squares. */
export function slope(x: number[], y: number[]): number {
  const mx = x.reduce((s, v) => s + v, 0) / x.length;
  const my = y.reduce((s, v) => s + v, 0) / y.length;
  let sxy = 0;
  let sxx = 0;
  x.forEach((v, i) => {
    sxy += (v - mx) * (y[i] - my);
    sxx += (v - mx) ** 2;
  });
  return sxy / sxx;
}

export const relative = (value: number, expected: number) => value / expected - 1;
