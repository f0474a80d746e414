import { describe, expect, it } from 'vitest';
import { halfGlycolAt, waterAt, type CoolantState } from '@/core/material/coolantLaw';
import { solveNetwork, type FlowElement } from '@/core/solvers/cool/network';
import { boreOf } from '@/core/solvers/cool/passages';
import {
  churchill,
  colebrook,
  dittusBoelter,
  gnielinski,
  haaland,
  nusselt,
  prandtl,
  pressureDrop,
  reynoldsOf,
  swameeJain,
} from '@/core/solvers/cool/friction';
import reference from './reference/cooling.json';

const stateOf = (fluid: string, celsius: number): CoolantState =>
  (fluid === 'water' ? waterAt : halfGlycolAt)(celsius + 273.15);

type Row = [string, Record<string, number | string> | null, number];

describe('coolants', () => {
  const KEYS: Record<string, (s: CoolantState) => number> = {
    density: (s) => s.density,
    dynamic_viscosity: (s) => s.viscosity,
    thermal_conductivity: (s) => s.conductivity,
    heat_capacity: (s) => s.specificHeat,
    Prandtl: prandtl,
  };
  it('water and the half mixture of glycol follow their formulas', () => {
    for (const [fluid, celsius, quantity, value] of reference.properties.rows)
      expect(KEYS[quantity as string](stateOf(fluid as string, celsius as number)) / (value as number)).toBeCloseTo(
        1,
        6,
      );
  });
});

describe('pipes', () => {
  it('friction factors and Nusselt numbers of the published formulas', () => {
    for (const row of reference.pipes.rows) {
      const [fluid, celsius, d, eps, flow, quantity, value] = row as [
        string,
        number,
        number,
        number,
        number,
        string,
        number,
      ];
      const state = stateOf(fluid, celsius);
      const pipe = boreOf(1, d, eps, 0);
      const Re = reynoldsOf(flow, pipe, state);
      const [e, Pr] = [eps / d, prandtl(state)];
      const value_: Record<string, () => number> = {
        Re: () => Re,
        f_churchill: () => churchill(Re, e),
        f_swamee_jain: () => swameeJain(Re, e),
        f_haaland: () => haaland(Re, e),
        f_colebrook: () => colebrook(Re, e),
        f_laminar: () => 64 / Re,
        dp_per_m_laminar: () => pressureDrop(flow, pipe, state, 'haaland'),
        Nu_gnielinski_smooth: () => nusselt(Re, Pr),
        Nu_gnielinski_f_churchill: () => gnielinski(Re, Pr, churchill(Re, e)),
        h_gnielinski_smooth: () => (nusselt(Re, Pr) * state.conductivity) / d,
        Nu_dittus_boelter_heating: () => dittusBoelter(Re, Pr),
        Nu_laminar_const_wall_T: () => nusselt(Re, Pr),
      };
      expect(Math.abs(value_[quantity]() / value - 1), `${quantity} ${fluid} ${celsius}`).toBeLessThan(1e-6);
    }
  });
});

interface Segment {
  name: string;
  d: number;
  L: number;
  K: number;
  eps: number;
}
const pipeOf = ({ d, L, K, eps }: Segment) => boreOf(L, d, eps, K);

describe('a circuit in series', () => {
  const { celsius, heat, segments, expected } = reference.series;
  const state = stateOf('water', celsius);
  const elements = segments.map((s, k): FlowElement => ({ from: k, to: k + 1, pipes: [pipeOf(s)], state, rise: 0 }));
  it('loses the pressure of its pieces at every flow', () => {
    for (const [quantity, at, value] of expected as Row[]) {
      const flowRate = at?.Q as number;
      const net = solveNetwork({
        nNodes: elements.length + 1,
        elements,
        pumps: [{ node: 0, pump: { by: 'flow-rate', flowRate } }],
        returns: [elements.length],
        friction: 'churchill',
      });
      expect(net.converged).toBe(true);
      const k = segments.findIndex((s) => s.name === at?.segment);
      const got: Record<string, number> = {
        dp_segment: net.pressure[k] - net.pressure[k + 1],
        dp_total: net.pressure[0],
        coolant_temperature_rise: heat / (flowRate * state.density * state.specificHeat),
        pump_power_hydraulic: net.pumps[0].pressure * net.pumps[0].flow,
      };
      expect(Math.abs(got[quantity] / value - 1), quantity).toBeLessThan(1e-6);
    }
  });
});

describe('three branches side by side on a pump', () => {
  const { celsius, pump, feed, branches, heat, expected } = reference.parallel;
  const state = stateOf('water', celsius);
  const element = (from: number, to: number, segment: Segment): FlowElement => ({
    from,
    to,
    pipes: [pipeOf(segment)],
    state,
    rise: 0,
  });
  // 0 pump, 1 manifold, 2 return; two inner nodes a branch.
  const elements = [
    element(0, 1, feed[0]),
    ...branches.flatMap((list, b) => [
      element(1, 3 + 2 * b, list[0]),
      element(3 + 2 * b, 4 + 2 * b, list[1]),
      element(4 + 2 * b, 2, list[2]),
    ]),
  ];
  const net = solveNetwork({
    nNodes: 3 + 2 * branches.length,
    elements,
    pumps: [{ node: 0, pump: { by: 'curve', shutOff: pump.p0, freeFlow: pump.Qmax } }],
    returns: [2],
    friction: 'churchill',
  });
  it('flows, pressures and temperature rises', () => {
    const total = net.pumps[0].flow;
    for (const [quantity, at, value] of expected as Row[]) {
      const b = ((at?.branch as number) ?? 1) - 1;
      const flow = net.flow[2 + 3 * b];
      const rise = (W: number, q: number) => W / (q * state.density * state.specificHeat);
      const got: Record<string, number> = {
        Q_total: total,
        pump_pressure: net.pressure[0],
        manifold_dp: net.pressure[1],
        feed_dp: net.pressure[0] - net.pressure[1],
        Q_branch: flow,
        Re_channel: reynoldsOf(flow, pipeOf(branches[b][1]), state),
        temperature_rise: rise(heat[b], flow),
        mixed_return_temperature_rise: rise(
          heat.reduce((s, x) => s + x, 0),
          total,
        ),
      };
      expect(Math.abs(got[quantity] / value - 1), `${quantity} ${b + 1}`).toBeLessThan(1e-6);
    }
  });

  it('what flows into a node flows out of it, and pumps work against heights', () => {
    const balance = new Float64Array(3 + 2 * branches.length);
    elements.forEach((e, k) => {
      balance[e.from] -= net.flow[k];
      balance[e.to] += net.flow[k];
    });
    expect(Math.max(...Array.from(balance.slice(3), Math.abs))).toBeLessThan(1e-10 * net.pumps[0].flow);
    // A column of coolant of 2 m up and down again changes pressures, not flows.
    const lifted = solveNetwork({
      nNodes: 3,
      elements: [
        { from: 0, to: 1, pipes: [boreOf(1, 0.01, 0, 1)], state, rise: 2 },
        { from: 1, to: 2, pipes: [boreOf(1, 0.01, 0, 1)], state, rise: -2 },
      ],
      pumps: [{ node: 0, pump: { by: 'pressure', pressure: 5e4 } }],
      returns: [2],
      friction: 'churchill',
    });
    expect(lifted.pressure[1]).toBeCloseTo(2.5e4 - 2 * 9.80665 * state.density, 3);
  });
});
