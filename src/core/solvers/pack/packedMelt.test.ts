import { describe, expect, it } from 'vitest';
import { filledCavity, type PackCase } from '../../../../verification/packing';
import { box, ORIENTATIONS } from '../../../../verification/shapes';
import { packTree } from '../../formats/tree';
import { resinById } from '../../material/library';
import { meltThermal } from '../../material/properties';
import { Cavity } from '../shot/cavity';
import { constantPressure } from './control';
import type { PackInput } from './outcome';
import { PackedMelt } from './packedMelt';

const resin = resinById('pp-hollin-h14')!;
const MELT = 503;
const FULL = 1e7;
const LENGTH = 0.04;

/** A full plate, fed at its end, with walls at 313 K. */
function plate(turn: PackCase['turn'], own: Partial<PackInput> = {}) {
  const filled = filledCavity({
    mesh: box(LENGTH, 0.016, 0.002),
    turn,
    detail: 'quick',
    viscosity: resin.viscosity,
    noFlow: resin.noFlowTemperature,
    thermal: meltThermal(resin, MELT),
    walls: [{ temperature: 313, transfer: 2000 }],
    melt: MELT,
    before: FULL,
    inletAt: ([x]) => x < 0.004,
    density: resin.pvt,
  });
  const input: PackInput = {
    ...filled.spec,
    nGates: 1,
    switchedAt: 0,
    density: resin.pvt,
    control: constantPressure(3e7, 10),
    detachedTransfer: 1000,
    ejectionTemperature: resin.ejectionTemperature,
    transitionTemperature: resin.transitionTemperature,
    noFlowTemperature: resin.noFlowTemperature,
    solidShare: 0.9,
    coolingTime: null,
    freezeTime: 4,
    projectedArea: null,
    ...own,
  };
  const cavity = new Cavity(filled.spec, filled.state);
  const melt = new PackedMelt(input, cavity);
  /** A step as the stage takes it: which nodes are open, heat, pressure. */
  const step = (dt: number, nozzle: number, open: boolean) => {
    melt.anyOpen = open;
    melt.open.fill(open ? 1 : 0);
    melt.cool(dt);
    return melt.press(dt, nozzle, dt);
  };
  const freeMass = () => melt.free.reduce((s, i) => s + melt.mass[i], 0);
  const mean = () => melt.free.reduce((s, i) => s + cavity.solver.pressure[i], 0) / melt.free.length;
  return { melt, cavity, step, freeMass, mean };
}

describe.each(Object.entries(ORIENTATIONS))('melt under pressure, %s', (_, turn) => {
  it('takes in what the gates give, and presses as the nozzle does', () => {
    const { melt, step, freeMass, mean } = plate(turn);
    const before = melt.mass.reduce((s, m) => s + m, 0);
    for (let k = 0; k < 6; k++) expect(step(0.01, 3e7, true)).toBe(true);
    expect(melt.massIn).toBeGreaterThan(0);
    expect((melt.mass.reduce((s, m) => s + m, 0) - before) / melt.massIn).toBeCloseTo(1, 6);
    expect(melt.massError).toBeLessThan(1e-6);
    expect(mean() / 3e7).toBeCloseTo(1, 1);
    expect(freeMass()).toBeGreaterThan(0);
  });

  it('with every way closed keeps its mass to the last bit, and its pressure falls as it cools', () => {
    const { step, freeMass, mean } = plate(turn);
    step(0.01, FULL, true);
    const [mass, pressure] = [freeMass(), mean()];
    let last = pressure;
    for (let k = 0; k < 4; k++) {
      expect(step(0.05, 3e7, false)).toBe(true);
      expect(freeMass()).toBe(mass);
      expect(mean()).toBeLessThan(last);
      last = mean();
    }
  });

  it('without pressure it comes off the wall, which then takes up less heat, and lacks what was not fed', () => {
    const { melt, cavity, step } = plate(turn);
    for (let k = 0; k < 40; k++) step(0.25, 0, false);
    expect(melt.quiet).toBe(true);
    for (const i of melt.free) {
      expect([melt.loose[i], cavity.solver.pressure[i]]).toEqual([1, 0]);
      expect(melt.missing(i)).toBeGreaterThan(0.01);
      expect(cavity.columns!.side(i, 0).transfer).toBe(1000);
    }
    // The walls of the filling are as they were: another phase may start from them.
    expect(cavity.spec.heat?.sides).toHaveLength(1);
  });

  it('a step that is put back has never been', () => {
    const { melt, cavity, step } = plate(turn);
    step(0.01, 3e7, true);
    const before = packTree({ state: cavity.state(0), mass: melt.mass.slice() });
    const putBack = melt.mark();
    step(0.05, 6e7, true);
    expect(Buffer.compare(packTree({ state: cavity.state(0), mass: melt.mass.slice() }), before)).not.toBe(0);
    putBack();
    const { node, layer, link, machine } = cavity.state(0);
    // What a step works out anew before it is read needs not come back.
    const read = { pressure: node.pressure, fluidity: node.fluidity, temperature: layer.temperature, flow: link.flow };
    expect(machine.pressure).toBe(3e7);
    const again = plate(turn);
    again.step(0.01, 3e7, true);
    const fresh = again.cavity.state(0);
    expect(read.pressure).toEqual(fresh.node.pressure);
    expect(read.fluidity).toEqual(fresh.node.fluidity);
    expect(read.temperature).toEqual(fresh.layer.temperature);
    expect(read.flow).toEqual(fresh.link.flow);
    expect(melt.mass).toEqual(again.melt.mass);
  });
});
