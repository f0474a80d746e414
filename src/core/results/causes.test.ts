import { describe, expect, it } from 'vitest';
import { causesText, effectsOn } from './causes';
import type { Summary } from './summary';

const at = (pressureNeeded_MPa: number) => ({ pressureNeeded_Pa: 1e6 * pressureNeeded_MPa }) as unknown as Summary;

describe('what did it', () => {
  it('each change alone, and what they do beyond that together', () => {
    const report = {
      first: at(20),
      all: at(12),
      alone: [{ summary: at(15) }, { summary: at(18) }],
    };
    const found = effectsOn('pressureNeeded_Pa', report)!;
    expect(found.alone.map((e) => (e ?? 0) / 1e6)).toEqual([-5, -2]);
    expect((found.interaction ?? 0) / 1e6).toBeCloseTo(-1, 12);
  });

  it('one that could not be tried leaves the interaction unknown; a number that is not there has no effects', () => {
    const report = { first: at(20), all: at(12), alone: [{ summary: at(15) }, { summary: null }] };
    expect(effectsOn('pressureNeeded_Pa', report)).toMatchObject({ interaction: null });
    expect(effectsOn('pressureNeeded_Pa', { ...report, all: at(NaN) })).toBeNull();
  });

  it('as text: what moves, each alone, how they act on each other, and what could not be tried', () => {
    const trial = (label: string, MPa: number | null) => ({
      label,
      summary: MPa === null ? null : at(MPa),
      why: MPa === null ? 'No gate is left.' : null,
    });
    const told = causesText({ first: at(20), all: at(12), alone: [trial('Melt', 15), trial('Gate G1', 18)] });
    expect(told.split('\n')).toEqual([
      '  Pressure needed: 20.0 MPa → 12.0 MPa',
      '    Melt     −5.00 MPa',
      '    Gate G1  −2.00 MPa',
      '    They act on each other: together they do −1.00 MPa beside what they do one by one.',
    ]);
    expect(causesText({ first: at(20), all: at(20.01), alone: [trial('Melt', 20.01)] })).toContain(
      'no key number moves',
    );
    const lost = causesText({ first: at(20), all: at(12), alone: [trial('Melt', 12), trial('Gates', null)] });
    expect(lost).toContain('Gates  not known alone');
    expect(lost).toContain('Gates alone: No gate is left.');
  });
});
