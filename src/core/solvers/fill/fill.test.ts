import { describe, expect, it } from 'vitest';
import { box } from '../../../../verification/shapes';
import { random } from '../../../../verification/random';
import { buildFineGrid } from '../../grid/grid';
import { latticeFor } from '../../grid/lattice';
import { buildPressureGrid } from '../../grid/pressureGrid';
import { closestPoint } from '../../geometry/closestPoint';
import { AbortError, plainContext } from '../../stage/context';
import { constantFlow } from '../melt/drive';
import { emptyFront, FrontStep } from '../melt/front';
import { placeGating } from '../melt/gating';
import type { FillInput } from './outcome';
import { runFill } from './stage';

const mesh = box(0.06, 0.03, 0.002);
const fine = buildFineGrid(mesh, latticeFor(mesh, 'quick'));
const grid = buildPressureGrid(fine);
const gate = (diameter = 0.003) => [{ id: 'G1', surface: closestPoint(mesh, [0.005, 0, 0.001]), diameter }];
const input = (patch: Partial<FillInput> = {}): FillInput => ({
  grid,
  gating: placeGating(fine, grid, gate()),
  nGates: 1,
  viscosity: { kind: 'power-law', K: 9000, n: 0.35 },
  meltTemperature: 500,
  control: constantFlow(5e-6),
  heat: null,
  air: null,
  projectedArea: null,
  timeLimit: Infinity,
  nSteps: 40,
  ...patch,
});

describe('front', () => {
  it('keeps every drop, whatever the inflow (seeded fuzz)', () => {
    const next = random(11);
    for (let trial = 0; trial < 20; trial++) {
      const state = emptyFront(grid);
      const total = grid.volume.reduce((s, v) => s + v, 0);
      new FrontStep(grid, state).fillNodes([Math.floor(next() * grid.n)], 0, 1);
      let put = state.held.reduce((s, v) => s + v, 0);
      for (let step = 0; step < 30; step++) {
        const inflow = Float64Array.from(state.full, (f) => (f || next() < 0.9 ? 0 : next()));
        const sum = inflow.reduce((s, v) => s + v, 0);
        if (sum === 0) continue;
        const volume = next() * 0.08 * total;
        const front = new FrontStep(grid, state);
        front.advance(inflow, sum, volume, step, 1);
        put += volume - front.left;
        const held = state.held.reduce((s, v) => s + v, 0);
        expect(Math.abs(held - put)).toBeLessThan(1e-12 * total);
        expect(state.held.every((h, i) => h <= grid.volume[i] * (1 + 1e-9))).toBe(true);
      }
    }
  });

  it('stamps fill times within the step that filled the node', () => {
    const state = emptyFront(grid);
    new FrontStep(grid, state).fillNodes([0, 1, 2], 3, 0.5);
    for (const i of [0, 1, 2]) {
      expect(state.fillTime[i]).toBeGreaterThanOrEqual(3);
      expect(state.fillTime[i]).toBeLessThanOrEqual(3.5);
    }
  });
});

describe('fill stage', () => {
  it('fills, conserves mass, and pressure falls from the gate to the front', async () => {
    const outcome = await runFill(input(), plainContext());
    if (outcome.status !== 'filled') throw new Error(outcome.status);
    const { result } = outcome;
    expect(result.massError).toBeLessThan(1e-12);
    expect(result.node.fillTime.every((t) => Number.isFinite(t))).toBe(true);
    const frame = result.frames.node.pressure[Math.floor(result.frames.node.pressure.length / 2)];
    // Along the link that carries melt forward in time, pressure never rises.
    for (let l = 0; l < grid.linkFrom.length; l++) {
      const [a, b] = [grid.linkFrom[l], grid.linkTo[l]];
      if (Number.isNaN(frame[a]) || Number.isNaN(frame[b]) || grid.linkAxis[l] !== 0) continue;
      if (grid.position[3 * a] < 0.012 || grid.volume[a] < 0.3 * grid.spacing ** 3) continue;
      expect(frame[b]).toBeLessThanOrEqual(frame[a] * (1 + 1e-3));
    }
  });

  it('same input, same numbers', async () => {
    const [a, b] = [await runFill(input(), plainContext()), await runFill(input(), plainContext())];
    if (a.status !== 'filled' || b.status !== 'filled') throw new Error('not filled');
    expect(a.result.node.fillTime).toEqual(b.result.node.fillTime);
    expect(a.result.history).toEqual(b.result.history);
  });

  it('half the step changes the pressure by little', async () => {
    const peak = async (nSteps: number) => {
      const outcome = await runFill(input({ nSteps }), plainContext());
      if (outcome.status !== 'filled') throw new Error(outcome.status);
      const { pressure, shareFilled } = outcome.result.history;
      return pressure[shareFilled.findIndex((s) => s > 0.9)];
    };
    const [coarse, fineSteps] = [await peak(40), await peak(80)];
    // The front of the coarse run is ahead by part of a step of 1/40 of the volume.
    expect(Math.abs(coarse / fineSteps - 1)).toBeLessThan(0.03);
  });

  it('a small gate needs more pressure than a large one', async () => {
    const needed = async (diameter: number) => {
      const outcome = await runFill(input({ gating: placeGating(fine, grid, gate(diameter)) }), plainContext());
      if (outcome.status !== 'filled') throw new Error(outcome.status);
      return outcome.result.history.pressure[20];
    };
    const [large, middle, small] = [await needed(0.006), await needed(0.002), await needed(0.0004)];
    expect(middle).toBeGreaterThan(large);
    expect(small).toBeGreaterThan(middle);
  });

  it('stops as a short shot when the time is over, with what it has', async () => {
    const outcome = await runFill(input({ timeLimit: 0.2 }), plainContext());
    if (outcome.status !== 'stalled') throw new Error(outcome.status);
    const { result } = outcome;
    expect(outcome.reason).toBe('time');
    expect(result.injectedVolume).toBeLessThan(0.6 * result.cavityVolume);
    expect(result.node.fillTime.some((t) => Number.isNaN(t))).toBe(true);
    expect(result.massError).toBeLessThan(1e-12);
  });

  it('stalls when the pressure limit cannot move the melt', async () => {
    const outcome = await runFill(input({ control: constantFlow(5e-6, 2e5) }), plainContext());
    expect(outcome).toMatchObject({ status: 'stalled', reason: 'flow' });
  });

  it('aborts by throwing', async () => {
    const controller = new AbortController();
    controller.abort();
    await expect(
      runFill(
        input(),
        plainContext(() => {}, controller.signal),
      ),
    ).rejects.toBeInstanceOf(AbortError);
  });
});
