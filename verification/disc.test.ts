import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { disc, ORIENTATIONS } from './shapes';
import { at, inWall, prepare, relative } from './run';

const reference = JSON.parse(readFileSync(new URL('./reference/disc.json', import.meta.url), 'utf8')) as {
  H: number;
  r0: number;
  R: number;
  Q: number;
  K: number;
  n: number;
  eta: number;
  fillTime: number;
  during: { t: number; radius: number; gatePressure: number }[];
  atEnd: { gatePressure: number; along: { r: number; p: number }[]; newtonianGatePressure: number };
};
const { H, r0, R, Q, K, n, eta } = reference;
/** The closed form starts with melt up to r0; the stage starts empty and fills the gate's cells first. */
const headStart = (Math.PI * r0 ** 2 * H) / Q;
const gate = { at: [0, 0, H / 2] as Vec3, diameter: 2 * r0 };
const powerLaw = { kind: 'power-law', K, n } as const;

describe.each(Object.entries(ORIENTATIONS))('centre-gated disc, %s', (_name, turn) => {
  const prepared = prepare({ mesh: disc(R, H), gates: [gate], turn });
  const radiusOf = (i: number) => {
    const axis = turn([0, 0, 1]);
    const c = [0, 1, 2].map((d) => prepared.grid.position[3 * i + d]);
    const out = c[0] * axis[0] + c[1] * axis[1] + c[2] * axis[2];
    return Math.hypot(...c.map((x, d) => x - out * axis[d]));
  };

  it('power law: time, front and pressures', async () => {
    const { history, node, massError, frames } = await prepared.fill(powerLaw, Q);
    const { fillTime } = node;
    expect(massError).toBeLessThan(1e-6);
    expect(Math.abs(relative(history.time[history.time.length - 1] - headStart, reference.fillTime))).toBeLessThan(
      2e-3,
    );
    for (const { t, radius, gatePressure } of reference.during) {
      const now = t + headStart;
      expect(Math.abs(relative(at(history.time, inWall(history), now), gatePressure))).toBeLessThan(0.02);
      expect(Math.abs(relative(frontRadius(fillTime, now), radius))).toBeLessThan(0.015);
    }
    // The reference's front stands at R; the last frame before the nodes of the rim close one by one is short
    // of it by the pressure between the two fronts.
    const share = frames.times.map((t) => at(history.time, history.shareFilled, t));
    const last = share.findLastIndex((x) => x < 0.97);
    const m = 1 - n;
    const Rf = R * Math.sqrt(share[last]);
    const ahead = (reference.atEnd.gatePressure * (R ** m - Rf ** m)) / (R ** m - r0 ** m);
    for (const { r, p } of reference.atEnd.along) {
      if (r > Rf - prepared.grid.spacing) continue;
      expect(Math.abs(ringMean(frames.node.pressure[last], r) - (p - ahead))).toBeLessThan(
        0.015 * reference.atEnd.gatePressure,
      );
    }
  });

  it('newtonian: gate pressure', async () => {
    const { history } = await prepared.fill({ kind: 'newtonian', eta }, Q);
    for (const share of [0.25, 0.5, 0.9]) {
      const t = share * reference.fillTime;
      const radius = Math.sqrt(r0 ** 2 + (Q * t) / (Math.PI * H));
      const expected = ((6 * eta * Q) / (Math.PI * H ** 3)) * Math.log(radius / r0);
      // A logarithm feels the gate's radius most: cells of 0.4 r0 resolve it to about 1 %.
      expect(Math.abs(relative(at(history.time, inWall(history), t + headStart), expected))).toBeLessThan(0.02);
    }
  });

  /** Radius of the circle that holds as much as is filled at time t: every direction counts alike. */
  function frontRadius(fillTime: Float64Array, t: number): number {
    let volume = 0;
    for (let i = 0; i < fillTime.length; i++) if (fillTime[i] <= t) volume += prepared.grid.volume[i];
    return Math.sqrt(volume / (Math.PI * H));
  }

  function ringMean(values: Float32Array, r: number): number {
    let sum = 0;
    let weight = 0;
    for (let i = 0; i < values.length; i++) {
      const w = Math.max(0, 1 - Math.abs(radiusOf(i) - r) / prepared.grid.spacing) * prepared.grid.volume[i];
      if (!(w > 0)) continue;
      sum += w * values[i];
      weight += w;
    }
    return sum / weight;
  }
});

