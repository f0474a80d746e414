/** When a pin moves, with places as nodes of the joined grid. */
export type PinTrigger =
  | { by: 'start' }
  | { by: 'time'; time: number }
  | { by: 'share'; share: number }
  | { by: 'pressure'; pressure: number }
  | { by: 'front'; node: number };

/** A valve pin in the feed: the link it shuts, and when. SI. */
export interface ValvePin {
  gate: number;
  link: number;
  open: PinTrigger;
  close: PinTrigger | null;
  /** Time of one move, s. */
  over: number;
}

/** State of the machine and the front that pins look at. */
export interface PinSight {
  time: number;
  shareFilled: number;
  nozzlePressure: number;
  full: Uint8Array;
}

/** Steps follow a moving pin in at least this many parts. */
const MOVE_STEPS = 4;

/**
 * Valve pins over the filling: conductance x opening(t), 0 when closed. A pin moves at an even speed, so
 * that the flow does not jump.
 */
export class ValvePins {
  /** When each pin began to open and to close, s; null before. */
  readonly openedAt: (number | null)[];
  readonly closedAt: (number | null)[];
  private readonly base: Float32Array;

  constructor(
    private readonly pins: readonly ValvePin[],
    private readonly linkFactor: Float32Array,
  ) {
    this.openedAt = pins.map(() => null);
    this.closedAt = pins.map(() => null);
    this.base = Float32Array.from(pins, (p) => linkFactor[p.link]);
  }

  /** Looks at the present state, moves what is due, and lays the openings on the links. */
  follow(sight: PinSight): void {
    this.pins.forEach((pin, k) => {
      if (this.openedAt[k] === null && due(pin.open, sight)) this.openedAt[k] = sight.time;
      if (this.openedAt[k] !== null && this.closedAt[k] === null && pin.close && due(pin.close, sight))
        this.closedAt[k] = sight.time;
      this.linkFactor[pin.link] = this.base[k] * this.opening(k, sight.time);
    });
  }

  /** 0 closed .. 1 open. */
  opening(k: number, time: number): number {
    const { over } = this.pins[k];
    const [opened, closed] = [this.openedAt[k], this.closedAt[k]];
    if (opened === null) return 0;
    // A pin that opens at the very start has been open before the shot.
    const up = this.pins[k].open.by === 'start' ? 1 : ramp(time - opened, over);
    return closed === null ? up : Math.max(0, up - ramp(time - closed, over));
  }

  /** Longest step from `time` on that neither passes a set time nor jumps over a move, s. */
  stepLimit(time: number): number {
    let limit = Infinity;
    this.pins.forEach((pin, k) => {
      for (const [trigger, at] of [
        [pin.open, this.openedAt[k]],
        [pin.close, this.closedAt[k]],
      ] as const) {
        if (at === null && trigger?.by === 'time' && trigger.time > time) limit = Math.min(limit, trigger.time - time);
        if (at !== null && trigger?.by !== 'start' && time < at + pin.over)
          limit = Math.min(limit, pin.over / MOVE_STEPS);
      }
    });
    return limit;
  }
}

/** An opening of less than this would carry nothing and only stretch the numbers. */
const LEAST = 0.02;
const ramp = (since: number, over: number) => Math.min(1, Math.max(LEAST, since / over));

function due(trigger: PinTrigger, { time, shareFilled, nozzlePressure, full }: PinSight): boolean {
  switch (trigger.by) {
    case 'start':
      return true;
    case 'time':
      return time >= trigger.time - 1e-9;
    case 'share':
      return shareFilled >= trigger.share - 1e-9;
    case 'pressure':
      return nozzlePressure >= trigger.pressure;
    case 'front':
      return full[trigger.node] === 1;
  }
}
