import { useStudy } from '../study/store';
import { useView } from '../study/viewStore';

export function deleteSelectedGate(): void {
  const { selectedGate, set } = useView.getState();
  const study = useStudy.getState();
  const variant = study.variants.find((v) => v.id === study.variantId);
  if (!variant || !selectedGate) return;
  study.change(`Delete gate ${selectedGate}`, {
    ...variant.inputs,
    gates: variant.inputs.gates.filter((g) => g.id !== selectedGate),
  });
  set({ selectedGate: null });
}
