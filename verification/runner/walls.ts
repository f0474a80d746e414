import { backedPlate, Channel, coolingPlate } from '../channel';
import { box } from '../shapes';
import type { Vec3 } from '../../src/core/geometry/mesh';
import type { ViscosityModel } from '../../src/core/material/viscosity';
import { WallStrain } from '../../src/core/solvers/pack/wallStrain';
import { CENTRES, EDGES, HALF_LAYERS } from '../../src/core/solvers/melt/layers';
import { byFunction, group, num, numbers, onGrid, type Finder, type Kind, type Row } from './cases';
import { crossWlf, oneTermTimes } from './formulas';

/** A wall held at its temperature, W/(m2 K). */
const FIXED = 1e9;
const ALL = Infinity;

const thermalOf = (i: Record<string, unknown>) => ({
  conductivity: num(i, 'k'),
  density: num(i, 'rho'),
  specificHeat: num(i, 'cp'),
});

const tilted = (degrees: number) => {
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  return (v: Vec3): Vec3 => [c * v[0] - s * v[2], v[1], s * v[0] + c * v[2]];
};

/** A slit without side walls: one row of nodes of a plate, at any tilt about its width. */
function strip(
  gap: number,
  length: number,
  thermal: ReturnType<typeof thermalOf>,
  melt: number,
  wall: number,
  viscosity: ViscosityModel,
  tilt: number,
  detail: 'normal' | 'fine' = 'normal',
) {
  const whole = length + 5 * gap;
  const c = new Channel({
    mesh: box(whole, 8 * gap, gap),
    length: whole,
    turn: tilted(tilt),
    detail,
    viscosity,
    thermal,
    melt,
    walls: [{ temperature: wall, transfer: FIXED }],
    strip: true,
  });
  return { c, section: gap * c.grid.spacing };
}

const steps = (c: Channel, flow: number) => {
  for (let k = 0, dt = 0.05; k < 60; k++, dt = Math.min(1, 1.35 * dt)) c.step(flow, dt, 3);
};

/** Case 5, slit: a cold slit through which melt flows, one run a velocity. */
export const coldSlit: Kind = ({ inputs: i }, lie) => {
  const [gap, length] = [num(i, 'H'), num(i, 'L')];
  const runs = new Map<number, Channel>();
  const run = (U: number) => {
    const known = runs.get(U);
    if (known) return known;
    const { c, section } = strip(
      gap,
      length,
      thermalOf(i),
      num(i, 'T_melt'),
      num(i, 'T_wall'),
      crossWlf(group(i, 'visc')),
      lie.tilt,
    );
    steps(c, U * section);
    runs.set(U, c);
    return c;
  };
  return ({ q, at }) => {
    const c = run(num(at, 'U'));
    const h = c.grid.spacing;
    const p = (x: number) => c.at(x, ALL, (k) => c.solver.pressure[k]);
    const values: Record<string, () => number> = {
      pressure_drop: () => 2 * p(h) - p(2 * h) - p(length),
      bulk_temperature_exit: () => c.at(length, ALL, (k) => c.columns.bulkTemperature(k)),
      T_exit: () => c.at(length, ALL, (k) => c.columns.temperatureAt(k, 0, num(at, 'y_over_h'))),
      'minus_dp/dx_exit': () => (p(length - 4 * h) - p(length)) / (4 * h),
      wall_heat_flux_exit: () =>
        c.at(length, ALL, (k) => FIXED * (c.columns.surfaceTemperature(k, 0) - num(i, 'T_wall'))),
    };
    return onGrid(values[q]?.());
  };
};

