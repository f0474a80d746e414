import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { resinById } from '../src/core/material/library';
import { meltThermal } from '../src/core/material/properties';
import { closingSpeed } from '../src/core/solvers/press/speed';
import { constantPressure } from '../src/core/solvers/pack/control';
import { runPack } from '../src/core/solvers/pack/stage';
import { plainContext } from '../src/core/stage/context';
import { press, type PressCase, type PressRun } from './pressRun';
import { box, disc, ORIENTATIONS } from './shapes';

const ETA = 1000;
const R = 0.06;
const H = 0.003;
const SPEED = 1e-3;
const NO_LIMIT = 1e12;
const newtonian = { kind: 'newtonian', eta: ETA } as const;
const totalOf = (values: ArrayLike<number>) => Array.from(values).reduce((s, v) => s + v, 0);

/** History as the gap passes a cavity height [m]. */
function passing({ after: { result } }: PressRun, height: number, H: number) {
  const { gap, clampForce, time } = result.history;
  const k = gap.findIndex((g) => H + g <= height);
  const weight = (H + gap[k - 1] - height) / (gap[k - 1] - gap[k]);
  const at = (list: number[]) => list[k - 1] + weight * (list[k] - list[k - 1]);
  return {
    force: Math.exp(Math.log(clampForce[k - 1]) * (1 - weight) + Math.log(clampForce[k]) * weight),
    time: at(time),
  };
}

describe.each(Object.entries(ORIENTATIONS))('a tool that closes, %s', (_, turn) => {
  const plate: Omit<PressCase, 'charge' | 'volume'> = {
    mesh: disc(R, H),
    turn,
    viscosity: newtonian,
    speed: SPEED,
    force: NO_LIMIT,
  };
  const volume = 0.7 * Math.PI * R ** 2 * H;

  it('on a round charge has the force of Stefan at three gaps, and keeps its volume', async () => {
    const run = await press({ ...plate, charge: { at: [0, 0, 0], size: { diameter: 0.06 } }, volume });
    const { result } = run.after;
    // As high as a round charge of its volume is, above a cavity that is three millimetres high.
    expect(Math.abs((run.gap + H) / (volume / (Math.PI * 0.03 ** 2)) - 1)).toBeLessThan(2e-3);
    for (const height of [7e-3, 5e-3, 3.5e-3]) {
      const radius = Math.sqrt(volume / (Math.PI * height));
      const exact = (3 * Math.PI * ETA * radius ** 4 * SPEED) / (2 * height ** 3);
      expect(Math.abs(passing(run, height, H).force / exact - 1)).toBeLessThan(0.03);
    }
    expect(result.massError).toBeLessThan(1e-12);
    expect(Math.abs(totalOf(result.node.held) / volume - 1)).toBeLessThan(1e-9);
    // The halves have met, and the rim has stayed empty: told as it is.
    expect(run.after).toMatchObject({ status: 'stalled', reason: 'closed' });
    expect(result.gap).toBe(0);
  });

  it('on a strip from wall to wall has the force of plane flow', async () => {
    const [length, width, height] = [0.12, 0.06, 0.003];
    const charge = { at: [length / 2, 0, 0] as Vec3, size: { width: 0.05, length: 2 * width } };
    const volume = 0.6 * length * width * height;
    const run = await press({ ...plate, mesh: box(length, width, height), charge, volume });
    for (const h of [3.9e-3, 3.5e-3, 3.1e-3]) {
      const spread = volume / (width * h);
      // Between side walls, which a plate of this width has as well: 1 - 0.63 h / w of the flow without them.
      const exact = (ETA * SPEED * width * spread ** 3) / h ** 3 / (1 - (0.63 * h) / width);
      expect(Math.abs(passing(run, h, height).force / exact - 1)).toBeLessThan(0.03);
    }
  });

  it('with a force that it may not pass closes as long as that force takes', async () => {
    const force = 20;
    const run = await press({ ...plate, speed: 1, force, charge: { at: [0, 0, 0], size: { diameter: 0.06 } }, volume });
    const { history } = run.after.result;
    for (let k = 1; k < history.time.length - 1; k++)
      expect(Math.abs(history.clampForce[k] / force - 1)).toBeLessThan(0.006);
    // F = 3 eta V^2 v / (2 pi h^5) at a volume that spreads.
    const [from, to] = [6e-3, 3.5e-3].map((h) => ({ h, t: passing(run, h, H).time }));
    const exact = ((to.h ** -4 - from.h ** -4) * 3 * ETA * volume ** 2) / (8 * Math.PI * force);
    expect(Math.abs((to.t - from.t) / exact - 1)).toBeLessThan(0.03);
  });

  it('on a charge off the middle sends it further to the far side', async () => {
    const aside = 0.02;
    const run = await press({
      ...plate,
      charge: { at: [-aside, 0, 0], size: { diameter: 0.05 } },
      volume: 1.02 * Math.PI * R ** 2 * H,
    });
    const { grid, after } = run;
    expect(after.status).toBe('filled');
    const axis = turn([1, 0, 0]);
    const place = (i: number) => axis.reduce((s, e, d) => s + e * grid.centroid[3 * i + d], 0);
    const meanTime = (counts: (x: number) => boolean) => {
      const nodes = [...grid.volume.keys()].filter((i) => counts(place(i)));
      return nodes.reduce((s, i) => s + after.result.node.fillTime[i], 0) / nodes.length;
    };
    const near = meanTime((x) => x < -0.8 * R);
    const far = meanTime((x) => x > 0.8 * R);
    expect(far).toBeGreaterThan(1.3 * near);
    const last = [...grid.volume.keys()].reduce((best, i) =>
      after.result.node.fillTime[i] > after.result.node.fillTime[best] ? i : best,
    );
    expect(place(last)).toBeGreaterThan(0.85 * R);
    // What is too much keeps the halves apart by as much.
    expect(Math.abs(after.result.gap / (0.02 * H) - 1)).toBeLessThan(0.01);
  });
});

