import { useQueries } from '@tanstack/react-query';
import { useMemo } from 'react';
import { create } from 'zustand';
import { MOST_COMPARED, type Compared } from '@/core/results/compare';
import { errorsOf } from '@/core/pipeline/gridError';
import { inputDifferences } from '@/core/results/inputDifferences';
import type { RunView } from '@/runtime/wire';
import { api } from '../study/api';
import type { Manifest } from '@/runtime/manifest';
import { partQuery, useUnchanged } from '../study/runData';
import { runAs, shotRunId } from '../study/shots';
import { newestResult, useStudy, type StudyState } from '../study/store';
import type { Link } from '../study/view';

/** A variant that is compared, by one of its runs; null: by its newest with a result. */
export interface Choice {
  variantId: string;
  runId: string | null;
}

export type Arrangement = 'row' | 'stack' | 'divider';

interface CompareState {
  /** In their order: the others are held against the first. null: nobody has chosen yet. */
  chosen: readonly Choice[] | null;
  tab: 'views' | 'numbers' | 'charts' | 'inputs' | 'causes';
  /** What stands beside the values in the table. */
  columns: { error: boolean; difference: boolean };
  /** The run by whose difference rows are sorted, largest first; null: in their own order. */
  sortedBy: string | null;
  /** Rows without a difference are left out. */
  differing: boolean;
  /** What the views behind the first one show: their own result, or what it is more than that of the first. */
  shown: 'values' | 'difference';
  /** Views in a row, one over the other, or two in one place with a divider between them. */
  arrangement: Arrangement;
  /** Place of the divider, 0..1 from the left. */
  divider: number;
  /** What the views share. */
  links: readonly Link[];
  /** One scale for all views of a field, or each its own. */
  scale: 'one' | 'own';
  set(patch: Partial<Omit<CompareState, 'set'>>): void;
}

export const useCompare = create<CompareState>((set) => ({
  chosen: null,
  tab: 'views',
  differing: false,
  columns: { error: true, difference: true },
  sortedBy: null,
  shown: 'values',
  arrangement: 'row',
  divider: 0.5,
  links: ['field', 'clock', 'section', 'camera'],
  scale: 'one',
  set: (patch) => set(patch),
}));

/** What is compared as long as nobody has chosen: the present variant, behind the one it was branched from. */
function usual(s: StudyState): Choice[] {
  const present = s.variants.find((v) => v.id === s.variantId);
  const withResult = s.variants.filter((v) => newestResult(s, v.id));
  const first = withResult.find((v) => v.id === present?.parentId);
  const ids = [...new Set([first?.id, present?.id, ...withResult.map((v) => v.id)])];
  return ids
    .filter((id): id is string => withResult.some((v) => v.id === id))
    .slice(0, 2)
    .map((variantId) => ({ variantId, runId: null }));
}

/** Choices of variants that are still there, in their order; of another project none is. */
export function useChoices(): readonly Choice[] {
  const chosen = useCompare((s) => s.chosen);
  const text = useStudy((s) => {
    const there = chosen?.filter((c) => s.variants.some((v) => v.id === c.variantId)) ?? [];
    return JSON.stringify(there.length ? there : usual(s));
  });
  return useMemo(() => JSON.parse(text) as Choice[], [text]);
}

/** Takes a variant in, or out where it is in already; at most four. */
export function toggle(choices: readonly Choice[], variantId: string): Choice[] {
  const without = choices.filter((c) => c.variantId !== variantId);
  if (without.length < choices.length) return without;
  return [...choices, { variantId, runId: null }].slice(0, MOST_COMPARED);
}

/** Runs with a result of each variant, newest first; empty until they have come. */
export function useRunsOf(variantIds: readonly string[]): ReadonlyMap<string, readonly RunView[]> {
  const newest = useStudy((s) => variantIds.map((id) => newestResult(s, id)?.id ?? '').join());
  const found = useUnchanged(
    useQueries({
      queries: variantIds.map((id, k) => ({
        // A run that has been added since is part of the name: the list is then another.
        queryKey: ['runs-of', id, newest.split(',')[k]],
        queryFn: () => api.variantRuns(id),
      })),
    }).map((q) => q.data),
  );
  return useMemo(() => new Map(variantIds.map((id, k) => [id, found[k] ?? []])), [found, variantIds]);
}

