import type { AirState } from '../../material/air';
import type { ShotFrames } from '../shot/frames';
import type { ShotHistory } from '../shot/history';
import type { PerNode } from '../shot/located';
import type { PhaseFailure } from '../shot/phase';
import type { CavitySpec } from '../shot/cavity';
import type { ShotState } from '../shot/state';
import type { MachineControl, MachineDrive } from '../melt/drive';
import type { HeatBalance } from '../melt/heat';
import type { AirTrap, NodeVent } from '../melt/trappedAir';

/** Everything the filling needs beside the state it starts from. SI: m3/s, Pa, K, s. */
export interface FillInput extends CavitySpec {
  nGates: number;
  /** What was found up to the state, where it is not that of an empty cavity. */
  before?: FillResult;
  control: MachineControl;
  /** The machine injects on, whatever it had switched over to: another melt follows. */
  injectsOn?: boolean;
  /** Air ahead of the front, and nodes (1) where it gets out; null leaves it out. */
  air: { state: AirState; vented: Uint8Array; vents?: NodeVent[] } | null;
  /** Area of each node seen along the opening direction, m2; null leaves the clamp force out. */
  projectedArea: Float64Array | null;
  /** Time after which filling is given up. */
  timeLimit: number;
  /** Wanted number of steps over the whole volume. */
  nSteps?: number;
  /** Longest advance of the front in a step, nodes: while it is wide, and from the share `endAt` on. */
  advance?: { wide: number; end: number; endAt: number };
  /** Nodes that are full of melt from the start at a temperature [K] of their own: hot sections of the feed. */
  hot?: { node: number; temperature: number }[];
  /** See Heat.followHeat. */
  followHeat?: number;
  /** Frames kept over time. */
  nFrames?: number;
  /** A pass that would change the fluidities by less than this (rms of ln M) is not followed by another. */
  fluidityTolerance?: number;
  /** Most passes of the viscosity iteration in a step, and tolerance of the linear solver. */
  passes?: number;
  tolerance?: number;
}

export interface FillResult {
  node: {
    /** When the melt had come, s. */
    fillTime: PerNode<Float64Array>;
    /** Largest shear rate through the wall seen, 1/s, and largest wall shear stress, Pa. */
    peakShearRate: PerNode;
    peakStress: PerNode;
    /** When the front passed: its temperature [K], speed [m/s] and direction (3 per node). NaN where it did not. */
    frontTemperature: PerNode;
    frontSpeed: PerNode;
    frontDirection: PerNode;
    /** Share of each gate in the melt at the end; one a gate. */
    gateShare: PerNode;
    /** Melt, and a fluid in its core, m3. */
    held: PerNode<Float64Array>;
    core: PerNode<Float64Array>;
  };
  frames: ShotFrames;
  history: ShotHistory;
  /** 1 where a half of the wall stands for both, 2 where they differ; 0 where heat was not followed. */
  nHalves: number;
  /** Heat stored, carried in, sheared and lost, J above the coldest mould temperature. */
  heatBalance: (HeatBalance & { stored: number; error: number }) | null;
  traps: AirTrap[];
  /** Volume that can be reached from the gates, and the melt in it, m3. */
  cavityVolume: number;
  injectedVolume: number;
  /** Fluid in its core when it ended, m3. */
  coreVolume: number;
  /** Between the halves of the tool when it ended, m. */
  gap: number;
  /** |held - injected| / cavity */
  massError: number;
  /** Where and when a fluid in the core came out of the melt into what was still empty; null: it did not. */
  brokenThrough: { node: number; time: number } | null;
  /** Time at which the flow rate first had to fall below the set one; null when it never did. */
  limitReachedAt: number | null;
  /** With the pressure that the machine holds from then on, Pa; NaN while that is not set. */
  switchedAt: (NonNullable<MachineDrive['switchedAt']> & { packing: number }) | null;
  /** Times at which each pin began its moves, s: openings at even places, closings at odd ones. */
  pins: { gate: number; movedAt: number[] }[];
  steps: number;
  /** Steps in which the pressure still moved by more than 2 % in the last pass. */
  unsettled: number;
  solves: number;
  iterations: number;
}

/**
 * Why a filling ends short: time is up, the melt stands, the fluid in its core has come through the front, or does not
 * push it any further; the halves of the tool have met, or stand on the melt.
 */
export type StallReason = 'time' | 'flow' | 'blow-through' | 'core' | 'closed' | 'force';

/** How a filling that came to an end came to it, and what was found. */
export type FillFound =
  { status: 'filled'; result: FillResult } | { status: 'stalled'; result: FillResult; reason: StallReason };
/** The same, or that it goes on after switchover. */
export type FillSoFar = FillFound | { status: 'switched'; result: FillResult };
export type Filled = FillSoFar & { state: ShotState };
export type FillOutcome = Filled | PhaseFailure;