/** Case 5, Graetz: temperature and Nusselt number along a slit with a parabolic profile. */
export const graetz: Kind = ({ inputs: i }, lie) => {
  const [gap, wall] = [num(i, 'H'), num(i, 'T_wall')];
  const thermal = thermalOf(i);
  const farthest = 0.26;
  const model = { kind: 'newtonian', eta: 1e-3 } as const;
  const { c, section } = strip(gap, farthest, thermal, num(i, 'T_in'), wall, model, lie.tilt, 'fine');
  for (let k = 0; k < 12; k++) c.step(num(i, 'U') * section, 1e4, 2);
  const bulk = (x: number) => c.at(x, ALL, (k) => c.columns.bulkTemperature(k));
  const local = (x: number) =>
    c.at(x, ALL, (k) => {
      const flux = FIXED * (c.columns.surfaceTemperature(k, 0) - wall);
      return (flux * 2 * gap) / (thermal.conductivity * (c.columns.bulkTemperature(k) - wall));
    });
  return ({ q, at }) => {
    if (q === 'Nu_asymptotic') return onGrid(local(farthest - 0.02));
    if (!at || num(at, 'x') > farthest - 0.01) return null;
    const x = num(at, 'x');
    const values: Record<string, () => number> = {
      T_bulk: () => bulk(x),
      theta_bulk: () => (bulk(x) - wall) / (num(i, 'T_in') - wall),
      Nu_local: () => local(x),
    };
    return onGrid(values[q]?.());
  };
};

/** Case 5, dissipation: developed heating by shear; next to no heat capacity, so that it develops at once. */
export const dissipation: Kind = ({ inputs: i }, lie) => {
  const wall = 400;
  const gap = num(i, 'H');
  const thermal = { conductivity: num(i, 'k'), density: 1, specificHeat: 1 };
  const developed = (model: ViscosityModel) => {
    const { c, section } = strip(gap, 0.03, thermal, wall, wall, model, lie.tilt);
    for (let k = 0; k < 3; k++) c.step(num(i, 'U') * section, 1e4, 20);
    return c;
  };
  const newtonian = developed({ kind: 'newtonian', eta: num(i, 'eta') });
  const thinning = developed({ kind: 'power-law', K: num(i, 'K'), n: num(i, 'n') });
  const of = (c: Channel, f: (columns: Channel['columns'], k: number) => number) =>
    c.at(0.025, ALL, (k) => f(c.columns, k));
  const flux = of(newtonian, (x, k) => FIXED * (x.surfaceTemperature(k, 0) - wall));
  const bulk = of(newtonian, (x, k) => x.bulkTemperature(k)) - wall;
  const values: Record<string, number> = {
    centre_rise: of(newtonian, (x, k) => x.middleTemperature(k)) - wall,
    bulk_rise: bulk,
    rise_at_half: of(newtonian, (x, k) => x.temperatureAt(k, 0, 0.5)) - wall,
    wall_heat_flux: flux,
    Nu_dissipation: (flux * 2 * gap) / (thermal.conductivity * bulk),
    centre_rise_power_law: of(thinning, (x, k) => x.middleTemperature(k)) - wall,
  };
  return ({ q }) => onGrid(values[q]);
};

/** Values over time, read between its steps. */
class Course {
  readonly time: number[] = [];
  readonly values: Record<string, number[]> = {};

  push(time: number, now: Record<string, number>): void {
    this.time.push(time);
    for (const [key, value] of Object.entries(now)) (this.values[key] ??= []).push(value);
  }

  at(key: string, t: number): number {
    const list = this.values[key];
    const k = this.time.findIndex((x) => x >= t - 1e-12);
    if (k <= 0) return k < 0 ? NaN : list[0];
    return list[k - 1] + ((list[k] - list[k - 1]) * (t - this.time[k - 1])) / (this.time[k] - this.time[k - 1]);
  }

  /** When the values fall through one. */
  passes(key: string, value: number): number {
    const list = this.values[key];
    const k = list.findIndex((x) => x <= value);
    if (k <= 0) return NaN;
    return this.time[k - 1] + ((list[k - 1] - value) / (list[k - 1] - list[k])) * (this.time[k] - this.time[k - 1]);
  }
}

const LONGEST = 80;

function cooled(rest: (dt: number) => void, look: () => Record<string, number>, first: number, most: number): Course {
  const course = new Course();
  for (let t = 0, dt = first; t < LONGEST; dt = Math.min(most, 1.15 * dt)) {
    rest(dt);
    t += dt;
    course.push(t, look());
  }
  return course;
}

