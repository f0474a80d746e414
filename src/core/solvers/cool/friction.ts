import type { CoolantState } from '../../material/coolantLaw';
import type { FrictionLaw } from '../../model/cooling';

/** A straight run of one section: dp = (f L / d + K) rho u |u| / 2 with u = Q / area. SI. */
export interface Pipe {
  length: number;
  /** Hydraulic diameter 4 A / P. */
  diameter: number;
  area: number;
  roughness: number;
  /** Sum of the loss coefficients, for the pipe's own velocity. */
  loss: number;
}

/** From here down flow is laminar, from there up turbulent. */
export const LAMINAR = 2300;
export const TURBULENT = 4000;
export const REGIMES = ['still', 'laminar', 'transition', 'turbulent'] as const;
export type Regime = (typeof REGIMES)[number];

export const regimeOf = (reynolds: number): Regime =>
  reynolds < 1 ? 'still' : reynolds < LAMINAR ? 'laminar' : reynolds < TURBULENT ? 'transition' : 'turbulent';

export const reynoldsOf = (flow: number, { diameter, area }: Pipe, { density, viscosity }: CoolantState): number =>
  (density * Math.abs(flow) * diameter) / (area * viscosity);

/** Swamee & Jain (1976). `e` is the roughness over the diameter. */
export const swameeJain = (Re: number, e: number): number => 0.25 / Math.log10(e / 3.7 + 5.74 / Re ** 0.9) ** 2;

/** Haaland (1983). */
export const haaland = (Re: number, e: number): number => 1 / (-1.8 * Math.log10((e / 3.7) ** 1.11 + 6.9 / Re)) ** 2;

/** Colebrook (1939), by fixed-point iteration on 1/sqrt(f), which contracts by about 5 a pass. */
export function colebrook(Re: number, e: number): number {
  let x = 1 / Math.sqrt(swameeJain(Re, e));
  for (let pass = 0; pass < 40; pass++) {
    const next = -2 * Math.log10(e / 3.7 + (2.51 * x) / Re);
    if (Math.abs(next - x) < 1e-13 * x) break;
    x = next;
  }
  return 1 / (x * x);
}

/** Churchill (1977): laminar, transition and turbulent in one formula. */
export function churchill(Re: number, e: number): number {
  const A = (2.457 * Math.log(1 / ((7 / Re) ** 0.9 + 0.27 * e))) ** 16;
  const B = (37530 / Re) ** 16;
  return 8 * ((8 / Re) ** 12 + (A + B) ** -1.5) ** (1 / 12);
}

const TURBULENT_LAWS = { 'swamee-jain': swameeJain, haaland, colebrook } as const;

/**
 * Darcy friction factor. Formulas for turbulent flow go over to 64 / Re straight between Re 2300 and 4000;
 * Churchill's has a transition of its own. `e`: roughness over diameter.
 */
export function frictionFactor(Re: number, e: number, law: FrictionLaw): number {
  if (law === 'churchill') return churchill(Re, e);
  if (Re <= LAMINAR) return 64 / Re;
  const f = TURBULENT_LAWS[law];
  if (Re >= TURBULENT) return f(Re, e);
  const s = (Re - LAMINAR) / (TURBULENT - LAMINAR);
  return (1 - s) * (64 / LAMINAR) + s * f(TURBULENT, e);
}

/** Below this no flow is told apart from none. */
const STILL = 1e-6;

/** Pressure drop of a pipe along its flow [Pa] for Q [m3/s] of either sign. Laminar without bound near Q = 0. */
export function pressureDrop(flow: number, pipe: Pipe, state: CoolantState, law: FrictionLaw): number {
  const { length, diameter, area, roughness, loss } = pipe;
  const Re = reynoldsOf(flow, pipe, state);
  if (Re < STILL) return (32 * state.viscosity * length * flow) / (diameter * diameter * area);
  const f = frictionFactor(Re, roughness / diameter, law);
  return (((f * length) / diameter + loss) * state.density * flow * Math.abs(flow)) / (2 * area * area);
}

/** Fully developed, wall of one temperature. */
const NU_LAMINAR = 3.6568;

/** Friction factor of a smooth pipe, Petukhov's form that goes with Gnielinski's formula. */
export const smoothFriction = (Re: number): number => (0.79 * Math.log(Re) - 1.64) ** -2;

/** Gnielinski (1976), for turbulent flow; `f` from the smooth pipe unless given. */
export const gnielinski = (Re: number, Pr: number, f = smoothFriction(Re)): number =>
  ((f / 8) * (Re - 1000) * Pr) / (1 + 12.7 * Math.sqrt(f / 8) * (Pr ** (2 / 3) - 1));

/** Dittus & Boelter (1930), of a fluid that is heated, Re > 1e4. */
export const dittusBoelter = (Re: number, Pr: number): number => 0.023 * Re ** 0.8 * Pr ** 0.4;

/** Nusselt number: laminar, Gnielinski, and straight between the two from Re 2300 to 4000 (Gnielinski, 2013). */
export function nusselt(Re: number, Pr: number): number {
  if (Re <= LAMINAR) return NU_LAMINAR;
  if (Re >= TURBULENT) return Math.max(NU_LAMINAR, gnielinski(Re, Pr));
  const s = (Re - LAMINAR) / (TURBULENT - LAMINAR);
  return (1 - s) * NU_LAMINAR + s * gnielinski(TURBULENT, Pr);
}

export const prandtl = ({ specificHeat, viscosity, conductivity }: CoolantState): number =>
  (specificHeat * viscosity) / conductivity;

/** Heat-transfer coefficient at the wall, W/(m2 K); of standing coolant that of conduction, Nu 3.66. */
export const filmCoefficient = (Re: number, pipe: Pipe, state: CoolantState): number =>
  (nusselt(Re, prandtl(state)) * state.conductivity) / pipe.diameter;

/** Loss coefficient of a sharp bend by `angle` [rad] (Weisbach). */
export function bendLoss(angle: number): number {
  const s2 = Math.sin(angle / 2) ** 2;
  return 0.9457 * s2 + 2.047 * s2 * s2;
}

/**
 * Loss where a section meets a narrower one, for the velocity in the narrow one: mean of a contraction,
 * 0.5 (1 - a), and an expansion, (1 - a)^2 (Borda & Carnot), since the flow may go either way. a: areas, narrow over wide.
 */
export const stepLoss = (a: number): number => 0.25 * (1 - a) + 0.5 * (1 - a) ** 2;
