import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { RESINS } from '../src/core/material/library';
import { meltThermal } from '../src/core/material/properties';
import { viscosity, type ViscosityModel } from '../src/core/material/viscosity';
import { thermalTables } from '../src/core/solvers/melt/thermalTables';
import { shearRateAt, stressForm } from '../src/core/material/stressForm';
import { backedPlate, Channel, coolingPlate } from './channel';
import { relative } from './run';
import { box } from './shapes';

interface Solid {
  conductivity: number;
  density: number;
  specificHeat: number;
}
interface Reference {
  slit: Solid & {
    gap: number;
    length: number;
    melt: number;
    wall: number;
    viscosity: ViscosityModel;
    flows: {
      velocity: number;
      pressureDrop: number;
      withoutCrossFlow: number;
      bulkAtExit: number;
      profile: { place: number; T: number; within: number }[];
    }[];
  };
  graetz: Solid & {
    gap: number;
    velocity: number;
    melt: number;
    wall: number;
    places: { x: number; bulk: number; nusselt: number }[];
  };
  dissipation: {
    gap: number;
    velocity: number;
    eta: number;
    conductivity: number;
    K: number;
    n: number;
    centreRise: number;
    bulkRise: number;
    riseAtHalf: number;
    centreRisePowerLaw: number;
    wallFlux: number;
  };
  plates: (Solid & {
    thickness: number;
    melt: number;
    walls: [number, number];
    transfer: number | null;
    ejection: number;
    times: { t: number; mean: number; middle: number; gradient?: number }[];
    centreTime?: number;
    meanTime: number;
  })[];
  backed: {
    melt: Solid & { thickness: number; start: number };
    backing: Solid & { thickness: number; start: number };
    walls: [number, number];
    contact: number | null;
    ejection: number;
    hottestTime: number;
    meanTime: number;
    times: { t: number; meanMelt: number; meanBacking: number; jointMelt: number; jointBacking: number }[];
  }[];
  skin: Solid & {
    melt: number;
    wall: number;
    freeze: number;
    times: { t: number; skin: number; flux: number }[];
    mould: { wall: number; times: { t: number; skin: number }[] };
  };
}
const reference = JSON.parse(readFileSync(new URL('./reference/heat.json', import.meta.url), 'utf8')) as Reference;
/** A wall held at its temperature. */
const FIXED = 1e9;

/** Turns about the width of a plate: its middle row of nodes stays one row, the wall lies across the grid. */
const TILTS = [0, 13, 30, 45];
const tilted = (degrees: number) => {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  return (v: Vec3): Vec3 => [c * v[0] - s * v[2], v[1], s * v[0] + c * v[2]];
};

/**
 * A slit without side walls: one row of nodes of a plate, at any tilt. (A wide cold slit does not keep
 * one profile over its width: hot streams feed on themselves. That is another problem than the reference.)
 */
function channel(
  solid: Solid & { gap: number; melt: number; wall: number },
  length: number,
  model: ViscosityModel,
  tilt = 0,
  detail: 'normal' | 'fine' = 'normal',
) {
  const { gap } = solid;
  // Gating and outlet faces are cut at a slant where the wall is tilted: they stay out of the measured length.
  const whole = length + 5 * gap;
  const c = new Channel({
    mesh: box(whole, 8 * gap, gap),
    length: whole,
    turn: tilted(tilt),
    detail,
    viscosity: model,
    thermal: solid,
    melt: solid.melt,
    walls: [{ temperature: solid.wall, transfer: FIXED }],
    strip: true,
  });
  return { c, section: gap * c.grid.spacing };
}
const ALL = Infinity;

describe('developing flow between cold walls', () => {
  const { slit } = reference;
  it.each(TILTS.flatMap((tilt) => [0, 1, 2].map((which) => ({ which, tilt }))))(
    'flow $which, tilted by $tilt degrees',
    ({ which, tilt }) => {
      const expected = slit.flows[which];
      const { c, section } = channel(slit, slit.length, slit.viscosity, tilt);
      for (let k = 0, dt = 0.05; k < 60; k++, dt = Math.min(1, 1.35 * dt)) c.step(expected.velocity * section, dt, 3);
      const p = (x: number) => c.at(x, ALL, (i) => c.solver.pressure[i]);
      const h = c.grid.spacing;
      const drop = 2 * p(h) - p(2 * h) - p(slit.length);
      expect(Math.abs(relative(drop, expected.pressureDrop))).toBeLessThan(0.025);
      const bulk = c.at(slit.length, ALL, (i) => c.columns.bulkTemperature(i));
      expect(Math.abs(bulk - expected.bulkAtExit)).toBeLessThan(1);
      for (const { place, T, within } of expected.profile) {
        const found = c.at(slit.length, ALL, (i) => c.columns.temperatureAt(i, 0, place));
        expect(Math.abs(found - T)).toBeLessThan(within);
      }
      // The flow across the wall counts: without it the drop would be this much off.
      if (which > 0)
        expect(Math.abs(relative(expected.withoutCrossFlow, expected.pressureDrop))).toBeGreaterThan(0.025);
    },
    60_000,
  );
});

