import type { PressureGrid } from '../../grid/pressureGrid';
import type { AirState } from '../../material/air';
import type { ViscosityModel } from '../../material/viscosity';
import type { Columns, Thermal, WallSide } from './columns';
import type { MachineControl, MachineDrive, Phase } from './drive';
import type { Heat, HeatBalance } from './heat';
import type { Inlet } from './inlet';
import type { FillFrames, FrameRecorder } from './record';
import type { ValvePin, ValvePins } from './pins';
import type { FlowSolver } from './pressure';
import type { AirTrap, NodeVent } from './trappedAir';

/** Heat exchange of the filling. null in FillInput: the melt keeps its temperature (a preview). */
export interface FillHeat extends Thermal {
  /** One entry when both walls are alike, else upper and lower half. */
  sides: WallSide[];
  /** Entry of `sides` for first and second wall of each node (2 per node). */
  sideOf: Uint8Array | Int32Array;
  /** K; below it the melt does not flow. 0 switches the limit off. */
  noFlowTemperature: number;
  /** K; below it the melt counts as frozen. */
  transitionTemperature: number;
}

/** Everything the fill stage needs. SI: m3/s, Pa, K, s. */
export interface FillInput {
  grid: PressureGrid;
  inlet: Inlet;
  nGates: number;
  viscosity: ViscosityModel;
  meltTemperature: number;
  control: MachineControl;
  heat: FillHeat | null;
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
  /** Valve pins of a feed. */
  pins?: ValvePin[];
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

export interface FillHistory {
  time: number[];
  /** Pressure at the nozzle and the highest at a gate, Pa; the same where there is no feed between them. */
  nozzlePressure: number[];
  pressure: number[];
  /** m3/s */
  flowRate: number[];
  /** 0..1 */
  shareFilled: number[];
  /** N */
  clampForce: number[];
  phase: Phase[];
  /** Flow rate of each gate at each time, m3/s */
  gateFlow: number[][];
  /** Pressure at each gate at each time, Pa. */
  gatePressure: number[][];
  /** What each gate takes of it for itself, the entry of its near field, Pa. */
  gateLoss: number[][];
}

export interface FillResult {
  fillTime: Float64Array;
  frames: FillFrames;
  /** Largest shear rate through the wall seen by each node, 1/s, and largest wall shear stress, Pa. */
  peakShearRate: Float32Array;
  peakStress: Float32Array;
  /** When the front passed: its temperature [K], speed [m/s] and direction (3 per node). NaN where it did not. */
  frontTemperature: Float32Array;
  frontSpeed: Float32Array;
  frontDirection: Float32Array;
  /** Share of each gate in the melt of a node at the end. n * nGates. */
  gateShare: Float32Array;
  columns: Columns | null;
  heat: Heat | null;
  /** Heat stored, carried in, sheared and lost, J above the coldest mould temperature. */
  heatBalance: (HeatBalance & { stored: number; error: number }) | null;
  traps: AirTrap[];
  history: FillHistory;
  /** Melt in every node, m3. */
  held: Float64Array;
  /** Volume that can be reached from the gates, and the melt in it, m3. */
  cavityVolume: number;
  injectedVolume: number;
  /** |held - injected| / cavity */
  massError: number;
  /** Time at which the flow rate first had to fall below the set one; null when it never did. */
  limitReachedAt: number | null;
  switchedAt: MachineDrive['switchedAt'];
  /** When each pin of the input began to open and to close, s; null when it never did. */
  /** Times at which each pin began its moves, s: openings at even places, closings at odd ones. */
  pins: { gate: number; movedAt: number[] }[];
  steps: number;
  /** Steps in which the pressure still moved by more than 2 % in the last pass. */
  unsettled: number;
  solves: number;
  iterations: number;
  /** What the next stage goes on with: the very objects of the filling, on its grid. */
  state: { grid: PressureGrid; inlet: Inlet; solver: FlowSolver; pins: ValvePins; recorder: FrameRecorder };
}

export type FillOutcome =
  | { status: 'filled'; result: FillResult }
  | { status: 'stalled'; result: FillResult; reason: 'time' | 'flow' }
  | { status: 'failed'; step: number; message: string; likely: string; node: number };
