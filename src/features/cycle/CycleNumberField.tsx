import { CYCLE_NUMBERS, type CycleNumber } from '@/core/model/parameters';
import { ParameterField } from '../ui/ParameterField';
import type { CycleProps } from './cycleProps';

/** A number of the cycle; empty it stands for its default, which is shown. */
export function CycleNumberField({
  id,
  cycle,
  known,
  update,
  marked,
  emptyHint,
  note,
}: CycleProps & { id: CycleNumber; emptyHint?: string; note?: string | null }) {
  const parameter = CYCLE_NUMBERS[id];
  return (
    <ParameterField
      of={parameter}
      value={cycle[id]}
      fallback={parameter.fallback(known) ?? undefined}
      emptyHint={emptyHint}
      marked={marked(id)}
      note={note}
      onChange={(value) => update(parameter.named ?? parameter.label, { [id]: value })}
    />
  );
}
