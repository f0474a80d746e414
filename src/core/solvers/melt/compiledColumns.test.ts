import { beforeAll, describe, expect, it } from 'vitest';
import { buildFineGrid } from '../../grid/grid';
import { latticeFor } from '../../grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../../grid/pressureGrid';
import { addDyad, normalised } from '../../geometry/vec';
import { stressForm } from '../../material/stressForm';
import { box } from '../../../../verification/shapes';
import { Carrier, type Carried } from './carrier';
import { Columns, type Thermal, type WallSide } from './columns';
import { CompiledColumns, CompiledHeat } from './compiledColumns';
import { COLUMNS_KERNEL } from './columnsKernel';
import { Heat } from './heat';
import { FlowSolver } from './pressure';
import { thermalTables } from './thermalTables';

const constant: Thermal = { conductivity: 0.2, density: 900, specificHeat: 2500 };
const viscosity = {
  kind: 'cross-wlf' as const,
  n: 0.28,
  tauStar: 25000,
  D1: 4e13,
  D2: 263.15,
  D3: 1e-7,
  A1: 28,
  A2: 51.6,
};

/** The same with a peak of latent heat and a conductivity that falls on melting. */
const changing = {
  ...constant,
  tables: thermalTables(
    [
      { T: 300, value: 1900 },
      { T: 385, value: 2400 },
      { T: 393, value: 9000 },
      { T: 401, value: 2400 },
      { T: 520, value: 2900 },
    ],
    [
      { T: 300, value: 0.25 },
      { T: 500, value: 0.18 },
    ],
    constant,
  ),
};

let grid: PressureGrid;
beforeAll(() => {
  const mesh = box(0.03, 0.01, 0.002);
  grid = buildPressureGrid(buildFineGrid(mesh, latticeFor(mesh, 'quick')));
});

/** Ten steps of flow and heat along a channel, with plain columns or compiled ones. */
function channel(walls: WallSide[], compiled: boolean, melt: Thermal = constant, nSteps = 10, replaces = false) {
  const { n } = grid;
  const x = Float64Array.from({ length: n }, (_, i) => grid.position[3 * i]);
  const full = Uint8Array.from(x, (v) => (v < 0.024 ? 1 : 0));
  const gating = {
    gateOfNode: Int16Array.from(x, (v) => (v < 0.002 ? 0 : -1)),
    linkFactor: new Float32Array(grid.linkFrom.length).fill(1),
    stars: [],
    attached: [],
  };
  const sides = { sides: walls, sideOf: Uint8Array.from({ length: 2 * n }, (_, k) => (k % 2) * (walls.length - 1)) };
  const form = stressForm(viscosity, 380);
  let columns: Columns;
  let heat: Heat;
  if (compiled) {
    const own = new CompiledColumns(grid, form, melt, sides, 503, 3 + 6);
    heat = new CompiledHeat(grid, own, melt, 503, 310);
    columns = own;
  } else {
    columns = new Columns(grid, form, melt, sides, 503);
    heat = new Heat(grid, columns, melt, 503, 310);
  }
  const solver = new FlowSolver(grid, gating, columns);
  solver.fluidity.fill(1e-3);
  columns.relativeFluidity.forEach((_, k, all) => (all[k] = 0.6 + 0.1 * (k % 7)));
  const own = columns instanceof CompiledColumns ? columns : null;
  const carrier = new Carrier(grid, columns, gating, heat, own);
  // Three components that move together: one that is everywhere the same, two that come in with the melt.
  const tracer: Carried = {
    name: 'tracer',
    components: 3,
    values: own?.layered(3) ?? new Float64Array(3 * n * columns.nLayers),
    freshOf: () => [1, 0.25, -2],
    replaces,
  };
  for (let k = 0; k < tracer.values.length; k += 3) tracer.values[k] = 1;
  carrier.follow(tracer);
  // Along the stream wherever melt comes from; streams that wind, so that they have to be turned into each other.
  const stream = own?.work(3 * n) ?? new Float64Array(3 * n);
  for (let i = 0; i < n; i++) stream.set([2, Math.sin(7 * i), 0.3 * Math.cos(5 * i)], 3 * i);
  const tensor: Carried = {
    name: 'tensor',
    components: 6,
    values: own?.layered(6) ?? new Float64Array(6 * n * columns.nLayers),
    freshOf: () => [1, 0, 0, 0, 0, 0],
    replaces,
    stream,
  };
  for (let k = 0; k < tensor.values.length; k += 6) {
    const at = 3 * Math.floor(k / 6 / columns.nLayers);
    addDyad(tensor.values, k / 6, 1, normalised([stream[at], stream[at + 1], stream[at + 2]]));
  }
  carrier.follow(tensor);
  const pinned = Uint8Array.from(gating.gateOfNode, (g) => (g >= 0 ? 1 : 0));
  const before = grid.volume.map((v, i) => v * (full[i] ? 1 : 0.2));
  const after = grid.volume.map((v, i) => v * (full[i] ? 1 : 0.3));
  for (let step = 0; step < nSteps; step++) {
    for (let i = 0; i < n; i++) if (full[i] && !pinned[i]) columns.prepare(i, solver.pressure[i]);
    for (let pass = 0; pass < 3; pass++) {
      solver.solve(full, new Float64Array(n), { flow: 2e-6 }, 1e-9);
      solver.updateFluidity(full, 1);
    }
    const order = Int32Array.from([...full.keys()].filter((i) => full[i] && !pinned[i])).sort(
      (a, b) => solver.pressure[b] - solver.pressure[a],
    );
    carrier.advance(0.05, solver, full, order, pinned, before, after);
  }
  return { columns, heat, solver, tracer: tracer.values, tensor: tensor.values, full, pinned };
}

