import { describe, expect, it } from 'vitest';
import { networkAlone } from '../../cooling/alone';
import { checkCircuits } from '../../cooling/check';
import type { Vec3 } from '../../geometry/mesh';
import { defaultCooling, type Cooling, type CoolingLine, type LineKind } from '../../model/cooling';
import { circuitOf } from './circuit';
import { halfBore } from './passages';
import { bendLoss, stepLoss } from './friction';

const line = (id: string, from: Vec3, to: Vec3, kind: LineKind = { as: 'channel' }): CoolingLine => ({
  id,
  from,
  to,
  diameter: 0.008,
  kind,
  loss: null,
});
const [A, B]: Vec3[] = [
  [0, 0, 0],
  [0.2, 0, 0],
];
const inOut = (from: Vec3, to: Vec3): Cooling['ends'] => [
  { at: from, as: 'inlet', supply: 'U1' },
  { at: to, as: 'outlet', supply: 'U1' },
];
const cooling = (patch: Partial<Cooling>): Cooling => ({ ...defaultCooling(), ...patch });
const straight = cooling({ lines: [line('L1', A, B)], ends: inOut(A, B) });
const kinds = (c: Cooling) => checkCircuits(c).map((f) => f.kind);
const flowOf = (c: Cooling, id: string) => networkAlone(c, 0)?.lines.find((l) => l.id === id)?.flow_m3_s ?? NaN;

