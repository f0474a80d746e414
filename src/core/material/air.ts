/** Air in the mould: ideal gas. SI, absolute pressures. */
export interface AirState {
  /** Ratio of the heat capacities. */
  gamma: number;
  /** J/(kg K) */
  gasConstant: number;
  /** Pa s */
  viscosity: number;
  /** Pa */
  ambientPressure: number;
  /** K, of the mould when the melt comes. */
  temperature: number;
}

export const ATMOSPHERE = 101325;
export const airAt = (temperature: number): AirState => ({
  gamma: 1.4,
  gasConstant: 287.05,
  viscosity: 1.85e-5,
  ambientPressure: ATMOSPHERE,
  temperature,
});

/** Pressure [Pa] of air pressed from v0 to v at constant temperature: p0 v0 / v. */
export const isothermalPressure = (p0: number, compression: number) => p0 * compression;
/** Pressure [Pa] without heat exchange: p0 (v0/v)^gamma. */
export const adiabaticPressure = (p0: number, compression: number, gamma = 1.4) => p0 * Math.pow(compression, gamma);
/** Temperature [K] without heat exchange: T0 (v0/v)^(gamma-1). */
export const adiabaticTemperature = (T0: number, compression: number, gamma = 1.4) =>
  T0 * Math.pow(compression, gamma - 1);
/** v/v0 at which trapped air has reached the pressure p [Pa]; gamma 1 for the isothermal law. */
export const volumeRatioAt = (p: number, p0: number, gamma = 1) => Math.pow(p0 / p, 1 / gamma);

/** A thin vent: width, gap and land length [m], discharge coefficient of its entry. */
export interface Vent {
  width: number;
  gap: number;
  land: number;
  discharge: number;
}

/** Mass flow [kg/s] of viscous isothermal gas through the vent: W h^3 (p1^2 - p2^2) / (24 mu R T L). */
export function viscousVentFlow(vent: Vent, air: AirState, p1: number, T1: number): number {
  const p2 = air.ambientPressure;
  return (
    (vent.width * vent.gap ** 3 * Math.max(0, p1 * p1 - p2 * p2)) /
    (24 * air.viscosity * air.gasConstant * T1 * vent.land)
  );
}

/** Ratio p2/p1 below which an orifice is choked: (2/(gamma+1))^(gamma/(gamma-1)). */
export const criticalRatio = (gamma: number) => Math.pow(2 / (gamma + 1), gamma / (gamma - 1));

/** Mass flow [kg/s] through an isentropic orifice of the vent's section (Shapiro 1953, ch. 4). */
export function orificeFlow(vent: Vent, air: AirState, p1: number, T1: number): number {
  const { gamma: g, gasConstant: R } = air;
  const ratio = air.ambientPressure / p1;
  if (ratio >= 1) return 0;
  const scale = vent.discharge * vent.width * vent.gap * p1;
  if (ratio <= criticalRatio(g))
    return scale * Math.sqrt(g / (R * T1)) * Math.pow(2 / (g + 1), (g + 1) / (2 * (g - 1)));
  return scale * Math.sqrt(((2 * g) / (R * T1 * (g - 1))) * (Math.pow(ratio, 2 / g) - Math.pow(ratio, (g + 1) / g)));
}

/** A vent lets pass the smaller of friction in its land and choking at its entry. */
export const ventFlow = (vent: Vent, air: AirState, p1: number, T1: number) =>
  Math.min(viscousVentFlow(vent, air, p1, T1), orificeFlow(vent, air, p1, T1));

/** More than this many parts of one step would only follow the last molecules. */
const MOST_STEPS = 4000;

/**
 * Air enclosed by melt, as mass and (adiabatic) temperature. `squeeze` moves it to a smaller volume:
 * dm/dt = -mdot, and without heat exchange d(m cv T)/dt = -p dV/dt - mdot cp T.
 */
export class AirPocket {
  mass: number;
  temperature: number;

  constructor(
    private readonly air: AirState,
    private readonly law: 'isothermal' | 'adiabatic',
    public volume: number,
    pressure = air.ambientPressure,
    private readonly outflow: ((p: number, T: number) => number) | null = null,
  ) {
    this.temperature = air.temperature;
    this.mass = (pressure * volume) / (air.gasConstant * air.temperature);
  }

  /** Absolute pressure, Pa. */
  get pressure(): number {
    return (this.mass * this.air.gasConstant * this.temperature) / this.volume;
  }

  /**
   * Moves to `volume` [m3] in `dt` [s]: fourth-order Runge-Kutta in steps of at most 1 % of the volume and,
   * with a vent, of a twentieth of the time in which it would empty the pocket.
   */
  squeeze(volume: number, dt: number): void {
    const shrink = Math.abs(Math.log(this.volume / volume)) / 0.01;
    const drain = this.outflow ? (20 * dt * this.outflow(this.pressure, this.temperature)) / this.mass : 0;
    const steps = Math.min(MOST_STEPS, Math.max(1, Math.ceil(shrink), Math.ceil(drain)));
    const h = dt / steps;
    const rate = (volume - this.volume) / dt;
    for (let k = 0; k < steps; k++) this.step(h, rate);
    this.volume = volume;
  }

  private step(h: number, volumeRate: number): void {
    const { mass: m, temperature: T, volume: V } = this;
    const [a1, b1] = this.rates(m, T, V, volumeRate);
    const [a2, b2] = this.rates(m + (h / 2) * a1, T + (h / 2) * b1, V + (h / 2) * volumeRate, volumeRate);
    const [a3, b3] = this.rates(m + (h / 2) * a2, T + (h / 2) * b2, V + (h / 2) * volumeRate, volumeRate);
    const [a4, b4] = this.rates(m + h * a3, T + h * b3, V + h * volumeRate, volumeRate);
    this.mass = Math.max(0, m + (h / 6) * (a1 + 2 * a2 + 2 * a3 + a4));
    this.temperature = T + (h / 6) * (b1 + 2 * b2 + 2 * b3 + b4);
    this.volume = V + h * volumeRate;
  }

  private rates(m: number, T: number, V: number, volumeRate: number): [number, number] {
    const { gasConstant: R, gamma } = this.air;
    const p = (m * R * T) / V;
    const out = this.outflow ? this.outflow(p, T) : 0;
    if (this.law === 'isothermal' || !(m > 0)) return [-out, 0];
    const cv = R / (gamma - 1);
    // m cv dT = -p dV - out (cp - cv) T, from the energy of an open system.
    return [-out, (-p * volumeRate - out * R * T) / (m * cv)];
  }
}
