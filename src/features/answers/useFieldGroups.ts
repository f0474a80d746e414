import type { Manifest } from '@/runtime/manifest';
import type { RunView } from '@/runtime/wire';
import { fieldGroups } from '../study/fields';
import { MANIFEST, useRunData } from '../study/runData';

type Groups = ReturnType<typeof fieldGroups>;

/** Fields of a run in the order of the lists. */
export function useFieldGroups(run: RunView | null): Groups {
  return groupsOf(run, useRunData(run?.id ?? null, MANIFEST)?.manifest ?? null);
}

/** The same from what has been read of the run. */
export function groupsOf(run: RunView | null, manifest: Manifest | null): Groups {
  const summary = run?.summary;
  if (!run || !summary) return [];
  return fieldGroups(run.inputs.gates.length, {
    packed: summary.pack !== undefined,
    mould: summary.cool !== undefined,
    shape: summary.shape !== undefined,
    core: summary.core !== undefined,
    fibres: summary.strength !== undefined,
    behind: manifest?.fields.map((f) => f.id) ?? [],
  });
}
