import { ATMOSPHERE } from '../../material/air';

/** What is brought into the core, as it comes out of the needle. SI. */
export interface CoreFluid {
  /** J/(kg K) of a gas; null: a liquid, which keeps its volume. */
  gasConstant: number | null;
  /** kg/m3 of a liquid; not read for a gas. */
  density: number;
  /** K */
  temperature: number;
  /** Heat that it takes up from the skin, W/(m2 K); 0: none, as behind a gas that stands. */
  transfer: number;
}

/** What the needle is told, over the time since the fluid was let in: s, Pa above the atmosphere, or m3. */
export type CoreControl =
  | { by: 'pressure'; points: readonly CorePoint[] }
  /**
   * Volume that has been pushed in, of a gas at 0 °C and the pressure of the atmosphere. `line`: what lies between valve and
   * melt and is filled as well, m3; `most`: what the source can press, Pa.
   */
  | { by: 'volume'; points: readonly CorePoint[]; line: number; most: number };

export interface CorePoint {
  at: number;
  value: number;
}

const NORMAL = 273.15;

/** Value of a profile at a time, linear between its points; the last is the release. */
export function profileAt(points: readonly CorePoint[], time: number): number {
  const first = points[0];
  if (time <= first.at) return first.value;
  for (let k = 1; k < points.length; k++) {
    const [a, b] = [points[k - 1], points[k]];
    if (time < b.at) return a.value + ((time - a.at) / (b.at - a.at)) * (b.value - a.value);
  }
  return points[points.length - 1].value;
}

/** When the needle opens to the atmosphere again, s since the fluid was let in. */
export const releasedAt = ({ points }: CoreControl): number => points[points.length - 1].at;

/** Pressure [Pa above the atmosphere] of the fluid in a core of `volume` m3, `time` s after it was let in. */
export function corePressure(control: CoreControl, fluid: CoreFluid, time: number, volume: number): number {
  if (time < 0 || time >= releasedAt(control) - 1e-12) return 0;
  const value = profileAt(control.points, time);
  if (control.by === 'pressure') return value;
  // A liquid does not give: what was pushed in and is not in the core presses as hard as the source can.
  if (fluid.gasConstant === null) return volume < value ? control.most : 0;
  const absolute = (ATMOSPHERE * value * fluid.temperature) / NORMAL / (control.line + volume);
  return Math.min(control.most, Math.max(0, absolute - ATMOSPHERE));
}

/** Mass [kg] of the fluid in a core of `volume` m3 at `pressure` Pa above the atmosphere: p V = m R T for a gas. */
export function coreMass({ gasConstant, density, temperature }: CoreFluid, pressure: number, volume: number): number {
  if (gasConstant === null) return density * volume;
  return ((pressure + ATMOSPHERE) * volume) / (gasConstant * temperature);
}
