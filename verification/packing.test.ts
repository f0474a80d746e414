import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { constantPressure, type PackControl } from '../src/core/solvers/pack/control';
import { Cavity } from '../src/core/solvers/shot/cavity';
import { ATMOSPHERE, pressureAt, specificVolume, volumetricShrinkage, type Tait } from '../src/core/material/pvt';
import { few } from './extent';
import { box } from './shapes';
import { filledCavity, pack, packSlit as packedSlit, type ClosedSlit } from './packing';

const { slit, materials } = JSON.parse(readFileSync(new URL('./reference/pvt.json', import.meta.url), 'utf8')) as {
  slit: ClosedSlit & { rows: { time: number; end: number; middle: number; mass: number; inflow: number }[] };
  materials: Record<string, { parameters: Tait }>;
};

const packSlit = (turn: (v: Vec3) => Vec3, time: number, nSteps: number) => packedSlit(slit, turn, time, nSteps);
const flat = (v: Vec3): Vec3 => v;
/** 30 degrees about y, then 17 about z. */
function tilted([x, y, z]: Vec3): Vec3 {
  const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
  const [u, w] = [c * x + s * z, -s * x + c * z];
  const [d, e] = [Math.cos((17 * Math.PI) / 180), Math.sin((17 * Math.PI) / 180)];
  return [d * u - e * y, e * u + d * y, w];
}

describe.each([
  ['flat', flat],
  ['tilted', tilted],
])('packing of a closed slit, %s', (_name, turn) => {
  // The longest takes the most steps: it is tilted where all is run.
  it.each(turn === flat ? slit.rows : few(slit.rows, slit.rows.length - 1))(
    'after $time s',
    async ({ time, end, middle, mass, inflow }) => {
      // The inflow dies away exponentially: its error grows with the time in steps of 0.1 ms.
      const got = await packSlit(turn, time, Math.max(120, time / 1e-4));
      // The reference's own tolerances: pressures 1.5 % or 0.2 MPa, mass 0.1 %, inflow 2 %.
      const near = (value: number, expected: number) =>
        expect(Math.abs(value - expected)).toBeLessThan(Math.max(0.015 * expected, 2e5));
      near(got.end, end);
      near(got.middle, middle);
      expect(Math.abs(got.mass / mass - 1)).toBeLessThan(1e-3);
      expect(Math.abs(got.inflow / inflow - 1)).toBeLessThan(0.02);
      expect(got.result.massError).toBeLessThan(1e-6);
    },
  );
});

it('the error of the packing falls with the time step, to first order', async () => {
  const { time, middle } = slit.rows[1];
  const error = async (nSteps: number) => Math.abs((await packSlit(flat, time, nSteps)).middle - middle);
  const [coarse, fine] = [await error(25), await error(100)];
  // A quarter of the step: a quarter of the error, less what the grid adds.
  expect(coarse / fine).toBeGreaterThan(3);
  expect(coarse / fine).toBeLessThan(5.5);
});

describe.each(Object.entries(materials))(
  'a plate held under pressure until it stops flowing, %s',
  (_name, { parameters }) => {
    const MELT = 483.15;
    /** Where the melt stops flowing: well above the transition, as the reference seals its cavity. */
    const NO_FLOW = parameters.b5 + 24;
    /**
     * Walls that take heat slowly from plastic that conducts well: every place has the same temperature, and the
     * whole is sealed in one state.
     */
    const held = async (pressure: number, openAt: number, stepsPerFreeze = 300) => {
      const filled = filledCavity({
        mesh: box(0.05, 0.02, 0.003),
        detail: 'quick',
        viscosity: { kind: 'newtonian', eta: 200 },
        noFlow: NO_FLOW,
        thermal: { conductivity: 400, density: 900, specificHeat: 2200 },
        walls: [{ temperature: 300, transfer: 300 }],
        melt: MELT,
        before: pressure,
        inletAt: ([x]) => x < 0.004,
        density: parameters,
      });
      const { grid, spec } = filled;
      const part = Uint8Array.from(spec.gating.gateOfNode, (g) => (g < 0 ? 1 : 0));
      const { result, state } = await pack(filled, parameters, {
        control: constantPressure(pressure, openAt),
        freezeTime: 10,
        stepsPerFreeze,
        ejectionTemperature: 1000,
        noFlowTemperature: NO_FLOW,
        transitionTemperature: parameters.b5,
        coolingTime: 0,
        part,
      });
      const nodes = [...part.keys()].filter((i) => part[i] && grid.centroid[3 * i] > 0.01);
      const volume = grid.volume.reduce((s, v, i) => s + part[i] * v, 0);
      const { columns } = new Cavity(spec, state);
      return { result, columns: columns!, pressure: state.node.pressure, nodes, volume };
    };

    it.each([2e7, 5e7])('weighs and shrinks as the pvT line says, at %f Pa', async (pressure) => {
      const { result, volume, nodes } = await held(pressure, 12);
      const v = specificVolume(parameters, NO_FLOW, pressure + ATMOSPHERE);
      // A step is 0.03 s, in which the plate cools by 0.3 K: 0.02 % of the volume; the inlet's neighbours stay hotter.
      expect(Math.abs((result.mass * v) / volume - 1)).toBeLessThan(2e-3);
      const expected = volumetricShrinkage(parameters, NO_FLOW, pressure + ATMOSPHERE);
      for (const i of nodes) expect(Math.abs(result.node.shrinkage[i] - expected)).toBeLessThan(1e-3);
      expect(result.massError).toBeLessThan(1e-6);
      expect(result.heatError).toBeLessThan(0.01);
    });

    it('more pressure: more weight, less shrinkage, by the amounts of the pvT line', async () => {
      const [low, high] = [await held(2e7, 12), await held(5e7, 12)];
      const at = (p: number) => 1 / specificVolume(parameters, NO_FLOW, p + ATMOSPHERE);
      const gained = (high.result.mass - low.result.mass) / low.result.mass;
      expect(gained / (at(5e7) / at(2e7) - 1)).toBeCloseTo(1, 1);
      const i = low.nodes[0];
      expect(high.result.node.shrinkage[i]).toBeLessThan(low.result.node.shrinkage[i]);
    });

    it('once sealed its pressure falls along the line of its volume', async () => {
      const pressure = 4.5e7;
      // What a plate of one temperature takes to the seal, and a little more.
      const decay = (900 * 2200 * 0.0015) / 300;
      const {
        columns,
        pressure: found,
        nodes,
      } = await held(pressure, decay * Math.log((MELT - 300) / (NO_FLOW - 300)), 1200);
      const sealed = specificVolume(parameters, NO_FLOW, pressure + ATMOSPHERE);
      // On the way from the inlet fresh melt passes: of the places that are sealed, the one that was sealed last.
      const temperature = (j: number) => columns.meanTemperature(j);
      const sealedNodes = nodes.filter((j) => temperature(j) < NO_FLOW - 2);
      const i = sealedNodes.reduce((hot, j) => (temperature(j) > temperature(hot) ? j : hot));
      const T = columns.meanTemperature(i);
      expect(T).toBeLessThan(NO_FLOW - 2);
      const expected = pressureAt(parameters, T, sealed) - ATMOSPHERE;
      expect(expected).toBeGreaterThan(1e7);
      // It was sealed within a step of 8 ms, 0.12 K: 0.1 MPa.
      expect(Math.abs(found[i] - expected)).toBeLessThan(2e5);
    });
  },
);

