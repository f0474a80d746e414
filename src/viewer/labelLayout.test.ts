import { describe, expect, it } from 'vitest';
import { layOutLabels, type Laid, type Plate } from './labelLayout';

const plate = (x: number, y: number, more: Partial<Plate> = {}): Plate => ({
  x,
  y,
  w: 40,
  h: 19,
  anchor: [0.5, -0.35],
  rank: 5,
  group: null,
  ...more,
});
const lay = (plates: Plate[]) => layOutLabels(plates, 800, 600);
const rect = ({ x, y, w, h }: Plate, { anchor }: Laid) => {
  const [ax, ay] = anchor as [number, number];
  return { left: x - ax * w, right: x + (1 - ax) * w, bottom: y + ay * h, top: y + (ay - 1) * h };
};

/** Pairs of shown labels that cover one another. */
function covered(plates: Plate[], laid: Laid[]): number {
  const shown = plates.flatMap((p, k) => (laid[k].anchor ? [rect(p, laid[k])] : []));
  let n = 0;
  shown.forEach((a, i) =>
    shown.slice(i + 1).forEach((b) => {
      if (a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom) n++;
    }),
  );
  return n;
}

describe('labels in the view', () => {
  it('stand where they want to where there is room', () => {
    expect(lay([plate(100, 100), plate(300, 300)]).map((l) => l.anchor)).toEqual([
      [0.5, -0.35],
      [0.5, -0.35],
    ]);
  });

  it('move aside for one that comes first, and none covers another', () => {
    const plates = [plate(100, 100), plate(110, 104, { rank: 1 })];
    const laid = lay(plates);
    expect(laid[1].anchor).toEqual([0.5, -0.35]);
    expect(laid[0].anchor).not.toBeNull();
    expect(covered(plates, laid)).toBe(0);
  });

  it('never cover one another however many there are, and each is shown, stood for or of no group', () => {
    const plates = Array.from({ length: 120 }, (_, k) =>
      plate(300 + ((37 * k) % 101), 250 + ((61 * k) % 83), { group: k % 3 ? 'air' : 'curve', w: 30 + (k % 5) * 8 }),
    );
    const laid = lay(plates);
    expect(covered(plates, laid)).toBe(0);
    const shown = laid.filter((l) => l.anchor).length;
    const stoodFor = laid.reduce((n, l) => n + l.more, 0);
    expect(shown).toBeGreaterThan(4);
    expect(shown + stoodFor).toBe(120);
  });

  it('of one group whose points fall together are one, near and far', () => {
    const pair = (apart: number) =>
      lay([plate(400, 300, { group: 'curve' }), plate(400 + apart, 300, { group: 'curve' })]);
    expect(pair(10)).toEqual([
      { anchor: [0.5, -0.35], more: 1 },
      { anchor: null, more: 0 },
    ]);
    expect(pair(120).map((l) => l.more)).toEqual([0, 0]);
  });

  it('are not stood for by those of another group, or of none', () => {
    const crowd = Array.from({ length: 30 }, () => plate(400, 300, { rank: 1 }));
    const laid = lay([...crowd, plate(400, 300, { group: 'vent' })]);
    expect(laid[30]).toEqual({ anchor: null, more: 0 });
    expect(laid.every((l) => l.more === 0)).toBe(true);
  });

  it('stay inside of the view at its edges, and what is out of sight has none', () => {
    const plates = [plate(3, 4), plate(797, 596), plate(-5, 100), plate(NaN, 100)];
    const laid = lay(plates);
    for (const k of [0, 1]) {
      const { left, right, top, bottom } = rect(plates[k], laid[k]);
      expect(Math.min(left, top, 800 - right, 600 - bottom)).toBeGreaterThanOrEqual(0);
    }
    expect(laid[2].anchor).toBeNull();
    expect(laid[3].anchor).toBeNull();
  });
});
