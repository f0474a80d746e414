import { describe, expect, it } from 'vitest';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { ATMOSPHERE } from '../src/core/material/air';
import { stressForm } from '../src/core/material/stressForm';
import type { ViscosityModel } from '../src/core/material/viscosity';
import { capillaryFactor, filmShare, filmThickness } from '../src/core/solvers/core/film';
import { Hollow } from '../src/core/solvers/core/hollow';
import { CompiledColumns, CompiledHeat } from '../src/core/solvers/melt/compiledColumns';
import type { FillInput } from '../src/core/solvers/fill/outcome';
import { fill } from '../src/core/solvers/fill/stage';
import { constantFlow } from '../src/core/solvers/melt/drive';
import { noGating } from '../src/core/solvers/melt/gating';
import { sectionShape } from '../src/core/solvers/melt/layers';
import { emptyState } from '../src/core/solvers/shot/state';
import { plainContext } from '../src/core/stage/context';
import { shootCore, steady, type CoreCase } from './coreRun';
import { few } from './extent';
import reference from './reference/core.json';
import { box, rod } from './shapes';
import { TURNS } from './solids';

const turns = Object.entries(TURNS).slice(0, 3);

describe('film behind a bubble', () => {
  it.each(few(reference.carreau, 2))(
    'of a Carreau melt, n $n, lambda U/R $lambdaU: that of a power-law melt as full',
    (c) => {
      for (const [s, expected] of [
        [3, c.tube],
        [2, c.slit],
      ]) {
        // The flow ahead is the bubble's less what stays.
        let film = 0.5;
        for (let pass = 0; pass < 20; pass++) film = filmShare(mostOverMean(c.n, c.lambdaU, 1 - film, s), s);
        expect(Math.abs(film / expected - 1)).toBeLessThan(0.02);
      }
    },
  );

  it.each(reference.capillary)('at capillary number $Ca', ({ Ca, tube, slit }) => {
    expect(Math.abs(filmThickness(Ca, 'tube') / tube - 1)).toBeLessThan(0.02);
    expect(Math.abs(filmThickness(Ca, 'slit') / slit - 1)).toBeLessThan(0.02);
    expect(capillaryFactor(Ca, 2)).toBeCloseTo(filmThickness(Ca, 'slit') / filmThickness(Infinity, 'slit'), 12);
  });
});

/** Highest over mean velocity of a Carreau melt, rates over the bubble's speed and the half gap, at a mean velocity. */
function mostOverMean(n: number, lambdaU: number, mean: number, s: number): number {
  const steps = 400;
  const c = 1 / lambdaU;
  const rateAt = (stress: number) => {
    let [low, high] = [-40, 40];
    for (let k = 0; k < 60; k++) {
      const g = Math.exp((low + high) / 2);
      if (g * Math.pow(g * g + c * c, (n - 1) / 2) > stress) high = (low + high) / 2;
      else low = (low + high) / 2;
    }
    return Math.exp((low + high) / 2);
  };
  const flow = (wall: number) => {
    let [most, sum] = [0, 0];
    for (let k = 0; k < steps; k++) {
      const z = (k + 0.5) / steps;
      const rate = rateAt(wall * z) / steps;
      most += rate;
      sum += rate * Math.pow(z, s - 1);
    }
    return { most, sum };
  };
  let [low, high] = [1e-4, 1e4];
  for (let k = 0; k < 40; k++) {
    const mid = Math.sqrt(low * high);
    if (flow(mid).sum > mean) high = mid;
    else low = mid;
  }
  const { most, sum } = flow(low);
  return most / sum;
}

const R = 0.006;
const L = 0.2;
const bar = (turn: (v: Vec3) => Vec3, viscosity: ViscosityModel, more: Partial<CoreCase> = {}) =>
  shootCore({
    mesh: rod(R, L),
    turn,
    gate: { at: [0, 0, 0], diameter: 0.008 },
    needle: [R / 2, 0, 0],
    viscosity,
    flowRate: 2e-5,
    prefill: 0.75,
    control: steady(2e7),
    ...more,
  });

/** Share of the section that stays where the fluid has passed, mean by volume of the nodes that `counts`. */
function staying({ grid, after }: Awaited<ReturnType<typeof shootCore>>, counts: (i: number) => boolean = () => true) {
  const { done, film } = after.state.core!;
  let [sum, whole] = [0, 0];
  for (let i = 0; i < grid.n; i++) {
    if (!done[i] || !counts(i)) continue;
    sum += film[i] * grid.volume[i];
    whole += grid.volume[i];
  }
  return sum / whole;
}
const totalOf = (values: ArrayLike<number>) => Array.from(values).reduce((s, v) => s + v, 0);

