/** Pressure after switchover as points against the time from there; values are pressures [Pa] or shares. */
export interface PackingProfile {
  as: 'pressure' | 'share';
  points: { at: number; value: number }[];
  end: number;
}

/** Pressure [Pa] the profile asks for at a time from switchover, which took place at `atSwitchover` [Pa]. */
export function packingAt({ as, points }: PackingProfile, since: number, atSwitchover: number): number {
  const scale = as === 'share' ? atSwitchover : 1;
  let k = points.findIndex((p) => p.at > since);
  if (k === 0) return scale * points[0].value;
  if (k < 0) k = points.length - 1;
  const [a, b] = [points[Math.max(0, k - 1)], points[k]];
  const weight = b.at > a.at ? Math.min(1, (since - a.at) / (b.at - a.at)) : 1;
  return scale * (a.value + weight * (b.value - a.value));
}

/** What the machine does after switchover. */
export interface PackControl {
  profile: PackingProfile;
  /** Pressure at the nozzle when it switched over, Pa above the atmosphere. */
  atSwitchover: number;
  /** Pa */
  limit: number;
}

/** Pressure at the nozzle [Pa] at a time since switchover; none once the profile has ended. */
export function nozzlePressureAt({ profile, atSwitchover, limit }: PackControl, since: number): number {
  return released(profile, since) ? 0 : Math.min(limit, packingAt(profile, since, atSwitchover));
}

/** Whether the machine has let go. */
export const released = ({ end }: PackingProfile, since: number): boolean => since > end + 1e-9;

/** A machine that holds one pressure [Pa] for a time [s]. */
export const constantPressure = (pressure: number, end: number): PackControl => ({
  profile: { as: 'pressure', points: [{ at: 0, value: pressure }], end },
  atSwitchover: pressure,
  limit: Infinity,
});
