import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import * as air from '../src/core/material/air';
import { relative } from './run';

interface Ended {
  end: number;
  half: number;
  massLeft: number;
}
const reference = JSON.parse(readFileSync(new URL('./reference/air.json', import.meta.url), 'utf8')) as {
  gamma: number;
  p0: number;
  T0: number;
  compressed: { ratio: number; isothermal: number; adiabatic: number; temperature: number }[];
  meltPressure: number;
  leftIsothermal: number;
  leftAdiabatic: number;
  vent: air.Vent;
  critical: number;
  ventFlow: { p: number; viscous: number; orifice: number; least: number }[];
  pocket: {
    volume: number;
    flow: number;
    endShare: number;
    viscous: Ended;
    least: Ended & { adiabaticEnd: number; adiabaticTemperature: number };
    sealedEnd: number;
    sealedTemperature: number;
  };
};
const { gamma, p0, T0, vent, pocket } = reference;
const state = air.airAt(T0);
const close = (value: number, expected: number, within = 1e-4) =>
  expect(Math.abs(relative(value, expected))).toBeLessThan(within);

describe('air pressed without a vent', () => {
  it.each(reference.compressed)('to 1/$ratio', ({ ratio, isothermal, adiabatic, temperature }) => {
    close(air.isothermalPressure(p0, ratio), isothermal);
    close(air.adiabaticPressure(p0, ratio, gamma), adiabatic);
    close(air.adiabaticTemperature(T0, ratio, gamma), temperature);
  });

  it('until it holds the melt', () => {
    close(air.volumeRatioAt(reference.meltPressure, p0), reference.leftIsothermal);
    close(air.volumeRatioAt(reference.meltPressure, p0, gamma), reference.leftAdiabatic);
  });
});

describe('vents', () => {
  it.each(reference.ventFlow)('at $p Pa', ({ p, viscous, orifice, least }) => {
    close(air.viscousVentFlow(vent, state, p, T0), viscous);
    close(air.orificeFlow(vent, state, p, T0), orifice);
    close(air.ventFlow(vent, state, p, T0), least);
  });

  it('choke at the critical ratio', () => close(air.criticalRatio(gamma), reference.critical, 1e-5));
});

describe('a pocket that the melt fills', () => {
  const end = pocket.endShare * pocket.volume;
  const time = (pocket.volume - end) / pocket.flow;
  const filled = (law: 'isothermal' | 'adiabatic', outflow: ((p: number, T: number) => number) | null) => {
    const p = new air.AirPocket(state, law, pocket.volume, p0, outflow);
    const start = p.mass;
    p.squeeze(pocket.volume - (pocket.flow * time) / 2, time / 2);
    const half = p.pressure;
    p.squeeze(end, time / 2);
    return { half, end: p.pressure, temperature: p.temperature, massLeft: p.mass / start };
  };

  it.each([
    ['viscous vent', pocket.viscous, air.viscousVentFlow],
    ['vent that may choke', pocket.least, air.ventFlow],
  ] as const)('%s', (_name, expected, law) => {
    const found = filled('isothermal', (p, T) => law(vent, state, p, T));
    close(found.end, expected.end, 0.01);
    close(found.half, expected.half, 0.01);
    close(found.massLeft, expected.massLeft, 0.01);
  });

  it('without heat exchange', () => {
    const found = filled('adiabatic', (p, T) => air.ventFlow(vent, state, p, T));
    close(found.end, pocket.least.adiabaticEnd, 0.01);
    close(found.temperature, pocket.least.adiabaticTemperature, 0.01);
    const sealed = filled('adiabatic', null);
    close(sealed.end, pocket.sealedEnd, 1e-3);
    close(sealed.temperature, pocket.sealedTemperature, 1e-3);
  });
});