describe('closed forms of heat in a slit', () => {
  it.each([0, 30])('Graetz: bulk temperature and Nusselt number along the way, tilted by %i degrees', (tilt) => {
    const { graetz: g } = reference;
    const { c, section } = channel(g, 0.26, { kind: 'newtonian', eta: 1e-3 }, tilt, 'fine');
    for (let k = 0; k < 12; k++) c.step(g.velocity * section, 1e4, 2);
    for (const { x, bulk, nusselt } of g.places) {
      if (x > 0.25) continue;
      expect(Math.abs(c.at(x, ALL, (i) => c.columns.bulkTemperature(i)) - bulk)).toBeLessThan(1.5);
      const found = c.at(x, ALL, (i) => {
        const flux = FIXED * (c.columns.surfaceTemperature(i, 0) - g.wall);
        return (flux * 2 * g.gap) / (g.conductivity * (c.columns.bulkTemperature(i) - g.wall));
      });
      // A few cells from the entry the first order along the flow is felt.
      expect(Math.abs(relative(found, nusselt))).toBeLessThan(x < 0.01 ? 0.05 : 0.02);
    }
  });

  it('fully developed heating by shear', () => {
    const d = reference.dissipation;
    const wall = 400;
    // Next to no heat capacity: developed at once.
    const solid = { gap: d.gap, conductivity: d.conductivity, density: 1, specificHeat: 1, melt: wall, wall };
    const developed = (model: ViscosityModel) => {
      const { c, section } = channel(solid, 0.03, model);
      for (let k = 0; k < 3; k++) c.step(d.velocity * section, 1e4, 20);
      return c;
    };
    const newtonian = developed({ kind: 'newtonian', eta: d.eta });
    const { columns } = newtonian;
    const value = (f: (node: number) => number) => newtonian.at(0.025, ALL, f);
    expect(Math.abs(relative(value((i) => columns.middleTemperature(i)) - wall, d.centreRise))).toBeLessThan(0.01);
    expect(Math.abs(relative(value((i) => columns.bulkTemperature(i)) - wall, d.bulkRise))).toBeLessThan(0.01);
    expect(Math.abs(relative(value((i) => columns.temperatureAt(i, 0, 0.5)) - wall, d.riseAtHalf))).toBeLessThan(0.01);
    const flux = value((i) => FIXED * (columns.surfaceTemperature(i, 0) - wall));
    expect(Math.abs(relative(flux, d.wallFlux))).toBeLessThan(0.01);
    const thinning = developed({ kind: 'power-law', K: d.K, n: d.n });
    const rise = thinning.at(0.025, ALL, (i) => thinning.columns.middleTemperature(i)) - wall;
    expect(Math.abs(relative(rise, d.centreRisePowerLaw))).toBeLessThan(0.01);
  });
});

describe('a plate cools', () => {
  it.each(reference.plates)('$thickness m between $walls K, transfer $transfer', (plate) => {
    const cooling = coolingPlate(plate, plate.thickness, plate.melt, plate.walls, plate.transfer ?? FIXED);
    const means: number[] = [];
    const middles: number[] = [];
    const at: number[] = [];
    for (let t = 0, dt = 0.01; t < 16; dt = Math.min(0.1, dt * 1.2)) {
      cooling.rest(dt);
      t += dt;
      at.push(t);
      means.push(cooling.mean());
      middles.push(cooling.middle());
    }
    const value = (list: number[], t: number) => {
      const i = at.findIndex((x) => x >= t);
      return list[i - 1] + ((list[i] - list[i - 1]) * (t - at[i - 1])) / (at[i] - at[i - 1]);
    };
    const passes = (list: number[], T: number) => {
      const i = list.findIndex((x) => x <= T);
      return at[i - 1] + ((list[i - 1] - T) / (list[i - 1] - list[i])) * (at[i] - at[i - 1]);
    };
    for (const { t, mean, middle } of plate.times) {
      expect(Math.abs(value(means, t) - mean)).toBeLessThan(0.5);
      expect(Math.abs(value(middles, t) - middle)).toBeLessThan(0.5);
    }
    expect(Math.abs(relative(passes(means, plate.ejection), plate.meanTime))).toBeLessThan(0.01);
    if (plate.centreTime)
      expect(Math.abs(relative(passes(middles, plate.ejection), plate.centreTime))).toBeLessThan(0.01);
  });

  it('unequal walls bend the profile as they should', () => {
    const plate = reference.plates[2];
    const cooling = coolingPlate(plate, plate.thickness, plate.melt, plate.walls, FIXED);
    let t = 0;
    for (const expected of plate.times) {
      while (t < expected.t - 1e-9) {
        const dt = Math.min(0.05, expected.t - t);
        cooling.rest(dt);
        t += dt;
      }
      expect(Math.abs(relative(cooling.gradient(), expected.gradient as number))).toBeLessThan(0.02);
    }
  });

  it('second order in time', () => {
    const plate = reference.plates[1];
    const after = (steps: number) => {
      const cooling = coolingPlate(plate, plate.thickness, plate.melt, plate.walls, plate.transfer as number);
      for (let k = 0; k < steps; k++) cooling.rest(6 / steps);
      return cooling.mean();
    };
    const [a, b, c] = [after(10), after(20), after(40)];
    expect(Math.log2((a - b) / (b - c))).toBeGreaterThan(1.7);
  });

  describe('and crystallises', () => {
    const pp = RESINS[0];
    const thermal = meltThermal(pp);
    const tables = thermalTables(pp.specificHeat, pp.conductivity, thermal);
    const plate = () => coolingPlate({ ...thermal, tables }, 0.002, 503, [313, 313], 3500);

    it('gives its walls what it loses, latent heat too, however long the steps are', () => {
      for (const steps of [12, 60]) {
        const cooling = plate();
        const before = cooling.stored();
        for (let k = 0; k < steps; k++) cooling.rest(15 / steps);
        const gone = before - cooling.stored();
        expect(cooling.middle()).toBeLessThan(pp.transitionTemperature);
        expect(Math.abs(cooling.lost() / gone - 1)).toBeLessThan(0.02);
      }
    });

    it('converges with shorter steps', () => {
      const after = (steps: number) => {
        const cooling = plate();
        for (let k = 0; k < steps; k++) cooling.rest(8 / steps);
        return cooling.mean();
      };
      const [a, b, c] = [after(20), after(40), after(160)];
      expect(Math.abs(b - c)).toBeLessThan(0.55 * Math.abs(a - c));
      expect(Math.abs(a - c)).toBeLessThan(2);
    });
  });
});

