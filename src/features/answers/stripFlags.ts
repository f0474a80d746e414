import { INSTANT_LABELS, instantOf } from '@/core/results/instants';
import type { Manifest } from '@/runtime/manifest';
import type { StripScale } from './stripScale';

/** A moment of the cycle that is marked on its axis, s. */
export interface Flag {
  time: number;
  label: string;
}

const AFTERWARDS = ['gate-frozen', 'packing-ends', 'opening'] as const;

/** What happened in the cycle, in its order. */
export function flagsOf(manifest: Manifest, scale: StripScale): Flag[] {
  const flags: Flag[] = [];
  const { summary } = manifest;
  const { limitReachedAt_s, switchoverTime_s, fillTime_s, pack, core, press } = summary;
  if (switchoverTime_s != null)
    flags.push({
      time: switchoverTime_s,
      label: (core && !core.melt) || press ? 'melt ends' : INSTANT_LABELS.switchover,
    });
  if (core) flags.push({ time: core.from_s, label: core.melt ? 'second melt' : 'core' });
  if (press) flags.push({ time: press.from_s, label: 'closes' });
  if (press?.met_s != null) flags.push({ time: press.met_s, label: 'halves meet' });
  if (limitReachedAt_s !== null) flags.push({ time: limitReachedAt_s, label: 'pressure limit' });
  flags.push({
    time: pack ? fillTime_s : scale.end,
    label: manifest.status === 'filled' ? INSTANT_LABELS.full : 'stopped',
  });
  for (const instant of AFTERWARDS) {
    const time = instantOf(summary, instant);
    if (time !== null) flags.push({ time, label: INSTANT_LABELS[instant] });
  }
  if (pack?.ejectableTime_s != null) flags.push({ time: pack.ejectableTime_s, label: 'ejectable' });
  return flags.sort((a, b) => a.time - b.time);
}

/** Height of the row of the names above the traces, px. */
export const FLAG_ROW = 14;
/** About the width of a letter of a name, and of what stands around it, px. */
const LETTER = 5.7;
const AROUND = 9;

/** Where the name of a flag stands, px from the left of the strip. */
export interface PlacedFlag extends Flag {
  /** Of its line. */
  at: number;
  left: number;
  width: number;
}

/** Names in one row, each as near to the middle of its line as the others and the ends of the strip let it. */
export function placedFlags(flags: readonly Flag[], scale: Pick<StripScale, 'placeOf'>, width: number): PlacedFlag[] {
  const placed = flags.map((flag): PlacedFlag => {
    const own = LETTER * flag.label.length + AROUND;
    const at = scale.placeOf(flag.time) * width;
    return { ...flag, at, left: at - own / 2, width: own };
  });
  // From the left each gives way to the one before it, then from the right to the one behind.
  let free = 0;
  for (const flag of placed) free = (flag.left = Math.max(flag.left, free)) + flag.width;
  free = width;
  for (const flag of placed.toReversed()) free = flag.left = Math.min(flag.left, free - flag.width);
  return placed;
}
