import { describe, expect, it } from 'vitest';
import { mapVertices, type Vec3 } from '@/core/geometry/mesh';
import { RING_TABLE, solveRing } from '@/core/solvers/cool/ringKernel';
import { CLOSED, halfMould, plateOver, rowOfChannels, solveBlock } from './mouldShapes';
import { ORIENTATIONS, prism } from './shapes';
import reference from './reference/cooling.json';

type Row = [string, Record<string, number | string> | null, number];
const valueOf = (rows: Row[], quantity: string, at?: Record<string, number | string>) =>
  (rows.find(([q, a]) => q === quantity && (!at || Object.keys(at).every((k) => a?.[k] === at[k]))) as Row)[2];

describe('a row of channels below a cavity wall under even flux', () => {
  const { k, q, h_coolant } = reference.row.inputs;
  const rows = reference.row.expected as Row[];
  const run = (a: number, film: number, lift = 0) => rowOfChannels(reference.row.inputs, a, film, lift);
  const FINE = 5e-4;

  it.each([
    ['of one temperature', 'dirichlet', 1e9, 0.1683],
    ['with a film', 'robin', h_coolant, 0.2375],
  ])('channel walls %s', (_, bc, film, tolerance) => {
    const { mean, profile, heatError } = run(FINE, film);
    const want = (quantity: string) => valueOf(rows, quantity, { channel_bc: bc });
    expect(Math.abs(heatError)).toBeLessThan(2e-3);
    expect(Math.abs(mean - want('T_wall_mean'))).toBeLessThan(tolerance);
    expect(Math.abs(profile[8] - want('T_wall_above_channel'))).toBeLessThan(tolerance);
    expect(Math.abs(profile[0] - want('T_wall_between_channels'))).toBeLessThan(tolerance);
    const swing = Math.max(...profile) - Math.min(...profile);
    expect(Math.abs(swing - want('T_wall_max_minus_min'))).toBeLessThan(0.05);
  });

  it('the wall of the channel itself', () => {
    const { sinks } = run(FINE, h_coolant);
    const [cold, warm] = sinks.wallRange(sinks.ofElement[1][Math.floor(sinks.ofElement[1].length / 2)]);
    const want = (quantity: string) => valueOf(rows, quantity, { channel_bc: 'robin' });
    expect(Math.abs(warm - want('T_channel_wall_max'))).toBeLessThan(0.2375);
    expect(Math.abs(cold - want('T_channel_wall_min'))).toBeLessThan(0.2375);
    expect(Math.abs((warm + cold) / 2 - want('T_channel_wall_mean'))).toBeLessThan(0.2375);
  });

  it('cells four times as wide as the fine ones still give the mean within 2 %', () => {
    // The rise over the coolant is 11.9 K.
    for (const a of [1e-3, 1.5e-3]) {
      const { mean } = run(a, h_coolant);
      expect(Math.abs(mean - valueOf(rows, 'T_wall_mean', { channel_bc: 'robin' }))).toBeLessThan(0.02 * 11.9);
    }
  });

  it('where the bores lie between the cells hardly matters', () => {
    const means = [0, 0.5e-3, 1e-3, 1.5e-3].map((lift) => run(1e-3, h_coolant, lift).mean + (lift * q) / k);
    // Lifted by dz the wall is q dz / k cooler.
    expect(Math.max(...means) - Math.min(...means)).toBeLessThan(0.12);
  });
});

describe('a plate cavity in half a mould with six channels', () => {
  const i = reference.block.inputs;
  const rows = reference.block.expected as Row[];
  const { out, near, wall, coolant, outside } = halfMould(i);

  it('wall temperatures and where the heat goes', () => {
    const tolerance = 0.2312;
    expect(Math.abs(wall.mean - valueOf(rows, 'T_wall_mean'))).toBeLessThan(tolerance);
    expect(Math.abs(near(0) - valueOf(rows, 'T_wall_at_centre'))).toBeLessThan(tolerance);
    for (const x of i.probe_x) expect(Math.abs(near(x) - valueOf(rows, 'T_wall', { x }))).toBeLessThan(tolerance);
    expect(Math.abs(coolant / valueOf(rows, 'heat_to_coolant_half_model') - 1)).toBeLessThan(0.01);
    expect(Math.abs(outside / valueOf(rows, 'heat_to_ambient_half_model') - 1)).toBeLessThan(0.03);
  });

  it('what comes in goes out', () => {
    const given = out.field.facetHeat.reduce((s, q) => s + q, 0);
    const { ambient, platens } = out.field.heatOutside();
    const taken = out.sinks.stations.reduce((s, x) => s + x.heat, 0);
    expect(Math.abs(given - taken - ambient - platens) / given).toBeLessThan(1e-5);
  });
});

