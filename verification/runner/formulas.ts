import * as air from '../../src/core/material/air';
import { freezeTime } from '../../src/core/material/cooling';
import { halfGlycolAt, waterAt, type CoolantState } from '../../src/core/material/coolantLaw';
import * as pvt from '../../src/core/material/pvt';
import { viscosity, type ViscosityModel } from '../../src/core/material/viscosity';
import {
  branchPressure,
  diameterForPressure,
  diametersOfVolume,
  diametersWith,
  powerLawRunner,
  splitFlow,
  type BalanceBranch,
} from '../../src/core/feed/balance';
import * as pipes from '../../src/core/solvers/cool/friction';
import { solveNetwork, type FlowElement } from '../../src/core/solvers/cool/network';
import { boreOf } from '../../src/core/solvers/cool/passages';
import * as elastic from '../../src/core/solvers/warp/equations';
import { byFunction, group, num, numbers, type Finder, type Kind, type ReferenceCase } from './cases';

const sum = (list: readonly number[]) => list.reduce((s, x) => s + x, 0);

export function crossWlf(m: Record<string, unknown>): ViscosityModel {
  const [n, tauStar, D1, D2, D3, A1, A2] = ['n', 'tau_star', 'D1', 'D2', 'D3', 'A1', 'A2t'].map((k) => num(m, k));
  return { kind: 'cross-wlf', n, tauStar, D1, D2, D3, A1, A2 } as ViscosityModel;
}

/** Case 1: Cross-WLF viscosity and its logarithmic slopes, by central differences. */
export const crossWlfPoints: Kind = ({ inputs }) => {
  const model = crossWlf(group(inputs, 'material'));
  const ln = (T: number, g: number, p: number) => Math.log(viscosity(model, T, p, g));
  return ({ q, at }) => {
    const [T, g, p] = ['T', 'gdot', 'p'].map((k) => num(at, k));
    const h = 1e-4;
    const values: Record<string, () => number> = {
      eta: () => viscosity(model, T, p, g),
      'dln_eta/dT': () => (ln(T + h, g, p) - ln(T - h, g, p)) / (2 * h),
      'dln_eta/dln_gdot': () => (ln(T, g * (1 + h), p) - ln(T, g * (1 - h), p)) / (2 * h),
      'dln_eta/dp': () => (ln(T, g, p + 1e3) - ln(T, g, p - 1e3)) / 2e3,
    };
    return byFunction(values[q]?.());
  };
};

const tait = (m: Record<string, unknown>) => m as unknown as pvt.Tait;

/** Case 2: the pvT form, its slopes and the gap of its branches. */
export const taitPoints: Kind = ({ inputs }) => {
  const m = tait(group(inputs, 'material'));
  return ({ q, at }) => {
    const [T, p] = [num(at, 'T'), num(at, 'p')];
    const values: Record<string, () => number> = {
      v: () => pvt.specificVolume(m, T, p),
      kappa_T: () => pvt.compressibility(m, T, p),
      beta: () => pvt.volumeExpansion(m, T, p),
      T_transition: () => pvt.transitionAt(m, p),
      v_melt_minus_v_solid_at_transition: () => {
        const t = pvt.transitionAt(m, p);
        return pvt.specificVolume(m, t, p) - pvt.specificVolume(m, t - 1e-9, p);
      },
    };
    return byFunction(values[q]?.());
  };
};

