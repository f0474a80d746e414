import type { StageContext } from '../../stage/context';
import type { MachinePhase } from '../melt/drive';
import type { Cavity } from './cavity';
import type { ShotState } from './state';

/** What there is to see of a phase at the end of a step, and when it begins. */
export interface Sight {
  /** s */
  time: number;
  cavity: Cavity;
  machine: MachinePhase;
  /** At the nozzle, Pa. */
  nozzlePressure: number;
  /** Through all gates, m3/s. */
  flowRate: number;
  /** 0..1 */
  shareFilled: number;
  /** Pressure on the mould, Pa, one a node. */
  onTool: Float64Array;
  /** 1 for nodes that count as full of melt. */
  full: Uint8Array;
  /** Way through the phase in frames: one is due at every whole number. */
  frame: number;
  /** Whether melt still flows fast enough for its velocity to be of interest. */
  flows: boolean;
  last: boolean;
}

/** Somebody who watches phases and keeps what it wants to. A phase knows no more of it. */
export interface Observer {
  look(sight: Sight): void;
}

/** Context of a phase: with those who watch beside its own observers. */
export interface PhaseContext extends StageContext {
  readonly observers?: readonly Observer[];
}

export interface PhaseFailure {
  status: 'failed';
  step: number;
  message: string;
  likely: string;
  /** Where; -1 where it has no place. */
  node: number;
}

/** A phase of a shot: from one state to the next, with what it found on the way. The state it gets stays as it is. */
export type Phase<Input, Outcome extends { state: ShotState }> = (
  state: ShotState,
  input: Input,
  ctx: PhaseContext,
) => Promise<Outcome | PhaseFailure>;
