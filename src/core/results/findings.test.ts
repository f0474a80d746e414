import { describe, expect, it } from 'vitest';
import { box, disc } from '../../../verification/shapes';
import { mapVertices, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { buildFineGrid } from '../grid/grid';
import { latticeFor } from '../grid/lattice';
import { buildPressureGrid } from '../grid/pressureGrid';
import { toolOnGrid } from '../grid/tool';
import { airAt } from '../material/air';
import { resinById } from '../material/library';
import { diffusivity, meltThermal } from '../material/properties';
import { emptyInputs, type Inputs } from '../model/study';
import { runPipeline } from '../pipeline/pipeline';
import { resolveSettings } from '../setup/settings';
import { plainContext } from '../stage/context';
import { TrappedAir } from '../solvers/melt/trappedAir';
import { curvesThrough } from './curves';
import { judge, VERDICT_RULES, worst } from './rules';
import { plateTemperature, weldStrength } from './weldLines';
import { whatMachine } from './whatMachine';

const plate = box(0.08, 0.03, 0.002);
const gate = (id: string, x: number, y = 0): Inputs['gates'][0] => ({ id, position: [x, y, 0.001], diameter: 0.002 });
const run = async (mesh: TriangleMesh, patch: Partial<Inputs>) => {
  const inputs: Inputs = { ...emptyInputs('plate'), detail: 'quick', upTo: 'fill', ...patch };
  const outcome = await runPipeline(mesh, 'plate', inputs, plainContext(), { gridError: false });
  if (outcome.status !== 'filled' && outcome.status !== 'stalled') throw new Error(outcome.status);
  return outcome;
};

describe('weld lines', () => {
  it('two equal gates meet head on in the middle, across the whole width', async () => {
    const { findings, summary } = await run(plate, { gates: [gate('G1', 0.01), gate('G2', 0.07)] });
    const [line] = findings.weldLines;
    for (const p of line.points) expect(Math.abs(p[0] - 0.04)).toBeLessThan(0.003);
    expect(line.length).toBeGreaterThan(0.022);
    expect(line.length).toBeLessThan(0.034);
    expect(line.smallestAngle).toBeLessThan((35 * Math.PI) / 180);
    expect(summary.gateShares.every((s) => Math.abs(s.share - 0.5) < 0.03)).toBe(true);
  });

  it('the line lies in the same place when the part is turned in space', async () => {
    const turn = ([x, y, z]: Vec3): Vec3 => [0.8 * x - 0.6 * y, 0.6 * x + 0.8 * y, z];
    const gates = [gate('G1', 0.01), gate('G2', 0.07)].map((g) => ({ ...g, position: turn(g.position) }));
    const { findings } = await run(mapVertices(plate, turn), { gates });
    const back = ([x, y, z]: Vec3): Vec3 => [0.8 * x + 0.6 * y, -0.6 * x + 0.8 * y, z];
    for (const p of findings.weldLines[0].points.map(back)) expect(Math.abs(p[0] - 0.04)).toBeLessThan(0.005);
  });

  it('one gate at the edge of a plate leaves none', async () => {
    const { findings } = await run(plate, { gates: [gate('G1', 0.004)] });
    expect(findings.weldLines).toHaveLength(0);
  });

  it('a hotter front knits better, a colder mould worse; at the no-flow temperature nothing knits', () => {
    const resin = resinById('abs-corran-220')!;
    const material = {
      viscosity: resin.viscosity,
      noFlowTemperature: resin.noFlowTemperature,
      mouldTemperature: 333,
      diffusivity: diffusivity(meltThermal(resin)),
    };
    const at = (T: number, mould = 333) => weldStrength(T, 1e-3, { ...material, mouldTemperature: mould });
    expect(at(513)).toBeGreaterThan(at(460));
    expect(at(460, 353)).toBeGreaterThanOrEqual(at(460, 300));
    expect(at(resin.noFlowTemperature)).toBe(0);
    expect(at(513)).toBeLessThanOrEqual(1);
  });

  it('the plate they cool in follows the series', () => {
    expect(plateTemperature(0, 0)).toBeCloseTo(1, 1);
    // First term alone at Fourier 1: 4/pi exp(-pi^2/4).
    expect(plateTemperature(0, 1)).toBeCloseTo((4 / Math.PI) * Math.exp(-(Math.PI ** 2) / 4), 6);
    expect(plateTemperature(1, 0.3)).toBeCloseTo(0, 9);
  });
});

describe('curves through scattered points', () => {
  it('a noisy arc comes back as one smooth curve of its length', () => {
    const points = Array.from({ length: 60 }, (_, k): Vec3 => {
      const a = (Math.PI * k) / 59;
      const r = 0.02 + 0.0004 * Math.sin(7 * k);
      return [r * Math.cos(a), r * Math.sin(a), 0.0002 * Math.cos(11 * k)];
    });
    const [curve, ...rest] = curvesThrough(points, 0.002);
    expect(rest.every((c) => c.length < 0.006)).toBe(true);
    expect(curve.length).toBeGreaterThan(0.05);
    expect(curve.length).toBeLessThan(0.07);
  });

  it('two lines far apart stay two', () => {
    const line = (y: number) => Array.from({ length: 10 }, (_, k): Vec3 => [0.001 * k, y, 0]);
    expect(curvesThrough([...line(0), ...line(0.05)], 0.001)).toHaveLength(2);
  });
});

describe('trapped air', () => {
  const mesh = disc(0.03, 0.002, 64);
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'quick'));
  const grid = buildPressureGrid(fine);

  it('is pressed as the melt closes in, and holds the pressure of the melt in the end', () => {
    const vented = new Uint8Array(grid.n);
    const air = new TrappedAir(grid, vented, airAt(313), grid.volume);
    const radius = Array.from({ length: grid.n }, (_, i) => Math.hypot(grid.position[3 * i], grid.position[3 * i + 1]));
    const melt = new Float64Array(grid.n).fill(2e6);
    let last = 0;
    for (let R = 0.028; R > 0.002; R *= 0.8) {
      const full = Uint8Array.from(radius, (r) => (r > R ? 1 : 0));
      const held = grid.volume.map((v, i) => (full[i] ? v : 0));
      air.update(held, full, 1 - R, 0.01, melt);
      const inside = radius.findIndex((r) => r < 0.002);
      expect(air.pressure[inside]).toBeGreaterThanOrEqual(last * (1 - 1e-9));
      last = air.pressure[inside];
    }
    const [trap] = air.found();
    expect(trap.isothermal.pressure).toBeLessThanOrEqual(2e6 + 101325 + 1);
    expect(trap.isothermal.pressure).toBeGreaterThan(1e6);
    expect(trap.adiabatic.temperature).toBeGreaterThan(500);
  });

  it('leaves through a vented node', () => {
    const vented = new Uint8Array(grid.n).fill(1);
    const air = new TrappedAir(grid, vented, airAt(313), grid.volume);
    const full = new Uint8Array(grid.n);
    air.update(new Float64Array(grid.n), full, 0, 0.1, new Float64Array(grid.n));
    expect(air.traps).toHaveLength(0);
  });

  it('a sealed cavity traps what a vented one lets out', async () => {
    const gates = [{ id: 'G1', position: [0, 0, 0.001] as Vec3, diameter: 0.003 }];
    const open = await run(mesh, { gates });
    const sealed = await run(mesh, { gates, cycle: { ...emptyInputs().cycle, venting: 'sealed' } });
    expect(open.findings.airTraps).toHaveLength(0);
    expect(sealed.findings.airTraps.length).toBeGreaterThan(0);
    expect(sealed.findings.airTraps[0].isothermalPressure).toBeGreaterThan(5e5);
    expect(sealed.answers[1].verdict).not.toBe('good');
  });
});

