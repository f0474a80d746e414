import { pressureAsked, type PackingScale } from '../../model/packing';

/** Pressure after switchover as points against the time from there, the last one held; values are pressures [Pa] or shares. */
export interface PackingProfile extends PackingScale {
  points: { at: number; value: number }[];
  /** When the machine lets go, s from switchover; with `untilFrozen`, about when: it waits for the gates. */
  end: number;
  untilFrozen?: boolean;
}

/** Pressure [Pa] the profile asks for at a time from switchover, which took place at `atSwitchover` [Pa]. */
export const packingAt = (profile: PackingProfile, since: number, atSwitchover: number): number =>
  pressureAsked(profile, valueAt(profile, since), atSwitchover);

function valueAt({ points }: PackingProfile, since: number): number {
  let k = points.findIndex((p) => p.at > since);
  if (k === 0) return points[0].value;
  if (k < 0) k = points.length - 1;
  const [a, b] = [points[Math.max(0, k - 1)], points[k]];
  const weight = b.at > a.at ? Math.min(1, (since - a.at) / (b.at - a.at)) : 1;
  return a.value + weight * (b.value - a.value);
}

/** What the machine does after switchover. */
export interface PackControl {
  profile: PackingProfile;
  /** Pressure at the nozzle when it switched over, Pa above the atmosphere. */
  atSwitchover: number;
  /** Pa */
  limit: number;
}

/** Pressure at the nozzle [Pa] at a time since switchover, as long as the machine holds it. */
export const nozzlePressureAt = ({ profile, atSwitchover, limit }: PackControl, since: number): number =>
  Math.min(limit, packingAt(profile, since, atSwitchover));

/** A machine that holds one pressure [Pa] for a time [s]. */
export const constantPressure = (pressure: number, end: number): PackControl => ({
  profile: { as: 'pressure', points: [{ at: 0, value: pressure }], end },
  atSwitchover: pressure,
  limit: Infinity,
});