describe('a power-law melt between the halves', () => {
  const [K, n] = [5000, 0.4];
  const volume = 0.6 * Math.PI * R ** 2 * H;
  const errors = async (detail: 'normal' | 'fine') => {
    const run = await press({
      mesh: disc(R, H),
      turn: (v) => v,
      detail,
      viscosity: { kind: 'power-law', K, n },
      speed: SPEED,
      force: NO_LIMIT,
      charge: { at: [0, 0, 0], size: { diameter: 0.06 } },
      volume,
    });
    return [5e-3, 4e-3, 3.3e-3].map((h) => {
      const radius = Math.sqrt(volume / (Math.PI * h));
      const exact =
        (((2 * n + 1) / n) ** n * 2 * Math.PI * K * radius ** (n + 3) * SPEED ** n) / ((n + 3) * h ** (2 * n + 1));
      return Math.abs(passing(run, h, H).force / exact - 1);
    });
  };

  it('has the force of Scott', async () => {
    const [normal, fine] = [await errors('normal'), await errors('fine')];
    normal.forEach((error, k) => {
      expect(error).toBeLessThan(0.03);
      expect(fine[k]).toBeLessThan(0.02);
    });
  });
});

describe.each(Object.entries(ORIENTATIONS))('a press that holds, %s', (_, turn) => {
  const resin = resinById('pp-hollin-h14')!;
  const MELT = 503;

  it('keeps its force until the halves have met, and follows the melt down the pvT line', async () => {
    const [radius, height] = [0.03, 0.002];
    const force = 40e3;
    const run = await press({
      mesh: disc(radius, height),
      turn,
      detail: 'quick',
      charge: { at: [0, 0, 0], size: { diameter: 0.04 } },
      volume: 1.05 * Math.PI * radius ** 2 * height,
      viscosity: resin.viscosity,
      speed: 5e-3,
      force,
      hold: 4,
      melt: MELT,
      wall: 313,
      noFlow: resin.noFlowTemperature,
      thermal: meltThermal(resin, MELT),
    });
    expect(run.after.status).toBe('filled');
    const outcome = await runPack(
      run.after.state,
      {
        ...run.input,
        hot: [],
        before: run.after.result,
        switchedAt: run.after.state.time,
        density: resin.pvt,
        control: constantPressure(0, 1),
        detachedTransfer: 1000,
        ejectionTemperature: resin.ejectionTemperature,
        transitionTemperature: resin.transitionTemperature,
        noFlowTemperature: resin.noFlowTemperature,
        solidShare: 0.9,
        coolingTime: null,
        freezeTime: 3,
      },
      plainContext(),
    );
    if (outcome.status === 'failed') throw new Error(outcome.message);
    const { history, mass, massBefore, massIn, massError } = outcome.result;
    expect(mass / massBefore).toBeCloseTo(1, 9);
    expect(massIn).toBe(0);
    expect(massError).toBeLessThan(1e-5);
    const from = run.after.result.history.time.length;
    let held = 0;
    for (let k = from; k < history.time.length; k++) {
      expect(history.gap[k]).toBeLessThanOrEqual(history.gap[k - 1]);
      if (!(history.gap[k] > 0)) continue;
      held++;
      expect(Math.abs(history.clampForce[k] / force - 1)).toBeLessThan(0.006);
    }
    expect(held).toBeGreaterThan(5);
    // A press that has met its other half presses on steel: the melt is by itself and its pressure falls.
    expect(history.gap.at(-1)).toBe(0);
    expect(history.clampForce.at(-1)).toBe(0);
  });
});

describe('the speed of a press', () => {
  const melt = (n: number, c: number) => (v: number) => c * v ** n;

  it('is the one that is asked for where the force does it, else that of the force', () => {
    expect(closingSpeed({ speed: 0.01, force: 100 }, 0, melt(0.5, 10))).toBe(0.01);
    for (const n of [0.2, 0.5, 1]) {
      const v = closingSpeed({ speed: 0.01, force: 1 }, 0, melt(n, 1e3));
      expect(melt(n, 1e3)(v!)).toBeCloseTo(1, 1);
    }
    // A slow start is no limit.
    expect(closingSpeed({ speed: 0.01, force: 100 }, 1e-5, melt(0.5, 10))).toBe(0.01);
  });

  it('is none where no number comes back', () => {
    expect(closingSpeed({ speed: 1, force: 1 }, 0, () => NaN)).toBeNull();
  });
});
