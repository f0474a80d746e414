import { describe, expect, it } from 'vitest';
import { box } from '../../../../verification/shapes';
import { buildFineGrid } from '../../grid/grid';
import { latticeFor } from '../../grid/lattice';
import { buildPressureGrid } from '../../grid/pressureGrid';
import { plainContext } from '../../stage/context';
import { HALF_LAYERS } from '../melt/layers';
import { transfer, type TransferInput } from './transfer';

const plate = box(0.03, 0.02, 0.002);
const fine = buildFineGrid(plate, latticeFor(plate, 'quick'));
const grid = buildPressureGrid(fine);
const gating = {
  gateOfNode: new Int16Array(grid.n).fill(-1),
  linkFactor: new Float32Array(grid.linkFrom.length).fill(1),
  stars: [],
  attached: [],
};
const thermal = { conductivity: 0.2, density: 950, specificHeat: 2000 };
const mould = { temperature: 313, transfer: 3500 };

/** A plate of one temperature on its way. `layers`: those of its columns in the mould. */
const way = (change: Partial<TransferInput> = {}, layers = HALF_LAYERS, T = 380) =>
  transfer(
    {
      grid,
      gating,
      viscosity: { kind: 'newtonian', eta: 100 },
      meltTemperature: 500,
      heat: {
        ...thermal,
        sides: [mould],
        sideOf: new Int32Array(2 * grid.n),
        noFlowTemperature: 0,
        transitionTemperature: 400,
      },
      from: { temperature: new Float64Array(grid.n * layers).fill(T), behind: null },
      time: 5,
      onSteel: new Uint8Array(2 * grid.n),
      steel: { temperature: 313, transfer: 1500 },
      air: { temperature: 296, transfer: 15 },
      ...change,
    },
    plainContext(),
  );
/** The node nearest to the middle of the plate. */
const middle = Array.from({ length: grid.n }, (_, i) => i).sort((a, b) => away(a) - away(b))[0];
function away(i: number): number {
  return Math.hypot(grid.position[3 * i] - 0.015, grid.position[3 * i + 1], grid.position[3 * i + 2]);
}
const mean = (values: Float64Array) => values.reduce((s, T) => s + T, 0) / values.length;

describe('a part between two moulds', () => {
  it('in the air cools as a plate that conducts at once: Biot number 0.08', async () => {
    const { temperature } = await way({ time: 20 });
    // Both faces in the air, heat of half the wall behind each.
    const rate = 15 / (thermal.density * thermal.specificHeat * 0.001);
    const lumped = 296 + (380 - 296) * Math.exp(-rate * 20);
    const own = mean(temperature.subarray(2 * HALF_LAYERS * middle, 2 * HALF_LAYERS * (middle + 1)));
    expect(Math.abs(own - lumped)).toBeLessThan(1.5);
  });

  it('comes out the same from half columns and from whole ones of the same temperatures', async () => {
    const half = await way();
    const whole = await way({}, 2 * HALF_LAYERS);
    expect(half.temperature).toEqual(whole.temperature);
    expect(half.temperature).toHaveLength(2 * HALF_LAYERS * grid.n);
  });

  it('is colder where it lies on steel, and as it was without time', async () => {
    const onSteel = Uint8Array.from({ length: 2 * grid.n }, (_, k) => k % 2);
    const { temperature } = await way({ onSteel });
    const column = temperature.subarray(2 * HALF_LAYERS * middle, 2 * HALF_LAYERS * (middle + 1));
    expect(column[0]).toBeGreaterThan(column[2 * HALF_LAYERS - 1] + 10);
    expect(mean((await way({ time: 0 })).temperature)).toBeCloseTo(380, 9);
  });
});