describe('the tool on the grid', () => {
  it('a lying plate shows its area, is vented round its rim, and lies between the two halves', () => {
    const fine = buildFineGrid(plate, latticeFor(plate, 'normal'));
    const grid = buildPressureGrid(fine);
    const { projectedArea, vented, halfOf } = toolOnGrid(plate, fine, grid, {
      opening: [0, 0, 1],
      partingHeight: null,
    });
    // Rays in rows askew: their edge effects are a thousandth.
    expect(projectedArea.reduce((s, a) => s + a, 0) / (0.08 * 0.03)).toBeCloseTo(1, 2.7);
    for (let i = 0; i < grid.n; i++) {
      const [x, y] = [grid.position[3 * i], grid.position[3 * i + 1]];
      const inner = x > 0.006 && x < 0.074 && Math.abs(y) < 0.009;
      if (inner) expect(vented[i]).toBe(0);
      if (inner && grid.volume[i] > 0.2 * grid.spacing ** 3) expect([halfOf[2 * i], halfOf[2 * i + 1]]).toEqual([0, 1]);
    }
    expect(vented.reduce((s, v) => s + v, 0)).toBeGreaterThan(20);
  });
});

describe('verdict rules', () => {
  it('each has a limit and a reason, and judges on the right side of it', () => {
    for (const rule of Object.values(VERDICT_RULES)) {
      expect(rule.reason.length).toBeGreaterThan(20);
      const limit = (rule.watch ?? rule.problem) as number;
      const step = 0.01 * Math.abs(limit);
      const [worse, better] = rule.worse === 'above' ? [limit + step, limit - step] : [limit - step, limit + step];
      expect(judge(rule, better)).toBe('good');
      expect(judge(rule, worse)).not.toBe('good');
    }
  });

  it('the worst one counts', () => {
    expect(worst(['good', 'problem', 'watch'])).toBe('problem');
    expect(worst([])).toBe('good');
  });

  it('a press too small is a problem, and one that fits is offered', () => {
    const inputs: Inputs = { ...emptyInputs('x'), cycle: { ...emptyInputs().cycle, machine: 'hask-30' } };
    const settings = resolveSettings(inputs, { volume: 3e-5, wall: 0.002 });
    const needs = {
      pressure: 5e7,
      clampForce: 5e5,
      packingClamp: 7e5,
      projectedArea: 0.014,
      flowRate: 3e-5,
      volume: 3e-5,
    };
    const answer = whatMachine(needs, inputs, settings);
    expect(answer.verdict).toBe('problem');
    const offered = answer.try.find((t) => t.id === 'fitting-machine');
    const better = resolveSettings(offered!.inputs, { volume: 3e-5, wall: 0.002 });
    expect(better.machine.clampForce * 0.8).toBeGreaterThanOrEqual(7e5);
    expect(whatMachine(needs, offered!.inputs, better).verdict).toBe('good');
  });
});
