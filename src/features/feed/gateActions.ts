import { DEFAULT_GATE_DIAMETER, type Gate } from '@/core/model/study';
import { freshGateId } from '@/core/results/answer';
import { changeInputs, presentInputs, useStudy } from '../study/store';
import { useBench } from '../study/bench';

/** Puts a gate at a place, m, as wide as the one before, and chooses it. */
export function placeGate(position: Gate['position']): void {
  const { gates } = presentInputs(useStudy.getState());
  const id = freshGateId(gates);
  const diameter = gates.at(-1)?.diameter ?? DEFAULT_GATE_DIAMETER;
  changeInputs(`Place gate ${id}`, (inputs) => ({ gates: [...inputs.gates, { id, position, diameter }] }));
  useBench.getState().set({ selectedGate: id });
}

export function deleteSelectedGate(): void {
  const { selectedGate, set } = useBench.getState();
  if (!selectedGate) return;
  changeInputs(`Delete gate ${selectedGate}`, ({ gates }) => ({ gates: gates.filter((g) => g.id !== selectedGate) }));
  set({ selectedGate: null });
}
