import { z } from 'zod';
import { pressureAsked, type PackingScale } from '../../model/packing';
import type { Drive } from './pressure';

/** What the machine is told, and what it can do. SI; pressures above the atmosphere. */
export interface MachineControl {
  /** Set flow rates [m3/s], each from an injected volume [m3] on; the first from 0. */
  flowRates: readonly { from: number; rate: number }[];
  pressureLimit: number;
  /** m3/s; the most the machine can push, also under packing pressure. */
  maxFlowRate: number;
  switchover: Switchover;
  /** Pressure after switchover; null ends the phase there. */
  packing: (PackingScale & { value: number }) | null;
}

export type Switchover =
  | { by: 'automatic' }
  | { by: 'share'; share: number }
  | { by: 'pressure'; pressure: number }
  | { by: 'time'; time: number }
  /** When the melt has come to a node. */
  | { by: 'front'; node: number };

/**
 * `core`: the nozzle is shut, and a fluid in the core pushes; `closing`: the tool closes on the melt; the last two belong to
 * what follows the filling.
 */
export const machinePhaseSchema = z.enum(['injection', 'limited', 'packing', 'core', 'closing', 'cooling', 'open']);
export type MachinePhase = z.infer<typeof machinePhaseSchema>;

/** Automatic switchover: at this share filled, */
export const AUTOMATIC_SHARE = 0.99;
/** or, near the end, once the pressure limit has brought the flow below this share of the set one. */
const AUTOMATIC_FLOW = 0.3;
const NEAR_THE_END = 0.95;
/** Filling that has slowed to this share of the set flow has all but stopped. */
const STOPPED = 0.05;
/** The limit rules when it takes more than this share of the set flow. */
const LEAST_SLOWING = 1e-3;

/** Flow rate [m3/s] set at an injected volume [m3]. */
export function flowRateAt({ flowRates }: Pick<MachineControl, 'flowRates'>, volume: number): number {
  let { rate } = flowRates[0];
  for (const step of flowRates) if (volume >= step.from) rate = step.rate;
  return rate;
}

/** Where a machine stands in the filling. */
export interface DriveMemory {
  phase: MachinePhase;
  /** When the limit was first met, s. */
  limitReachedAt: number | null;
  /** Time, share filled and pressure at the nozzle then. */
  switchedAt: { time: number; share: number; pressure: number } | null;
}

/** The machine through the filling: set flow, pressure limit, packing pressure. */
export class MachineDrive implements DriveMemory {
  phase: MachinePhase = 'injection';
  limitReachedAt: number | null = null;
  switchedAt: DriveMemory['switchedAt'] = null;

  constructor(
    private readonly control: MachineControl,
    private readonly volume: number,
    before?: DriveMemory,
  ) {
    if (before) Object.assign(this, before);
  }

  get memory(): DriveMemory {
    const { phase, limitReachedAt, switchedAt } = this;
    return { phase, limitReachedAt, switchedAt };
  }

  /** Pressure that is asked for after switchover, Pa; NaN where none is set yet. */
  get packingPressure(): number {
    const { packing, pressureLimit } = this.control;
    if (!packing || !this.switchedAt) return NaN;
    return Math.min(pressureLimit, pressureAsked(packing, packing.value, this.switchedAt.pressure));
  }

  /** Pressure under which the rest comes in: near the end no more than there is, what is asked for beyond it builds up later. */
  private get fillingUp(): number {
    const { packingPressure, switchedAt } = this;
    return switchedAt && switchedAt.share >= NEAR_THE_END
      ? Math.min(packingPressure, switchedAt.pressure)
      : packingPressure;
  }

  /** What to try first at this point, and what to fall back to when `accept` refuses the outcome. */
  wanted(injected: number): Drive {
    if (this.switchedAt) return { pressure: this.fillingUp };
    if (this.phase === 'limited') return { pressure: this.control.pressureLimit };
    return { flow: this.setFlow(injected) };
  }

  setFlow(injected: number): number {
    return Math.min(flowRateAt(this.control, injected), this.control.maxFlowRate);
  }

  /** null when a solution with inlet pressure p and flow q can stand, else what to solve for instead. */
  corrected(injected: number, p: number, q: number): Drive | null {
    const set = this.setFlow(injected);
    if (this.phase === 'packing') {
      if (q > 1.001 * this.control.maxFlowRate) return { flow: this.control.maxFlowRate };
      // It has all but stopped: now the whole pressure is asked for.
      const more = q < STOPPED * set && p < (1 - 1e-9) * this.packingPressure;
      return more ? { pressure: this.packingPressure } : null;
    }
    if (this.phase === 'injection' && p > this.control.pressureLimit * (1 + 1e-9)) {
      this.phase = 'limited';
      return { pressure: this.control.pressureLimit };
    }
    if (this.phase === 'limited' && q > 1.001 * set) {
      this.phase = 'injection';
      return { flow: set };
    }
    return null;
  }

  /** Notes what a settled solution with inlet flow q says: passes on the way there may have touched the limit. */
  settled(injected: number, q: number, time: number): void {
    if (this.phase === 'limited' && q < this.setFlow(injected) * (1 - LEAST_SLOWING)) this.limitReachedAt ??= time;
  }

  /**
   * Switches over when it is time, and says whether it did; `p` and `q` are what the inlet has now, `full` the nodes
   * that melt has come to.
   */
  follow(injected: number, time: number, p: number, q: number, full: Uint8Array): boolean {
    if (this.phase === 'packing') return false;
    const share = injected / this.volume;
    const { switchover } = this.control;
    const due =
      (switchover.by === 'automatic' &&
        (share >= AUTOMATIC_SHARE - 1e-9 ||
          (share >= NEAR_THE_END && this.phase === 'limited' && q < AUTOMATIC_FLOW * this.setFlow(injected)))) ||
      (switchover.by === 'share' && share >= switchover.share - 1e-9) ||
      (switchover.by === 'pressure' && p >= switchover.pressure) ||
      (switchover.by === 'time' && time >= switchover.time - 1e-9) ||
      (switchover.by === 'front' && full[switchover.node] === 1);
    if (!due) return false;
    this.phase = 'packing';
    this.switchedAt = { time, share, pressure: p };
    return true;
  }

  /** Largest volume and time of a step that does not pass the switchover. */
  stepLimit(injected: number, time: number): { volume: number; time: number } {
    if (this.phase === 'packing') return { volume: Infinity, time: Infinity };
    const { switchover } = this.control;
    const share =
      switchover.by === 'automatic' ? AUTOMATIC_SHARE : switchover.by === 'share' ? switchover.share : Infinity;
    const volume = share * this.volume - injected;
    return {
      volume: volume > 1e-12 * this.volume ? volume : Infinity,
      time: switchover.by === 'time' && switchover.time > time ? switchover.time - time : Infinity,
    };
  }
}

/** A nozzle that is shut: gates may pass melt to each other through what lies before them, no more. */
export const SHUT: Pick<MachineDrive, 'wanted' | 'corrected' | 'settled'> = {
  wanted: () => ({ flow: 0 }),
  corrected: () => null,
  settled: () => {},
};

/** A machine that pushes at one rate [m3/s] up to a pressure [Pa], to the end. */
export const constantFlow = (flowRate: number, pressureLimit = Infinity): MachineControl => ({
  flowRates: [{ from: 0, rate: flowRate }],
  pressureLimit,
  maxFlowRate: Infinity,
  switchover: { by: 'share', share: 1 },
  packing: { as: 'pressure', value: pressureLimit },
});
