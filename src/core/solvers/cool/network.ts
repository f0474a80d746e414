import type { CoolantState } from '../../material/coolantLaw';
import type { FrictionLaw, Pump } from '../../model/cooling';
import { pressureDrop, type Pipe } from './friction';

/** Pipes one after the other between two nodes. */
export interface FlowElement {
  from: number;
  to: number;
  pipes: readonly Pipe[];
  state: CoolantState;
  /** Height gained from `from` to `to`, m. */
  rise: number;
}

/** A pump between the common return, whose pressure is 0, and the node it feeds. */
export interface PumpElement {
  node: number;
  pump: Pump;
}

export interface FlowNetwork {
  nNodes: number;
  elements: readonly FlowElement[];
  pumps: readonly PumpElement[];
  /** Nodes at the pressure of the return. */
  returns: readonly number[];
  friction: FrictionLaw;
}

export interface NetworkFlow {
  /** m3/s from `from` to `to`. */
  flow: Float64Array;
  /** Pa above the return. */
  pressure: Float64Array;
  /** Flow and pressure gain of each pump. */
  pumps: { flow: number; pressure: number }[];
  iterations: number;
  converged: boolean;
}

const GRAVITY = 9.80665;
const TOLERANCE = 1e-10;
const MOST_PASSES = 200;
/** A start of about this velocity, m/s. */
const START_SPEED = 1;

/**
 * Flows and pressures of a network in one Newton iteration on both (Todini & Pilati 1988, the global gradient
 * algorithm): each pass linearises pressure drop against flow in every element and solves the balance of
 * flow at the nodes, which is symmetric and positive definite. Elements that no pump reaches stand still.
 */
export function solveNetwork(net: FlowNetwork): NetworkFlow {
  const { nNodes, elements, pumps } = net;
  const flow = Float64Array.from(elements, (e) => START_SPEED * Math.min(...e.pipes.map((p) => p.area)));
  const pumpFlow = pumps.map(({ pump }) =>
    pump.by === 'curve' ? pump.freeFlow / 2 : pump.by === 'flow-rate' ? pump.flowRate : 0,
  );
  const live = reached(net);
  const fixed = new Float64Array(nNodes).fill(NaN);
  for (const node of net.returns) fixed[node] = 0;
  for (const { node, pump } of pumps) if (pump.by === 'pressure' && fixed[node] !== 0) fixed[node] = pump.pressure;
  const free = [...Array(nNodes).keys()].filter((i) => live.nodes[i] && fixed[i] !== fixed[i]);
  const row = new Int32Array(nNodes).fill(-1);
  free.forEach((node, k) => (row[node] = k));
  const pressure = fixed.map((p) => (p === p ? p : 0));
  elements.forEach((_, e) => {
    if (!live.elements[e]) flow[e] = 0;
  });
  let passes = 0;
  let converged = free.length === 0 && elements.length === 0;
  while (!converged && passes++ < MOST_PASSES) {
    const n = free.length;
    const A = new Float64Array(n * n);
    const b = new Float64Array(n);
    const slopes = elements.map((element, e) => (live.elements[e] ? linearised(element, flow[e], net.friction) : null));
    elements.forEach(({ from, to }, e) => {
      const slope = slopes[e];
      if (!slope) return;
      const g = 1 / slope.slope;
      const steady = flow[e] - slope.drop * g;
      couple(A, b, n, row[from], row[to], pressure[from], pressure[to], g, steady);
    });
    const gains = pumps.map(({ node, pump }, k) => {
      if (pump.by === 'flow-rate' && row[node] >= 0) b[row[node]] += pump.flowRate;
      if (pump.by !== 'curve' || row[node] < 0) return null;
      const { shutOff, freeFlow } = pump;
      // dp = -gain: falls as the flow grows.
      const slope = (2 * shutOff * Math.max(Math.abs(pumpFlow[k]), 1e-3 * freeFlow)) / freeFlow ** 2;
      const gain = shutOff * (1 - (pumpFlow[k] * Math.abs(pumpFlow[k])) / freeFlow ** 2);
      A[row[node] * (n + 1)] += 1 / slope;
      b[row[node]] += pumpFlow[k] + gain / slope;
      return { slope, gain };
    });
    choleskySolve(A, b, n);
    free.forEach((node, k) => (pressure[node] = b[k]));
    let [change, size] = [0, 0];
    elements.forEach(({ from, to }, e) => {
      const slope = slopes[e];
      if (!slope) return;
      const next = flow[e] + (pressure[from] - pressure[to] - slope.drop) / slope.slope;
      change += Math.abs(next - flow[e]);
      size += Math.abs(next);
      flow[e] = next;
    });
    pumps.forEach(({ node }, k) => {
      const g = gains[k];
      if (g) pumpFlow[k] += (g.gain - pressure[node]) / g.slope;
    });
    converged = change <= TOLERANCE * size + 1e-18;
  }
  return { flow, pressure, pumps: pumpsOf(net, flow, pressure), iterations: passes, converged };
}

