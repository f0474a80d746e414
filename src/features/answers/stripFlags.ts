import type { Manifest } from '@/runtime/manifest';
import type { StripScale } from './stripScale';

/** A moment of the cycle that is marked on its axis, s. */
export interface Flag {
  time: number;
  label: string;
}

/** What happened in the cycle, in its order. */
export function flagsOf(manifest: Manifest, scale: StripScale): Flag[] {
  const flags: Flag[] = [];
  const { limitReachedAt_s, switchoverTime_s, fillTime_s, pack, core, press } = manifest.summary;
  if (switchoverTime_s != null)
    flags.push({ time: switchoverTime_s, label: (core && !core.melt) || press ? 'melt ends' : 'switchover' });
  if (core) flags.push({ time: core.from_s, label: core.melt ? 'second melt' : 'core' });
  if (press) flags.push({ time: press.from_s, label: 'closes' });
  if (press?.met_s != null) flags.push({ time: press.met_s, label: 'halves meet' });
  if (limitReachedAt_s !== null) flags.push({ time: limitReachedAt_s, label: 'pressure limit' });
  flags.push({
    time: pack ? fillTime_s : scale.end,
    label: manifest.status === 'filled' ? 'full' : 'stopped',
  });
  if (pack?.lastGateFrozenAt_s != null) flags.push({ time: pack.lastGateFrozenAt_s, label: 'gate frozen' });
  if (pack?.ejectableTime_s != null) flags.push({ time: pack.ejectableTime_s, label: 'ejectable' });
  return flags.sort((a, b) => a.time - b.time);
}

/** Names stand before their line where the filling ends and at the end of the strip. */
export const toTheLeft = (flag: Flag, scale: StripScale): boolean => {
  const place = scale.placeOf(flag.time);
  return scale.phases.length > 1 ? place > 0.86 || (place > 0.2 && place < 0.41) : place > 0.6;
};

/** Names of two flags, the later one first, would stand over each other. */
export const close = (a: Flag, b: Flag, scale: StripScale): boolean =>
  scale.placeOf(a.time) - scale.placeOf(b.time) < 0.22;
