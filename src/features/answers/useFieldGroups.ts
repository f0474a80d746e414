import type { RunView } from '@/runtime/wire';
import { fieldGroups } from '../study/fields';
import { MANIFEST, useRunData } from '../study/runData';

/** Fields of a run in the order of the lists. */
export function useFieldGroups(run: RunView | null): ReturnType<typeof fieldGroups> {
  const data = useRunData(run?.id ?? null, MANIFEST);
  const summary = run?.summary;
  if (!run || !summary) return [];
  return fieldGroups(run.inputs.gates.length, {
    packed: summary.pack !== undefined,
    mould: summary.cool !== undefined,
    shape: summary.shape !== undefined,
    core: summary.core !== undefined,
    fibres: summary.strength !== undefined,
    behind: data?.manifest?.fields.map((f) => f.id) ?? [],
  });
}
