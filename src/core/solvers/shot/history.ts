import { z } from 'zod';
import { real } from '../../numerics/real';
import { machinePhaseSchema } from '../melt/drive';
import type { PressureGrid } from '../../grid/pressureGrid';
import type { Gating } from '../melt/gating';
import type { Observer, Sight } from './phase';

/** What the machine would show, over the time of the shot. */
export const shotHistorySchema = z.object({
  time: z.array(real),
  /** Pressure at the nozzle and the highest at a gate, Pa; the same where there is no feed between them. */
  nozzlePressure: z.array(real),
  pressure: z.array(real),
  /** m3/s */
  flowRate: z.array(real),
  /** 0..1 */
  shareFilled: z.array(real),
  /** N */
  clampForce: z.array(real),
  phase: z.array(machinePhaseSchema),
  /** Flow rate of each gate at each time, m3/s */
  gateFlow: z.array(z.array(real)),
  /** Pressure at each gate at each time, Pa. */
  gatePressure: z.array(z.array(real)),
  /** What each gate takes of it for itself, the entry of its near field, Pa. */
  gateLoss: z.array(z.array(real)),
  /** Pressure of a fluid in the core [Pa] and its volume [m3]; absent in runs of before there was one. */
  corePressure: z.array(real).default([]),
  coreVolume: z.array(real).default([]),
  /** Between the halves of the tool, m; absent in runs of before it could stand open. */
  gap: z.array(real).default([]),
});
export type ShotHistory = z.infer<typeof shotHistorySchema>;

export const emptyHistory = (): ShotHistory => ({
  time: [],
  nozzlePressure: [],
  pressure: [],
  flowRate: [],
  shareFilled: [],
  clampForce: [],
  phase: [],
  gateFlow: [],
  gatePressure: [],
  gateLoss: [],
  corePressure: [],
  coreVolume: [],
  gap: [],
});

const copied = (history: ShotHistory): ShotHistory =>
  Object.fromEntries(Object.entries(history).map(([key, list]) => [key, [...list]])) as unknown as ShotHistory;

/** Keeps the history of a shot, from where the phases before have left it. */
export class HistoryObserver implements Observer {
  readonly history: ShotHistory;

  constructor(
    private readonly grid: PressureGrid,
    private readonly gating: Gating,
    private readonly nGates: number,
    /** Area of each node seen along the opening direction, m2; null leaves the clamp force out. */
    private readonly projectedArea: Float64Array | null,
    before: ShotHistory = emptyHistory(),
  ) {
    this.history = copied(before);
  }

  look({ time, cavity, machine, nozzlePressure, flowRate, shareFilled, onTool }: Sight): void {
    const { history, nGates } = this;
    const { solver } = cavity;
    if (machine === 'cooling' || machine === 'open') this.release();
    const atGates = this.gatePressures(solver.pressure, nozzlePressure);
    history.time.push(time);
    history.nozzlePressure.push(nozzlePressure);
    history.pressure.push(Math.max(0, ...atGates));
    history.gatePressure.push(atGates);
    history.gateLoss.push(Array.from(solver.gateLoss(nGates)));
    history.flowRate.push(flowRate);
    history.gateFlow.push(Array.from(solver.gateInflow(nGates)));
    history.shareFilled.push(shareFilled);
    history.phase.push(machine);
    history.corePressure.push(cavity.core?.pressureAt(time) ?? 0);
    history.coreVolume.push(cavity.coreVolume);
    history.gap.push(cavity.tool?.gap ?? 0);
    let force = 0;
    if (this.projectedArea)
      for (let i = 0; i < this.grid.n; i++) force += this.projectedArea[i] * Math.max(0, onTool[i]);
    history.clampForce.push(force);
  }

  private gatePressures(pressure: Float64Array, nozzle: number): number[] {
    const { gateNode } = this.gating;
    return Array.from({ length: this.nGates }, (_, g) => (gateNode ? pressure[gateNode[g]] : nozzle));
  }

  /** The machine lets go at once: one more entry at the very time at which it still pressed. */
  private release(): void {
    const { history } = this;
    const last = history.time.length - 1;
    if (!(history.nozzlePressure[last] > 0)) return;
    for (const list of Object.values(history) as unknown[][]) list.push(list[last]);
    history.nozzlePressure[last + 1] = 0;
    history.phase[last + 1] = 'cooling';
  }
}
