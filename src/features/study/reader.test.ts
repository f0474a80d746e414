import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Answer } from '@/core/results/answer';
import { emptyInputs } from '@/core/model/study';
import { format, METRIC, reworded } from '@/core/units/reader';
import { colourAt, SEQUENTIAL_NAMES } from '@/viewer/colour';
import { answerTold, readerKey, setReader, useReader } from './reader';

let kept: Map<string, string>;
beforeEach(() => {
  kept = new Map();
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
  });
  setReader({ units: METRIC, colours: 'moss', reversed: false });
});
afterEach(() => vi.unstubAllGlobals());

const answer: Answer = {
  id: 'will-it-fill',
  question: 'Will it fill?',
  verdict: 'good',
  headline: 'It fills with 15.0 MPa.',
  key: { label: 'Pressure', value: '15.0 MPa', note: '8 % of 200 MPa' },
  where: { label: 'Last place, 146 mm on', position: [0, 0, 0] },
  why: ['A wall of 2.2 mm.', 'Full after 0.94 s.'],
  try: [{ id: 'hot', label: 'Melt at 240 °C', why: 'It lost 12.0 K.', inputs: emptyInputs() }],
};

describe('how whoever looks wants to be told', () => {
  it('is kept by the browser, and holds for all that is written from then on', () => {
    const before = readerKey(useReader.getState());
    setReader({ units: { ...METRIC, pressure: 'bar' } });
    expect(format(1e6, 'MPa')).toBe('10.0 bar');
    expect(JSON.parse(kept.get('bellows.reader')!)).toMatchObject({ units: { pressure: 'bar' }, colours: 'moss' });
    expect(readerKey(useReader.getState())).not.toBe(before);
  });

  it.each([
    ['nothing', undefined],
    ['no text of ours', '{broken'],
    ['units there are none of', '{"units":{"length":"ell"},"colours":"moss","reversed":false}'],
  ])('is the plain way where the browser kept %s', async (_, text) => {
    if (text) kept.set('bellows.reader', text);
    vi.resetModules();
    const { useReader: fresh } = await import('./reader');
    expect(fresh.getState()).toEqual({ units: METRIC, colours: 'moss', reversed: false });
  });

  it('is told answers in those units, and tries keep their inputs', () => {
    expect(answerTold(answer, reworded)).toEqual(answer);
    setReader({ units: { length: 'in', pressure: 'psi', temperature: '°F', mass: 'oz' } });
    const told = answerTold(answer, reworded);
    expect(told.headline).toBe('It fills with 2176 psi.');
    expect(told.key).toEqual({ label: 'Pressure', value: '2176 psi', note: '8 % of 29008 psi' });
    expect(told.where?.label).toBe('Last place, 5.75 in on');
    expect(told.why).toEqual(['A wall of 0.0866 in.', 'Full after 0.94 s.']);
    expect(told.try[0]).toEqual({ id: 'hot', label: 'Melt at 464 °F', why: 'It lost 21.6 F°.', inputs: emptyInputs() });
  });
});

describe('maps of colours', () => {
  // Of sRGB: what is seen as lighter has more of it.
  const lightness = (t: number) => {
    const linear = colourAt('sequential', t).map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2];
  };

  it.each(SEQUENTIAL_NAMES)('%s grows lighter all the way, and darker turned round', (colours) => {
    for (const reversed of [false, true]) {
      setReader({ colours, reversed });
      for (let k = 1; k <= 20; k++) {
        const step = lightness(k / 20) - lightness((k - 1) / 20);
        expect(reversed ? -step : step).toBeGreaterThan(0);
      }
    }
  });
});
