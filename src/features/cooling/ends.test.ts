import { describe, expect, it } from 'vitest';
import type { CircuitEnd, Cooling, CoolingLine } from '@/core/model/cooling';
import type { Vec3 } from '@/core/geometry/mesh';
import { TURNS } from '../../../verification/solids';
import { freeEnds, turnedRound, withEnd } from './ends';

describe.each(Object.entries(TURNS))('ends of a circuit, %s', (_, turn) => {
  const line = (id: string, from: Vec3, to: Vec3, kind: CoolingLine['kind'] = { as: 'channel' }): CoolingLine => ({
    id,
    from: turn(from),
    to: turn(to),
    diameter: 8e-3,
    kind,
    loss: null,
  });
  const circuit = (...lines: CoolingLine[]) => ({ lines, ends: [] as Cooling['ends'] }) as Cooling;
  const names = (cooling: Cooling) => freeEnds(cooling).map((e) => e.line);

  it('are those that meet no other line: at its end, or along a channel', () => {
    const a = line('a', [0, 0, 0], [0.1, 0, 0]);
    expect(names(circuit(a))).toEqual(['a', 'a']);
    expect(names(circuit(a, line('b', [0.1, 0, 0], [0.1, 0.05, 0])))).toEqual(['a', 'b']);
    expect(names(circuit(a, line('tee', [0.04, 0, 0], [0.04, 0.05, 0])))).toEqual(['a', 'a', 'tee']);
    expect(names(circuit(a, line('past', [0.04, 0.01, 0], [0.04, 0.05, 0])))).toEqual(['a', 'a', 'past', 'past']);
  });

  it('a hose ends where it is fixed: what only crosses it does not meet it', () => {
    const hose = line('hose', [0, 0, 0], [0.1, 0, 0], { as: 'hose', length: null });
    expect(names(circuit(hose, line('b', [0.04, 0, 0], [0.04, 0.05, 0])))).toEqual(['hose', 'hose', 'b', 'b']);
    expect(names(circuit(hose, line('b', [0.1, 0, 0], [0.1, 0.05, 0])))).toEqual(['hose', 'b']);
  });

  it('wells have none: their water comes back to the channel they stand on', () => {
    const well = line('well', [0.05, 0, 0], [0.05, 0, 0.03], { as: 'baffle', blade: 1e-3 });
    expect(names(circuit(line('a', [0, 0, 0], [0.1, 0, 0]), well))).toEqual(['a', 'a']);
  });

  it('have one mark each, the last one given, and opening takes it away', () => {
    const cooling = circuit(line('a', [0, 0, 0], [0.1, 0, 0]));
    const [first, second] = freeEnds(cooling).map((e) => e.at);
    cooling.ends = withEnd(cooling, first, 'inlet', 's');
    cooling.ends = withEnd(cooling, second, 'outlet', 's');
    cooling.ends = withEnd(cooling, first, 'plug', 's');
    expect(freeEnds(cooling).map((e) => e.mark?.as)).toEqual(['plug', 'outlet']);
    // A plug belongs to no supply.
    expect(freeEnds(cooling)[0].mark?.supply).toBeNull();
    expect(withEnd(cooling, second, 'open', null).map((e) => e.as)).toEqual(['plug']);
  });
});

describe('coolant that is turned round', () => {
  const end = (as: CircuitEnd['as'], supply: string | null): CircuitEnd => ({ at: [0, 0, 0], as, supply });
  const ends = [end('inlet', 'U1'), end('outlet', 'U1'), end('plug', null), end('inlet', 'U2')];

  it('goes in where it came out, at its own ends alone, and twice is not at all', () => {
    const turned = turnedRound(ends, 'U1');
    expect(turned.map((e) => e.as)).toEqual(['outlet', 'inlet', 'plug', 'inlet']);
    expect(turnedRound(turned, 'U1')).toEqual(ends);
  });
});