/** Case 8, all but the slit: mass, shrinkage and sealed pressure from the pvT state. */
export const packedStates: Kind = ({ inputs }) => {
  const m = tait(group(inputs, 'material'));
  const volume = num(inputs, 'V');
  const [T0, p0] = numbers(inputs, 'seal');
  const sealed = pvt.specificVolume(m, T0, p0);
  const mass = (T: number, p: number) => volume / pvt.specificVolume(m, T, p);
  const released = () => {
    let [low, high] = [200, T0];
    for (let k = 0; k < 80; k++) {
      const T = 0.5 * (low + high);
      if (pvt.pressureAt(m, T, sealed) > pvt.ATMOSPHERE) high = T;
      else low = T;
    }
    return 0.5 * (low + high);
  };
  return ({ q, at }) => {
    const frozen = () => pvt.volumetricShrinkage(m, num(at, 'T_freeze'), num(at, 'p_freeze'));
    const values: Record<string, () => number> = {
      mass_at_zero_pressure: () => mass(num(at, 'T'), num(at, 'p')),
      mass: () => mass(num(at, 'T'), num(at, 'p')),
      extra_mass_fraction: () => mass(num(at, 'T'), num(at, 'p')) / mass(num(at, 'T'), 0) - 1,
      volumetric_shrinkage: frozen,
      linear_shrinkage_isotropic: () => pvt.linearShrinkage(frozen()),
      isochoric_pressure: () => pvt.pressureAt(m, num(at, 'T'), sealed),
      T_when_pressure_reaches_1atm: released,
      shrinkage_after_1atm: () => pvt.volumetricShrinkage(m, T0, p0),
    };
    return byFunction(values[q]?.());
  };
};

const stateOf = (fluid: unknown, celsius: number): CoolantState =>
  (fluid === 'water' ? waterAt : halfGlycolAt)(celsius + 273.15);

/** Cases 9 a and b: properties of coolants, friction and heat transfer of pipes. */
export const coolants: Kind = () => (row) => {
  const { q, at } = row;
  const state = stateOf(at?.fluid, num(at, 't_C'));
  const Pr = pipes.prandtl(state);
  const plain: Record<string, number> = {
    density: state.density,
    dynamic_viscosity: state.viscosity,
    thermal_conductivity: state.conductivity,
    heat_capacity: state.specificHeat,
    Prandtl: Pr,
  };
  if (q in plain) return byFunction(plain[q]);
  const [d, flow, eps] = ['d', 'Q', 'eps'].map((k) => num(at, k));
  const pipe = boreOf(1, d, eps, 0);
  const Re = pipes.reynoldsOf(flow, pipe, state);
  const e = eps / d;
  const values: Record<string, () => number> = {
    Re: () => Re,
    f_churchill: () => pipes.churchill(Re, e),
    f_swamee_jain: () => pipes.swameeJain(Re, e),
    f_haaland: () => pipes.haaland(Re, e),
    f_colebrook: () => pipes.colebrook(Re, e),
    f_laminar: () => 64 / Re,
    dp_per_m_laminar: () => pipes.pressureDrop(flow, pipe, state, 'haaland'),
    Nu_gnielinski_smooth: () => pipes.nusselt(Re, Pr),
    Nu_gnielinski_f_churchill: () => pipes.gnielinski(Re, Pr, pipes.churchill(Re, e)),
    h_gnielinski_smooth: () => (pipes.nusselt(Re, Pr) * state.conductivity) / d,
    Nu_dittus_boelter_heating: () => pipes.dittusBoelter(Re, Pr),
    Nu_laminar_const_wall_T: () => pipes.nusselt(Re, Pr),
  };
  return byFunction(values[q]?.());
};

interface Segment {
  name: string;
  d: number;
  L: number;
  K: number;
  eps: number;
}
const pipeOf = ({ d, L, K, eps }: Segment) => boreOf(L, d, eps, K);

/** Cases 9 c and d: pieces in series at a flow, branches side by side on a pump. */
export const network: Kind = (c) => (c.inputs.branches ? branchesOnPump(c) : seriesCircuit(c));

