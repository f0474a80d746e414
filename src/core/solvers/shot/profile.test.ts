import { describe, expect, it } from 'vitest';
import { CENTRES, HALF_LAYERS } from '../melt/layers';
import { PROFILE_PLACES } from '../melt/profilePlaces';
import { profileOf } from './profile';

describe('what layers have, as a profile', () => {
  const n = PROFILE_PLACES.length;

  it('of half a wall goes from the middle out', () => {
    const profile = profileOf([...CENTRES, ...CENTRES.map((c) => 2 * c)], HALF_LAYERS, 10);
    expect(profile).toHaveLength(2 * n);
    PROFILE_PLACES.forEach((place, k) => {
      // Beyond the middles of the outermost layers their values hold.
      const held = Math.min(CENTRES[HALF_LAYERS - 1], Math.max(CENTRES[0], place));
      expect(profile[k]).toBeCloseTo(10 * held, 5);
      expect(profile[n + k]).toBeCloseTo(20 * held, 5);
    });
  });

  it('of a whole wall goes from wall to wall, each half to its own side', () => {
    const layers = [...[...CENTRES].reverse(), ...CENTRES.map((c) => -c)];
    const profile = profileOf(layers, 2 * HALF_LAYERS, 1);
    expect(profile).toHaveLength(2 * n);
    for (let k = 1; k < n; k++) {
      expect(profile[n - 1 - k]).toBeGreaterThan(profile[n - k]);
      expect(profile[n + k]).toBeCloseTo(-profile[n - 1 - k], 6);
    }
  });
});
