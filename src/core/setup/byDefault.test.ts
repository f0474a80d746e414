import { afterEach, describe, expect, it } from 'vitest';
import { defaultCompression } from '../model/compression';
import { emptyInputs, type Inputs } from '../model/study';
import { METRIC, readIn } from '../units/reader';
import { byDefault, type InputStation } from './byDefault';

const PART = { volume: 2e-5, wall: 2e-3 };
const STATIONS: InputStation[] = ['part', 'resin', 'feed', 'cooling', 'cycle'];
const fresh = emptyInputs('mesh');
afterEach(() => readIn(METRIC));

describe('what stands at its default', () => {
  it('is told at every station of a fresh project, and nothing without a part', () => {
    for (const station of STATIONS) {
      expect(byDefault(fresh, station, PART).length, station).toBeGreaterThan(0);
      expect(byDefault(fresh, station, null)).toEqual([]);
    }
  });

  it('is no longer told once it is chosen', () => {
    const cycle: Inputs['cycle'] = {
      ...fresh.cycle,
      machine: 'hask-110',
      meltTemperature: 500,
      mouldTemperature: 310,
      injection: { by: 'time', time: 1 },
      packing: { by: 'constant', pressure: 2e7, time: 3 },
      coolingTime: 10,
    };
    const chosen: Inputs = { ...fresh, cycle, resin: 'pa6-lowan-n30-g30' };
    expect(byDefault(chosen, 'cycle', PART)).toEqual([]);
    expect(byDefault(chosen, 'resin', PART)).toEqual([]);
    const one = byDefault(
      { ...fresh, cycle: { ...cycle, packing: { by: 'constant', pressure: null, time: 3 } } },
      'cycle',
      PART,
    );
    expect(one).toEqual(['Packed with the pressure of the family of the resin.']);
  });

  it('says nothing of packing where nothing is packed, nor of an axis that is not the one', () => {
    const filled = byDefault({ ...fresh, upTo: 'fill' }, 'cycle', PART).join(' ');
    expect(filled).toContain('Filled in');
    expect(filled).not.toMatch(/Packed|Cooled/);
    expect(byDefault({ ...fresh, compression: defaultCompression() }, 'cycle', PART).join(' ')).not.toContain('Packed');
    expect(byDefault({ ...fresh, tool: { ...fresh.tool, opening: [1, 0, 0] } }, 'part', PART)).toEqual([]);
  });

  it('has its numbers in the units of the reader, and follows what was chosen', () => {
    const warm: Inputs = { ...fresh, cycle: { ...fresh.cycle, mouldTemperature: 323.15 } };
    expect(byDefault(warm, 'cooling', PART)).toEqual(['No lines: the mould has 50.0 °C everywhere.']);
    readIn({ ...METRIC, temperature: '°F' });
    expect(byDefault(warm, 'cooling', PART)).toEqual(['No lines: the mould has 122 °F everywhere.']);
  });

  it('says nothing of what an unknown resin would give', () => {
    const unknown: Inputs = { ...fresh, resin: 'no-such-resin' };
    expect(byDefault(unknown, 'cycle', PART)).toEqual([]);
    expect(byDefault(unknown, 'cooling', PART)).toEqual([]);
  });
});
