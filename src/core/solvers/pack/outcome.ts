import type { DensityModel } from '../../material/pvt';
import type { CavitySpec } from '../shot/cavity';
import type { ShotFrames } from '../shot/frames';
import type { ShotHistory } from '../shot/history';
import type { PerNode } from '../shot/located';
import type { PhaseFailure } from '../shot/phase';
import type { ShotState } from '../shot/state';
import type { Warmth } from '../shot/transfer';
import type { FreezingResin } from './freeStrain';
import type { AirOutside } from './inAir';
import type { ToolHold } from '../../grid/toolHold';
import type { FrozenStrain } from './wallStrain';
import type { HeatBalance } from '../melt/heat';
import type { PackControl } from './control';

/** Everything that packing needs beside the state of the filled cavity. SI. */
export interface PackInput extends CavitySpec {
  nGates: number;
  /** When the machine switched over, s since the start of the shot. */
  switchedAt: number;
  /** What was recorded before; absent where nothing was. */
  before?: { history: ShotHistory; frames: ShotFrames };
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
  /** From the end of packing to the opening of the mould, s; null: until the part can be ejected. */
  coolingTime: number | null;
  /** Time in which the nominal wall freezes, s: steps and the end of the calculation go by it. */
  freezeTime: number;
  /** Area of each node seen along the opening direction, m2. */
  projectedArea: Float64Array | null;
  /** Nodes that are kept hot and belong to no part: hot sections of the feed. */
  hot?: readonly number[];
  /** Nodes of the moulded part among all (1); all where absent. */
  part?: Uint8Array;
  /** How frozen layers shrink; without it the strain of the walls is not followed. */
  freezing?: FreezingResin;
  /** Until when walls are held at their length by hand, s since the start; else by pressure and by steel alone. */
  heldUntil?: number | null;
  /** Steel that the part closes around; absent: none. */
  steel?: ToolHold;
  /** Where the part cools once the mould has opened. */
  outside?: AirOutside;
  nFrames?: number;
  /** Steps per freezing time while melt flows; more for the sake of a test. */
  stepsPerFreeze?: number;
  /** Steps may grow to this share of the time since switchover: what happens late, happens slowly. */
  stepShare?: number;
  /** First step over the longest. */
  firstStep?: number;
}

/** What the part has done by the time the mould opens and after. Times since the start of the shot, s; NaN where it did not come to pass. */
export interface PackResult {
  node: {
    /** Until when a molten way led from the nozzle under pressure to the place. */
    fedUntil: PerNode;
    /** When the middle of the wall fell below the transition. */
    frozenAt: PerNode;
    /** When the place had no pressure left. */
    releasedAt: PerNode;
    /** When the place could be ejected. */
    ejectableAt: PerNode;
    /** Pressure when the way to the nozzle closed, Pa. */
    sealPressure: PerNode;
    /** Volumetric shrinkage against the cavity: when the mould opens, and in the room. */
    shrinkageAtEjection: PerNode;
    shrinkage: PerNode;
    /** Mean density in the cavity when the mould opens, kg/m3. */
    density: PerNode;
    /** Share of the wall that was missing when its middle froze: what no melt came to fill. */
    unfed: PerNode;
    /** Frozen share of the wall when the pressure was gone. */
    skinAtRelease: PerNode;
  };
  /** Strain of the layers of every wall; null where it was not followed. */
  frozen: FrozenStrain | null;
  /** The whole shot: what was recorded before, and this. */
  frames: ShotFrames;
  /** When each gate froze, s; null while still open at the end. */
  gateFrozenAt: (number | null)[];
  /** When the machine let go, s. */
  packingEnd: number;
  /** Time over time: mass in the cavities [kg], share of the part's volume below the ejection temperature. */
  course: { time: number[]; mass: number[]; solidShare: number[]; highestPressure: number[] };
  /** The whole cycle: the filling's with what followed. */
  history: ShotHistory;
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
  /** Heat that has come and gone since the start of the shot, J. */
  heat: HeatBalance;
  /** Balance of the stage over the heat that was there. */
  heatError: number;
  /** Largest pressure left in the part when the mould opens, Pa. */
  pressureAtOpening: number;
  steps: number;
  /** Times that a step did not settle and was halved. */
  halvings: number;
  solves: number;
  iterations: number;
}

/** A packing that came to an end: with the part cold enough to eject, or not. */
export interface Packed {
  status: 'ejected' | 'hot';
  state: ShotState;
  result: PackResult;
  /** Layers when the mould opened, on the nodes of the stage; null: it never did. */
  atOpening: Warmth | null;
}
export type PackOutcome = Packed | PhaseFailure;