/** Case 6 a to c: a plate between walls. */
export const plate: Kind = ({ inputs: i }) => {
  const wall = 'T_wall' in i ? num(i, 'T_wall') : null;
  const walls: [number, number] = wall === null ? [num(i, 'T_wall_1'), num(i, 'T_wall_2')] : [wall, wall];
  const transfer = 'h' in i ? num(i, 'h') : FIXED;
  const thickness = num(i, 's');
  const c = coolingPlate(thermalOf(i), thickness, num(i, 'T_melt'), walls, transfer);
  const { columns, node } = c;
  const half = columns.nHalves - 1;
  const hottest = () => {
    let [T, place] = [-Infinity, 0];
    for (let k = -400; k <= 400; k++) {
      const zeta = k / 400;
      const value = columns.temperatureAt(node, zeta < 0 ? 0 : half, Math.abs(zeta));
      if (value > T) [T, place] = [value, zeta];
    }
    return { T, y: (thickness / 2) * (1 + place) };
  };
  const course = cooled(
    c.rest,
    () => ({
      mean: c.mean(),
      middle: c.middle(),
      quarter: columns.temperatureAt(node, half, 0.5),
      skin: columns.surfaceTemperature(node, half),
      ...(half ? { hottest: hottest().T, y: hottest().y, gradient: c.gradient() } : {}),
    }),
    0.005,
    0.05,
  );
  const ejection = num(i, 'T_eject');
  const biot = (transfer * thickness) / 2 / num(i, 'k');
  return ({ q, at }) => {
    const t = () => num(at, 't');
    const values: Record<string, () => number> = {
      T_centre: () => course.at('middle', t()),
      T_mid: () => course.at('middle', t()),
      T_mean: () => course.at('mean', t()),
      T_quarter: () => course.at('quarter', t()),
      T_part_surface: () => course.at('skin', t()),
      equivalent_linear_gradient: () => course.at('gradient', t()),
      t_centre_series: () => course.passes('middle', ejection),
      t_mean_series: () => course.passes('mean', ejection),
      t_centre: () => course.passes('middle', ejection),
      t_mean: () => course.passes('mean', ejection),
      t_mean_below_eject: () => course.passes('mean', ejection),
      t_max_below_eject: () => course.passes('hottest', ejection),
      y_of_max_at_that_time: () => course.at('y', course.passes('hottest', ejection)),
    };
    if (q === 't_centre_one_term') return byFunction(oneTermTimes(i).centre);
    if (q === 't_mean_one_term') return byFunction(oneTermTimes(i).mean);
    if (q === 'Bi_half') return byFunction(biot);
    return onGrid(values[q]?.());
  };
};

/** Case 6 d and e: fresh melt on a plate moulded before. */
export const onBacking: Kind = ({ inputs: i }) => {
  const layer = (key: string) => {
    const l = group(i, key);
    return { ...thermalOf(l), thickness: num(l, 's'), start: num(l, 'T0') };
  };
  const contact = typeof i.h_contact === 'number' ? i.h_contact : Infinity;
  const p = backedPlate(layer('A'), layer('B'), [num(i, 'Tw_A'), num(i, 'Tw_B')], contact);
  const course = cooled(
    p.rest,
    () => {
      const [a, b] = p.joint();
      return { meanA: p.meanMelt(), meanB: p.meanBacking(), jointA: a, jointB: b, hottest: p.hottest() };
    },
    0.005,
    0.05,
  );
  return ({ q, at }) => {
    const t = () => num(at, 't');
    const values: Record<string, () => number> = {
      T_mean_A: () => course.at('meanA', t()),
      T_mean_B: () => course.at('meanB', t()),
      T_interface_A: () => course.at('jointA', t()),
      T_interface_B: () => course.at('jointB', t()),
      t_max_of_A_below_eject: () => course.passes('hottest', num(i, 'T_eject')),
      t_mean_of_A_below_eject: () => course.passes('meanA', num(i, 'T_eject')),
    };
    return onGrid(values[q]?.());
  };
};

