import { describe, expect, it } from 'vitest';
import { boundsOf, type Vec3 } from '../geometry/mesh';
import { SurfaceTree } from '../geometry/surfaceTree';
import { defaultCooling, type Cooling, type CoolingLine } from '../model/cooling';
import { prism } from '../../../verification/shapes';
import { blockOf, boxHolds } from './block';
import { checkCircuits, checkClearances } from './check';
import { DEFAULT_PLAN, layOutChannels, withLayout } from './layout';
import { insertTest } from './metals';

const plate = prism(
  [
    [-0.06, -0.04],
    [0.06, -0.04],
    [0.06, 0.04],
    [-0.06, 0.04],
  ],
  0,
  0.003,
);
const PLATE_TREE = new SurfaceTree(plate);
const part = boundsOf(plate.positions);
const block = blockOf(defaultCooling(), part);
const laidOut = (patch: Partial<ReturnType<typeof DEFAULT_PLAN>> = {}): Cooling => {
  const plan = { ...DEFAULT_PLAN(part), ...patch };
  return withLayout(defaultCooling(), plan, layOutChannels(plan, plate, part, block, 'U1'));
};
const channel = (from: Vec3, to: Vec3, diameter = 0.008): CoolingLine => ({
  id: 'X1',
  from,
  to,
  diameter,
  kind: { as: 'channel' },
  loss: null,
});

describe('layout', () => {
  it.each([{}, { connected: 'parallel' as const }, { direction: 'y' as const }, { conformal: true }, { above: false }])(
    'a plan %j is closed, clear of everything and within the block',
    (patch) => {
      const c = laidOut(patch);
      expect(checkCircuits(c)).toEqual([]);
      expect(checkClearances(c, PLATE_TREE, part, block)).toEqual([]);
      for (const l of c.lines.filter((x) => x.kind.as !== 'hose'))
        for (const p of [l.from, l.to]) expect(boxHolds(block, p, -1e-9)).toBe(true);
    },
  );

  it('a baffle goes along when its channel moves, and keeps the height of its tip', () => {
    const c = laidOut();
    const host = c.lines.find((l) => l.id === 'B1') as CoolingLine;
    const foot: Vec3 = [0, host.from[1], host.from[2]];
    const well: CoolingLine = {
      ...channel(foot, [foot[0], foot[1], foot[2] + 0.009]),
      id: 'W1',
      kind: { as: 'baffle', blade: 0.001 },
    };
    const plan = { ...DEFAULT_PLAN(part), distance: 0.025, pitch: 0.02 };
    const moved = withLayout({ ...c, lines: [...c.lines, well] }, plan, layOutChannels(plan, plate, part, block, 'U1'));
    const after = moved.lines.find((l) => l.id === 'W1') as CoolingLine;
    expect(after.from[2]).toBeCloseTo(-0.025, 9);
    expect(after.to[2]).toBeCloseTo(well.to[2], 9);
    expect(checkCircuits(moved)).toEqual([]);
  });
});

describe('clearances', () => {
  const found = (line: CoolingLine, patch: Partial<Cooling> = {}) =>
    checkClearances({ ...defaultCooling(), lines: [line], ...patch }, PLATE_TREE, part, block);
  it('a circuit through the cavity is a problem with its place', () => {
    const [first] = found(channel([-0.08, 0, 0.0015], [0.08, 0, 0.0015]));
    expect(first).toMatchObject({ severity: 'problem', kind: 'cavity', line: 'X1' });
    expect(Math.abs(first.place?.[0] ?? 1)).toBeLessThan(0.061);
  });
  it('too little steel is a watch with the steel that is left', () => {
    const [first] = found(channel([-0.08, 0, -0.009], [0.08, 0, -0.009]));
    expect(first).toMatchObject({ severity: 'watch', kind: 'thin-wall' });
    expect(first.message).toContain('5.0 mm');
  });
  it('outside the block, beside a face, through a spot that is to stay clear', () => {
    expect(found(channel([-0.5, 0, -0.02], [0.08, 0, -0.02]))[0].kind).toBe('outside');
    expect(found(channel([-0.08, 0, block.min[2] + 0.005], [0.08, 0, block.min[2] + 0.005]))[0].kind).toBe('face');
    const spot = { keepOut: [{ at: [0, 0.001] as [number, number], radius: 0.004 }] };
    expect(found(channel([-0.08, 0, -0.02], [0.08, 0, -0.02]), spot)[0].kind).toBe('keep-out');
  });
  it('two bores that cross without meeting are a problem, close ones a watch', () => {
    const one = channel([-0.08, 0, -0.02], [0.08, 0, -0.02]);
    const across = (z: number) => ({ ...channel([0, -0.06, z], [0, 0.06, z]), id: 'X2' });
    const both = (z: number) =>
      checkClearances({ ...defaultCooling(), lines: [one, across(z)] }, PLATE_TREE, part, block).map((f) => f.kind);
    expect(both(-0.025)).toContain('crossing');
    expect(both(-0.03)).toContain('close');
    expect(both(-0.036)).toEqual([]);
  });
  it('a block that does not hold the part is told', () => {
    const small = { min: [-0.03, -0.05, -0.05] as Vec3, max: [0.1, 0.1, 0.05] as Vec3 };
    expect(checkClearances(defaultCooling(), PLATE_TREE, part, small)[0].kind).toBe('block');
  });
});

describe('inserts', () => {
  it('a turned cylinder, a box and a body know what lies in them', () => {
    const cylinder = insertTest(
      {
        id: 'M1',
        name: 'Pin',
        metal: 'copper-hw-b',
        shape: { shape: 'cylinder', centre: [0, 0, 0], axis: [1, 1, 0], diameter: 0.01, length: 0.04 },
      },
      new Map(),
    );
    expect(cylinder([0.012, 0.012, 0])).toBe(true);
    expect(cylinder([0.012, -0.012, 0])).toBe(false);
    const body = insertTest(
      { id: 'M2', name: 'Plate', metal: 'copper-hw-b', shape: { shape: 'body', body: 'B2' } },
      new Map([['B2', plate]]),
    );
    expect(body([0, 0, 0.001])).toBe(true);
    expect(body([0, 0, 0.01])).toBe(false);
  });
});
