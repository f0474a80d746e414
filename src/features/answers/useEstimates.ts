import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { TriangleMesh } from '@/core/geometry/mesh';
import { nShots } from '@/core/model/shots';
import type { Inputs } from '@/core/model/study';
import { valueText } from '@/core/results/compare';
import type { Answer, Suggestion } from '@/core/results/answer';
import { estimate, ESTIMATED, oneChanges, type KnownRun, type OneChange } from '@/core/results/estimate';
import { madeOtherwise } from '@/core/results/inputDifferences';
import { KEY_NUMBERS, type KeyEntry, type KeyId } from '@/core/results/keyNumbers';
import type { PartSize } from '@/core/setup/settings';
import type { RunView } from '@/runtime/wire';
import type { PreviewAnswer, PreviewFilling, PreviewRequest } from '@/runtime/previewProtocol';
import { useCavity } from '../study/meshes';
import { meltOf, previewWorker } from '../study/previewWork';
import { latestResult, presentInputs, presentPart, useStudy } from '../study/store';

/** In words by the id of the try; those of which nothing is known are missing. */
type Estimates = ReadonlyMap<string, string>;

/** What the tries of an answer would come to, by earlier runs of the project, or by the coarse filling. */
export function useEstimates(answer: Answer): Estimates {
  const latest = useStudy(latestResult);
  // What a try does to one shot of several is not known from the numbers of the first; a short shot says what it could not do.
  const run = latest?.summary?.status === 'filled' && nShots(latest.inputs) === 1 ? latest : null;
  const runs = useStudy((s) => s.runs);
  const variants = useStudy((s) => s.variants);
  const size = useStudy(presentPart)?.size ?? null;
  const id = ESTIMATED[answer.id];
  const byRuns = useMemo(() => {
    const out = new Map<string, string>();
    if (!id || !run?.summary || !size) return out;
    const of = { name: run.variantId, inputs: run.inputs, summary: run.summary };
    const nameOf = (variantId: string) => variants.find((v) => v.id === variantId)?.name ?? 'a deleted variant';
    for (const { id: tried, inputs } of answer.try) {
      const found = estimate(of, inputs, id, changesAmong(runs), size);
      if (found)
        out.set(tried, said(id, found.before, found.after, `by the runs of ${listed(found.from.map(nameOf))}`));
    }
    return out;
  }, [id, run, runs, size, variants, answer]);
  const left = answer.try.filter((t) => !byRuns.has(t.id));
  const byPreview = usePreviewed(
    id === 'pressureNeeded_Pa' ? left : [],
    run?.inputs ?? null,
    run?.summary?.pressureNeeded_Pa,
    size,
  );
  return useMemo(() => new Map([...byRuns, ...byPreview]), [byRuns, byPreview]);
}

/** Worked out once for all answers; runs are named by their variants. */
const known = new WeakMap<readonly RunView[], OneChange[]>();
function changesAmong(runs: readonly RunView[]): OneChange[] {
  let changes = known.get(runs);
  if (!changes) {
    const filled = runs.flatMap(({ inputs, summary, variantId }): KnownRun[] =>
      summary?.status === 'filled' ? [{ name: variantId, inputs, summary }] : [],
    );
    known.set(runs, (changes = oneChanges(filled)));
  }
  return changes;
}

const listed = (names: readonly string[]): string =>
  names.length > 2
    ? `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`
    : names.join(' and ') || 'this variant';

function said(id: KeyId, before: number, after: number, by: string): string {
  const entry: KeyEntry = KEY_NUMBERS[id];
  return `Estimate: ${entry.label.toLowerCase()} ${valueText(entry, before)} → about ${valueText(entry, after, 2)}, ${by}`;
}

/** Places of the inputs that the coarse filling reads. */
const READ: readonly string[] = ['gates', 'resin', 'cycle.meltTemperature', 'cycle.injection'];
const isRead = (path: readonly string[]) => READ.some((place) => `${path.join('.')}.`.startsWith(`${place}.`));

/** Pressures of tries whose changes the coarse filling reads, by how it changes with them. */
function usePreviewed(
  tries: readonly Suggestion[],
  inputs: Inputs | null,
  needed: number | undefined,
  size: PartSize | null,
) {
  const present = useStudy(presentInputs);
  const { key, mesh } = useCavity(inputs ?? present);
  const wanted =
    inputs && !inputs.feed && !inputs.compression && !inputs.core && size
      ? tries.filter((t) => {
          const changes = madeOtherwise(inputs, t.inputs);
          return changes.length > 0 && changes.every((d) => isRead(d.path));
        })
      : [];
  const fillings = [inputs, ...wanted.map((t) => t.inputs)].flatMap((i): PreviewFilling[] => {
    const melt = i && size && meltOf(i, size);
    return melt ? [{ gates: i.gates, melt }] : [];
  });
  const ready = wanted.length > 0 && fillings.length === wanted.length + 1;
  const { data } = useQuery({
    queryKey: ['coarse-pressures', key, JSON.stringify(fillings)],
    enabled: ready && key !== null && mesh !== null,
    staleTime: Infinity,
    retry: false,
    queryFn: ({ signal }) => coarsePressures(key!, mesh!, fillings, signal),
  });
  const first = data?.[0];
  const found =
    ready && first && needed ? wanted.map((t, k) => [t.id, ((data[k + 1] ?? NaN) * needed) / first] as const) : [];
  const told = found.filter(([, after]) => after > 0);
  const by = 'by the coarse preview at one temperature';
  const text = JSON.stringify(told.map(([tried, after]) => [tried, said('pressureNeeded_Pa', needed ?? 0, after, by)]));
  return useMemo(() => new Map(JSON.parse(text) as [string, string][]), [text]);
}

/** Pressures of fillings on the coarse grid, in a worker that ends with them. */
function coarsePressures(key: string, mesh: TriangleMesh, fillings: PreviewFilling[], signal: AbortSignal) {
  const worker = previewWorker();
  const send = (request: PreviewRequest) => worker.postMessage(request);
  return new Promise<(number | null)[]>((resolve, reject) => {
    signal.addEventListener('abort', () => reject(signal.reason as Error));
    worker.onerror = (event) => reject(new Error(event.message || 'The preview could not be computed.'));
    worker.onmessage = ({ data }: MessageEvent<PreviewAnswer>) => {
      if (data.type === 'grid') send({ type: 'pressures', id: 1, fillings });
      else if (data.type === 'pressures') resolve(data.pressures);
      else if (data.type === 'failed') reject(new Error(data.message));
    };
    send({ type: 'part', key, positions: mesh.positions.slice(), triangles: mesh.triangles.slice() });
  }).finally(() => worker.terminate());
}
