import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { emptyInputs, type Inputs } from '@/core/model/study';
import { warpageOf } from '@/core/model/warpage';
import { useBench, type Aim } from '../study/bench';
import { openStudy, present, undo } from '../study/testServer';
import { takePlace } from './takePlace';
import { isTyped } from './TypedPlace';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));

const inputs: Inputs = { ...emptyInputs('a'.repeat(64)), gates: [{ id: 'G1', position: [0, 0, 0], diameter: 0.003 }] };
const AT: [number, number, number] = [0.01, 0.02, 0.003];
const UP: [number, number, number] = [0, 0, 1];
beforeEach(() => void openStudy(inputs));
afterEach(() => vi.unstubAllGlobals());

const take = (aim: Aim | null) => {
  useBench.setState({ aim });
  return takePlace(AT, UP);
};
const now = () => present().inputs;

describe('a place on the part', () => {
  it('becomes what is aimed at, and one step to take back', () => {
    expect(take({ for: 'gate' })).toBe(true);
    expect(now().gates.at(-1)).toEqual({ id: 'G2', position: AT, diameter: 0.003 });
    expect(take({ for: 'probe' })).toBe(true);
    expect(now().probes).toEqual([{ id: 'P1', position: AT }]);
    expect(take({ for: 'outlet', kind: 'vent' })).toBe(true);
    expect(now().vents?.[0].at).toMatchObject({ kind: 'place', position: AT });
    expect(take({ for: 'outlet', kind: 'tab' })).toBe(true);
    expect(now().tabs?.[0]).toMatchObject({ position: AT, direction: UP });
    expect(take({ for: 'support' })).toBe(true);
    expect(warpageOf(now()).supports[0].position).toEqual(AT);
    for (let k = 0; k < 5; k++) undo();
    expect(now()).toEqual(inputs);
  });

  it('is nothing where nothing is aimed at, and nothing to what is drawn in a plane', () => {
    expect(take(null)).toBe(false);
    expect(take({ for: 'runner', from: null })).toBe(true);
    expect(take({ for: 'no-gate', radius: 0.002, erase: false })).toBe(true);
    expect(now()).toEqual(inputs);
  });

  it('is an end of a distance that is measured', () => {
    const measure = vi.fn();
    useBench.setState({ aim: { for: 'distance', ends: [] } });
    expect(takePlace(AT, UP, measure)).toBe(true);
    expect(measure).toHaveBeenCalledWith(AT, UP);
    expect(now()).toEqual(inputs);
  });

  it('is typed for all that lies on the surface of the part or is drawn in a plane', () => {
    expect(isTyped({ for: 'gate' })).toBe(true);
    expect(isTyped({ for: 'measure', kind: 'distance', places: [] })).toBe(true);
    // Lines are typed point by point; what is painted is not.
    expect(isTyped({ for: 'runner', from: null })).toBe(true);
    expect(isTyped({ for: 'no-gate', radius: 0.002, erase: false })).toBe(false);
    expect(isTyped(null)).toBe(false);
  });
});