describe('a bore turned in space', () => {
  /** A ball-like block of plate and bore: heat from the plate, one bore 18 mm under it, air around. */
  const run = (turn: (v: Vec3) => Vec3) => {
    const flat = prism(
      [
        [-0.03, -0.03],
        [0.03, -0.03],
        [0.03, 0.03],
        [-0.03, 0.03],
      ],
      0,
      0.003,
    );
    const out = solveBlock({
      mesh: mapVertices(flat, turn),
      spacing: 1e-3,
      block: { min: [-0.09, -0.09, -0.09], max: [0.09, 0.09, 0.09] },
      conductivity: 32,
      contacts: CLOSED,
      bores: [{ from: turn([-0.05, 0, -0.018]), to: turn([0.05, 0, -0.018]), bore: 0.01 }],
      coolant: 298.15,
      film: 6500,
      // The wall gives less the warmer the steel is, as plastic does: what the bore takes up is then a result.
      source: (n, A, T) =>
        turn([0, 0, -1]).reduce((s, x, d) => s + x * n[d], 0) > 0.9 ? [A * (18000 - 900 * (T - 300)), 900 * A] : [0, 0],
    });
    return out.sinks.stations.reduce((s, x) => s + x.heat, 0);
  };
  it('takes up the same heat', () => {
    const [first, ...others] = Object.values(ORIENTATIONS).map(run);
    for (const heat of others) expect(Math.abs(heat / first - 1)).toBeLessThan(0.01);
  });
});

describe('order of the conduction', () => {
  it('a cosine of flux decays into the block with second order in the grid', () => {
    const length = 0.04;
    const k = 32;
    const amplitude = 20000;
    const run = (a: number) => {
      const W = 8 * a;
      const block = { min: [-length / 2, -W / 2, -0.06] as Vec3, max: [length / 2, W / 2, 0.009] as Vec3 };
      const out = solveBlock({
        mesh: plateOver(length / 2, W / 2, a),
        spacing: a,
        block,
        fineIn: block,
        conductivity: k,
        contacts: CLOSED.map((c, side) => (side === 4 ? { temperature: 300, transfer: 1e7 } : c)),
        bores: [],
        coolant: 300,
        film: 1,
        source: (n, A, _, p) => (n[2] < -0.5 ? [amplitude * A * Math.cos((2 * Math.PI * p[0]) / length), 0] : [0, 0]),
      });
      // A wave of flux q cos(m x) over a deep block of conductivity k has the temperature q / (m k) cos(m x).
      const m = (2 * Math.PI) / length;
      let [sum, all] = [0, 0];
      const { facets, facetTemperature, covered } = out.field;
      for (let f = 0; f < facets.n; f++) {
        if (!(covered[f] > 0.99) || facets.normals[3 * f + 2] > -0.5) continue;
        const wave = Math.cos(m * facets.centroids[3 * f]);
        sum += facets.areas[f] * (facetTemperature[f] - 300) * wave;
        all += facets.areas[f] * wave * wave;
      }
      return Math.abs(sum / all / (amplitude / (m * k)) - 1);
    };
    const errors = [2e-3, 1e-3, 5e-4].map((s) => run(s / 2));
    expect(errors[0]).toBeLessThan(0.2);
    const order = Math.log2(errors[0] / errors[2]) / 2;
    expect(order).toBeGreaterThan(1.5);
  });
});

describe('rings of sinks', () => {
  it('the table of equivalent radii is what the grid gives', () => {
    for (const [ratio, radius, phi] of RING_TABLE.filter((_, k) => k % 4 === 1)) {
      const again = solveRing(ratio);
      expect(again.radius).toBeCloseTo(radius, 3);
      expect(again.phi).toBeCloseTo(phi, 3);
    }
  });
});