describe('a strip gate freezes when its middle stops flowing', () => {
  /** First roots of z tan z = Bi. */
  const roots = (biot: number, n = 30) =>
    Array.from({ length: n }, (_, m) => {
      let [low, high] = [m * Math.PI, m * Math.PI + Math.PI / 2 - 1e-12];
      for (let k = 0; k < 80; k++) {
        const z = 0.5 * (low + high);
        if (z * Math.tan(z) < biot) low = z;
        else high = z;
      }
      return low;
    });
  /** Middle of a plate between walls with a film: Carslaw & Jaeger (1959), section 3.11. */
  const middle = (fourier: number, biot: number) =>
    roots(biot).reduce((s, z) => s + ((4 * Math.sin(z)) / (2 * z + Math.sin(2 * z))) * Math.exp(-z * z * fourier), 0);

  it.each([0.0008, 0.0015])('%f m thick', async (gap) => {
    const thermal = { conductivity: 0.18, density: 900, specificHeat: 2300 };
    const [melt, wall, noFlow, transfer] = [510, 320, 410, 3000];
    const filled = filledCavity({
      mesh: box(12 * gap, 8 * gap, gap),
      viscosity: { kind: 'newtonian', eta: 300 },
      noFlow,
      thermal,
      walls: [{ temperature: wall, transfer }],
      melt,
      before: 1e6,
      inletAt: ([x]) => x < 2 * gap,
      density: { density0: 900, compressibility: 1e-12 },
    });
    const biot = (transfer * gap) / 2 / thermal.conductivity;
    const diffusivity = thermal.conductivity / thermal.density / thermal.specificHeat;
    let [low, high] = [1e-3, 5];
    for (let k = 0; k < 60; k++) {
      const fourier = 0.5 * (low + high);
      if (wall + (melt - wall) * middle(fourier, biot) > noFlow) low = fourier;
      else high = fourier;
    }
    const expected = (low * (gap / 2) ** 2) / diffusivity;
    const held = async (control: PackControl, coolingTime: number | null, ejectionTemperature: number) => {
      const density = { density0: 900, compressibility: 1e-12 };
      const own = {
        freezeTime: expected,
        solidShare: 0.9,
        noFlowTemperature: noFlow,
        transitionTemperature: noFlow - 10,
      };
      return (await pack(filled, density, { ...own, control, coolingTime, ejectionTemperature })).result;
    };
    const set = await held(constantPressure(1e6, 1.3 * expected), 0, 1000);
    expect(set.gateFrozenAt).toHaveLength(1);
    expect(Math.abs((set.gateFrozenAt[0] as number) / expected - 1)).toBeLessThan(0.05);
    expect(set.packingEnd).toBeCloseTo(1.3 * expected, 9);
    // Without a set time the machine lets go then, and the mould stays closed until the part is cold, whatever was expected.
    const waits = constantPressure(1e6, 0.2 * expected);
    waits.profile.untilFrozen = true;
    const left = await held(waits, null, wall + 30);
    expect(left.packingEnd).toBe(left.gateFrozenAt[0]);
    expect(Math.abs(left.packingEnd / expected - 1)).toBeLessThan(0.05);
    expect(left.openTime).toBeGreaterThanOrEqual(left.ejectableTime as number);
    // Nor does it wait for a gate for ever, where the part is ready long before.
    const ready = await held(waits, null, noFlow + 80);
    expect(ready.gateFrozenAt[0] ?? Infinity).toBeGreaterThan(ready.packingEnd);
    expect(ready.packingEnd).toBeGreaterThan(1.5 * (ready.ejectableTime as number));
    expect(ready.packingEnd).toBeLessThan(0.95 * expected);
  });
});
