import { describe, expect, it } from 'vitest';
import { DEFAULT_INSERT } from './insert';
import { inputKey } from './inputKey';
import { asShot, byItself, freshShot, insertChoice, nShots, shotNumber, wholeOf, withShotsOf } from './shots';
import { cavities, cavityBody, emptyInputs, inputsSchema, mouldedInserts, otherBodies, type Inputs } from './study';
import { defaultCooling } from './cooling';

const hash = (k: number) => `${k}`.repeat(64).slice(0, 64);
const gate = (x: number) => ({ id: 'G1', position: [x, 0, 0] as [number, number, number], diameter: 0.002 });
const body = (k: number, shot?: number) => ({
  ...cavityBody(hash(k), `Body ${k}`),
  id: `B${k}`,
  ...(shot ? { shot } : {}),
});
const blade = { ...body(3), role: 'insert' as const };

const two: Inputs = {
  ...emptyInputs(),
  bodies: [body(1), body(2, 2), blade],
  gates: [gate(1)],
  resin: 'pa66-orla-u',
  later: [{ ...freshShot(), gates: [gate(2)] }],
};

describe('a study of several shots', () => {
  it('looked at as a shot has the gates, resin, cycle and cavities of that one', () => {
    const second = asShot(two, 2);
    expect([nShots(two), shotNumber(two), shotNumber(second)]).toEqual([2, 1, 2]);
    expect(cavities(two).map((b) => b.id)).toEqual(['B1']);
    expect(cavities(second).map((b) => b.id)).toEqual(['B2']);
    expect([second.gates[0].position[0], second.resin]).toEqual([2, freshShot().resin]);
    expect(asShot(two, 3)).toBe(two);
    expect(inputsSchema.safeParse(second).success).toBe(true);
  });

  it('takes changes of a shot back into itself, and those of what is shared', () => {
    const second = asShot(two, 2);
    const changed = wholeOf({ ...second, gates: [gate(5)], detail: 'fine' });
    expect(changed.later?.[0].gates).toEqual([gate(5)]);
    expect([changed.gates, changed.resin, changed.detail]).toEqual([two.gates, two.resin, 'fine']);
    expect(wholeOf(second)).toEqual(two);
    expect(asShot(second, 1)).toEqual(two);
    expect(wholeOf(two)).toBe(two);
  });

  it('has one key, whichever shot it is looked at as; and another with another transfer', () => {
    expect(inputKey(asShot(two, 2))).toBe(inputKey(two));
    const later = two.later!.map((l) => ({ ...l, transfer: { ...l.transfer, time: 9 } }));
    expect(inputKey({ ...two, later })).not.toBe(inputKey(two));
    expect(inputKey({ ...two, inserts: [{ ...DEFAULT_INSERT, id: 'B3', temperature: 400 }] })).not.toBe(inputKey(two));
    // What an insert has by default is the same, said or not.
    expect(inputKey({ ...two, inserts: [{ ...DEFAULT_INSERT, id: 'B3' }] })).toBe(inputKey(two));
  });

  it('gains and loses shots with its bodies', () => {
    const one: Inputs = { ...emptyInputs(), bodies: [body(1)] };
    const more = withShotsOf({ ...one, bodies: [body(1), body(2, 3)] });
    expect(nShots(more)).toBe(3);
    expect(withShotsOf({ ...more, bodies: [body(1)] }).later).toBeUndefined();
    // What is there stays; a shot that is looked at and goes leaves the first.
    expect(withShotsOf(asShot(two, 2))).toEqual(asShot(two, 2));
    expect(withShotsOf({ ...asShot(two, 2), bodies: [body(1)] }).shot).toBeUndefined();
  });

  it('by itself is a study of one shot, the others left out', () => {
    const alone = byItself(asShot({ ...two, cooling: defaultCooling() }, 2));
    expect(alone.bodies.map((b) => b.role)).toEqual(['left-out', 'cavity', 'insert']);
    expect([cavities(alone).map((b) => b.id), nShots(alone), alone.cooling]).toEqual([['B2'], 1, undefined]);
    const first = byItself(two);
    expect([cavities(first).map((b) => b.id), first.bodies[1].role]).toEqual([['B1'], 'left-out']);
    const single: Inputs = { ...emptyInputs(), bodies: [body(1)] };
    expect(byItself(single)).toBe(single);
  });

  it('reads inserts and the bodies of later shots beside its cavities', () => {
    expect(otherBodies(two).map((b) => b.id)).toEqual(['B2', 'B3']);
    expect(mouldedInserts(two).map((b) => b.id)).toEqual(['B3']);
    const shape = { shape: 'body' as const, body: 'B3' };
    const cooling = { ...defaultCooling(), inserts: [{ id: 'M1', name: 'Core', shape, metal: 'copper-hw-b' }] };
    expect(mouldedInserts({ ...two, cooling })).toEqual([]);
    expect(insertChoice(two, 'B3')).toEqual({ ...DEFAULT_INSERT, id: 'B3' });
  });
});
