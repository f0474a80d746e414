import type { ShotFrames } from '../shot/frames';
import type { ShotHistory } from '../shot/history';
import { perNode } from '../shot/located';
import type { PackResult } from './outcome';

/** A result of which nothing has come to pass yet. */
export function emptyResult(n: number, nGates: number, history: ShotHistory, frames: ShotFrames): PackResult {
  return {
    node: {
      fedUntil: perNode(n),
      frozenAt: perNode(n),
      releasedAt: perNode(n),
      ejectableAt: perNode(n),
      sealPressure: perNode(n),
      shrinkageAtEjection: perNode(n),
      shrinkage: perNode(n),
      density: perNode(n),
      unfed: perNode(n),
      skinAtRelease: perNode(n),
    },
    frozen: null,
    gateFrozenAt: new Array<number | null>(nGates).fill(null),
    packingEnd: NaN,
    course: { time: [], mass: [], solidShare: [], highestPressure: [] },
    history,
    frames,
    ejectableTime: null,
    openTime: NaN,
    mass: 0,
    massBefore: 0,
    massIn: 0,
    massError: 0,
    heat: { carriedIn: 0, sheared: 0, lost: 0 },
    heatError: 0,
    pressureAtOpening: 0,
    steps: 0,
    halvings: 0,
    solves: 0,
    iterations: 0,
  };
}
