import { describe, expect, it } from 'vitest';
import { fieldGroups, fieldInfo, OF_SHAPE, rangeRule } from '../study/fields';
import { barsOf, isochroneText } from './useOverlays';

describe('isochrones', () => {
  it('are told with their step, some fourteen of them over the filling', () => {
    expect(isochroneText(1.4)).toBe('lines every 0.10 s');
    expect(isochroneText(0)).toBe('');
  });
});

describe('bars of what the tool holds', () => {
  /** One place on a wall that faces z, over node 1 of two. */
  const bars = (held: number[]) => {
    const fields = new Map([['heldAlong', Float32Array.from([9, 9, 9, 9, ...held])]]);
    const one = (x: number[]) => Float32Array.from(x);
    return barsOf({ fields }, { positions: one([1, 2, 3]), normals: one([0, 0, 1]), nodes: Int32Array.of(1) });
  };
  it('lie along the direction and square to it on the wall, as long as their shares', () => {
    const set = bars([0.6, 0.8, 0, 0.25]);
    expect([...(set?.positions ?? [])]).toEqual([1, 2, 3, 1, 2, 3]);
    const expected = [0.6, 0.8, 0, -0.2, 0.15, 0];
    set?.vectors.forEach((v, k) => expect(v).toBeCloseTo(expected[k], 6));
  });

  it('there are none where nothing is held, and one where the hold stands square to the surface', () => {
    expect([...(bars([0, 0, 0, 0])?.vectors ?? [])]).toEqual([0, 0, 0, 0, 0, 0]);
    expect([...(bars([0, 0, 0.5, 0.25])?.vectors ?? [])]).toEqual([0, 0, 0.5, 0, 0, 0]);
    expect(
      barsOf(
        { fields: new Map() },
        { positions: new Float32Array(3), normals: new Float32Array(3), nodes: Int32Array.of(0) },
      ),
    ).toBeNull();
  });
});

describe('the list of fields', () => {
  const all = { packed: true, mould: true, shape: true };
  it('has each field once, with a name, a unit and what it means', () => {
    const ids = fieldGroups(2, all).flatMap((g) => g.ids);
    expect(new Set(ids).size).toBe(ids.length);
    const gates = [
      { id: 'G1', position: [0, 0, 0] as [number, number, number], diameter: 0.002 },
      { id: 'G2', position: [1, 0, 0] as [number, number, number], diameter: 0.002 },
    ];
    for (const id of ids) {
      const { label, means } = fieldInfo(id, gates);
      expect(label).not.toBe(id);
      expect(means.length).toBeGreaterThan(15);
      expect(['from-zero', 'whole', 'cut']).toContain(rangeRule(id));
    }
  });

  it('shows what was calculated, and nothing else', () => {
    const titles = (what: Partial<typeof all>) =>
      fieldGroups(1, { packed: false, mould: false, shape: false, ...what }).map((g) => g.title);
    expect(titles({})).toEqual(['Will it fill?']);
    expect(titles({ shape: true })).toEqual(['Will it fill?']);
    expect(titles({ packed: true, shape: true })).toContain('What shape comes out?');
    expect(titles({ mould: true })).toContain('How long must it cool?');
  });

  it('has shares of the gates where there are several', () => {
    const one = fieldGroups(1, all)[0].ids.length;
    expect(fieldGroups(3, all)[0].ids.length).toBe(one + 3);
  });

  it('what is not known is shown under its own name', () =>
    expect(fieldInfo('of-tomorrow')).toEqual({ label: 'of-tomorrow', unit: '', means: '' }));

  it('fields of the shape are all in its group', () =>
    expect(fieldGroups(1, { ...all, behind: OF_SHAPE }).find((g) => g.title === 'What shape comes out?')?.ids).toEqual(
      OF_SHAPE,
    ));

  it('fields where bodies touch are in the list only where there are such', () => {
    const titles = (behind: string[]) => fieldGroups(1, { ...all, behind }).map((g) => g.title);
    expect(titles(['softDepth', 'facePeak'])).toContain('Do they hold together?');
    expect(titles(['pressure'])).not.toContain('Do they hold together?');
    expect(fieldGroups(1, all).flatMap((g) => g.ids)).not.toContain('bondPull');
  });
});
