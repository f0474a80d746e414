import type { FillHistory } from '../fill/outcome';
import type { PackResult } from './outcome';

/** A history that can be added to without changing the filling's. */
export const copied = (h: FillHistory): FillHistory => ({
  time: [...h.time],
  nozzlePressure: [...h.nozzlePressure],
  pressure: [...h.pressure],
  flowRate: [...h.flowRate],
  shareFilled: [...h.shareFilled],
  clampForce: [...h.clampForce],
  phase: [...h.phase],
  gateFlow: [...h.gateFlow],
  gatePressure: [...h.gatePressure],
  gateLoss: [...h.gateLoss],
});

/** A result of which nothing has come to pass yet. */
export function emptyResult(n: number, nGates: number, history: FillHistory, course: PackResult['course']): PackResult {
  const unknown = () => new Float32Array(n).fill(NaN);
  return {
    fedUntil: unknown(),
    frozenAt: unknown(),
    releasedAt: unknown(),
    ejectableAt: unknown(),
    sealPressure: unknown(),
    shrinkageAtEjection: unknown(),
    shrinkage: unknown(),
    density: unknown(),
    unfed: unknown(),
    skinAtRelease: unknown(),
    frozen: null,
    gateFrozenAt: new Array<number | null>(nGates).fill(null),
    course,
    history,
    ejectableTime: null,
    openTime: NaN,
    mass: 0,
    massBefore: 0,
    massIn: 0,
    massError: 0,
    heatError: 0,
    pressureAtOpening: 0,
    steps: 0,
    halvings: 0,
    solves: 0,
    iterations: 0,
  };
}
