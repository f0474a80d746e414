import { describe, expect, it } from 'vitest';
import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid } from '../src/core/grid/pressureGrid';
import { toolHold } from '../src/core/grid/toolHold';
import { box } from './shapes';
import { openBox, prismOf, TURNS } from './solids';

/** What is held at the nodes of a part that lies turned: place and direction in its own axes. */
function heldIn(part: TriangleMesh, turn: (v: Vec3) => Vec3) {
  const axes = ([0, 1, 2] as const).map((d) => turn([d === 0 ? 1 : 0, d === 1 ? 1 : 0, d === 2 ? 1 : 0]));
  const own = (v: Vec3): Vec3 => axes.map((e) => e[0] * v[0] + e[1] * v[1] + e[2] * v[2]) as Vec3;
  const mesh = mapVertices(part, turn);
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'quick'));
  const grid = buildPressureGrid(fine);
  const hold = toolHold(mesh, fine, grid);
  return Array.from({ length: grid.n }, (_, i) => ({
    place: own([grid.centroid[3 * i], grid.centroid[3 * i + 1], grid.centroid[3 * i + 2]]),
    most: hold?.share[2 * i] ?? 0,
    least: hold?.share[2 * i + 1] ?? 0,
    along: own((hold ? [...hold.along.subarray(3 * i, 3 * i + 3)] : [0, 0, 0]) as Vec3),
  }));
}
type Held = ReturnType<typeof heldIn>[number];
const mean = (list: readonly Held[], of: (h: Held) => number) => list.reduce((s, h) => s + of(h), 0) / list.length;

describe.each(Object.entries(TURNS))('%s', (_how, turn) => {
  it('nothing holds a plate', () => {
    const nodes = heldIn(box(0.06, 0.04, 0.002), turn);
    expect(mean(nodes, (h) => h.most)).toBeLessThan(0.02);
    expect(nodes.filter((h) => h.most > 0.1).length).toBeLessThan(0.03 * nodes.length);
  });

  it('a core holds the floor of a box both ways, its walls around it and not upwards', () => {
    const nodes = heldIn(openBox(0.06, 0.04, 0.02, 0.002), turn);
    const floor = nodes.filter(({ place: [x, y, z] }) => z < 0.003 && Math.abs(x) < 0.024 && Math.abs(y) < 0.014);
    const long = nodes.filter(({ place: [x, y, z] }) => z > 0.006 && Math.abs(y) > 0.017 && Math.abs(x) < 0.024);
    const short = nodes.filter(({ place: [x, y, z] }) => z > 0.006 && Math.abs(x) > 0.027 && Math.abs(y) < 0.014);
    expect(mean(floor, (h) => h.least)).toBeGreaterThan(0.95);
    for (const [walls, axis] of [
      [long, 0],
      [short, 1],
    ] as const) {
      expect(mean(walls, (h) => h.most)).toBeGreaterThan(0.93);
      expect(mean(walls, (h) => h.least)).toBeLessThan(0.05);
      expect(mean(walls, (h) => Math.abs(h.along[axis]))).toBeGreaterThan(0.98);
    }
  });
});

it('a channel is held from wall to wall, and free along itself', () => {
  const wall = 0.002;
  const outline: [number, number][] = [
    [0, 0],
    [0.03, 0],
    [0.03, 0.015],
    [0.03 - wall, 0.015],
    [0.03 - wall, wall],
    [wall, wall],
    [wall, 0.015],
    [0, 0.015],
  ];
  // The outline lies in the plane of x and z, the channel runs along y.
  const nodes = heldIn(prismOf(outline, 0.05), (v) => v);
  const floor = nodes.filter(({ place: [x, y, z] }) => z < 0.0025 && x > 0.006 && x < 0.024 && Math.abs(y) < 0.015);
  expect(mean(floor, (h) => h.most)).toBeGreaterThan(0.93);
  expect(mean(floor, (h) => h.least)).toBeLessThan(0.05);
  expect(mean(floor, (h) => Math.abs(h.along[0]))).toBeGreaterThan(0.98);
  const flanks = nodes.filter(({ place: [, , z] }) => z > 0.006);
  expect(mean(flanks, (h) => h.most)).toBeLessThan(0.1);
});
