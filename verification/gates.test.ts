import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { starOf } from '../src/core/solvers/melt/star';
import { ALL } from './extent';
import { random } from './random';
import { at, inWall, prepare, relative } from './run';
import { box, disc } from './shapes';
import { turnOf } from './storm/parts';

/** Pressure that a round gate of radius a takes into a wall of half gap H, up to the radius r (see star.ts). */
const closedForm = (eta: number, Q: number, a: number, H: number, r: number) =>
  eta * Q * (1.5 / a ** 3 + 0.15 / (a * H * H) + (3 / (4 * Math.PI * H ** 3)) * Math.log(r / a));

/** Ways to lie in the grid: turned about all axes and moved by parts of a cell. */
const next = random(11);
const LIES = Array.from({ length: ALL ? 10 : 5 }, (_, k) => {
  const [x, y, z] = [0.001 * next(), 0.001 * next(), 0.001 * next()];
  const turn = k === 0 ? (v: Vec3) => v : turnOf(100 + k).apply;
  return (v: Vec3): Vec3 => {
    const w = turn(v);
    return [w[0] + x, w[1] + y, w[2] + z];
  };
});
const eta = 300;
const Q = 1e-5;

async function pressures(mesh: ReturnType<typeof box>, gate: { at: Vec3; diameter: number }, share: number) {
  const found: number[] = [];
  let volume = 0;
  for (const turn of LIES) {
    const { fill, grid } = prepare({ mesh, gates: [gate], turn });
    const { history } = await fill({ kind: 'newtonian', eta }, Q);
    volume = grid.volume.reduce((s, v) => s + v, 0);
    found.push(at(history.shareFilled, history.pressure, share));
  }
  const mean = found.reduce((s, p) => s + p, 0) / found.length;
  const scatter = Math.sqrt(found.reduce((s, p) => s + (p / mean - 1) ** 2, 0) / found.length);
  return { mean, scatter, volume };
}

describe('pressure at a gate, tilted and moved', () => {
  it.each([
    ['a disc', 0.03, 0.002, 0.001],
    ['a disc with a wide gate', 0.03, 0.002, 0.006],
    ['a wall as thick as its gate is wide', 0.03, 0.002, 0.002],
  ])('%s', async (_name, R, wall, diameter) => {
    const share = 0.6;
    const { mean, scatter, volume } = await pressures(disc(R, wall), { at: [0, 0, wall / 2], diameter }, share);
    const front = Math.sqrt((share * volume) / (Math.PI * wall));
    expect(scatter).toBeLessThan(0.01);
    expect(Math.abs(relative(mean, closedForm(eta, Q, diameter / 2, wall / 2, front)))).toBeLessThan(0.02);
  });

  it('a thick block: a hemisphere of melt', async () => {
    const [edge, a] = [0.02, 0.002];
    const gate = { at: [edge / 2, 0, edge / 2] as Vec3, diameter: 2 * a };
    const { mean, scatter } = await pressures(box(edge, edge, edge), gate, 0.3);
    // Past a few radii the melt spreads without resistance to speak of: what is left is half an orifice.
    expect(scatter).toBeLessThan(0.03);
    expect(Math.abs(relative(mean, (1.5 * eta * Q) / a ** 3))).toBeLessThan(0.1);
  });

  it('a gate near an edge and one on the narrow side', async () => {
    for (const place of [
      [0.003, 0, 0.001],
      [0, 0, 0],
    ] as Vec3[]) {
      const { scatter } = await pressures(box(0.06, 0.04, 0.002), { at: place, diameter: 0.0016 }, 0.6);
      expect(scatter).toBeLessThan(0.01);
    }
  });
});

describe('the near field of a gate', () => {
  const plate = box(0.06, 0.04, 0.002);
  const fine = buildFineGrid(plate, latticeFor(plate, 'normal'));
  const grid = buildPressureGrid(fine);
  const surface = { point: [0.03, 0, 0.001] as Vec3, normal: [0, 0, 1] as Vec3, distance: 0, triangle: 0 };

  it('its links are positive and hang together', () => {
    const star = starOf(fine, grid, { id: 'G1', surface, diameter: 0.002 }, 0);
    for (const { conductance } of star.links) expect(conductance).toBeGreaterThan(0);
    expect(new Set(star.links.map((l) => l.node)).size).toBe(star.links.length);
    expect(star.entry).toBeCloseTo(1.5 / 0.001 ** 3 + 0.15 / 0.001 ** 3, -4);
  });

  it('a slot as wide as thick takes about what a round gate of its area takes, a wider one less', () => {
    const t = 0.001;
    const slot = (width: number) =>
      starOf(fine, grid, { id: 'G1', surface, diameter: t, slot: { width, along: [1, 0, 0] } }, 0).entry;
    const round = starOf(fine, grid, { id: 'G1', surface, diameter: (2 * t) / Math.sqrt(Math.PI) }, 0).entry;
    expect(slot(t) / round).toBeGreaterThan(0.85);
    expect(slot(t) / round).toBeLessThan(1.15);
    expect(slot(4 * t)).toBeLessThan(0.3 * slot(t));
  });

  it('what the gate takes for itself is told apart', async () => {
    const gate = { at: [0.03, 0, 0.001] as Vec3, diameter: 0.001 };
    const { history } = await prepare({ mesh: plate, gates: [gate], turn: (v) => v }).fill(
      { kind: 'newtonian', eta },
      Q,
    );
    const k = Math.floor(history.time.length / 2);
    const a = gate.diameter / 2;
    expect(Math.abs(relative(history.gateLoss[k][0], eta * Q * (1.5 / a ** 3 + 0.15 / (a * 0.001 ** 2))))).toBeLessThan(
      0.02,
    );
    expect(inWall(history)[k]).toBeCloseTo(history.pressure[k] - history.gateLoss[k][0], 3);
  });
});