/** Pressure drop and its slope against the flow. The slope stays positive in the flat of a transition. */
function linearised(element: FlowElement, flow: number, law: FrictionLaw): { drop: number; slope: number } {
  const step = Math.max(1e-5 * Math.abs(flow), 1e-10);
  const [above, below] = [flow + step, flow - step].map((q) => dropOf(element, q, law));
  const slope = (above - below) / (2 * step);
  const secant = Math.abs(flow) > step ? frictionOf(element, flow, law) / flow : slope;
  return { drop: dropOf(element, flow, law), slope: Math.max(slope, 0.5 * secant, 1e-3) };
}

const frictionOf = ({ pipes, state }: FlowElement, flow: number, law: FrictionLaw): number =>
  pipes.reduce((s, pipe) => s + pressureDrop(flow, pipe, state, law), 0);

/** Loss and the weight of the column of coolant, Pa. */
export const dropOf = (element: FlowElement, flow: number, law: FrictionLaw): number =>
  frictionOf(element, flow, law) + element.state.density * GRAVITY * element.rise;

/** Adds flow = steady + g (p_from - p_to) to the balance of both nodes. */
function couple(
  A: Float64Array,
  b: Float64Array,
  n: number,
  i: number,
  j: number,
  pi: number,
  pj: number,
  g: number,
  steady: number,
): void {
  if (i >= 0) {
    A[i * n + i] += g;
    b[i] -= steady;
    if (j >= 0) A[i * n + j] -= g;
    else b[i] += g * pj;
  }
  if (j >= 0) {
    A[j * n + j] += g;
    b[j] += steady;
    if (i >= 0) A[j * n + i] -= g;
    else b[j] += g * pi;
  }
}

/** What hangs together with both a pump and the return: only there can anything flow. */
function reached({ nNodes, elements, pumps, returns }: FlowNetwork): { nodes: Uint8Array; elements: Uint8Array } {
  const spread = (from: readonly number[]) => {
    const seen = new Uint8Array(nNodes);
    const queue = [...from];
    for (const node of queue) seen[node] = 1;
    for (let node = queue.pop(); node !== undefined; node = queue.pop())
      for (const { from: a, to: b } of elements)
        for (const [x, y] of [
          [a, b],
          [b, a],
        ])
          if (x === node && !seen[y]) {
            seen[y] = 1;
            queue.push(y);
          }
    return seen;
  };
  const [fed, drained] = [spread(pumps.map((p) => p.node)), spread(returns)];
  const nodes = fed.map((f, i) => f & drained[i]);
  return { nodes, elements: Uint8Array.from(elements, (e) => nodes[e.from] & nodes[e.to]) };
}

function pumpsOf({ elements, pumps }: FlowNetwork, flow: Float64Array, pressure: Float64Array) {
  return pumps.map(({ node }) => ({
    flow: elements.reduce((s, e, k) => s + (e.from === node ? flow[k] : e.to === node ? -flow[k] : 0), 0),
    pressure: pressure[node],
  }));
}

/** Solves the dense system in place: b becomes x. A is symmetric and positive definite, row major. */
function choleskySolve(A: Float64Array, b: Float64Array, n: number): void {
  for (let j = 0; j < n; j++) {
    for (let i = j; i < n; i++) {
      let sum = A[i * n + j];
      for (let k = 0; k < j; k++) sum -= A[i * n + k] * A[j * n + k];
      A[i * n + j] = i === j ? Math.sqrt(Math.max(sum, 1e-300)) : sum / A[j * n + j];
    }
  }
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < i; k++) b[i] -= A[i * n + k] * b[k];
    b[i] /= A[i * n + i];
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let k = i + 1; k < n; k++) b[i] -= A[k * n + i] * b[k];
    b[i] /= A[i * n + i];
  }
}