/** Case 7 a and b: the skin that freezes at a cold wall, and at steel. */
export const frozenSkin: Kind = ({ inputs: i }) => {
  const thermal = thermalOf(i);
  const effusivity = (k: number, rho: number, cp: number) => Math.sqrt(k * rho * cp);
  const melt = effusivity(thermal.conductivity, thermal.density, thermal.specificHeat);
  const steel = 'k_mould' in i ? effusivity(num(i, 'k_mould'), num(i, 'rho_mould'), num(i, 'cp_mould')) : null;
  const wall =
    steel === null ? num(i, 'T_wall') : (melt * num(i, 'T_melt') + steel * num(i, 'T_mould')) / (melt + steel);
  const c = coolingPlate(thermal, 0.006, num(i, 'T_melt'), [wall, wall], FIXED);
  const at = new Map<number, { skin: number; flux: number }>();
  let [t, dt] = [0, 1e-4];
  for (const time of numbers(i, 'times')) {
    while (t < time - 1e-9) {
      const step = Math.min(dt, time - t);
      c.rest(step);
      t += step;
      dt *= 1.1;
    }
    at.set(time, { skin: c.skin(num(i, 'T_freeze')), flux: c.flux() });
  }
  return ({ q, at: when }: Row) => {
    if (q === 'contact_temperature') return byFunction(wall);
    const found = when ? at.get(num(when, 't')) : undefined;
    if (!found) return null;
    return onGrid(q === 'frozen_thickness' ? found.skin : q === 'wall_heat_flux' ? found.flux : undefined);
  };
};

/** Case 14 e: a plate that turns solid from its faces and is free to shrink. */
export const solidifying: Kind = ({ inputs: i }): Finder => {
  const p = coolingPlate(
    thermalOf(i),
    num(i, 's'),
    num(i, 'T_melt'),
    [num(i, 'T_wall'), num(i, 'T_wall')],
    num(i, 'h'),
  );
  const solid = num(i, 'T_solid');
  const { node, columns } = p;
  const resin = {
    density: { density0: num(i, 'rho'), compressibility: 0 },
    transition: solid,
    expansion: num(i, 'alpha'),
    poisson: num(i, 'nu'),
    relaxation: null,
    crystalShare: 0,
  };
  const wall = new WallStrain(columns, resin, [node], columns.grid.n, num(i, 'T_melt'));
  const none = new Float64Array(columns.grid.n);
  const times = { surface: NaN, centre: NaN };
  for (let t = 0, dt = 0.002; t < 400; dt = Math.min(0.25, 1.01 * dt)) {
    p.rest(dt);
    t += dt;
    wall.look(dt, none, 'sliding');
    if (Number.isNaN(times.surface) && columns.surfaceTemperature(node, 0) < solid) times.surface = t;
    if (Number.isNaN(times.centre) && p.middle() < solid) times.centre = t;
  }
  const at = node * columns.nLayers;
  columns.temperature.fill(num(i, 'T_end'));
  wall.look(1, none, 'free', true);
  const own = wall.finish().node.inPlane.subarray(at, at + HALF_LAYERS);
  const mean = own.reduce((s, e, l) => s + e * (EDGES[l + 1] - EDGES[l]), 0);
  /** A parabola through the three layers nearest to a place. */
  const strainAt = (xi: number) => {
    let l = 0;
    while (l < HALF_LAYERS - 3 && CENTRES[l + 1] < xi) l++;
    const x = [0, 1, 2].map((k) => CENTRES[l + k]);
    return x.reduce((s, a, k) => {
      const others = x.filter((_, m) => m !== k);
      return s + own[l + k] * others.reduce((f, b) => (f * (xi - b)) / (a - b), 1);
    }, 0);
  };
  return ({ q, at: place }) => {
    const values: Record<string, () => number> = {
      t_surface_solid: () => times.surface,
      t_centre_solid: () => times.centre,
      residual_stress: () =>
        (num(i, 'E') / (1 - num(i, 'nu'))) * (mean - strainAt(num(place, 'y_over_half_thickness'))),
    };
    return onGrid(values[q]?.());
  };
};
