import { describe, expect, it } from 'vitest';
import { defaultFeed } from './feed';
import { cavityBody, emptyInputs, inputsSchema } from './study';
import { describeIssues } from './studyFile';
import { resinById } from '../material/library';

const HASH = 'a'.repeat(64);
const gate = { id: 'G1', position: [0, 0, 0], diameter: 0.002 };
const said = (patch: object): string => {
  const parsed = inputsSchema.safeParse({ ...emptyInputs(HASH), ...patch });
  return parsed.success ? 'taken' : describeIssues(parsed.error);
};

describe('what inputs may not be is told at the field', () => {
  it.each<[string, object, RegExp]>([
    [
      'a gate beyond the horizon',
      { gates: [{ ...gate, position: [1e300, 0, 0] }] },
      /^gates\.0\.position\.0: A place lies/,
    ],
    ['a gate that is nowhere', { gates: [{ ...gate, position: [0, 0] }] }, /^gates\.0\.position: /],
    ['an endless id', { gates: [{ ...gate, id: 'x'.repeat(300) }] }, /^gates\.0\.id: An id has at most 40/],
    ['two gates of one id', { gates: [gate, gate] }, /^gates\.1\.id: Two gates are called “G1”\.$/],
    ['two bodies of one id', { bodies: [cavityBody(HASH), cavityBody(HASH)] }, /^bodies\.1\.id: Two bodies/],
    [
      'a surface by another name',
      { bodies: [{ ...cavityBody(HASH), mesh: '../x' }] },
      /^bodies\.0\.mesh: A surface is/,
    ],
    ['a resin of 200,000 letters', { resin: 'x'.repeat(200_000) }, /^resin: An id has at most 80 characters\.$/],
    [
      'a resin with an endless name',
      { resin: { ...resinById('pp-hollin-h14'), name: 'x'.repeat(200_000) } },
      /^resin\.name: .*80/,
    ],
    ['a resin that is a number', { resin: 7 }, /^resin: is of a kind that does not fit here\.$/],
    [
      'an unknown way of injection',
      { cycle: { ...emptyInputs().cycle, injection: { by: 'magic' } } },
      /^cycle\.injection\.by: is none of the kinds/,
    ],
    [
      'a sprue at another star',
      { feed: { ...defaultFeed(0.002, -0.012, false), at: [0, 1e9] } },
      /^feed\.at\.1: A place lies within 50 m/,
    ],
    [
      'a placement that flings the part away',
      { tool: { ...emptyInputs().tool, placement: Array(12).fill(1e6) } },
      /^tool\.placement/,
    ],
  ])('%s', (_what, patch, message) => {
    expect(said(patch)).toMatch(message);
  });

  it('takes what is in bounds', () => {
    expect(said({ gates: [gate, { ...gate, id: 'G2', position: [49, -49, 0] }] })).toBe('taken');
  });

  it('tells the first faults of a file that has thousands', () => {
    const gates = Array.from({ length: 40 }, (_, k) => ({ id: `G${k}`, position: [1e9, 1e9, 1e9], diameter: 'x' }));
    const lines = said({ gates }).split('\n');
    expect(lines).toHaveLength(9);
    expect(lines[8]).toMatch(/^and 1\d\d more$/);
  });

  it('of a choice tells the faults of the kind that comes nearest', () => {
    const cycle = { ...emptyInputs().cycle, injection: { by: 'time', time: -4 } };
    expect(said({ cycle })).toMatch(/^cycle\.injection\.time: /);
  });
});
