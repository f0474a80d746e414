import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import {
  branchPressure,
  diameterForPressure,
  diametersOfVolume,
  diametersWith,
  leastVolumeDiameter,
  powerLawRunner,
  splitFlow,
  type BalanceBranch,
} from '../src/core/feed/balance';
import { relative } from './run';

type Expected = Record<string, Record<string, { value: number; within: number }>>;
interface Reference {
  common: {
    volumes: number[];
    lengths: number[];
    fillTime: number;
    diameter: number;
    allowed: number;
    fluids: Record<string, { K: number; n: number }>;
  };
  runners: { expected: Expected };
  constrained: { runnerVolume: number; bounds: { min: number; max: number }; expected: Expected };
  withCavities: { cavities: { length: number; width: number; height: number }[]; expected: Expected };
}

/** Two cavities fed from one point by round runners: closed forms and their inversion. */
const reference = JSON.parse(readFileSync(new URL('./reference/balance.json', import.meta.url), 'utf8')) as Reference;
const { common, constrained, withCavities } = reference;
const { fillTime, diameter: d1, allowed } = common;
const branches: BalanceBranch[] = common.volumes.map((volume, k) => ({ volume, length: common.lengths[k] }));
const total = common.volumes.reduce((s, v) => s + v, 0) / fillTime;

const check = (expected: Expected, fluid: string, found: Record<string, number>) => {
  for (const [name, value] of Object.entries(found)) {
    const row = expected[fluid][name];
    expect(Math.abs(relative(value, row.value)), name).toBeLessThan(row.within);
  }
  expect(Object.keys(found).sort()).toEqual(Object.keys(expected[fluid]).sort());
};
const sum = (list: number[]) => list.reduce((s, x) => s + x, 0);

describe.each(Object.entries(common.fluids))('runner balance, %s', (fluid, { K, n }) => {
  const law = powerLawRunner(K, n);

  it('runners alone', () => {
    const [, d2] = diametersWith(law, branches, 0, d1, { fillTime });
    const forAllowed = branches.map((b) => diameterForPressure(law, b, allowed, { fillTime }));
    check(reference.runners.expected, fluid, {
      d1_over_d2: d1 / d2,
      d2_for_given_d1: d2,
      runner_dp: branchPressure(law, branches[0], d1, { fillTime }),
      d1_for_allowed_dp: forAllowed[0],
      d2_for_allowed_dp: forAllowed[1],
      runner_volume: sum(forAllowed.map((d, k) => (Math.PI / 4) * d * d * common.lengths[k])),
    });
  });

  it('with their own volume, with a fixed volume, within bounds', () => {
    const fixed = diametersOfVolume(law, branches, constrained.runnerVolume, { fillTime });
    const bounded = branches.map((b) => ({ ...b, bounds: constrained.bounds }));
    const clamped = bounded.map((b) => diameterForPressure(law, b, allowed, { fillTime }));
    const { fillTimes, flows } = splitFlow(law, bounded, clamped, total);
    expect(Math.abs(relative(sum(flows), total))).toBeLessThan(1e-9);
    check(constrained.expected, fluid, {
      d2_with_runner_volume: diametersWith(law, branches, 0, d1, { fillTime, countRunner: true })[1],
      d1_fixed_runner_volume: fixed.diameters[0],
      d2_fixed_runner_volume: fixed.diameters[1],
      dp_fixed_runner_volume: fixed.pressure,
      d1_clamped: clamped[0],
      d2_clamped: clamped[1],
      fill_time_cavity1_clamped: fillTimes[0],
      fill_time_cavity2_clamped: fillTimes[1],
    });
  });

  it('with what the cavities take', () => {
    const strips = branches.map((b, k) => {
      const { length: L, width: W, height: H } = withCavities.cavities[k];
      const cavityLoss = (q: number) => ((2 * L) / H) * K * (((2 * n + 1) / (3 * n)) * ((6 * q) / (W * H * H))) ** n;
      return { ...b, cavityLoss };
    });
    const [, d2] = diametersWith(law, strips, 0, d1, { fillTime });
    check(withCavities.expected, fluid, {
      total_pressure: branchPressure(law, strips[0], d1, { fillTime }),
      d2_equal_total_pressure: d2,
      cavity_dp_1: strips[0].cavityLoss(common.volumes[0] / fillTime),
      cavity_dp_2: strips[1].cavityLoss(common.volumes[1] / fillTime),
    });
  });

  it('a trunk and two branches of least volume follow the cube law', () => {
    // Volume of a trunk and two branches, 0.1 m each, against the diameter of the branches at one pressure.
    const [q, L, dp] = [2e-5, 0.1, 1e7];
    const volumeWith = (branch: number) => {
      const left = dp - law(L, branch, q / 2);
      if (!(left > 0)) return Infinity;
      const trunk = diameterForPressure(law, { length: L, volume: q }, left, { fillTime: 1 });
      return trunk ** 2 + 2 * branch ** 2;
    };
    let best = 0.001;
    for (let d = 0.001; d < 0.02; d *= 1.0005) if (volumeWith(d) < volumeWith(best)) best = d;
    const left = dp - law(L, best, q / 2);
    const trunk = diameterForPressure(law, { length: L, volume: q }, left, { fillTime: 1 });
    expect(Math.abs(relative(best, leastVolumeDiameter(trunk, 0.5)))).toBeLessThan(2e-3);
  });
});