describe.each(turns)('gas in a bar, %s', (_, turn) => {
  it.each(reference.powerLaw.filter((c) => [1, 0.6, 0.3].includes(c.n)))(
    'n $n: what stays of the section, the length of the core, and all of both fluids',
    async (c) => {
      const run = await bar(turn, { kind: 'power-law', K: 5000, n: c.n });
      const { grid, after, before } = run;
      expect(after.status).toBe('filled');
      const stays = staying(run);
      expect(Math.abs(stays / c.tube - 1)).toBeLessThan(0.02);
      const { volume } = after.state.core!;
      const cavity = totalOf(grid.volume);
      // What the gas has come to is what the melt has left: both to rounding.
      expect(Math.abs(totalOf(volume) / (cavity - before.result.injectedVolume) - 1)).toBeLessThan(1e-6);
      expect(after.result.massError).toBeLessThan(1e-9);
      const axis = turn([1, 0, 0]);
      const along = (i: number) => axis.reduce((s, x, d) => s + x * grid.centroid[3 * i + d], 0);
      const tip = Math.max(...[...volume.keys()].filter((i) => volume[i] > 0).map(along));
      const length = (0.25 * L) / (1 - c.tube);
      // The nose is round, and a node long.
      expect(tip - length).toBeGreaterThan(-R);
      expect(tip - length).toBeLessThan(2 * R);
    },
  );

  it('with less melt than stays of the section it breaks through, and says where and when', async () => {
    const { after, before } = await bar(turn, { kind: 'newtonian', eta: 500 }, { prefill: 0.5 });
    expect([after.status, 'reason' in after && after.reason]).toEqual(['stalled', 'blow-through']);
    expect(after.result.brokenThrough!.time).toBeGreaterThan(before.state.time);
  });

  it('in a plate, away from its sides, leaves what it leaves in a slit', async () => {
    const run = await shootCore({
      mesh: box(0.1, 0.03, 0.003),
      turn,
      gate: { at: [0, 0, 0], diameter: 0.008 },
      needle: [0.002, 0, 0],
      viscosity: { kind: 'newtonian', eta: 500 },
      flowRate: 2e-5,
      prefill: 0.75,
      control: steady(2e7),
    });
    const across = turn([0, 1, 0]);
    const away = (i: number) => Math.abs(across.reduce((s, x, d) => s + x * run.grid.centroid[3 * i + d], 0));
    expect(Math.abs(staying(run, (i) => away(i) < 0.006) / 0.4195 - 1)).toBeLessThan(0.025);
  });
});

describe('what drives a core', () => {
  const newtonian = { kind: 'newtonian', eta: 500 } as const;
  const flat = TURNS['as drawn'];

  it('an amount of gas: pressure and volume of core and line stay p V = n R T', async () => {
    const control = {
      by: 'volume',
      points: [
        { at: 0, value: 0 },
        { at: 0.5, value: 1e-3 },
        { at: 1e4, value: 1e-3 },
      ],
      line: 1e-5,
      most: 1e9,
    } as const;
    const fluid = { gasConstant: 296.8, density: 0, temperature: 320, transfer: 0 };
    const { after, input } = await bar(flat, newtonian, { control, fluid });
    const { time, corePressure, coreVolume } = after.result.history;
    const pushed = (t: number) => 1e-3 * Math.min(1, Math.max(0, (t - input.core!.from) / 0.5));
    time.forEach((t, k) => {
      if (!(coreVolume[k] > 0) || !(corePressure[k] > 0)) return;
      const moles = (ATMOSPHERE * pushed(t)) / (8.314462618 * 273.15);
      const pv = (corePressure[k] + ATMOSPHERE) * (coreVolume[k] + 1e-5);
      expect(Math.abs(pv / (moles * 8.314462618 * 320) - 1)).toBeLessThan(1e-6);
    });
    expect(Math.max(...coreVolume)).toBeGreaterThan(1e-6);
  });

  it('a pressure that is too low leaves the melt standing; one that comes later finds a colder skin', async () => {
    const cold = { wall: 320, noFlow: 420 };
    const low = await bar(flat, newtonian, { ...cold, control: steady(1e3) });
    expect([low.after.status, 'reason' in low.after && low.after.reason]).toEqual(['stalled', 'core']);
    const film = async (delay: number) => staying(await bar(flat, newtonian, { ...cold, delay }));
    const [soon, late, later] = [await film(0), await film(4), await film(10)];
    expect(late).toBeGreaterThan(1.02 * soon);
    expect(later).toBeGreaterThan(1.02 * late);
  });

  it('mirrored halves and turned bars have one answer', async () => {
    const times = await Promise.all(turns.map(async ([, turn]) => (await bar(turn, newtonian)).after.state.time));
    expect(Math.max(...times) / Math.min(...times) - 1).toBeLessThan(0.01);
  });
});