describe('compiled columns', () => {
  const half: WallSide[] = [{ temperature: 313, transfer: 8000 }];
  const whole: WallSide[] = [...half, { temperature: 353, transfer: 3000 }];

  it.each([
    ['half columns', half, constant],
    ['whole columns', whole, constant],
    ['half columns, properties that change', half, changing],
    ['whole columns, properties that change', whole, changing],
  ])('give what the plain ones give: %s', (_name, walls, melt) => {
    const replaces = walls === whole;
    const [plain, fast] = [channel(walls, false, melt, 10, replaces), channel(walls, true, melt, 10, replaces)];
    expect(fast.columns.nHalves).toBe(walls.length);
    const { temperature } = plain.columns;
    // Cold walls and hot core: there is something to compare.
    expect(Math.max(...temperature) - Math.min(...temperature)).toBeGreaterThan(100);
    // Logarithms of the two differ in the last digit; nothing else does.
    const same = (a: ArrayLike<number>, b: ArrayLike<number>, scale: number) => {
      expect(a.length).toBe(b.length);
      let most = 0;
      for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i] - b[i]));
      expect(most).toBeLessThanOrEqual(1e-8 * scale);
    };
    same(plain.columns.temperature, fast.columns.temperature, 500);
    same(plain.columns.flowShare, fast.columns.flowShare, 1);
    same(plain.tracer, fast.tracer, 2);
    same(plain.tensor, fast.tensor, 1);
    const traces = fast.tensor.map((x, k, all) => (k % 6 ? 1 : x + all[k + 1] + all[k + 2]));
    same(traces, new Float64Array(traces.length).fill(1), 1);
    same(plain.columns.wallStress, fast.columns.wallStress, Math.max(...plain.columns.wallStress));
    same(plain.columns.peakRate, fast.columns.peakRate, Math.max(...plain.columns.peakRate));
    expect(fast.solver.inletPressure / plain.solver.inletPressure).toBeCloseTo(1, 8);
    for (const part of ['carriedIn', 'sheared', 'lost'] as const)
      expect(fast.heat.balance[part] / plain.heat.balance[part]).toBeCloseTo(1, 8);
  });

  it.each([
    ['plain', false],
    ['compiled', true],
  ])(
    'carry what melt holds: what is everywhere the same stays so, what comes in spreads from the core, %s',
    (_, compiled) => {
      const { tracer, columns, full, pinned } = channel(whole, compiled, changing, 4);
      const { nLayers } = columns;
      let [core, skin, weight] = [0, 0, 0];
      for (let i = 0; i < grid.n; i++) {
        if (!full[i] || pinned[i]) continue;
        const at = (t: number, c: number) => tracer[3 * (i * nLayers + t) + c];
        for (let t = 0; t < nLayers; t++) {
          expect(at(t, 0)).toBeCloseTo(1, 10);
          // No layer has more of it than the melt that brings it, nor less than there was.
          expect(at(t, 1)).toBeGreaterThan(-1e-12);
          expect(at(t, 1)).toBeLessThan(0.25 + 1e-12);
          expect(at(t, 2)).toBeCloseTo(-8 * at(t, 1), 9);
        }
        core += grid.volume[i] * at(nLayers / 2, 1);
        skin += grid.volume[i] * at(0, 1);
        weight += grid.volume[i];
      }
      expect(core / weight).toBeGreaterThan(0.05);
      expect(skin / weight).toBeLessThan(0.6 * (core / weight));
    },
  );

  it.each([
    ['plain', false],
    ['compiled', true],
  ])('push out what was there where more comes than a layer holds, if asked to, %s', (_, compiled) => {
    const inCore = (replaces: boolean) => {
      const { tracer, columns, full, pinned } = channel(whole, compiled, constant, 1, replaces);
      const at = columns.nLayers / 2;
      return [...full.keys()]
        .filter((i) => full[i] && !pinned[i] && grid.position[3 * i] < 0.006)
        .map((i) => tracer[3 * (i * columns.nLayers + at) + 1]);
    };
    const [mixed, pushed] = [inCore(false), inCore(true)];
    // Fluidities differ from layer to layer, so that little comes along some of them.
    const median = (values: number[]) => values.sort((a, b) => a - b)[values.length >> 1];
    expect(Math.max(...pushed)).toBeLessThan(0.25 + 1e-12);
    expect(median(pushed)).toBeGreaterThan(0.249);
    expect(median(mixed)).toBeLessThan(0.2);
  });

  it('tell shear rate and velocity of every layer', () => {
    const { columns, full, pinned } = channel(whole, true);
    for (let i = 0; i < grid.n; i++) {
      if (!full[i] || pinned[i]) continue;
      const { share } = columns.layersOf(i);
      let [flow, most] = [0, 0];
      for (let t = 0; t < columns.nLayers; t++) {
        flow += share[t] * columns.velocityShareOf(i, t);
        most = Math.max(most, columns.shearRateOf(i, t));
      }
      expect(flow).toBeCloseTo(1, 9);
      expect(most).toBeCloseTo(columns.peakRate[i], 6);
    }
  });

  it('are compiled from the source beside them', async () => {
    const { compileKernel } = (await import('../../../../scripts/kernels.mjs')) as {
      compileKernel: (name: string) => Promise<string>;
    };
    expect(await compileKernel('columns')).toBe(COLUMNS_KERNEL);
  });
});
