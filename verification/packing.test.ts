import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { box } from './shapes';
import { filledCavity, pack } from './packing';

interface Slit {
  length: number;
  gap: number;
  viscosity: number;
  compressibility: number;
  density0: number;
  before: number;
  inlet: number;
  rows: { time: number; end: number; middle: number; mass: number; inflow: number }[];
}
const { slit } = JSON.parse(readFileSync(new URL('./reference/pvt.json', import.meta.url), 'utf8')) as { slit: Slit };

const WIDTH = 0.02;
const flat = (v: Vec3): Vec3 => v;
/** 30 degrees about y, then 17 about z. */
function tilted([x, y, z]: Vec3): Vec3 {
  const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
  const [u, w] = [c * x + s * z, -s * x + c * z];
  const [d, e] = [Math.cos((17 * Math.PI) / 180), Math.sin((17 * Math.PI) / 180)];
  return [d * u - e * y, e * u + d * y, w];
}

/**
 * The slit of the reference, closed at its end, at the time of a row: what the stage makes of it. A bar has
 * sides that brake: it carries 1 - 0.630 h/w of what a slit does (White, Viscous Fluid Flow, 3rd ed.,
 * eq. 3-48 for h << w), so its melt is made as much thinner.
 */
async function packSlit(turn: (v: Vec3) => Vec3, time: number, nSteps: number) {
  const density = { density0: slit.density0, compressibility: slit.compressibility };
  const cavity = (length: number) =>
    filledCavity({
      mesh: box(length, WIDTH, slit.gap),
      turn,
      viscosity: { kind: 'newtonian', eta: slit.viscosity * (1 - (0.63 * slit.gap) / WIDTH) },
      noFlow: 0,
      // Walls as warm as the melt, and hardly any contact: nothing cools.
      thermal: { conductivity: 0.2, density: 800, specificHeat: 2000 },
      walls: [{ temperature: 500, transfer: 1e-6 }],
      melt: 500,
      before: slit.before,
      inletAt: ([x]) => x < 1.6 * slit.gap,
      density,
    });
  // The pressure is set in the middle of the inlet's last nodes: there the slit begins.
  const first = cavity(slit.length);
  const { grid, fill, place } = cavity(slit.length + startOf(first));
  const { inlet, solver } = fill.state;
  const control = { pressureAt: () => slit.inlet, corners: [], end: time };
  const result = await pack(fill, density, {
    control,
    freezeTime: 1,
    stepsPerFreeze: nSteps / time,
    firstStep: 0.02,
    openAt: time,
    ejectionTemperature: 1000,
    part: Uint8Array.from(inlet.gateOfNode, (g) => (g < 0 ? 1 : 0)),
  });
  const x = Float64Array.from({ length: grid.n }, (_, i) => place(i)[0]);
  const start = startOf({ grid, fill, place });
  const free = [...x.keys()].filter((i) => inlet.gateOfNode[i] < 0);
  const at = (from: number) => {
    let [sum, weight] = [0, 0];
    for (const i of free) {
      const w = Math.max(0, 1 - Math.abs(x[i] - from) / grid.spacing) * grid.volume[i];
      sum += w * solver.pressure[i];
      weight += w;
    }
    return sum / weight;
  };
  // What fills the way from the place of the set pressure to the rest has its pressure.
  const volume = free.reduce((s, i) => s + grid.volume[i], 0);
  const extra = slit.length * WIDTH * slit.gap - volume;
  const inside = slit.density0 * Math.exp(slit.compressibility * slit.inlet);
  return {
    result,
    end: at(free.reduce((m, i) => Math.max(m, x[i]), -Infinity)),
    middle: at(start + slit.length / 2),
    mass: (result.mass + extra * inside) / WIDTH,
    inflow: (result.history.gateFlow[result.history.gateFlow.length - 1][0] * inside) / WIDTH,
  };
}

/** Mean place of the inlet's nodes on the links that leave it, by what the links carry. */
function startOf({ grid, fill, place }: ReturnType<typeof filledCavity>): number {
  const { gateOfNode } = fill.state.inlet;
  let [sum, weight] = [0, 0];
  for (let l = 0; l < grid.linkFrom.length; l++) {
    const [a, b] = [grid.linkFrom[l], grid.linkTo[l]];
    if (gateOfNode[a] >= 0 === gateOfNode[b] >= 0) continue;
    // What a link carries of a flow along the body.
    const [from, to] = gateOfNode[a] >= 0 ? [a, b] : [b, a];
    const w = grid.transmissibility[l] * Math.max(0, place(to)[0] - place(from)[0]);
    sum += w * place(from)[0];
    weight += w;
  }
  return sum / weight;
}

describe.each([
  ['flat', flat],
  ['tilted', tilted],
])('packing of a closed slit, %s', (_name, turn) => {
  it.each(slit.rows)('after $time s', async ({ time, end, middle, mass, inflow }) => {
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
  });
});

it('the error of the packing falls with the time step, to first order', async () => {
  const { time, middle } = slit.rows[1];
  const error = async (nSteps: number) => Math.abs((await packSlit(flat, time, nSteps)).middle - middle);
  const [coarse, fine] = [await error(25), await error(100)];
  // A quarter of the step: a quarter of the error, less what the grid adds.
  expect(coarse / fine).toBeGreaterThan(3);
  expect(coarse / fine).toBeLessThan(5.5);
});
