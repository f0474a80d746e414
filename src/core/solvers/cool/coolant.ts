import type { FrictionLaw } from '../../model/cooling';
import { format } from '../../units/reader';
import type { Circuit, CircuitElement, CircuitFault } from './circuit';
import { dropOf, solveNetwork, type FlowElement, type NetworkFlow } from './network';
import { filmCoefficient, frictionFactor, prandtl, regimeOf, reynoldsOf, nusselt, type Regime } from './friction';

/** What the coolant does in one stretch. SI; along its flow. */
export interface StretchState {
  /** m3/s from `from` to `to` of the element. */
  flow: number;
  velocity: number;
  reynolds: number;
  regime: Regime;
  /** Pressure lost to friction and bends, Pa. */
  drop: number;
  frictionFactor: number;
  loss: number;
  nusselt: number;
  /** W/(m2 K); 0 where no wall is wetted. */
  film: number;
  inlet: number;
  outlet: number;
  /** Taken up, W. */
  heat: number;
}

export interface SupplyState {
  id: string;
  flow: number;
  /** What the pump gives, Pa. */
  pressure: number;
  sent: number;
  returned: number;
  heat: number;
  /** Power that goes into the coolant, W. */
  power: number;
}

export interface CoolantResult {
  stretches: StretchState[];
  supplies: SupplyState[];
  network: NetworkFlow;
  faults: CircuitFault[];
}

/**
 * Heat [W] that element e takes up from coolant that comes in with `inlet` [K] and `capacity` [W/K] (mass flow times
 * specific heat), with a film coefficient of `film`.
 */
export type HeatTake = (element: number, inlet: number, capacity: number, film: number) => number;

const PASSES = 6;
/** K */
const SETTLED = 0.01;
/** Slower than this the coolant does not carry heat away, m/s. */
const TOO_SLOW = 0.03;
/** Temperature-control units give some 6 bar; more than this does not exist in a moulding shop. */
const TOO_MUCH = 1.2e6;

/**
 * Flows, pressures and temperatures of the coolant: the flow for the properties at the mean temperature of each
 * stretch, the temperatures marched along the flow, and again until both agree. Streams mix where they meet.
 */
export function runCoolant(circuit: Circuit, friction: FrictionLaw, take: HeatTake): CoolantResult {
  const supplyOf = suppliesOfElements(circuit);
  const temperature = Float64Array.from(
    circuit.elements,
    (_, e) => circuit.supplies[supplyOf[e]]?.supply.temperature ?? 298.15,
  );
  let out: { stretches: StretchState[]; network: NetworkFlow } | null = null;
  for (let pass = 0; pass < PASSES; pass++) {
    const elements = circuit.elements.map((element, e) => flowElement(circuit, element, supplyOf[e], temperature[e]));
    const network = solveNetwork({ ...circuit, elements, friction });
    const stretches = march(circuit, elements, network, supplyOf, friction, take);
    out = { stretches, network };
    let change = 0;
    stretches.forEach((s, e) => {
      const mean = (s.inlet + s.outlet) / 2;
      change = Math.max(change, Math.abs(mean - temperature[e]));
      temperature[e] = mean;
    });
    if (change < SETTLED) break;
  }
  const { stretches, network } = out ?? {
    stretches: [],
    network: solveNetwork({ ...circuit, elements: [], friction }),
  };
  const supplies = suppliesOut(circuit, stretches, network);
  return { stretches, supplies, network, faults: flowFaults(circuit, stretches, supplies, supplyOf) };
}

function flowElement(circuit: Circuit, element: CircuitElement, supply: number, temperature: number): FlowElement {
  const law = circuit.supplies[supply]?.law ?? circuit.supplies[0].law;
  // Formulas end where the liquid does; that it would freeze or boil is told apart.
  const T = Math.min(law.boiling, Math.max(law.freezing, temperature));
  return { ...element, state: law.at(T) };
}

/** Index of the supply that each element hangs on; -1 for none. */
function suppliesOfElements({ nNodes, elements, supplies }: Circuit): Int32Array {
  const of = new Int32Array(nNodes).fill(-1);
  supplies.forEach(({ out, back }, k) => (of[out] = of[back] = k));
  for (let grown = true; grown;) {
    grown = false;
    for (const { from, to } of elements)
      for (const [a, b] of [
        [from, to],
        [to, from],
      ])
        if (of[a] >= 0 && of[b] < 0) {
          of[b] = of[a];
          grown = true;
        }
  }
  return Int32Array.from(elements, (e) => of[e.from]);
}

