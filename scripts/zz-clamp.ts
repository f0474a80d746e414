import { disc } from '../verification/shapes';
import { readFileSync } from 'node:fs';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { toolOnGrid } from '../src/core/grid/tool';
import { constantFlow } from '../src/core/solvers/fill/drive';
import { placeInlet } from '../src/core/solvers/fill/inlet';
import { runFill } from '../src/core/solvers/fill/stage';
import { plainContext } from '../src/core/pipeline/stage';
import { random } from '../verification/random';
const ref = JSON.parse(readFileSync(new URL('../verification/reference/disc.json', import.meta.url), 'utf8'));
const { H, r0, R, Q, K, n, eta } = ref;
const spin = (angle: number, i: number, j: number) => (v: Vec3) => {
  const o: Vec3 = [...v];
  o[i] = Math.cos(angle) * v[i] - Math.sin(angle) * v[j];
  o[j] = Math.sin(angle) * v[i] + Math.cos(angle) * v[j];
  return o;
};
const next = random(5);
const powerLawForce = (Rf: number) => {
  const A = (((2 * K) / H) * (((2 * n + 1) * Q) / (n * Math.PI * H * H)) ** n) / (1 - n);
  const m = 1 - n;
  return (
    Math.PI * A * (m / (2 + m)) * 0 +
    2 * Math.PI * A * ((Rf ** m * (Rf * Rf - r0 * r0)) / 2 - (Rf ** (m + 2) - r0 ** (m + 2)) / (m + 2)) +
    Math.PI * r0 * r0 * A * (Rf ** m - r0 ** m)
  );
};
for (const detail of ['normal'] as const)
  for (let k = 0; k < 10; k++) {
    const [a, b, c] = [next(), next(), next()];
    const turn = (v: Vec3) => (k === 0 ? v : spin(3 * c, 0, 1)(spin(3 * b, 1, 2)(spin(3 * a, 0, 1)(v))));
    const mesh = mapVertices(disc(R, H), turn);
    const fine = buildFineGrid(mesh, latticeFor(mesh, detail));
    const grid = buildPressureGrid(fine);
    const tool = toolOnGrid(mesh, fine, grid, { opening: turn([0, 0, 1]), partingHeight: null });
    const inlet = placeInlet(fine, grid, [
      { id: 'G1', surface: closestPoint(mesh, turn([0, 0, H / 2])), diameter: 2 * r0 },
    ]);
    const out = await runFill(
      {
        grid,
        inlet,
        nGates: 1,
        viscosity: { kind: 'power-law', K, n },
        meltTemperature: 500,
        control: constantFlow(Q),
        heat: null,
        air: null,
        projectedArea: tool.projectedArea,
        timeLimit: Infinity,
      },
      plainContext(),
    );
    if (out.status !== 'filled') throw new Error();
    const h = out.result.history;
    const shown = [0.5, 0.8, 0.9, 0.95, 0.97, 0.98, 0.99, 0.995].map((s) => {
      const i = h.shareFilled.findIndex((x) => x >= s);
      return ((h.clampForce[i] / powerLawForce(R * Math.sqrt(h.shareFilled[i])) - 1) * 100).toFixed(1);
    });
    const m = 1 - n;
    const pr = [0.5, 0.9, 0.99].map((s) => {
      const i = h.shareFilled.findIndex((x) => x >= s);
      const Rf = R * Math.sqrt(h.shareFilled[i]);
      return (
        (h.pressure[i] / ((ref.atEnd.gatePressure * (Rf ** m - r0 ** m)) / (R ** m - r0 ** m)) - 1) *
        100
      ).toFixed(1);
    });
    const area = tool.projectedArea.reduce((s, x) => s + x, 0) / (Math.PI * R * R) - 1;
    console.log(
      detail,
      k,
      'clamp %',
      shown.join(' '),
      'last',
      ((Math.max(...h.clampForce) / powerLawForce(R) - 1) * 100).toFixed(1),
      'p',
      pr.join(' '),
      'last',
      ((Math.max(...h.pressure) / ref.atEnd.gatePressure - 1) * 100).toFixed(1),
      'area',
      (100 * area).toFixed(2),
      'steps',
      out.result.steps,
    );
  }
