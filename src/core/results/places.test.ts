import { describe, expect, it } from 'vitest';
import type { PressureGrid } from '../grid/pressureGrid';
import type { PackResult } from '../solvers/pack/outcome';
import { RESINS } from '../material/library';
import { flowPath } from './flowPath';
import { hesitations, HESITATION_SHARE } from './places';
import { sinkMarks } from './sinks';

const SPACING = 0.001;

/** Nodes on a sheet of nx by ny, linked to their neighbours; wall by node. */
function sheet(nx: number, ny: number, wall: (x: number, y: number) => number): PressureGrid {
  const n = nx * ny;
  const neighbours = (i: number) => {
    const [x, y] = [i % nx, Math.floor(i / nx)];
    return [
      [x - 1, y],
      [x + 1, y],
      [x, y - 1],
      [x, y + 1],
    ].flatMap(([a, b]) => (a >= 0 && a < nx && b >= 0 && b < ny ? [a + nx * b] : []));
  };
  const lists = Array.from({ length: n }, (_, i) => neighbours(i));
  const rowStart = Int32Array.from({ length: n + 1 }, (_, i) => lists.slice(0, i).reduce((s, l) => s + l.length, 0));
  const thickness = Float32Array.from({ length: n }, (_, i) => wall(i % nx, Math.floor(i / nx)));
  return {
    n,
    spacing: SPACING,
    thickness,
    volume: Float64Array.from(thickness, (t) => SPACING * SPACING * t),
    centroid: Float32Array.from({ length: 3 * n }, (_, k) => {
      const i = Math.floor(k / 3);
      return SPACING * [i % nx, Math.floor(i / nx), 0][k % 3];
    }),
    rowStart,
    rowNode: Int32Array.from(lists.flat()),
  } as PressureGrid;
}

describe('the way of the melt', () => {
  it('leads back from the end to where it came in, round a wall, at its length', () => {
    // A front that goes along x, then turns.
    const grid = sheet(30, 10, () => 0.002);
    const time = Float64Array.from({ length: grid.n }, (_, i) => (i % 30) + 0.4 * Math.floor(i / 30));
    const pressure = time.map((t) => 1e6 * (40 - t));
    const path = flowPath(grid, time, pressure, grid.n - 1);
    expect([path.nodes[0], path.nodes.at(-1)]).toEqual([0, grid.n - 1]);
    path.nodes.slice(1).forEach((node, k) => expect(time[node]).toBeGreaterThan(time[path.nodes[k]]));
    expect(path.length / SPACING).toBeGreaterThan(Math.hypot(29, 9) - 1e-3);
    expect(path.length / SPACING).toBeLessThan(29 + 9 + 1e-3);
    expect([path.thinShare, path.thinThickness]).toEqual([0, 0]);
    expect(path.thickness).toBeCloseTo(0.002, 9);
  });

  it('tells what of the pressure goes where the wall is thin', () => {
    const thin = (x: number) => x >= 10 && x < 16;
    const grid = sheet(30, 1, (x) => (thin(x) ? 0.001 : 0.002));
    const time = Float64Array.from({ length: 30 }, (_, i) => i);
    // Eight times as steep in half the wall.
    const pressure = new Float64Array(30);
    for (let i = 28; i >= 0; i--) pressure[i] = pressure[i + 1] + (thin(i) && thin(i + 1) ? 8 : 1);
    const { thinShare, thinThickness } = flowPath(grid, time, pressure, 29);
    expect(thinShare).toBeCloseTo(40 / pressure[0], 6);
    expect(thinThickness).toBeCloseTo(0.001, 9);
  });
});