function march(
  circuit: Circuit,
  elements: FlowElement[],
  { flow }: NetworkFlow,
  supplyOf: Int32Array,
  friction: FrictionLaw,
  take: HeatTake,
): StretchState[] {
  const n = elements.length;
  const mass = elements.map((e, k) => Math.abs(flow[k]) * e.state.density * e.state.specificHeat);
  const upstream = (k: number) => (flow[k] >= 0 ? elements[k].from : elements[k].to);
  const downstream = (k: number) => (flow[k] >= 0 ? elements[k].to : elements[k].from);
  const waiting = new Int32Array(circuit.nNodes);
  const [carried, heat] = [new Float64Array(circuit.nNodes), new Float64Array(circuit.nNodes)];
  const leaving: number[][] = Array.from({ length: circuit.nNodes }, () => []);
  for (let k = 0; k < n; k++) {
    if (!(mass[k] > 0)) continue;
    waiting[downstream(k)]++;
    leaving[upstream(k)].push(k);
  }
  const temperature = new Float64Array(circuit.nNodes).fill(NaN);
  circuit.supplies.forEach(({ supply, out }) => (temperature[out] = supply.temperature));
  const inlet = Float64Array.from(elements, (_, k) => circuit.supplies[supplyOf[k]]?.supply.temperature ?? 298.15);
  const outlet = inlet.slice();
  const taken = new Float64Array(n);
  const films = elements.map((e, k) => {
    const { wet } = circuit.elements[k];
    return wet ? filmCoefficient(reynoldsOf(flow[k], wet.pipe, e.state), wet.pipe, e.state) : 0;
  });
  const ready = [...temperature.keys()].filter((node) => waiting[node] === 0);
  for (let node = ready.pop(); node !== undefined; node = ready.pop()) {
    if (temperature[node] !== temperature[node] && carried[node] > 0) temperature[node] = heat[node] / carried[node];
    for (const k of leaving[node]) {
      inlet[k] = temperature[node] === temperature[node] ? temperature[node] : inlet[k];
      taken[k] = films[k] > 0 ? take(k, inlet[k], mass[k], films[k]) : 0;
      outlet[k] = inlet[k] + taken[k] / mass[k];
      const next = downstream(k);
      carried[next] += mass[k];
      heat[next] += mass[k] * outlet[k];
      if (--waiting[next] === 0) ready.push(next);
    }
  }
  return elements.map((e, k) => {
    const pipe = circuit.elements[k].wet?.pipe ?? e.pipes[0];
    const Re = reynoldsOf(flow[k], pipe, e.state);
    return {
      flow: flow[k],
      velocity: Math.abs(flow[k]) / pipe.area,
      reynolds: Re,
      regime: regimeOf(Re),
      drop: Math.abs(dropOf({ ...e, rise: 0 }, flow[k], friction)),
      frictionFactor: Re > 1 ? frictionFactor(Re, pipe.roughness / pipe.diameter, friction) : 0,
      loss: e.pipes.reduce((s, p) => s + p.loss, 0),
      nusselt: nusselt(Re, prandtl(e.state)),
      film: films[k],
      inlet: inlet[k],
      outlet: outlet[k],
      heat: taken[k],
    };
  });
}

function suppliesOut({ supplies, elements }: Circuit, stretches: StretchState[], network: NetworkFlow): SupplyState[] {
  return supplies.map(({ supply, back }, k) => {
    const returning = elements.findIndex((e) => e.to === back);
    const leaving = elements.findIndex((e) => e.from === supplies[k].out);
    const [flow, pressure] = [network.pumps[k].flow, network.pumps[k].pressure];
    const returned = stretches[returning]?.outlet ?? supply.temperature;
    const law = supplies[k].law.at((supply.temperature + returned) / 2);
    return {
      id: supply.id,
      flow,
      pressure,
      sent: stretches[leaving]?.inlet ?? supply.temperature,
      returned,
      heat: flow * law.density * law.specificHeat * (returned - supply.temperature),
      power: flow * pressure,
    };
  });
}

function flowFaults(
  circuit: Circuit,
  stretches: StretchState[],
  supplies: SupplyState[],
  supplyOf: Int32Array,
): CircuitFault[] {
  const faults: CircuitFault[] = [];
  const seen = new Set<string>(circuit.still);
  const placeOf = (e: CircuitElement) =>
    e.wet &&
    (e.wet.from.map((x, d) => (x + (e.wet as NonNullable<typeof e.wet>).to[d]) / 2) as [number, number, number]);
  circuit.elements.forEach((element, k) => {
    if (!element.line || seen.has(element.line) || !element.wet) return;
    const s = stretches[k];
    if (supplyOf[k] < 0) {
      seen.add(element.line);
      faults.push({
        kind: 'no-inlet',
        line: element.line,
        message: `No coolant comes to line ${element.line}.`,
        remedy: 'Join it to a circuit, or give it an inlet and an outlet.',
        place: placeOf(element),
      });
    } else if (s.velocity < TOO_SLOW) {
      seen.add(element.line);
      const dead = s.reynolds < 1;
      faults.push({
        kind: dead ? 'dead-end' : 'slow',
        line: element.line,
        message: dead
          ? `The coolant stands still in line ${element.line}: a dead end.`
          : `The coolant creeps through line ${element.line} at ${format(s.velocity, 'm/s')}.`,
        remedy: dead
          ? 'Give it a way out, or a baffle that forces the coolant in.'
          : 'The pump is too weak for this circuit: choose a stronger one, or wider and fewer lines in series.',
        place: placeOf(element),
      });
    }
  });
  supplies.forEach((state, k) => {
    const { law, supply } = circuit.supplies[k];
    const say = (kind: CircuitFault['kind'], message: string, remedy: string) =>
      faults.push({ kind, line: null, message, remedy, place: null });
    if (supply.temperature <= law.freezing)
      say(
        'coolant',
        `${law.name} of supply ${supply.id} freezes at ${format(law.freezing, '°C')}.`,
        'Send it in warmer, or choose a mixture with more glycol.',
      );
    const hottest = Math.max(supply.temperature, state.returned);
    if (hottest >= law.boiling)
      say(
        'coolant',
        `${law.name} of supply ${supply.id} reaches ${format(hottest, '°C')} and would boil.`,
        'Send it in cooler, pump more of it, or use oil.',
      );
    if (!(state.flow > 1e-8))
      say(
        'slow',
        `Supply ${supply.id} pumps nothing.`,
        'Give it a flow rate or a pressure, and a way from inlet to outlet.',
      );
    else if (state.pressure > TOO_MUCH)
      say(
        'slow',
        `Supply ${supply.id} would need ${format(state.pressure, 'bar')} for this flow: no pump gives that.`,
        'Pump less, use wider lines, or put circuits side by side.',
      );
  });
  return faults;
}