describe('fresh melt on a plate moulded before', () => {
  it.each(reference.backed)('contact $contact W/(m2 K)', (c) => {
    const plate = backedPlate(c.melt, c.backing, c.walls, c.contact ?? Infinity);
    let t = 0;
    let dt = 1e-3;
    let [hottest, mean] = [NaN, NaN];
    const passed = (before: number, after: number, T: number, step: number) =>
      t - step * ((T - after) / (before - after));
    for (const expected of c.times) {
      while (t < expected.t - 1e-9) {
        const step = Math.min(dt, expected.t - t);
        const [h, m] = [plate.hottest(), plate.meanMelt()];
        plate.rest(step);
        t += step;
        dt = Math.min(0.05, 1.1 * dt);
        if (h > c.ejection && plate.hottest() <= c.ejection) hottest = passed(h, plate.hottest(), c.ejection, step);
        if (m > c.ejection && plate.meanMelt() <= c.ejection) mean = passed(m, plate.meanMelt(), c.ejection, step);
      }
      expect(Math.abs(plate.meanMelt() - expected.meanMelt)).toBeLessThan(0.7);
      expect(Math.abs(plate.meanBacking() - expected.meanBacking)).toBeLessThan(0.7);
      const [melt, backing] = plate.joint();
      expect(Math.abs(melt - expected.jointMelt)).toBeLessThan(1);
      expect(Math.abs(backing - expected.jointBacking)).toBeLessThan(1);
    }
    expect(Math.abs(relative(hottest, c.hottestTime))).toBeLessThan(0.015);
    expect(Math.abs(relative(mean, c.meanTime))).toBeLessThan(0.015);
  });
});

describe('frozen skin at a cold wall', () => {
  const { skin } = reference;
  it.each([
    ['held at the mould temperature', skin.wall, skin.times],
    ['at the contact temperature of steel', skin.mould.wall, skin.mould.times],
  ] as const)('%s', (_name, wall, times) => {
    const cooling = coolingPlate(skin, 0.006, skin.melt, [wall, wall], FIXED);
    let t = 0;
    let dt = 1e-4;
    for (const expected of times) {
      while (t < expected.t - 1e-9) {
        const step = Math.min(dt, expected.t - t);
        cooling.rest(step);
        t += step;
        dt *= 1.1;
      }
      expect(Math.abs(relative(cooling.skin(skin.freeze), expected.skin))).toBeLessThan(0.01);
      if ('flux' in expected) expect(Math.abs(relative(cooling.flux(), expected.flux as number))).toBeLessThan(0.02);
    }
  });
});

describe('the stress form is the viscosity model', () => {
  it.each([
    reference.slit.viscosity,
    { kind: 'power-law', K: 9000, n: 0.35 } as const,
    { kind: 'cross', eta0: 2100, tauStar: 26000, n: 0.29 } as const,
  ])('$kind', (model) => {
    const form = stressForm(model);
    for (const T of [420, 460, 503.15])
      for (const rate of [1, 100, 1e4]) {
        const stress = rate * viscosity(model, T, 2e7, rate);
        expect(Math.abs(relative(shearRateAt(form, T, 2e7, stress), rate))).toBeLessThan(1e-3);
      }
  });
});