describe('circuits from lines', () => {
  it('a channel between inlet and outlet carries what the pump gives', () => {
    expect(kinds(straight)).toEqual([]);
    expect(flowOf(straight, 'L1')).toBeCloseTo(10 / 60000, 12);
  });

  it('a baffle parts its channel: all coolant goes through it, and loses pressure', () => {
    const baffle = line('W1', [0.1, 0, 0], [0.1, 0, 0.03], { as: 'baffle', blade: 0.0015 });
    const c = cooling({ ...straight, lines: [...straight.lines, baffle] });
    expect(kinds(c)).toEqual([]);
    expect(flowOf(c, 'W1')).toBeCloseTo(10 / 60000, 12);
    const drop = (x: Cooling) => networkAlone(x, 0)?.coolant.supplies[0].pressure ?? NaN;
    expect(drop(c)).toBeGreaterThan(1.5 * drop(straight));
  });

  it('a well away from a channel is told, with its place', () => {
    const lost = line('W1', [0.1, 0.05, 0], [0.1, 0.05, 0.03], { as: 'baffle', blade: 0.0015 });
    const found = checkCircuits(cooling({ ...straight, lines: [...straight.lines, lost] }));
    expect(found[0]).toMatchObject({ kind: 'well-foot', line: 'W1', place: [0.1, 0.05, 0] });
  });

  it('branches side by side share the flow by their resistance', () => {
    const p: Vec3[] = [
      [0, 0.05, 0],
      [0.2, 0.05, 0],
    ];
    const c = cooling({
      lines: [line('L1', A, B), { ...line('L2', p[0], p[1]), diameter: 0.006 }],
      ends: [...inOut(A, B), ...inOut(p[0], p[1])],
    });
    const [wide, narrow] = [flowOf(c, 'L1'), flowOf(c, 'L2')];
    expect(wide + narrow).toBeCloseTo(10 / 60000, 10);
    expect(wide).toBeGreaterThan(1.5 * narrow);
  });

  it('a hose joins two channels in series; its open twin is told', () => {
    const p: Vec3[] = [
      [0.2, 0.05, 0],
      [0, 0.05, 0],
    ];
    const lines = [line('L1', A, B), line('L2', p[0], p[1]), line('H1', B, p[0], { as: 'hose', length: null })];
    const c = cooling({ lines, ends: inOut(A, p[1]) });
    expect(kinds(c)).toEqual([]);
    expect(flowOf(c, 'L2')).toBeCloseTo(10 / 60000, 12);
    const open = checkCircuits(cooling({ lines: lines.slice(0, 2), ends: inOut(A, p[1]) }));
    expect(open.filter((f) => f.kind === 'open-end').map((f) => f.place)).toEqual([B, p[0]]);
  });

  it('a dead branch stands still and is told; a plug does not make it flow', () => {
    const c = cooling({
      lines: [line('L1', A, B), line('L2', [0.1, 0, 0], [0.1, 0.05, 0])],
      ends: [...inOut(A, B), { at: [0.1, 0.05, 0], as: 'plug', supply: null }],
    });
    expect(checkCircuits(c)).toContainEqual(expect.objectContaining({ kind: 'dead-end', line: 'L2' }));
    expect(Math.abs(flowOf(c, 'L2'))).toBeLessThan(1e-12);
  });

  it('a circuit of its own with two outlets is told, though the others are whole', () => {
    const lines = [line('L1', A, B), line('L2', [0, 0.05, 0], [0.2, 0.05, 0])];
    const ends = (first: 'inlet' | 'outlet') => [
      ...inOut(A, B),
      { at: [0, 0.05, 0] as Vec3, as: first, supply: null },
      { at: [0.2, 0.05, 0] as Vec3, as: 'outlet' as const, supply: null },
    ];
    expect(kinds(cooling({ lines, ends: ends('inlet') }))).toEqual([]);
    const found = checkCircuits(cooling({ lines, ends: ends('outlet') }));
    expect(found).toContainEqual(expect.objectContaining({ kind: 'no-inlet', line: 'L2', severity: 'problem' }));
    // That nothing flows there is one fact, told once.
    expect(found.filter((f) => f.line === 'L2')).toHaveLength(1);
  });

  it.each([
    ['no outlet', { ends: [inOut(A, B)[0]] }, 'no-outlet'],
    ['no inlet', { ends: [inOut(A, B)[1]] }, 'no-inlet'],
    ['no flow', { supplies: [{ ...defaultCooling().supplies[0], pump: { by: 'flow-rate', flowRate: 0 } }] }, 'slow'],
    [
      'a pump too weak',
      { supplies: [{ ...defaultCooling().supplies[0], pump: { by: 'pressure', pressure: 2 } }] },
      'slow',
    ],
    ['ice', { supplies: [{ ...defaultCooling().supplies[0], temperature: 268 }] }, 'coolant'],
    ['steam', { supplies: [{ ...defaultCooling().supplies[0], temperature: 380 }] }, 'coolant'],
    ['an unknown coolant', { supplies: [{ ...defaultCooling().supplies[0], coolant: 'ether' }] }, 'coolant'],
    ['an unknown steel', { steel: 'butter' }, 'metal'],
    ['a line of no length', { lines: [line('L1', A, B), line('L2', B, B)] }, 'no-length'],
  ] as [string, Partial<Cooling>, string][])('%s is told, never a number that is none', (_, patch, kind) => {
    const c = cooling({ ...straight, ...patch });
    const found = checkCircuits(c).filter((f) => f.severity === 'problem');
    expect(found.map((f) => f.kind)).toContain(kind);
    for (const f of found) expect(f.remedy.length).toBeGreaterThan(5);
    const network = networkAlone(c, 1000);
    for (const s of network?.coolant.stretches ?? []) expect(Number.isFinite(s.flow + s.outlet + s.drop)).toBe(true);
  });

  it('coolant is warmed by the heat it is given, whichever way it flows', () => {
    for (const ends of [inOut(A, B), inOut(B, A)]) {
      const [supply] = networkAlone(cooling({ ...straight, ends }), 1000)?.coolant.supplies ?? [];
      expect(supply.heat).toBeCloseTo(1000, -1);
      expect(supply.returned - supply.sent).toBeCloseTo(1000 / ((10 / 60000) * 997 * 4180), 2);
    }
  });

  it('ends are merged with their supply: two circuits on one pump', () => {
    const c = circuitOf(straight);
    expect(c.pumps).toHaveLength(1);
    expect(c.elements).toHaveLength(3);
  });
});

describe('sections and losses by hand', () => {
  it('half a bore with a thin blade is half a circle', () => {
    const { area, perimeter } = halfBore(0.01, 1e-9);
    expect(area).toBeCloseTo(Math.PI * 0.005 ** 2 * 0.5, 10);
    expect(perimeter).toBeCloseTo(Math.PI * 0.005 + 0.01, 8);
  });
  it('a right angle and a step', () => {
    expect(bendLoss(Math.PI / 2)).toBeCloseTo(0.9457 / 2 + 2.047 / 4, 12);
    expect(bendLoss(0)).toBe(0);
    expect(stepLoss(1)).toBe(0);
  });
});
