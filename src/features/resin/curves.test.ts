import { describe, expect, it } from 'vitest';
import { RESINS } from '@/core/material/library';
import { CURVES, curvesCsv, curvesOf } from './curves';

describe.each(CURVES.map((c) => c.value))('curves of %s', (kind) => {
  const one = curvesOf(kind, [RESINS[0]]);

  it('are numbers over one and the same axis', () => {
    expect(one.lines.length).toBeGreaterThan(0);
    for (const { points } of one.lines) {
      expect(points.map((p) => p.x)).toEqual(one.lines[0].points.map((p) => p.x));
      for (const { x, y } of points) expect(Number.isFinite(x) && y >= 0).toBe(true);
      expect(points[0].y).toBeGreaterThan(0);
    }
  });

  it('of two resins stand beside each other, the second ones dashed and all of them named', () => {
    const two = curvesOf(kind, [RESINS[0], RESINS[1]]);
    expect(two.lines).toHaveLength(2 * one.lines.length);
    expect(two.lines.map((l) => l.dashed)).toEqual([...one.lines.map(() => false), ...one.lines.map(() => true)]);
    for (const [k, resin] of [RESINS[0], RESINS[1]].entries())
      for (const line of two.lines.slice(k * one.lines.length, (k + 1) * one.lines.length))
        expect(line.label).toContain(resin.name);
    expect(two.lines[0].points).toEqual(one.lines[0].points);
  });

  it('go into a table with a column a line', () => {
    const rows = curvesCsv(one).split('\n');
    expect(rows).toHaveLength(1 + one.lines[0].points.length);
    expect(rows[0].startsWith(`"${one.x.label}"`)).toBe(true);
    expect(rows[7].split(',').map(Number)).toEqual([one.lines[0].points[6].x, ...one.lines.map((l) => l.points[6].y)]);
  });
});

describe('what the curves say', () => {
  it('hotter melt is thinner, faster shear thins it, pressure thickens it', () => {
    const [cold, , hot] = curvesOf('viscosity', [RESINS[0]]).lines;
    cold.points.forEach((p, k) => expect(hot.points[k].y).toBeLessThan(p.y));
    cold.points.slice(1).forEach((p, k) => expect(p.y).toBeLessThanOrEqual(cold.points[k].y));
    const [none, , most] = curvesOf('pressure', [RESINS[0]]).lines;
    none.points.forEach((p, k) => expect(most.points[k].y).toBeGreaterThanOrEqual(p.y));
  });

  it('the melt takes more room when hotter and less under pressure', () => {
    const { lines } = curvesOf('pvt', [RESINS[0]]);
    const { points } = lines[0];
    points.slice(1).forEach((p, k) => expect(p.y).toBeGreaterThanOrEqual(points[k].y * (1 - 1e-9)));
    lines.slice(1).forEach((line, k) => line.points.forEach((p, i) => expect(p.y).toBeLessThan(lines[k].points[i].y)));
  });

  it('a name with quotes or commas stays one cell', () => {
    const named = { ...RESINS[0], name: 'Alder "A", dried' };
    expect(curvesCsv(curvesOf('specificHeat', [named])).split('\n')[0]).toContain('"Alder ""A"", dried"');
  });
});
