import { describe, expect, it } from 'vitest';
import { RESINS } from '../material/library';
import { diffusivity, meltThermal } from '../material/properties';
import { freezeTime } from '../material/cooling';
import { viscosity } from '../material/viscosity';
import { checkInputs, checkRun } from '../pipeline/checkRun';
import { resolveSettings } from '../setup/settings';
import { format } from '../units/reader';
import { fromSi, guessLengthUnit, toSi, type Unit } from '../units/units';
import { box } from '../../../verification/shapes';
import { inputKey } from './inputKey';
import { resinSchema } from './resin';
import { cavityBody, emptyInputs, type Inputs } from './study';
import { describeIssues, inputsOf, studyFileOf, studyFileSchema } from './studyFile';

const part = { volume: 1e-4, wall: 0.002 };
const gate = { id: 'G1', position: [0.01, 0.002, 0.001] as [number, number, number], diameter: 0.002 };
const inputs: Inputs = { ...emptyInputs('abc'), gates: [gate] };

describe('study file', () => {
  const full: Inputs = {
    ...inputs,
    cycle: {
      meltTemperature: 503.15,
      mouldTemperature: 318.15,
      lowerMouldTemperature: 308.15,
      injection: { by: 'flow-rate', flowRate: 8.25e-5 },
      machine: 'hask-110',
      pressureLimit: 9e7,
      switchover: { by: 'pressure', pressure: 8e7 },
      packing: {
        by: 'profile',
        as: 'share',
        points: [
          { at: 0, value: 0.9 },
          { at: 4, value: 0.5 },
        ],
      },
      coolingTime: 12,
      solidShare: 0.8,
      openTime: 3,
      wallTransfer: 2800,
      detachedTransfer: 900,
      venting: 'sealed',
    },
    probes: [{ id: 'P1', position: [0.01, 0.002, 0.001] }],
    detail: 'fine',
  };

  const turnedTool: Inputs = {
    ...inputs,
    tool: { ...inputs.tool, opening: [0.2, -0.4, 1], partingHeight: 0.012 },
    cycle: { ...inputs.cycle, venting: 'open' },
  };

  it.each([inputs, full, { ...full, resin: RESINS[2] }, turnedTool])('comes back as it was written', (before) => {
    const file = studyFileSchema.parse(JSON.parse(JSON.stringify(studyFileOf('x', before, 'part.stl', 'mm'))));
    expect({ ...inputsOf(file), bodies: before.bodies }).toEqual(before);
  });

  it.each([
    [{ version: 2 }, /version/],
    [{ cycle: { injectionTime_s: 1, flowRate_cm3_s: 10 } }, /give one of/],
    [{ gates: [{ id: 'a', position_mm: [0, 0], diameter_mm: 2 }] }, /position_mm/],
    [{ typo: 1 }, /typo/],
  ])('refuses %j', (patch, message) => {
    const result = studyFileSchema.safeParse({ ...studyFileOf('x', full, 'part.stl', 'mm'), ...patch });
    expect(result.success).toBe(false);
    expect(JSON.stringify(result.error?.issues)).toMatch(message);
  });

  it('tells what is missing from what is wrong', () => {
    const { resin: _, ...without } = studyFileOf('x', full, 'part.stl', 'mm');
    const missing = studyFileSchema.safeParse(without);
    expect(missing.error && describeIssues(missing.error, without)).toMatch(/^resin: is missing; give the id/);
    const wrong = { ...without, resin: 'x', detail: 'coarse' };
    const found = studyFileSchema.safeParse(wrong);
    expect(found.error && describeIssues(found.error, wrong)).toMatch(/^detail: /);
    const askew = { ...without, resin: 'x', tool: { opening: [0, 0, 0] } };
    expect(studyFileSchema.safeParse(askew).success).toBe(false);
  });

  it('its key changes with what changes numbers and not with names', () => {
    const renamed = { ...inputs, gates: [{ ...gate, id: 'other' }] };
    expect(inputKey(renamed)).toBe(inputKey(inputs));
    expect(inputKey({ ...inputs, gates: [{ ...gate, diameter: 0.003 }] })).not.toBe(inputKey(inputs));
    expect(inputKey({ ...inputs, detail: 'fine' })).not.toBe(inputKey(inputs));
    expect(inputKey(turnedTool)).not.toBe(inputKey({ ...turnedTool, tool: inputs.tool }));
  });
});