function seriesCircuit({ inputs }: ReferenceCase): Finder {
  const segments = inputs.segments as Segment[];
  const state = stateOf(inputs.fluid, num(inputs, 't_C'));
  const elements = segments.map((s, k): FlowElement => ({ from: k, to: k + 1, pipes: [pipeOf(s)], state, rise: 0 }));
  return ({ q, at }) => {
    const flowRate = num(at, 'Q');
    const net = solveNetwork({
      nNodes: elements.length + 1,
      elements,
      pumps: [{ node: 0, pump: { by: 'flow-rate', flowRate } }],
      returns: [elements.length],
      friction: 'churchill',
    });
    const k = segments.findIndex((s) => s.name === at?.segment);
    const values: Record<string, number> = {
      dp_segment: net.pressure[k] - net.pressure[k + 1],
      dp_total: net.pressure[0],
      coolant_temperature_rise: num(inputs, 'heat') / (flowRate * state.density * state.specificHeat),
      pump_power_hydraulic: net.pumps[0].pressure * net.pumps[0].flow,
    };
    return byFunction(values[q]);
  };
}

function branchesOnPump({ inputs }: ReferenceCase): Finder {
  const state = stateOf(inputs.fluid, num(inputs, 't_C'));
  const branches = inputs.branches as Segment[][];
  const feed = inputs.feed as Segment[];
  const heat = numbers(inputs, 'heat');
  const pump = group(inputs, 'pump');
  // 0 the pump, 1 the manifold, 2 the return; a node between the pieces of a branch.
  let nNodes = 3;
  const elements: FlowElement[] = [];
  const chain = (from: number, to: number, list: Segment[]) => {
    const first = elements.length;
    list.forEach((s, k) => {
      const end = k === list.length - 1 ? to : nNodes++;
      elements.push({ from, to: end, pipes: [pipeOf(s)], state, rise: 0 });
      from = end;
    });
    return first;
  };
  chain(0, 1, feed);
  const firsts = branches.map((list) => chain(1, 2, list));
  const net = solveNetwork({
    nNodes,
    elements,
    pumps: [{ node: 0, pump: { by: 'curve', shutOff: num(pump, 'p0'), freeFlow: num(pump, 'Qmax') } }],
    returns: [2],
    friction: 'churchill',
  });
  const rise = (W: number, Q: number) => W / (Q * state.density * state.specificHeat);
  return ({ q, at }) => {
    const b = Number(at?.branch ?? 1) - 1;
    const flow = net.flow[firsts[b]];
    const total = net.pumps[0].flow;
    const channel = branches[b].find((s) => s.name === 'channel') ?? branches[b][0];
    const values: Record<string, number> = {
      Q_total: total,
      pump_pressure: net.pressure[0],
      manifold_dp: net.pressure[1],
      feed_dp: net.pressure[0] - net.pressure[1],
      Q_branch: flow,
      Re_channel: pipes.reynoldsOf(flow, pipeOf(channel), state),
      temperature_rise: rise(heat[b], flow),
      mixed_return_temperature_rise: rise(sum(heat), total),
    };
    return byFunction(values[q]);
  };
}

/** Case 14 a to d: closed forms of the shape. */
export const thermoelastic: Kind = ({ inputs: i }) => {
  const get = (key: string) => num(i, key);
  const layer = (k: 1 | 2) => ({ young: get(`E${k}`), thickness: get(`t${k}`), expansion: get(`alpha${k}`) });
  const bimetal = () => elastic.bimetalCurvature(layer(1), layer(2), get('dT'));
  const plate = () => elastic.plateCurvature(get('alpha'), get('dT'), get('h'));
  const corner = () =>
    elastic.springInThermal(get('angle_deg'), get('alpha_in_plane'), get('alpha_thickness'), get('dT'));
  const values: Record<string, (at: Record<string, unknown> | null | undefined) => number> = {
    curvature: bimetal,
    plate_curvature_biaxial: bimetal,
    radius: () => 1 / bimetal(),
    tip_deflection_cantilever: () => elastic.tipDeflection(bimetal(), get('L')),
    curvature_free: plate,
    centre_sag_over_length_L: () => elastic.sagOverChord(plate(), get('L')),
    corner_to_centre_height: () => elastic.capHeight(plate(), get('L'), get('B')),
    max_stress_clamped_edges: () => elastic.clampedPlateStress(get('E'), get('nu'), get('alpha'), get('dT')),
    delta_theta: corner,
    enclosed_angle_change: () => -corner(),
    delta_theta_from_shrinkages: () => elastic.springIn(get('angle_deg'), get('S_in_plane'), get('S_thickness')),
    stress_fully_constrained: () => elastic.heldPlateStress(get('E'), get('nu'), get('alpha'), get('dT')),
    stress_uniaxial_constraint: () => elastic.heldBarStress(get('E'), get('alpha'), get('dT')),
    parabolic_residual_stress: (at) =>
      elastic.parabolicStress(get('E'), get('nu'), get('alpha'), get('dT0'), num(at, 'y_over_half_thickness')),
  };
  return ({ q, at }) => byFunction(values[q]?.(at));
};

