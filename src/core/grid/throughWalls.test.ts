import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { disc } from '../../../verification/shapes';
import { openBox, TURNS } from '../../../verification/solids';
import { readStl } from '../formats/stl';
import { mapVertices, weld, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { buildFineGrid } from './grid';
import { latticeFor } from './lattice';
import { buildPressureGrid } from './pressureGrid';
import { toolOnGrid } from './tool';

function opened(body: TriangleMesh, turn: (v: Vec3) => Vec3) {
  const mesh = mapVertices(body, turn);
  const fine = buildFineGrid(mesh, latticeFor(mesh, 'quick'));
  const grid = buildPressureGrid(fine);
  const opening = turn([0, 0, 1]);
  const tool = toolOnGrid(mesh, fine, grid, { opening, partingHeight: null }, { halves: false, growth: true });
  const growth = tool.growth!;
  return { grid, growth, opens: growth.reduce((s, g, i) => s + g * grid.volume[i], 0), shadow: tool.projectedArea };
}

describe.each(Object.entries(TURNS))('walls that a gap opens, %s', (_, turn) => {
  it('a disc grows everywhere by the gap over its wall, and in all by its area', () => {
    const { growth, opens } = opened(disc(0.03, 0.002), turn);
    expect(opens / (Math.PI * 0.03 ** 2)).toBeCloseTo(1, 2);
    for (const g of growth) expect(Math.abs(0.002 * g - 1)).toBeLessThan(0.02);
  });

  it('of an open box the floor grows, the side walls do not', () => {
    const { grid, growth } = opened(openBox(0.08, 0.06, 0.03, 0.002), turn);
    const axis = turn([0, 0, 1]);
    const height = (i: number) => axis.reduce((s, e, d) => s + e * grid.centroid[3 * i + d], 0);
    const walls = [...growth.keys()].filter((i) => height(i) > 0.012 && height(i) < 0.027);
    expect(walls.length).toBeGreaterThan(20);
    for (const i of walls) expect(growth[i] * 0.002).toBeLessThan(0.02);
  });
});

describe('the feeder tray', () => {
  it('opens over what faces the opening direction, but for two hundredths', () => {
    const soup = readStl(readFileSync(new URL('../../../samples/feeder-tray.stl', import.meta.url)));
    const { mesh } = weld(Float64Array.from(soup, (x) => x / 1000));
    const { opens, shadow } = opened(mesh, (v) => v);
    expect(Math.abs(opens / shadow.reduce((s, a) => s + a, 0) - 1)).toBeLessThan(0.02);
  });
});