describe('hesitation', () => {
  const grid = sheet(20, 20, () => 0.002);
  const temperature = new Float64Array(grid.n).fill(500);
  const time = Float64Array.from({ length: grid.n }, (_, i) => 0.01 * (i % 20));
  const inPatch = (i: number, x0: number, size: number) =>
    i % 20 >= x0 && i % 20 < x0 + size && Math.floor(i / 20) < size;

  it('is a patch whose front creeps, largest first; a few cells are not', () => {
    const speed = Float32Array.from({ length: grid.n }, (_, i) =>
      inPatch(i, 2, 4) || inPatch(i, 10, 3) ? 0.005 : i === 399 ? 0.001 : 0.1,
    );
    const found = hesitations(grid, time, speed, temperature, 1);
    expect(found.map((h) => [h.id, Math.round(h.volume / 2e-9)])).toEqual([
      ['H1', 16],
      ['H2', 9],
    ]);
    expect(found[0]).toMatchObject({ temperature: 500 });
    expect(found[0].medianSpeed).toBeCloseTo(0.1, 6);
  });

  it('begins below its share of the median, and not in the last of the filling', () => {
    const at = (share: number, end: number) =>
      hesitations(
        grid,
        time,
        Float32Array.from({ length: grid.n }, (_, i) => (inPatch(i, 2, 4) ? 0.1 * share : 0.1)),
        temperature,
        end,
      ).length;
    expect([at(0.98 * HESITATION_SHARE, 1), at(1.02 * HESITATION_SHARE, 1), at(0.5 * HESITATION_SHARE, 0.01)]).toEqual([
      1, 0, 0,
    ]);
  });
});

describe('sinks', () => {
  const resin = RESINS[0];
  const grid = sheet(41, 41, () => 0.003);
  const packed = (unfed: (i: number) => number, skin: number) =>
    ({
      node: {
        unfed: Float32Array.from({ length: grid.n }, (_, i) => unfed(i)),
        skinAtRelease: new Float32Array(grid.n).fill(skin),
      },
    }) as unknown as PackResult;
  const middle = 20 * 41 + 20;

  it('show where a place lacks more than what is around it; a wall that sinks evenly shows nothing', () => {
    const even = sinkMarks(
      grid,
      packed(() => 0.02, 0.3),
      resin,
    );
    expect(Math.max(...even.depth)).toBeLessThan(1e-9);
    const spot = sinkMarks(
      grid,
      packed((i) => (i === middle ? 0.05 : 0), 0.3),
      resin,
    );
    expect(spot.depth[middle]).toBeGreaterThan(5e-5);
    expect(spot.depth[middle]).toBeLessThanOrEqual(0.5 * 0.05 * 0.003);
    expect(spot.depth[0]).toBe(0);
  });

  it('become voids where the skin is too stiff to follow: what is lacking is one or the other', () => {
    const at = (skin: number) =>
      sinkMarks(
        grid,
        packed((i) => (i === middle ? 0.05 : 0), skin),
        resin,
      );
    const [soft, stiff] = [at(0.1), at(0.95)];
    expect(stiff.depth[middle]).toBeLessThan(soft.depth[middle]);
    expect(stiff.voids[middle]).toBeGreaterThan(soft.voids[middle]);
    const lacking = ({ depth, voids }: typeof soft) => 2 * depth[middle] + voids[middle] * 0.003;
    expect(lacking(stiff)).toBeCloseTo(lacking(soft), 8);
    // A strip clamped at its sides under the pressure of the room.
    const { E1, E2, nu12 } = resin.elastic;
    const D = (0.03 * Math.min(E1, E2) * (0.5 * 0.003 * 0.95) ** 3) / (12 * (1 - nu12 ** 2));
    expect(stiff.depth[middle]).toBeCloseTo((101325 * 0.003 ** 4) / (384 * D), 9);
  });

  it('are nowhere where nothing was moulded', () => {
    const { depth, voids } = sinkMarks(
      grid,
      packed((i) => (i < 41 ? NaN : 0.01), 0.3),
      resin,
    );
    expect([depth[0], voids[0]]).toEqual([NaN, NaN]);
    expect(depth[100]).toBeLessThan(1e-9);
  });
});
