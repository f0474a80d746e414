import { describe, expect, it } from 'vitest';
import { pressureAsked } from './packing';

describe('the pressure that a profile asks for', () => {
  it('is what it says at the nozzle, or a share of that at switchover', () => {
    expect(pressureAsked({ as: 'pressure' }, 3e7, 9e7)).toBe(3e7);
    expect(pressureAsked({ as: 'share' }, 0.8, 9e7)).toBeCloseTo(7.2e7, 0);
  });

  it('for one in the cavity adds what the way there takes, as far as the clamp holds, but fills the last places', () => {
    expect(pressureAsked({ as: 'cavity' }, 4e7, 0)).toBe(4e7);
    expect(pressureAsked({ as: 'cavity' }, 4e7, 5e7)).toBeCloseTo(6e7, 0);
    expect(pressureAsked({ as: 'cavity', most: 5e7 }, 4e7, 5e7)).toBe(5e7);
    expect(pressureAsked({ as: 'cavity', most: 2e7 }, 4e7, 6e7)).toBeCloseTo(3e7, 0);
  });
});
