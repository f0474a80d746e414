import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../../geometry/mesh';
import { defaultCooling, type Cooling, type CoolingLine } from '../../model/cooling';
import { circuitOf } from './circuit';
import { runCoolant, type HeatTake } from './coolant';

const BORE = 0.008;
const line = (id: string, from: Vec3, to: Vec3): CoolingLine => ({
  id,
  from,
  to,
  diameter: BORE,
  kind: { as: 'channel' },
  loss: null,
});
/** Channels of 0.2 m side by side, each with an inlet and an outlet of its own. */
function sideBySide(n: number, patch: Partial<Cooling['supplies'][number]> = {}) {
  const base = defaultCooling();
  const places = Array.from({ length: n }, (_, k): [Vec3, Vec3] => [
    [0, 0.05 * k, 0],
    [0.2, 0.05 * k, 0],
  ]);
  const cooling: Cooling = {
    ...base,
    lines: places.map(([a, b], k) => line(`L${k + 1}`, a, b)),
    ends: places.flatMap(([a, b]) => [
      { at: a, as: 'inlet' as const, supply: 'U1' },
      { at: b, as: 'outlet' as const, supply: 'U1' },
    ]),
    supplies: [{ ...base.supplies[0], ...patch }],
  };
  return { cooling, circuit: circuitOf(cooling) };
}
/** A wall of that temperature all along a channel: 1 - exp(-h A / (m c)) of the difference is taken up. */
const wallOf =
  (wall: number): HeatTake =>
  (_, inlet, capacity, film) =>
    capacity * (wall - inlet) * (1 - Math.exp((-film * Math.PI * BORE * 0.2) / capacity));

describe('coolant in its channels', () => {
  it('comes out as the heat exchanger of the textbook says, and carries away what it took up', () => {
    const { cooling, circuit } = sideBySide(1);
    const { stretches, supplies, faults } = runCoolant(circuit, 'churchill', wallOf(360));
    const s = stretches.find((x) => x.film > 0)!;
    const sent = cooling.supplies[0].temperature;
    expect(faults).toEqual([]);
    expect(s.inlet).toBeCloseTo(sent, 6);
    const rise = s.outlet - s.inlet;
    expect(rise).toBeGreaterThan(0.3);
    // Number of transfer units from what the stretch says of itself.
    const capacity = s.heat / rise;
    expect(rise / (360 - s.inlet)).toBeCloseTo(1 - Math.exp((-s.film * Math.PI * BORE * 0.2) / capacity), 6);
    expect(supplies[0].heat / s.heat).toBeCloseTo(1, 2);
    expect(supplies[0].returned).toBeCloseTo(s.outlet, 3);
    expect(supplies[0].power).toBeCloseTo(supplies[0].flow * supplies[0].pressure, 9);
  });

  it('does not warm where there is nothing to take up, and the other way round where the wall is colder', () => {
    const { circuit } = sideBySide(1);
    const idle = runCoolant(circuit, 'churchill', () => 0);
    for (const s of idle.stretches) expect(s.outlet).toBe(s.inlet);
    expect(idle.supplies[0].heat).toBe(0);
    const warming = runCoolant(circuit, 'churchill', wallOf(280));
    expect(warming.supplies[0].heat).toBeLessThan(0);
  });

  it('mixes where streams meet: heat of all of them, by their flow', () => {
    const { circuit } = sideBySide(2);
    const wet = circuit.elements.flatMap((e, k) => (e.wet ? [k] : []));
    const { stretches, supplies } = runCoolant(circuit, 'churchill', (e, inlet, capacity) =>
      e === wet[0] ? 0.5 * capacity * (360 - inlet) : 0,
    );
    const [hot, cold] = wet.map((k) => stretches[k]);
    // The warm one flows a little more easily.
    expect(hot.flow / cold.flow).toBeGreaterThan(1);
    expect(hot.flow / cold.flow).toBeLessThan(1.1);
    const mixed = (hot.flow * hot.outlet + cold.flow * cold.outlet) / (hot.flow + cold.flow);
    expect(supplies[0].returned).toBeCloseTo(mixed, 1);
    expect(cold.outlet).toBe(cold.inlet);
  });

  it('flows more easily when it is warm', () => {
    const drop = (temperature: number) => {
      const { circuit } = sideBySide(1, { temperature });
      return runCoolant(circuit, 'churchill', () => 0).supplies[0].pressure;
    };
    expect(drop(363)).toBeLessThan(0.9 * drop(283));
  });

  it('has a film that grows with the flow as Gnielinski has it, near the power of 0.8', () => {
    const film = (flowRate: number) => {
      const { circuit } = sideBySide(1, { pump: { by: 'flow-rate', flowRate } });
      return runCoolant(circuit, 'churchill', () => 0).stretches.find((s) => s.film > 0)!;
    };
    const [slow, fast] = [film(2e-4), film(4e-4)];
    expect(Math.min(slow.reynolds, fast.reynolds)).toBeGreaterThan(1e4);
    const power = Math.log(fast.film / slow.film) / Math.log(2);
    expect(power).toBeGreaterThan(0.75);
    expect(power).toBeLessThan(0.95);
  });

  it.each<[string, Partial<Cooling['supplies'][number]>, HeatTake, RegExp]>([
    ['freezes', { temperature: 268 }, () => 0, /freezes/],
    ['boils', { temperature: 370 }, (_e, _i, capacity) => 20 * capacity, /would boil/],
    ['is not pumped', { pump: { by: 'flow-rate', flowRate: 0 } }, () => 0, /pumps nothing/],
    ['creeps', { pump: { by: 'flow-rate', flowRate: 5e-7 } }, () => 0, /creeps through line L1|stands still/],
    [
      'would need a pump that does not exist',
      { pump: { by: 'flow-rate', flowRate: 3e-3 } },
      () => 0,
      /no pump gives that/,
    ],
  ])('that %s is told', (_what, patch, take, message) => {
    const { circuit } = sideBySide(1, patch);
    expect(
      runCoolant(circuit, 'churchill', take)
        .faults.map((f) => f.message)
        .join(' '),
    ).toMatch(message);
  });
});