describe('a hollow wall', () => {
  const thermal = { conductivity: 0.2, density: 900, specificHeat: 2000 };
  const [wall, hot, transfer] = [300, 500, 1e4];
  const thickness = 0.006;
  const skinOf = (place: number) => (thickness / 2) * (1 - place);

  /** Mean temperature of the skin of a plate after a time, through the columns. */
  function cooled(place: number, inner: { temperature: number; transfer: number }, time: number): number {
    const mesh = box(0.06, 0.06, thickness);
    const grid = buildPressureGrid(buildFineGrid(mesh, latticeFor(mesh, 'normal')));
    const walls = { sides: [{ temperature: wall, transfer }], sideOf: new Uint8Array(2 * grid.n) };
    const columns = new CompiledColumns(grid, stressForm({ kind: 'newtonian', eta: 100 }), thermal, walls, hot);
    const heat = new CompiledHeat(grid, columns, thermal, hot, wall);
    const hollow = (columns.hollow = new Hollow(grid, columns.nHalves, inner));
    const away = (j: number) => Math.hypot(grid.centroid[3 * j] - 0.03, grid.centroid[3 * j + 1]);
    const i = [...grid.volume.keys()].reduce((a, b) => (away(b) < away(a) ? b : a));
    expect(columns.reach[i]).toBeCloseTo(thickness / 2, 5);
    hollow.set(i, place, 1);
    for (let k = 0; k < 400; k++) heat.rest(time / 400, [i], grid.volume);
    return columns.meanTemperature(i);
  }

  /** The same by many thin layers of the skin alone. */
  function skin(place: number, inner: { temperature: number; transfer: number }, time: number): number {
    const n = 200;
    const h = skinOf(place) / n;
    const T = new Float64Array(n).fill(hot);
    const { conductivity: k, density, specificHeat } = thermal;
    const capacity = density * specificHeat * h;
    const dt = (0.4 * capacity * h) / k;
    const film = (u: number) => 1 / (1 / u + h / 2 / k);
    const steps = Math.ceil(time / dt);
    for (let s = 0; s < steps; s++) {
      const flux = Float64Array.from({ length: n + 1 }, (_, e) => {
        if (e === 0) return inner.transfer > 0 ? film(inner.transfer) * (inner.temperature - T[0]) : 0;
        if (e === n) return film(transfer) * (T[n - 1] - wall);
        return (k * (T[e - 1] - T[e])) / h;
      });
      for (let l = 0; l < n; l++) T[l] += ((time / steps) * (flux[l] - flux[l + 1])) / capacity;
    }
    return totalOf(T) / n;
  }

  it.each([0.3, 0.5, 0.7])('cools by its skin alone behind a gas, its face at %d', (place) => {
    const inner = { temperature: 300, transfer: 0 };
    const time = (0.5 * skinOf(place) ** 2 * thermal.density * thermal.specificHeat) / thermal.conductivity;
    const [got, expected] = [cooled(place, inner, time), skin(place, inner, time)];
    expect(Math.abs(got - expected)).toBeLessThan(0.02 * (hot - wall));
  });

  it.each([0.3, 0.6])('is cooled from both sides by water, its face at %d', (place) => {
    const inner = { temperature: 293, transfer: 4000 };
    const time = (0.15 * skinOf(place) ** 2 * thermal.density * thermal.specificHeat) / thermal.conductivity;
    const [got, expected] = [cooled(place, inner, time), skin(place, inner, time)];
    expect(Math.abs(got - expected)).toBeLessThan(0.025 * (hot - wall));
    expect(got).toBeLessThan(cooled(place, { ...inner, transfer: 0 }, time) - 5);
  });
});

