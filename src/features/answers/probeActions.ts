import type { NoGate, Probe } from '@/core/model/study';
import { changeInputs, presentInputs, useStudy } from '../study/store';
import { aimOf, useBench } from '../study/bench';

const MOST_PROBES = 24;

export function freshProbeId(probes: readonly Probe[]): string {
  for (let n = 1; ; n++) if (!probes.some((p) => p.id === `P${n}`)) return `P${n}`;
}

/** Places a probe, m; it stays with the study. */
export function dropProbe(position: Probe['position']): void {
  const inputs = presentInputs(useStudy.getState());
  if (inputs.probes.length >= MOST_PROBES) return;
  const id = freshProbeId(inputs.probes);
  changeInputs(`Place probe ${id}`, ({ probes }) => ({ probes: [...probes, { id, position }] }));
  useBench.getState().set({ selectedProbe: id, chart: true });
}

export function deleteProbe(id: string): void {
  changeInputs(`Delete probe ${id}`, ({ probes }) => ({ probes: probes.filter((p) => p.id !== id) }));
  useBench.getState().set({ selectedProbe: null });
}

/** One stroke of the brush is one step to undo: the inputs as they were when it began. */
let stroke: NoGate[] | null = null;
let timer: ReturnType<typeof setTimeout> | null = null;
const MOST_STAMPS = 3000;

/** Puts down, or wipes out, a disc where no gate may sit; m. */
export function stampNoGate(position: NoGate['position']): void {
  const brush = aimOf(useBench.getState().aim, 'no-gate');
  if (!brush) return;
  const inputs = presentInputs(useStudy.getState());
  const before = stroke ?? inputs.noGate;
  const distance = (p: NoGate) => Math.hypot(...p.position.map((x, d) => x - position[d]));
  let next: NoGate[];
  if (brush.erase) next = before.filter((p) => distance(p) > brush.radius);
  else if (before.some((p) => distance(p) < 0.35 * brush.radius && p.radius >= brush.radius)) return;
  else next = [...before, { position, radius: brush.radius }].slice(-MOST_STAMPS);
  stroke = next;
  // Stamps of one stroke come many a second: they go into the study together.
  if (timer) clearTimeout(timer);
  timer = setTimeout(commitStroke, 120);
}

function commitStroke(): void {
  const next = stroke;
  stroke = null;
  timer = null;
  if (next) changeInputs('Paint where no gate may sit', () => ({ noGate: next }));
}
