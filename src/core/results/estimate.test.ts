import { describe, expect, it } from 'vitest';
import { emptyInputs, type Inputs } from '../model/study';
import { estimate, oneChanges, type KnownRun } from './estimate';
import type { Summary } from './summary';

const size = { volume: 1e-5, wall: 0.002 };
const base: Inputs = {
  ...emptyInputs('a'.repeat(64)),
  resin: 'pp-hollin-h14',
  gates: [{ id: 'G1', position: [0, 0, 0], diameter: 0.002 }],
};
const gate = (mm: number, of = base): Inputs => ({ ...of, gates: [{ ...of.gates[0], diameter: mm / 1000 }] });
const melt = (C: number | null, of = base): Inputs => ({
  ...of,
  cycle: { ...of.cycle, meltTemperature: C === null ? null : C + 273.15 },
});
/** A law of straight lines: 20 MPa at 2 mm and 210 °C, 6 MPa less a millimetre more, 0.1 MPa less a kelvin. */
const pressureOf = ({ gates: [{ diameter }], cycle: { meltTemperature } }: Inputs) =>
  20e6 - 6e9 * (diameter - 0.002) - 1e5 * ((meltTemperature ?? DEFAULT) - 483.15);
const DEFAULT = 503.15;
const run = (name: string, inputs: Inputs): KnownRun => ({
  name,
  inputs,
  summary: { pressureNeeded_Pa: pressureOf(inputs) } as Summary,
});
const first = run('first', melt(210));
const told = (tried: Inputs, ...others: KnownRun[]) =>
  estimate(first, tried, 'pressureNeeded_Pa', oneChanges([first, ...others]), size);

describe('a number of a try before it is run', () => {
  it('is what the same change did, either way round, and on another variant', () => {
    const wider = run('wider', gate(2.5, melt(210)));
    expect(told(gate(2.5, melt(210)), wider)!.after).toBeCloseTo(17e6, 3);
    const [a, b] = [run('a', gate(3, melt(250))), run('b', gate(2, melt(250)))];
    const found = told(gate(3, melt(210)), a, b)!;
    expect(found.after).toBeCloseTo(14e6, 3);
    expect(found.from.sort()).toEqual(['a', 'b']);
    expect(told(gate(1, melt(210)), a, b)!.after).toBeCloseTo(26e6, 3);
  });

  it('goes on in proportion, up to twice as far, and adds up over changes', () => {
    const others = [run('wider', gate(2.5, melt(210))), run('hotter', melt(220))];
    const both = told(gate(3, melt(230)), ...others)!;
    expect(both.after).toBeCloseTo(pressureOf(gate(3, melt(230))), 3);
    expect(told(gate(3.2, melt(210)), ...others)).toBeNull();
  });

  it('takes defaults for what they stand for', () => {
    const plain = run('plain', melt(null));
    expect(told(melt(240), plain)!.after).toBeCloseTo(pressureOf(melt(240)), 3);
  });

  it('is none where one of its changes was never tried by itself, or at another Detail', () => {
    const both = run('both', gate(3, melt(230)));
    expect(told(gate(3, melt(210)), both)).toBeNull();
    expect(told(gate(3, melt(210)), run('fine', { ...gate(3, melt(210)), detail: 'fine' }))).toBeNull();
    expect(told(first.inputs, both)).toBeNull();
    // Less than nothing is no pressure.
    const steep = { ...run('steep', melt(220)), summary: { pressureNeeded_Pa: 5e6 } as Summary };
    expect(told(melt(230), steep)).toBeNull();
  });
});
