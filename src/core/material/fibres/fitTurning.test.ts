import { describe, expect, it } from 'vitest';
import { hasFibres } from './defaults';
import { alongInPlate, fitTurning, type OrientationPoint } from './fitTurning';
import { measure } from '../lab';
import { resinById, RESINS } from '../library';

const ASPECT = 22;
const INDEX = 0.35;
const places = [0, 0.15, 0.3, 0.45, 0.6, 0.75, 0.9];
const plate = (CI: number, slowing: number): OrientationPoint[] =>
  [0.01, 0.06].flatMap((distance) =>
    places.map((place) => {
      const at = { distance, wall: 0.003, place };
      return { ...at, along: alongInPlate({ interaction: { by: 'even', CI }, slowing }, ASPECT, INDEX)(at) };
    }),
  );

describe('how fibres turn, from a plate', () => {
  it.each([
    [0.005, 0.1],
    [0.02, 0.3],
    [0.01, 0.8],
  ])('C_I %s at %s comes back from points without scatter', (CI, slowing) => {
    const fit = fitTurning(plate(CI, slowing), ASPECT, INDEX);
    expect(fit.turning.interaction.CI / CI).toBeCloseTo(1, 2);
    expect(fit.turning.slowing / slowing).toBeCloseTo(1, 2);
    expect(fit.rms).toBeLessThan(1e-4);
    expect(fit.notes).toEqual([]);
  });

  it('a wild point does not pull the fit', () => {
    const points = plate(0.01, 0.2);
    points[5].along = 0.05;
    const fit = fitTurning(points, ASPECT, INDEX);
    expect(fit.turning.slowing / 0.2).toBeCloseTo(1, 1);
    expect(fit.weights[5]).toBeLessThan(0.2);
    expect(fit.residuals[5]).toBeGreaterThan(0.3);
  });

  it('the middle of the wall is not sheared, its shell is, and more of it farther on', () => {
    const at = alongInPlate({ interaction: { by: 'even', CI: 0.01 }, slowing: 0.2 }, ASPECT, INDEX);
    const near = { distance: 0.01, wall: 0.003 };
    expect(at({ ...near, place: 0 })).toBeCloseTo(1 / 3, 6);
    expect(at({ ...near, place: 0.8 })).toBeGreaterThan(at({ ...near, place: 0.5 }));
    expect(at({ ...near, distance: 0.05, place: 0.5 })).toBeGreaterThan(at({ ...near, place: 0.5 }));
    expect(at({ ...near, place: -0.8 })).toBe(at({ ...near, place: 0.8 }));
  });

  it('bad points are told with what to do', () => {
    const points = plate(0.01, 0.2);
    const wrong = (patch: Partial<OrientationPoint>) => () =>
      fitTurning([{ ...points[0], ...patch }, ...points.slice(1)], ASPECT, INDEX);
    expect(wrong({ along: 1.2 })).toThrow('Point 1: the share along the flow must lie between 0 and 100 %.');
    expect(wrong({ distance: 0 })).toThrow('the distance from the gate');
    expect(wrong({ wall: 0.5 })).toThrow('the wall must lie');
    expect(wrong({ place: 2 })).toThrow('the place must lie');
    expect(() => fitTurning(points.slice(0, 4), ASPECT, INDEX)).toThrow('4 points are too few');
    expect(() =>
      fitTurning(
        points.map((p) => ({ ...p, place: 0.1 })),
        ASPECT,
        INDEX,
      ),
    ).toThrow('nearly one place');
  });

  it('the lab measures a plate of a grade with fibres, and none of one without', () => {
    const filled = resinById('pa66-lowan-s40-g30')!;
    const { fibres } = measure(filled, 4);
    const fit = fitTurning(fibres, filled.filler!.aspectRatio, 0.4);
    expect(fit.rms).toBeLessThan(0.08);
    expect(measure(filled, 4).fibres).toEqual(fibres);
    expect(
      measure(
        RESINS.find((r) => !hasFibres(r))!,
        4,
      ).fibres,
    ).toEqual([]);
  });
});
