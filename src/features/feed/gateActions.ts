import { changeInputs } from '../study/store';
import { useBench } from '../study/bench';

export function deleteSelectedGate(): void {
  const { selectedGate, set } = useBench.getState();
  if (!selectedGate) return;
  changeInputs(`Delete gate ${selectedGate}`, ({ gates }) => ({ gates: gates.filter((g) => g.id !== selectedGate) }));
  set({ selectedGate: null });
}
