import { describe, expect, it } from 'vitest';
import { RESINS } from '../material/library';
import { defaultCore } from '../model/core';
import { cavityBody, emptyInputs, inputsSchema, type Inputs } from '../model/study';
import { resolveSettings } from '../setup/settings';
import { skinEstimate } from './coreEstimate';
import { coreFactsSchema, type CoreFacts } from './coreFacts';
import { doesTheCoreComeRight } from './coreRight';
import { VERDICT_RULES } from './rules';
import type { FillFacts } from './willItFill';

const HERE: [number, number, number] = [0.05, 0, 0.004];
const core = { ...defaultCore(), needles: [{ id: 'N1', position: HERE }] };
const inputs: Inputs = { ...emptyInputs(), bodies: [cavityBody('a'.repeat(64))], core };
const settings = resolveSettings(inputs, { volume: 4e-5, wall: 0.01 });

const good: CoreFacts = {
  fluid: 'Nitrogen',
  melt: false,
  meltShare: 0.8,
  meltEnded_s: 4,
  from_s: 4.5,
  released_s: 40,
  volume_m3: 1e-5,
  share: 0.25,
  peakPressure_Pa: 1.5e7,
  mass_kg: 1e-3,
  saved_kg: 9e-3,
  length_m: 0.1,
  tip_m: HERE,
  skin_m: { low: 2e-3, mean: 2.5e-3, high: 3e-3 },
  thinnest_m: HERE,
  thinnestShare: 0.4,
  solidShare: 0.02,
  solid_m: HERE,
  fingered: 0,
  finger_m: null,
  broken: null,
};
const asked = (f: Partial<CoreFacts>, stall: FillFacts['stallReason'] = null, study = inputs) =>
  doesTheCoreComeRight(coreFactsSchema.parse({ ...good, ...f }), stall, study, settings);

describe('does the core come out right', () => {
  it('a core that runs where it should is good, with its length and what it saves', () => {
    const answer = asked({});
    expect([answer.verdict, answer.key.value, answer.try]).toEqual(['good', '100 mm', []]);
    expect(answer.where).toEqual({ label: 'Tip of the core', position: HERE, field: 'coreShare' });
    expect(answer.why.join(' ')).toContain('saves 9.00 g');
  });

  it.each([
    ['solidEnd', (v: number) => asked({ solidShare: v }), 'less-melt'],
    ['thinSkin', (v: number) => asked({ thinnestShare: v }), 'later-core'],
    ['fingered', (v: number) => asked({ fingered: v, finger_m: HERE }), 'later-for-fingers'],
  ] as const)('%s: its limits, a reason, and a try that is a study', (id, at, tried) => {
    const { watch, problem, worse } = VERDICT_RULES[id];
    const step = worse === 'above' ? 1e-6 : -1e-6;
    expect(at(watch - step).verdict).toBe('good');
    expect([at(watch + step).verdict, at(problem - step).verdict]).toEqual(['watch', 'watch']);
    expect(at(problem + step).verdict).toBe('problem');
    const answer = at(problem + step);
    expect(answer.why.join(' ')).not.toMatch(/NaN|undefined|Infinity/);
    expect(answer.try.map((t) => t.id)).toContain(tried);
    for (const { inputs: study } of answer.try) {
      expect(inputsSchema.safeParse(study).error?.issues ?? []).toEqual([]);
      expect(study).not.toEqual(inputs);
    }
  });

  it('a blow-through asks for more melt, and no more than keeps a core', () => {
    const answer = asked({ broken: { place_m: HERE, time_s: 5 }, share: 0.3, meltShare: 0.6 }, 'blow-through');
    expect([answer.verdict, answer.where?.label]).toEqual(['problem', 'Where it breaks through']);
    const [more] = answer.try;
    expect(more.inputs.core?.melt).toEqual({ by: 'share', share: 0.73 });
  });

  it('melt that stands asks for pressure, or for the fluid to come sooner', () => {
    const answer = asked({ volume_m3: 1e-6 }, 'core');
    expect(answer.try.map((t) => t.id)).toEqual(['higher-pressure', 'sooner']);
    expect(answer.try[0].inputs.core?.drive).toMatchObject({ pressure: 22.5e6 });
    // Without the inputs that it came from, as of an older run, there is nothing to try.
    const { core: _, ...plain } = inputs;
    expect(asked({ volume_m3: 1e-6 }, 'core', plain).try).toEqual([]);
  });

  it('nothing to displace is said as that', () => {
    const none = { low: NaN, mean: NaN, high: NaN };
    const answer = asked({ volume_m3: 0, skin_m: none, tip_m: null, thinnest_m: null, thinnestShare: NaN });
    expect(answer.headline).toContain('nothing to displace');
    expect(answer.key.note).toBe('nothing is hollow');
  });
});

describe('what melt it takes at least, before a run', () => {
  it('lies between none of the section and what a Newtonian melt leaves, less for melts that thin more', () => {
    for (const resin of RESINS) {
      const { slit, round } = skinEstimate(resin);
      expect(slit).toBeGreaterThan(0);
      expect(slit).toBeLessThan(round);
      expect(round).toBeLessThanOrEqual(0.601);
    }
    const of = (n: number) => skinEstimate({ viscosity: { kind: 'power-law', K: 1e4, n } }).slit;
    expect(of(0.3)).toBeCloseTo(0.3067, 4);
    expect(of(0.3)).toBeLessThan(of(0.6));
  });
});