/** Case 15: air pressed, vents, and a pocket that shrinks with and without one. */
export const airPocket: Kind = ({ inputs: i }) => {
  const [gamma, p0, T0] = ['gamma', 'p0', 'T0'].map((k) => num(i, k));
  const state = air.airAt(T0);
  const vent = (): air.Vent => {
    const v = group(i, 'vent');
    return { width: num(v, 'W'), gap: num(v, 'h'), land: num(v, 'L'), discharge: num(i, 'Cd') };
  };
  const filled = (law: 'isothermal' | 'adiabatic', by: unknown) => {
    const pocket = group(i, 'pocket');
    const [volume, flow] = [num(pocket, 'V0'), num(pocket, 'Q_melt')];
    const end = num(pocket, 'V_end_over_V0') * volume;
    const time = (volume - end) / flow;
    const through = by === 'visc' ? air.viscousVentFlow : air.ventFlow;
    const out = by ? (p: number, T: number) => through(vent(), state, p, T) : null;
    const pressed = new air.AirPocket(state, law, volume, p0, out);
    const start = pressed.mass;
    pressed.squeeze(volume - (flow * time) / 2, time / 2);
    const half = pressed.pressure;
    pressed.squeeze(end, time / 2);
    return { half, end: pressed.pressure, temperature: pressed.temperature, left: pressed.mass / start };
  };
  return ({ q, at }) => {
    const ratio = () => num(at, 'V0_over_V');
    const values: Record<string, () => number> = {
      p_isothermal: () => air.isothermalPressure(p0, ratio()),
      p_adiabatic: () => air.adiabaticPressure(p0, ratio(), gamma),
      T_adiabatic: () => air.adiabaticTemperature(T0, ratio(), gamma),
      V_over_V0_at_melt_pressure_isothermal: () => air.volumeRatioAt(num(at, 'p'), p0),
      V_over_V0_at_melt_pressure_adiabatic: () => air.volumeRatioAt(num(at, 'p'), p0, gamma),
      T_at_melt_pressure_adiabatic: () =>
        air.adiabaticTemperature(T0, 1 / air.volumeRatioAt(num(at, 'p'), p0, gamma), gamma),
      mdot_viscous: () => air.viscousVentFlow(vent(), state, num(at, 'p1'), T0),
      mdot_isentropic_orifice: () => air.orificeFlow(vent(), state, num(at, 'p1'), T0),
      mdot_min: () => air.ventFlow(vent(), state, num(at, 'p1'), T0),
      'critical_pressure_ratio_p2/p1': () => air.criticalRatio(gamma),
      p_end_isothermal: () => filled('isothermal', at?.vent).end,
      p_half_isothermal: () => filled('isothermal', at?.vent).half,
      mass_left_fraction: () => filled('isothermal', at?.vent).left,
      p_end_adiabatic: () => filled('adiabatic', at?.vent).end,
      T_end_adiabatic: () => filled('adiabatic', at?.vent).temperature,
      p_end_no_vent_adiabatic: () => filled('adiabatic', null).end,
      T_end_no_vent_adiabatic: () => filled('adiabatic', null).temperature,
    };
    return byFunction(values[q]?.());
  };
};

