import type { DensityModel } from '../../material/pvt';
import type { FillHistory, FillResult } from '../fill/outcome';
import type { FreezingLaw, FrozenStrain } from '../warp/wallStrain';

/** Pressure at the nozzle after switchover, Pa above the atmosphere. */
export interface PackControl {
  /** `since` is the time from switchover, s. */
  pressureAt(since: number): number;
  /** Times from switchover at which the pressure bends or jumps, and at which it is released for good. */
  corners: readonly number[];
  end: number;
}

/** Everything the packing stage needs beside the filled cavity. SI. */
export interface PackInput {
  /** The filling as it ended, on its own grid (with the feed's nodes where there is one). */
  fill: FillResult;
  density: DensityModel;
  control: PackControl;
  /** Contact to the mould of plastic that has shrunk away from it, W/(m2 K); null: as while filling. */
  detachedTransfer: number | null;
  /** K; below it plastic holds its shape. */
  ejectionTemperature: number;
  transitionTemperature: number;
  noFlowTemperature: number;
  /** Share of a section, and of the part, that must be below the ejection temperature. */
  solidShare: number;
  /** When the mould opens, s from the start; null: as soon as the part can be ejected. */
  openAt: number | null;
  /** Time in which the nominal wall freezes, s: steps and the end of the calculation go by it. */
  freezeTime: number;
  /** Area of each node seen along the opening direction, m2. */
  projectedArea: Float64Array | null;
  /** Nodes that are kept hot and belong to no part: hot sections of the feed. */
  hot?: readonly number[];
  /** Nodes of the moulded part among all (1); all where absent. */
  part?: Uint8Array;
  /** How frozen layers shrink; without it the strain of the walls is not followed. */
  freezing?: FreezingLaw;
  nFrames?: number;
  /** Steps per freezing time while melt flows; more for the sake of a test. */
  stepsPerFreeze?: number;
  /** Steps may grow to this share of the time since switchover: what happens late, happens slowly. */
  stepShare?: number;
  /** First step over the longest. */
  firstStep?: number;
}

/** What the part has done by the time the mould opens and after; per node of the grid. */
export interface PackResult {
  /** Times since the start of the shot, s; NaN where it did not come to pass. */
  /** Until when a molten way led from the nozzle under pressure to the place. */
  fedUntil: Float32Array;
  /** When the middle of the wall fell below the transition. */
  frozenAt: Float32Array;
  /** When the place had no pressure left. */
  releasedAt: Float32Array;
  /** When the place could be ejected. */
  ejectableAt: Float32Array;
  /** Pressure when the way to the nozzle closed, Pa. */
  sealPressure: Float32Array;
  /** Volumetric shrinkage against the cavity: when the mould opens, and in the room. */
  shrinkageAtEjection: Float32Array;
  shrinkage: Float32Array;
  /** Mean density in the cavity when the mould opens, kg/m3. */
  density: Float32Array;
  /** Share of the wall that was missing when its middle froze: what no melt came to fill. */
  unfed: Float32Array;
  /** Frozen share of the wall when the pressure was gone. */
  skinAtRelease: Float32Array;
  /** Strain of the layers of every wall; null where it was not followed. */
  frozen: FrozenStrain | null;
  /** When each gate froze, s; null while still open at the end. */
  gateFrozenAt: (number | null)[];
  /** Time over time: mass in the cavities [kg], share of the part's volume below the ejection temperature. */
  course: { time: number[]; mass: number[]; solidShare: number[]; highestPressure: number[] };
  /** The whole cycle: the filling's with what followed. */
  history: FillHistory;
  /** When the part could be ejected and when the mould opened, s; null when never. */
  ejectableTime: number | null;
  openTime: number;
  /** Mass of the part when the mould opens, kg, and when packing began. */
  mass: number;
  massBefore: number;
  /**
   * Mass that came in through the gates after that; and the most by which, in any step, the mass that the
   * densities give differs from what flowed, over the whole.
   */
  massIn: number;
  massError: number;
  /** Heat: balance of the stage over the heat that was there. */
  heatError: number;
  /** Largest pressure left in the part when the mould opens, Pa. */
  pressureAtOpening: number;
  steps: number;
  /** Times that a step did not settle and was halved. */
  halvings: number;
  solves: number;
  iterations: number;
}

export type PackOutcome =
  | { status: 'ejected' | 'hot'; result: PackResult }
  | { status: 'failed'; step: number; message: string; likely: string; node: number };