describe('roundness and refinement', () => {
  const early = reference.during[1];

  it('the front is a circle', async () => {
    const { grid, fill } = prepare({ mesh: disc(R, H), gates: [gate], turn: (v) => v });
    const { fillTime } = (await fill(powerLaw, Q)).node;
    const times: number[] = [];
    for (let i = 0; i < grid.n; i++) {
      const r = Math.hypot(grid.position[3 * i], grid.position[3 * i + 1]);
      if (Math.abs(r - early.radius) < 0.4 * grid.spacing && grid.volume[i] > 0.3 * grid.spacing ** 2 * H) {
        // Reduced to the same radius: t grows as r^2.
        times.push(fillTime[i] * (early.radius / r) ** 2);
      }
    }
    const mean = times.reduce((s, t) => s + t, 0) / times.length;
    const spread = Math.sqrt(times.reduce((s, t) => s + (t - mean) ** 2, 0) / times.length) / mean;
    // 3 % in time is 1.5 % in radius, a third of a cell.
    expect(times.length).toBeGreaterThan(20);
    expect(spread).toBeLessThan(0.03);
  });

  it('the gate pressure is the same at every detail', async () => {
    const errors: number[] = [];
    for (const detail of ['quick', 'normal', 'fine'] as const) {
      const { history } = await prepare({ mesh: disc(R, H), gates: [gate], turn: (v) => v, detail }).fill(
        { kind: 'newtonian', eta },
        Q,
      );
      const t = 1;
      const radius = Math.sqrt(r0 ** 2 + (Q * t) / (Math.PI * H));
      const expected = ((6 * eta * Q) / (Math.PI * H ** 3)) * Math.log(radius / r0);
      errors.push(Math.abs(relative(at(history.time, inWall(history), t + headStart), expected)));
    }
    // The near field is in closed form: what is left is the front, a third of a cell wide.
    for (const error of errors) expect(error).toBeLessThan(0.005);
  });

  it('two mirrored gates share the melt evenly', async () => {
    const offset = 0.04;
    const gates = [-offset, offset].map((x) => ({ at: [x, 0, H / 2] as Vec3, diameter: 2 * r0 }));
    const { fill } = prepare({ mesh: disc(R, H), gates, turn: (v) => v });
    const { history } = await fill(powerLaw, Q);
    const half = history.gateFlow[Math.floor(history.gateFlow.length / 2)];
    // The lattice is shifted against the part, so mirror images differ by the grid error.
    expect(Math.abs(half[0] / (half[0] + half[1]) - 0.5)).toBeLessThan(0.01);
  });

  it('at the pressure limit the flow falls and the pressure stays', async () => {
    const { fill } = prepare({ mesh: disc(R, H), gates: [gate], turn: (v) => v, detail: 'quick' });
    const limit = 0.75 * reference.atEnd.gatePressure;
    const { history, limitReachedAt } = await fill(powerLaw, Q, limit);
    expect(Math.max(...history.pressure)).toBeLessThanOrEqual(limit * (1 + 1e-12));
    expect(limitReachedAt).not.toBeNull();
    // p_gate ~ Q^n (R^(1-n) - r0^(1-n)): when the front stands at R the flow must be this.
    const k = history.shareFilled.findIndex((s) => s > 0.97);
    // The gate takes its own part of the limit; the wall has the rest.
    const share = (inWall(history)[k] / reference.atEnd.gatePressure) ** (1 / n);
    const late = history.flowRate[k];
    const nearEnd = Math.sqrt(0.97) * R;
    const correction = ((R ** (1 - n) - r0 ** (1 - n)) / (nearEnd ** (1 - n) - r0 ** (1 - n))) ** (1 / n);
    expect(Math.abs(relative(late, Q * share * correction))).toBeLessThan(0.05);
  });
});
