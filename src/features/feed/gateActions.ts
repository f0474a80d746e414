import { changeInputs } from '../study/store';
import { useView } from '../study/viewStore';

export function deleteSelectedGate(): void {
  const { selectedGate, set } = useView.getState();
  if (!selectedGate) return;
  changeInputs(`Delete gate ${selectedGate}`, ({ gates }) => ({ gates: gates.filter((g) => g.id !== selectedGate) }));
  set({ selectedGate: null });
}
