import { describe, expect, it } from 'vitest';
import { inputDifferences } from '../results/inputDifferences';
import { inputKey } from './inputKey';
import { inNames, inTheirNames, nameOf, withName, withoutLostNames } from './names';
import { asShot, wholeOf, withShotsOf } from './shots';
import { cavityBody, emptyInputs, type Gate, type Inputs } from './study';

const gate = (id: string): Gate => ({ id, position: [0, 0, 0], diameter: 2e-3 });
const study = (): Inputs => ({
  ...emptyInputs('a'.repeat(64)),
  gates: [gate('G1'), gate('G2'), gate('G12')],
  probes: [{ id: 'P1', position: [0, 0, 0] }],
});
const named = (inputs: Inputs, ...list: [Parameters<typeof withName>[1], string, string | null][]): Inputs =>
  list.reduce((s, [kind, id, name]) => ({ ...s, names: withName(s, kind, id, name) }), inputs);

describe('names of things in a study', () => {
  it('stand in place of ids, and change neither a number nor what differs', () => {
    const plain = study();
    const called = named(plain, ['gate', 'G1', 'Rim'], ['probe', 'P1', ' Far corner ']);
    expect(nameOf(called, 'gate', 'G1')).toBe('Rim');
    expect(nameOf(called, 'gate', 'G2')).toBe('G2');
    expect(nameOf(called, 'probe', 'P1')).toBe('Far corner');
    expect(inTheirNames(called, 'gate', called.gates).map((g) => g.id)).toEqual(['Rim', 'G2', 'G12']);
    expect(inputKey(called)).toBe(inputKey(plain));
    expect(inputDifferences(plain, called)).toEqual([]);
  });

  it('go when they are emptied, or say no more than the id', () => {
    const called = named(study(), ['gate', 'G1', 'Rim'], ['gate', 'G2', 'Foot']);
    expect(named(called, ['gate', 'G1', '  ']).names).toEqual({ 'gate G2': 'Foot' });
    expect(named(called, ['gate', 'G1', 'G1'], ['gate', 'G2', null]).names).toBeUndefined();
  });

  it('are said in texts for whole ids alone', () => {
    const told = inNames(named(study(), ['gate', 'G1', 'Rim'], ['probe', 'P1', 'Far corner']));
    expect(told('Gate G1 is 3 mm off, G12 and XG1 are not; G1: see P1.')).toBe(
      'Gate Rim is 3 mm off, G12 and XG1 are not; Rim: see Far corner.',
    );
    expect(told('PP-G1 stays')).toBe('PP-G1 stays');
    expect(inNames(study())('Gate G1')).toBe('Gate G1');
  });

  it('are not said for an id that two kinds share', () => {
    const both = { ...study(), probes: [{ id: 'G1', position: [0, 0, 0] as [number, number, number] }] };
    const told = inNames(named(both, ['gate', 'G1', 'Rim'], ['gate', 'G2', 'Foot']));
    expect(told('G1 and G2')).toBe('G1 and Foot');
  });

  it('with signs that mean something in patterns', () => {
    const odd = { ...study(), gates: [gate('G.1+')] };
    const told = inNames(named(odd, ['gate', 'G.1+', 'Rim $&']));
    expect(told('Gate G.1+ and Gx1')).toBe('Gate Rim $& and Gx1');
  });

  it('go with what they named: a new gate is not called like one that was deleted', () => {
    const called = named(study(), ['gate', 'G1', 'Rim'], ['gate', 'G2', 'Foot']);
    const fewer = withoutLostNames({ ...called, gates: [gate('G2')] });
    expect(fewer.names).toEqual({ 'gate G2': 'Foot' });
    expect(withoutLostNames({ ...fewer, gates: [] })).not.toHaveProperty('names');
    expect(withoutLostNames(called)).toBe(called);
  });

  it('of one shot are not those of another', () => {
    const second = { ...cavityBody('b'.repeat(64)), id: 'B2', shot: 2 as const };
    const two = withShotsOf({ ...study(), bodies: [cavityBody('a'.repeat(64)), second] });
    const asSecond = { ...asShot(two, 2), gates: [gate('G1')] };
    const first = named(wholeOf(asSecond), ['gate', 'G1', 'Rim']);
    const both = named(asShot(first, 2), ['gate', 'G1', 'Seal'], ['probe', 'P1', 'Corner']);
    expect(inNames(both)('G1, P1')).toBe('Seal, Corner');
    const whole = withoutLostNames(wholeOf(both));
    expect(inNames(whole)('G1, P1')).toBe('Rim, Corner');
    expect(whole.names).toEqual({ 'gate G1': 'Rim', 'gate G1 of shot 2': 'Seal', 'probe P1': 'Corner' });
  });
});
