import { beforeAll, describe, expect, it } from 'vitest';
import { box } from '../../../../verification/shapes';
import { buildFineGrid } from '../../grid/grid';
import { latticeFor } from '../../grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../../grid/pressureGrid';
import { stressForm } from '../../material/stressForm';
import { Columns } from '../melt/columns';
import { CENTRES, HALF_LAYERS } from '../melt/layers';
import { CLOSEST, FibreShares, pushOver, sphereRadius } from './migration';

const NODE = 3;
const SHARE = 0.2;
const RADIUS = 4e-5;
let grid: PressureGrid;
beforeAll(() => {
  const mesh = box(0.02, 0.01, 0.002);
  grid = buildPressureGrid(buildFineGrid(mesh, latticeFor(mesh, 'quick')));
});

/** A wall that a power-law melt is sheared in at `rate` 1/s, from its middle or from face to face. */
function sheared(nHalves: 1 | 2, rate = 200) {
  const side = { temperature: 500, transfer: 1e4 };
  const sideOf = Uint8Array.from({ length: 2 * grid.n }, (_, k) => (nHalves === 1 ? 0 : k % 2));
  const melt = { conductivity: 0.2, density: 900, specificHeat: 2200 };
  const walls = { sides: nHalves === 1 ? [side] : [side, { ...side }], sideOf };
  const columns = new Columns(grid, stressForm({ kind: 'power-law', K: 5000, n: 0.4 }), melt, walls, 500);
  columns.prepare(NODE, 0);
  for (let k = 0; k < 8; k++) columns.fluidityAt(NODE, rate, 0, 1e-3);
  columns.layFlow(NODE);
  const shares = new FibreShares(columns, { share: SHARE, radius: RADIUS }, new Float64Array(grid.n * columns.nLayers));
  const { share } = columns.layersOf(NODE);
  const at = NODE * columns.nLayers;
  const own = () => shares.values.subarray(at, at + columns.nLayers);
  const mean = () => own().reduce((s, v, t) => s + v * share[t], 0);
  return { columns, shares, own, mean };
}

describe('fibres that leave layers that are sheared much', () => {
  it('gather in the middle, none are lost, and none come to be less than none', () => {
    const { shares, own, mean } = sheared(1);
    for (let k = 0; k < 50; k++) {
      shares.change(NODE, 5);
      expect(mean()).toBeCloseTo(SHARE, 12);
    }
    const values = own();
    for (let t = 1; t < HALF_LAYERS; t++) expect(values[t]).toBeLessThan(values[t - 1]);
    expect(Math.min(...values)).toBeGreaterThan(0);
    expect(Math.max(...values)).toBeLessThan(CLOSEST);
  });

  it('come to the rest that a steady flow has (Morris & Boulay 1999)', () => {
    const { columns, shares, own } = sheared(1);
    for (let k = 0; k < 4000; k++) shares.change(NODE, 20);
    const least = RADIUS / columns.reach[NODE];
    const push = Array.from(own(), (v, t) => pushOver(v) * (CENTRES[t] + least));
    // The middle of the wall is packed as closely as it gets.
    const outer = push.slice(HALF_LAYERS / 2);
    expect(Math.max(...outer) / Math.min(...outer)).toBeLessThan(1.01);
  });

  it('do so alike from the middle and from face to face', () => {
    const [half, whole] = [sheared(1), sheared(2)];
    for (let k = 0; k < 40; k++) {
      half.shares.change(NODE, 2);
      whole.shares.change(NODE, 2);
    }
    const [one, both] = [half.own(), whole.own()];
    for (let l = 0; l < HALF_LAYERS; l++) {
      expect(both[HALF_LAYERS + l]).toBeCloseTo(both[HALF_LAYERS - 1 - l], 9);
      expect(both[HALF_LAYERS + l]).toBeCloseTo(one[l], 3);
    }
  });

  it('take steps that add up', () => {
    const after = (steps: number) => {
      const { shares, own } = sheared(1);
      for (let k = 0; k < steps; k++) shares.change(NODE, 20 / steps);
      return own()[HALF_LAYERS - 1];
    };
    const [four, eight, sixteen] = [4, 8, 16].map(after);
    expect(Math.abs(sixteen - eight)).toBeLessThan(0.7 * Math.abs(eight - four));
  });

  it('do not get into a layer that is solid', () => {
    const { shares, own, columns, mean } = sheared(1);
    const skin = HALF_LAYERS - 3;
    const rateOf = columns.shearRateOf.bind(columns);
    columns.shearRateOf = (node, t) => (t >= skin ? 0 : rateOf(node, t));
    for (let k = 0; k < 20; k++) shares.change(NODE, 5);
    for (let l = skin; l < HALF_LAYERS; l++) expect(own()[l]).toBeCloseTo(SHARE, 12);
    expect(own()[0]).toBeGreaterThan(SHARE);
    expect(mean()).toBeCloseTo(SHARE, 12);
  });

  it('stay where they are in melt at rest, and move faster the larger they are', () => {
    const { shares, own, columns } = sheared(1);
    columns.peakRate[NODE] = 0;
    shares.change(NODE, 100);
    own().forEach((v) => expect(v).toBe(SHARE));
    expect(sphereRadius(1e-5, 100)).toBeGreaterThan(2 * sphereRadius(1e-5, 10));
  });
});