describe('a second melt of the same viscosity in a slit', () => {
  it.each(turns)('keeps to the exact profile, and all of both, %s', async (_, turn) => {
    const [length, width, gap] = [0.12, 0.03, 0.003];
    const mesh = mapVertices(box(length, width, gap), turn);
    const grid = buildPressureGrid(buildFineGrid(mesh, latticeFor(mesh, 'normal')));
    const [along, across] = [turn([1, 0, 0]), turn([0, 1, 0])];
    const on = (axis: Vec3, at: ArrayLike<number>, i: number) => axis.reduce((s, x, d) => s + x * at[3 * i + d], 0);
    // The first row of nodes is the inlet.
    const gateOfNode = Int16Array.from({ length: grid.n }, (_, i) =>
      on(along, grid.position, i) < grid.spacing ? 0 : -1,
    );
    const gating = { ...noGating(grid), gateOfNode };
    const viscosity = { kind: 'newtonian', eta: 500 } as const;
    const Q = (length * width * gap) / 2;
    const heat = {
      conductivity: 0.2,
      density: 900,
      specificHeat: 2200,
      sides: [{ temperature: 500, transfer: 1e4 }],
      sideOf: new Uint8Array(2 * grid.n),
      noFlowTemperature: 0,
      transitionTemperature: 0,
    };
    const until = (share: number) => ({
      ...constantFlow(Q),
      switchover: { by: 'share' as const, share },
      packing: null,
    });
    const input: FillInput = {
      grid,
      gating,
      nGates: 1,
      viscosity,
      meltTemperature: 500,
      control: until(0.5),
      heat,
      air: null,
      projectedArea: null,
      timeLimit: 1e5,
      tolerance: 1e-9,
    };
    const first = await fill(emptyState(grid, gating), input, plainContext());
    if (first.status !== 'switched') throw new Error(first.status);
    const density = { kind: 'plain', density: 900, compressibility: 0 } as never;
    const second = { viscosity, noFlowTemperature: 0, density, enters: true, first: viscosity };
    const advance = { wide: 0.5, end: 0.5, endAt: 0.9 };
    const then: FillInput = { ...input, second, injectsOn: true, before: first.result, control: until(0.8), advance };
    const after = await fill(first.state, then, plainContext());
    if (after.status !== 'switched') throw new Error(after.status);
    const { state } = after;
    const t = state.time - first.state.time;
    const partOf = (i: number) => {
      const { share } = sectionShape(grid.shape[i]).half;
      return share.reduce((s, w, l) => s + w * state.layer.second[i * state.nLayers + l], 0);
    };
    const free = [...gateOfNode.keys()].filter((i) => gateOfNode[i] < 0);
    const held = free.reduce((s, i) => s + partOf(i) * state.node.held[i], 0);
    expect(Math.abs(held / (Q * t) - 1)).toBeLessThan(1e-5);
    // Between the sides of a wide duct the middle runs faster than the mean by their drag.
    const U = Q / (width * gap * (1 - (0.63 * gap) / width));
    const face =
      Math.max(...[...gateOfNode.keys()].filter((i) => gateOfNode[i] >= 0).map((i) => on(along, grid.position, i))) +
      grid.spacing / 2;
    const rows = Array.from({ length: 13 }, (_, k) => {
      const [from, to] = [k, k + 1].map((x) => (x * 1.5 * U * t) / 12);
      const own = free.filter((i) => {
        const x = on(along, grid.centroid, i) - face;
        return x >= from && x < to && Math.abs(on(across, grid.centroid, i)) < width / 5;
      });
      const whole = own.reduce((s, i) => s + grid.volume[i], 0);
      const x = own.reduce((s, i) => s + grid.volume[i] * (on(along, grid.centroid, i) - face), 0) / whole;
      return { x, share: own.reduce((s, i) => s + grid.volume[i] * partOf(i), 0) / whole };
    });
    // x / t = U f'(phi), f = (3 phi - phi^3) / 2; the tip itself is two nodes wide.
    const off = rows.map(({ x, share }) => Math.abs(share - Math.sqrt(Math.max(0, 1 - x / (1.5 * U * t)))));
    expect(Math.max(...off.slice(0, 9))).toBeLessThan(0.03);
    expect(Math.sqrt(off.reduce((s, e) => s + e * e, 0) / off.length)).toBeLessThan(0.04);
    const tip = rows.findIndex((r) => r.share < 0.15);
    expect(tip).toBeGreaterThanOrEqual(11);
    expect(tip).toBeLessThanOrEqual(13);
  });
});
