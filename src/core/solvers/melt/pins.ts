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
  /** Opens, closes, opens again and so on, one after the other. */
  moves: readonly PinTrigger[];
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
  /** When each pin began each of the moves it has made, s: openings at even places, closings at odd ones. */
  readonly movedAt: number[][];
  private readonly base: Float32Array;

  constructor(
    private readonly pins: readonly ValvePin[],
    private readonly linkFactor: Float32Array,
    /** Where they stood when an earlier phase ended; absent at the start of a shot. */
    before: readonly { movedAt: readonly number[]; opening: number }[] = [],
  ) {
    this.movedAt = pins.map((_, k) => [...(before[k]?.movedAt ?? [])]);
    this.base = Float32Array.from(pins, (p) => linkFactor[p.link]);
    before.forEach(({ opening }, k) => (linkFactor[pins[k].link] = this.base[k] * opening));
  }

  /** Where they stand, for a state. */
  places(): { movedAt: number[]; opening: number }[] {
    return this.pins.map(({ link }, k) => ({
      movedAt: this.movedAt[k].slice(),
      opening: this.linkFactor[link] / this.base[k],
    }));
  }

  /** Looks at the present state, moves what is due, and lays the openings on the links. */
  follow(sight: PinSight): void {
    this.pins.forEach((pin, k) => {
      const done = this.movedAt[k];
      // One move a step: a pin that is told to open and to close at once still moves both ways.
      if (done.length < pin.moves.length && due(pin.moves[done.length], sight)) done.push(sight.time);
      this.linkFactor[pin.link] = this.base[k] * this.opening(k, sight.time);
    });
  }

  /** 0 closed .. 1 open. Each move starts from where the one before has come to. */
  opening(k: number, time: number): number {
    const { over, moves } = this.pins[k];
    const done = this.movedAt[k];
    let place = 0;
    for (let m = 0; m < done.length; m++) {
      const opens = m % 2 === 0;
      // A pin that opens at the very start has been open before the shot.
      if (m === 0 && moves[0].by === 'start') place = 1;
      else {
        const way = ramp(Math.min(time, done[m + 1] ?? Infinity) - done[m], over);
        place = opens ? Math.min(1, place + way) : Math.max(0, place - way);
      }
    }
    return place;
  }

  /** The moves up to now, kept; the returned function puts them back. */
  mark(): () => void {
    const moved = this.movedAt.map((times) => times.length);
    const factors = this.pins.map((pin) => this.linkFactor[pin.link]);
    return () => {
      this.movedAt.forEach((times, k) => (times.length = moved[k]));
      this.pins.forEach((pin, k) => (this.linkFactor[pin.link] = factors[k]));
    };
  }

  /** Longest step from `time` on that neither passes a set time nor jumps over a move, s. */
  stepLimit(time: number): number {
    let limit = Infinity;
    this.pins.forEach(({ moves, over }, k) => {
      const done = this.movedAt[k];
      const next = moves[done.length];
      if (next?.by === 'time' && next.time > time) limit = Math.min(limit, next.time - time);
      const last = done.length - 1;
      if (last >= 0 && moves[last].by !== 'start' && time < done[last] + over)
        limit = Math.min(limit, over / MOVE_STEPS);
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
