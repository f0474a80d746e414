import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { emptyInputs, type Inputs } from '../model/study';
import { effectsOn } from '../results/causes';
import { plainContext } from '../stage/context';
import { causeStudy, MOST_CAUSES } from './causeStudy';
import { runPipeline } from './pipeline';

const strip = box(0.05, 0.016, 0.002);
const moulded = { mesh: strip, key: 'strip' };
const base: Inputs = {
  ...emptyInputs('a'.repeat(64)),
  resin: 'pp-hollin-h14',
  gates: [{ id: 'G1', position: [0.002, 0, 0.001], diameter: 0.0015 }],
  detail: 'quick',
  upTo: 'fill',
};
const hotter: Inputs = { ...base, cycle: { ...base.cycle, meltTemperature: 540 } };
const wider: Inputs = { ...base, gates: [{ ...base.gates[0], diameter: 0.0025 }] };
const both: Inputs = { ...hotter, gates: wider.gates };
const ask = (other: Inputs, inputs = base) =>
  causeStudy(moulded, moulded, { inputs, other, detail: 'quick' }, plainContext());

const pressureOf = async (inputs: Inputs) => {
  const outcome = await runPipeline(strip, 'strip', inputs, plainContext(), { gridError: false });
  if (outcome.status !== 'filled') throw new Error(outcome.status);
  return outcome.summary.pressureNeeded_Pa;
};

describe('what did it, by trials', () => {
  it('tells each change alone and all together, as runs of their own would', async () => {
    const end = await ask({ ...both, detail: 'fine' });
    if (end.status !== 'found') throw new Error(end.message);
    const [report] = end.report.shots;
    expect(report.alone.map((a) => a.label)).toEqual(['Gate G1, diameter', 'Melt temperature']);
    const found = effectsOn('pressureNeeded_Pa', report)!;
    const [before, alone, after] = [await pressureOf(base), await pressureOf(wider), await pressureOf(both)];
    // The grid is asked for, not that of the studies.
    expect([found.before, found.after]).toEqual([before, after]);
    expect(found.alone[0]).toBe(alone - before);
    for (const effect of found.alone) expect(effect).toBeLessThan(0);
    expect(found.interaction).toBeCloseTo(after - before - (found.alone[0] ?? 0) - (found.alone[1] ?? 0), 6);
  });

  it('says why it can not be asked', async () => {
    const why = async (other: Inputs) => {
      const end = await ask(other);
      return end.status === 'refused' ? end.message : '';
    };
    expect(await why({ ...base, detail: 'fine' })).toContain('the same inputs');
    const many = Array.from({ length: MOST_CAUSES + 1 }, (_, k) => ({ ...base.gates[0], id: `G${k + 2}` }));
    expect(await why({ ...base, gates: [...base.gates, ...many] })).toContain(`${MOST_CAUSES + 1} inputs differ`);
    expect(await why({ ...base, gates: [] })).toContain('All together');
  });

  it('of parts that differ, the part is one change', async () => {
    const thick = { mesh: box(0.05, 0.016, 0.003), key: 'thick' };
    const other = { ...hotter, bodies: [{ ...base.bodies[0], mesh: 'b'.repeat(64), name: 'Thick' }] };
    const end = await causeStudy(moulded, thick, { inputs: base, other, detail: 'quick' }, plainContext());
    if (end.status !== 'found') throw new Error(end.message);
    const { alone } = end.report.shots[0];
    expect(alone.map((a) => a.label)).toEqual(['Part', 'Melt temperature']);
    const mass = effectsOn('shotMass_kg', end.report.shots[0])!;
    // Half as much again; hotter melt is a little lighter.
    expect(mass.alone[0]! / mass.before).toBeCloseTo(0.5, 1);
    expect(Math.abs(mass.alone[1]! / mass.before)).toBeLessThan(0.05);
    expect(effectsOn('pressureNeeded_Pa', end.report.shots[0])!.alone[0]).toBeLessThan(0);
  });

  it('a change that can not be run alone is told, and the others go on', async () => {
    const second = { id: 'G2', position: [0.04, 0, 0.001] as [number, number, number], diameter: 0.0015 };
    const moved = { ...base, gates: [second], cycle: hotter.cycle };
    const end = await ask(moved);
    if (end.status !== 'found') throw new Error(end.message);
    const without = end.report.shots[0].alone.find((a) => a.label.includes('G1'))!;
    // No gate is left then.
    expect(without.summary).toBeNull();
    expect(without.why).toBeTruthy();
    expect(end.report.shots[0].alone.filter((a) => a.summary)).toHaveLength(end.report.shots[0].alone.length - 1);
  });
});