/** A run that is compared, under the name of its variant. */
export interface ComparedRun extends Compared {
  run: RunView;
  variantId: string;
  manifest: Manifest;
  history: Manifest['history'];
  /** Fields that it has. */
  fields: ReadonlySet<string>;
  /** It fails its own checks: no number is taken from it. */
  broken: boolean;
}

export const shotsOf = ({ manifest }: ComparedRun): number => 1 + (manifest.later?.length ?? 0);

/** A run as one of its shots, of which this is the manifest. */
export function asShotOf(run: ComparedRun, shot: number, manifest: Manifest): ComparedRun {
  const own = runAs(run.run, shot);
  return own ? { ...run, run: own, ...fromManifest(manifest) } : run;
}

/** The shot that is looked at, in all runs that have it. */
export interface RunsOfShot {
  shot: number;
  /** In their order, as far as they have come. */
  runs: readonly ComparedRun[];
  /** Names of those that have no such shot. */
  missing: readonly string[];
  coming: boolean;
}

/** Compared runs as the shot that is looked at, the last one of those that any of them has at most. */
export function useRunsOfShot(all: readonly ComparedRun[]): RunsOfShot {
  const asked = useStudy((s) => s.shot);
  const shot = Math.min(asked, Math.max(1, ...all.map(shotsOf)));
  const having = useMemo(() => all.filter((r) => shotsOf(r) >= shot), [all, shot]);
  const manifests = useUnchanged(
    useQueries({ queries: having.map(({ run }) => partQuery(shotRunId(run.id, shot), 'manifest')) }).map((q) => q.data),
  ) as (Manifest | undefined)[];
  return useMemo(() => {
    const runs = having.flatMap((r, k) => {
      const manifest = manifests[k];
      return shot === 1 ? r : manifest ? asShotOf(r, shot, manifest) : [];
    });
    const missing = all.filter((r) => !having.includes(r)).map((r) => r.name);
    return { shot, runs, missing, coming: runs.length < having.length };
  }, [all, having, manifests, shot]);
}

/** What is read from the manifest of a run or of one of its shots. */
const fromManifest = (manifest: Manifest) => ({
  summary: manifest.summary,
  answers: manifest.answers,
  errors: errorsOf(manifest.gridError),
  manifest,
  history: manifest.history,
  fields: new Set(manifest.fields.map((f) => f.id)),
  broken: Boolean(manifest.breaches?.length),
});

/** The chosen runs with their numbers, as far as they have come. */
export function useComparedRuns(): readonly ComparedRun[] {
  const choices = useChoices();
  const variants = useStudy((s) => s.variants);
  const runs = useStudy((s) => s.runs);
  const ids = useMemo(() => choices.map((c) => c.variantId), [choices]);
  const all = useRunsOf(ids);
  const chosen = useMemo(
    () =>
      choices.flatMap(({ variantId, runId }) => {
        const own = all.get(variantId) ?? [];
        const run = runId ? own.find((r) => r.id === runId) : newestResult({ runs }, variantId);
        const name = variants.find((v) => v.id === variantId)?.name;
        return run?.summary && name ? [{ run, name, variantId, earlier: runId !== null }] : [];
      }),
    [choices, all, runs, variants],
  );
  const manifests = useUnchanged(
    useQueries({ queries: chosen.map(({ run }) => partQuery(run.id, 'manifest')) }).map((q) => q.data),
  ) as (Manifest | undefined)[];
  return useMemo(
    () =>
      chosen.flatMap(({ run, name, variantId, earlier }, k) => {
        const manifest = manifests[k];
        // Only its manifest says whether a result holds.
        if (!manifest) return [];
        return [
          {
            run,
            variantId,
            name: earlier ? `${name}, ${timeOf(run)}` : name,
            ...fromManifest(manifest),
          },
        ];
      }),
    [chosen, manifests],
  );
}

/** When a run was asked for, for its name in a list. */
export const timeOf = ({ createdAt }: Pick<RunView, 'createdAt'>): string =>
  new Date(createdAt).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });

/** What a run was made with otherwise than the one after it, in few words. */
export function whatDiffered(run: RunView, next: RunView): string {
  const [first, ...rest] = inputDifferences(run.inputs, next.inputs);
  if (!first) return 'same inputs';
  return `${first.label} ${first.from}${rest.length ? ` and ${rest.length} more` : ''}`;
}
