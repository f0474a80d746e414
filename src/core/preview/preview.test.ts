import { describe, expect, it } from 'vitest';
import { box, disc } from '../../../verification/shapes';
import { turnOf } from '../../../verification/storm/parts';
import { mapVertices, type Vec3 } from '../geometry/mesh';
import { resinById } from '../material/library';
import { plainContext } from '../stage/context';
import { distances, findGates, type GateMap } from './gateFinder';
import { previewFill, previewGrid } from './preview';

const resin = resinById('pp-hollin-h14')!;
const melt = { viscosity: resin.viscosity, temperature: 503, flowRate: 2e-5 };
const TURNS = [(v: Vec3) => v, ...[1, 2, 3, 4].map((seed) => turnOf(seed).apply)];
const plate = box(0.09, 0.03, 0.002);

describe('preview', () => {
  it('fills from the gate to the far end, on few cells', async () => {
    const coarse = previewGrid(plate);
    expect(coarse.grid.n).toBeLessThan(2600);
    const gates = [{ id: 'G1', position: [0.005, 0, 0.001] as [number, number, number], diameter: 0.002 }];
    const { fillTime, pressure } = await previewFill(coarse, gates, melt, plainContext());
    const at = (x: number) => {
      const near = [...fillTime.keys()].filter((i) => Math.abs(coarse.grid.position[3 * i] - x) < 0.003);
      return near.reduce((s, i) => s + fillTime[i], 0) / near.length;
    };
    expect(at(0.08)).toBeGreaterThan(at(0.05));
    expect(at(0.05)).toBeGreaterThan(at(0.02));
    expect(pressure).toBeGreaterThan(1e5);
    // The whole volume at the set rate.
    expect(Math.max(...fillTime)).toBeCloseTo((0.09 * 0.03 * 0.002) / 2e-5, 1);
  });
});

describe('gate finder', () => {
  it('the middle of a disc is best, and the pressure map rises to the rim', async () => {
    const coarse = previewGrid(disc(0.04, 0.002, 64));
    const found = await findGates(coarse, () => false, melt, 0.002, plainContext());
    const [best] = found.best;
    expect(Math.hypot(best.position[0], best.position[1])).toBeLessThan(0.012);
    const { position, n } = coarse.grid;
    const ring = (low: number, high: number) => {
      const list = Array.from({ length: n }, (_, i) => i).filter((i) => {
        const r = Math.hypot(position[3 * i], position[3 * i + 1]);
        return r >= low && r < high && found.pressure[i] === found.pressure[i];
      });
      return list.reduce((s, i) => s + found.pressure[i], 0) / list.length;
    };
    expect(ring(0.03, 0.038)).toBeGreaterThan(1.3 * ring(0, 0.01));
    expect(Math.max(...found.score.filter((s) => s === s))).toBeCloseTo(1, 9);
  });

  it('keeps out of what was ruled out', async () => {
    const coarse = previewGrid(disc(0.04, 0.002, 64));
    const forbidden = (p: readonly number[]) => Math.hypot(p[0], p[1]) < 0.02;
    const found = await findGates(coarse, forbidden, melt, 0.002, plainContext());
    for (const b of found.best) expect(Math.hypot(b.position[0], b.position[1])).toBeGreaterThan(0.018);
  });

  it.each(TURNS)('distances along a plate are straight, as drawn and turned (%#)', (turn) => {
    const coarse = previewGrid(mapVertices(plate, turn));
    const { grid } = coarse;
    const unit = Float64Array.from(grid.linkFrom, (a, l) =>
      Math.hypot(...[0, 1, 2].map((d) => grid.centroid[3 * a + d] - grid.centroid[3 * grid.linkTo[l] + d])),
    );
    const corner = turn([0, -0.015, 0]);
    const from = (p: Vec3, i: number) => Math.hypot(...[0, 1, 2].map((d) => grid.centroid[3 * i + d] - p[d]));
    const start = [...Array(grid.n).keys()].reduce((b, i) => (from(corner, i) < from(corner, b) ? i : b));
    const away = distances(coarse, unit, start);
    const straight = (i: number) => from([0, 1, 2].map((d) => grid.centroid[3 * start + d]) as Vec3, i);
    // Far from the start, where a few cells count for little; slivers at the faces lie aside of every way.
    const far = [...away.keys()].filter((i) => straight(i) > 0.03 && grid.volume[i] > 0.2 * grid.spacing ** 3);
    expect(far.length).toBeGreaterThan(100);
    for (const i of far) {
      expect(away[i]).toBeGreaterThan(0.97 * straight(i));
      expect(away[i]).toBeLessThan(1.15 * straight(i));
    }
  });

  it('finds the same place of a plate in every turn', async () => {
    const best: GateMap['best'] = [];
    for (const turn of TURNS) {
      const coarse = previewGrid(mapVertices(plate, turn));
      const [first] = (await findGates(coarse, () => false, melt, 0.002, plainContext())).best;
      const middle = turn([0.045, 0, 0.001]);
      expect(Math.hypot(...middle.map((x, d) => x - first.position[d]))).toBeLessThan(0.006);
      best.push(first);
    }
    const pressures = best.map((b) => b.pressure);
    expect(Math.max(...pressures)).toBeLessThan(1.08 * Math.min(...pressures));
  });
});