/** Case 18: runners that balance, alone, with their volume, within bounds, and with what the cavities take. */
export const runnerBalance: Kind = ({ inputs: i }) => {
  const fluids = i.fluids as { name: string; K: number; n: number }[];
  const [fillTime, d1, allowed] = ['t_fill', 'd1', 'dp_allowed'].map((k) => num({ dp_allowed: 0, ...i }, k));
  const volumes = [num(i, 'V1'), num(i, 'V2')];
  const lengths = [num(i, 'L1'), num(i, 'L2')];
  return ({ q, at }) => {
    const fluid = fluids.find((f) => f.name === at?.fluid);
    if (!fluid) return null;
    const { K, n } = fluid;
    const law = powerLawRunner(K, n);
    const plain: BalanceBranch[] = volumes.map((volume, k) => ({ volume, length: lengths[k] }));
    const strips = plain.map((b, k) => {
      if (!i.cav1) return b;
      const [L, W, H] = ['L', 'W', 'H'].map((key) => num(group(i, `cav${k + 1}`), key));
      const cavityLoss = (flow: number) =>
        ((2 * L) / H) * K * (((2 * n + 1) / (3 * n)) * ((6 * flow) / (W * H * H))) ** n;
      return { ...b, cavityLoss };
    });
    const second = () => diametersWith(law, strips, 0, d1, { fillTime })[1];
    const forAllowed = () => plain.map((b) => diameterForPressure(law, b, allowed, { fillTime }));
    const fixed = () => diametersOfVolume(law, plain, num(i, 'V_runner'), { fillTime });
    const bounded = () => plain.map((b) => ({ ...b, bounds: { min: num(i, 'd_min'), max: num(i, 'd_max') } }));
    const clamped = () => bounded().map((b) => diameterForPressure(law, b, allowed, { fillTime }));
    const times = () => splitFlow(law, bounded(), clamped(), sum(volumes) / fillTime).fillTimes;
    const loss = (k: number) => strips[k].cavityLoss?.(volumes[k] / fillTime) ?? NaN;
    const values: Record<string, () => number> = {
      d1_over_d2: () => d1 / second(),
      d2_for_given_d1: second,
      d2_equal_total_pressure: second,
      runner_dp: () => branchPressure(law, plain[0], d1, { fillTime }),
      d1_for_allowed_dp: () => forAllowed()[0],
      d2_for_allowed_dp: () => forAllowed()[1],
      runner_volume: () => sum(forAllowed().map((d, k) => (Math.PI / 4) * d * d * lengths[k])),
      d2_with_runner_volume: () => diametersWith(law, plain, 0, d1, { fillTime, countRunner: true })[1],
      d1_fixed_runner_volume: () => fixed().diameters[0],
      d2_fixed_runner_volume: () => fixed().diameters[1],
      dp_fixed_runner_volume: () => fixed().pressure,
      d1_clamped: () => clamped()[0],
      d2_clamped: () => clamped()[1],
      fill_time_cavity1_clamped: () => times()[0],
      fill_time_cavity2_clamped: () => times()[1],
      total_pressure: () => branchPressure(law, strips[0], d1, { fillTime }),
      cavity_dp_1: () => loss(0),
      cavity_dp_2: () => loss(1),
    };
    return byFunction(values[q]?.());
  };
};

/** Time in which the middle of a plate cools, by the first term of the series; and the mean, s. */
export function oneTermTimes(i: Record<string, unknown>): { centre: number; mean: number } {
  const thermal = { conductivity: num(i, 'k'), density: num(i, 'rho'), specificHeat: num(i, 'cp') };
  const centre = freezeTime(num(i, 's'), thermal, num(i, 'T_melt'), num(i, 'T_wall'), num(i, 'T_eject'));
  const diffusivity = thermal.conductivity / (thermal.density * thermal.specificHeat);
  // The mean of a cosine is 2 / pi of its middle.
  return { centre, mean: centre + (num(i, 's') ** 2 / (Math.PI ** 2 * diffusivity)) * Math.log(2 / Math.PI) };
}