describe('resins', () => {
  it.each(RESINS.map((r) => [r.name, r] as const))('%s is complete and plausible', (_name, resin) => {
    expect(resinSchema.parse(resin)).toEqual(resin);
    const eta = viscosity(resin.viscosity, resin.melt.recommended, 0, 1000);
    expect(eta).toBeGreaterThan(20);
    expect(eta).toBeLessThan(600);
    expect(resin.ejectionTemperature).toBeLessThan(resin.noFlowTemperature);
    expect(resin.noFlowTemperature).toBeLessThan(resin.melt.min);
    expect(resin.mould.max).toBeLessThan(resin.ejectionTemperature);
    expect(diffusivity(meltThermal(resin))).toBeGreaterThan(5e-8);
    expect(diffusivity(meltThermal(resin))).toBeLessThan(2.5e-7);
  });

  it('freezing takes four times as long in twice the wall', () => {
    const [thin, thick] = [0.002, 0.004].map((h) => freezeTime(h, meltThermal(RESINS[0]), 500, 310, 400));
    expect(thick / thin).toBeCloseTo(4, 10);
    expect(freezeTime(0.002, meltThermal(RESINS[0]), 500, 410, 400)).toBe(Infinity);
  });
});

describe('defaults and checks', () => {
  it('what is not set follows from resin and part', () => {
    const settings = resolveSettings(inputs, part);
    expect(settings.meltTemperature).toBe(RESINS[0].melt.recommended);
    expect(settings.flowRate * settings.injectionTime).toBeCloseTo(part.volume, 12);
  });

  const targets = (patch: Partial<Inputs>) => checkInputs({ ...inputs, ...patch }, part).map((p) => p.target);
  const cycle = (patch: Partial<Inputs['cycle']>) => targets({ cycle: { ...inputs.cycle, ...patch } });
  it.each([
    ['nothing', targets({}), []],
    ['no part', checkInputs({ ...inputs, bodies: [] }, null).map((p) => p.target), ['part']],
    [
      'no cavity',
      checkInputs({ ...inputs, bodies: [{ ...cavityBody('abc'), role: 'insert' }] }, null).map((p) => p.target),
      ['roles'],
    ],
    ['no gate', targets({ gates: [] }), ['gates']],
    ['two gates on one spot', targets({ gates: [gate, { ...gate, id: 'G2' }] }), ['G2']],
    ['an unknown resin', targets({ resin: 'none' }), ['resin']],
    ['a melt colder than its flow', cycle({ meltTemperature: 380 }), ['meltTemperature']],
    ['a mould as hot as the melt', cycle({ mouldTemperature: 480 }), ['mouldTemperature']],
    ['a pressure limit of zero', cycle({ pressureLimit: 0 }), ['pressureLimit']],
  ])('%s', (_name, found, expected) => expect(found).toEqual(expected));

  it('a gate off the part, with its distance', () => {
    const { problems } = checkRun(
      { ...inputs, gates: [{ ...gate, position: [0.01, 0.002, 0.02] }] },
      box(0.04, 0.03, 0.002),
    );
    expect(problems[0].message).toMatch(/G1 is 19\.0 mm off/);
  });
});

describe('units', () => {
  const all: Unit[] = ['mm', 'cm', 'm', 'in', 's', '°C', 'K', 'MPa', 'cm³', 'cm³/s', '%', 'g'];
  it.each(all)('%s there and back', (unit) => expect(fromSi(toSi(12.5, unit), unit)).toBeCloseTo(12.5, 10));
  it('kelvin and pascal', () => {
    expect(toSi(20, '°C')).toBeCloseTo(293.15, 10);
    expect(format(1.234e8, 'MPa')).toBe('123 MPa');
    expect(format(-0.00212, 'mm')).toBe('−2.12 mm');
  });
  it.each([
    [180, 'mm'],
    [7.1, 'in'],
    [0.18, 'm'],
    [1500, 'mm'],
  ])('a part of extent %f is in %s', (extent, unit) => expect(guessLengthUnit(extent)).toBe(unit));
});
