import { describe, expect, it } from 'vitest';
import { effectsOn } from './causes';
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
});
