import type { Manifest } from '@/runtime/manifest';

export interface StripPhase {
  label: 'filling' | 'packing' | 'cooling' | 'open';
  /** s */
  from: number;
  to: number;
  /** Places along the strip, 0..1. */
  left: number;
  right: number;
}

/** Share of the strip that each phase gets, whatever it takes: what matters happens in the first second. */
const ROOM: Record<StripPhase['label'], number> = { filling: 0.4, packing: 0.27, cooling: 0.23, open: 0.1 };

/**
 * The time axis of the strip: in each phase as even as a clock, but every phase has room. A run that ends
 * with the filling has one even axis.
 */
export class StripScale {
  readonly phases: StripPhase[];
  readonly end: number;

  constructor(manifest: Pick<Manifest, 'history' | 'summary'> | null) {
    this.end = manifest?.history.time.at(-1) ?? 0;
    const pack = manifest?.summary.pack;
    const cuts: [StripPhase['label'], number][] = pack
      ? [
          ['filling', manifest.summary.fillTime_s],
          ['packing', pack.packingEnd_s],
          ['cooling', pack.openTime_s],
          ['open', this.end],
        ]
      : [['filling', this.end]];
    const spans = cuts.flatMap(([label, until], k) => {
      const from = Math.max(0, ...cuts.slice(0, k).map(([, t]) => Math.min(t, this.end)));
      const to = Math.min(until, this.end);
      return to > from + 1e-9 ? [{ label, from, to }] : [];
    });
    const room = spans.reduce((s, p) => s + ROOM[p.label], 0);
    let left = 0;
    this.phases = spans.map((p) => {
      const right = left + ROOM[p.label] / room;
      const phase = { ...p, left, right };
      left = right;
      return phase;
    });
  }

  /** Place 0..1 of a time [s]. */
  placeOf(time: number): number {
    const phase = this.phases.find((p) => time <= p.to) ?? this.phases[this.phases.length - 1];
    if (!phase) return 0;
    const share = (Math.min(time, phase.to) - phase.from) / (phase.to - phase.from);
    return phase.left + Math.max(0, share) * (phase.right - phase.left);
  }

  timeAt(place: number): number {
    const phase = this.phases.find((p) => place <= p.right) ?? this.phases[this.phases.length - 1];
    if (!phase) return 0;
    const share = (Math.max(0, place) - phase.left) / (phase.right - phase.left);
    return phase.from + Math.min(1, share) * (phase.to - phase.from);
  }

  /** Times worth a mark, by phase: about one every `width` of the strip. */
  ticks(width = 0.09): number[] {
    const ticks = [0];
    for (const p of this.phases) {
      const n = Math.max(1, Math.round((p.right - p.left) / width));
      const step = niceStep((p.to - p.from) / n);
      const apart = (t: number, from: number) => Math.abs(t - from) * ((p.right - p.left) / (p.to - p.from));
      for (let t = Math.ceil(p.from / step + 1e-6) * step; t < p.to; t += step)
        if (apart(t, p.from) > 0.8 * width && apart(t, p.to) > 0.8 * width) ticks.push(t);
      if (this.phases.length > 1) ticks.push(p.to);
    }
    return ticks;
  }
}

/** 1, 2 or 5 times a power of ten, not below the given. */
function niceStep(least: number): number {
  const power = 10 ** Math.floor(Math.log10(least));
  return power * ([1, 2, 5].find((m) => m * power >= least * (1 - 1e-9)) ?? 10);
}
