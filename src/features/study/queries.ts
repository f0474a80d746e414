import { QueryCache, QueryClient, queryOptions } from '@tanstack/react-query';
import { unpackMesh } from '@/core/formats/meshBlob';
import { api } from './api';
import { blobPath } from './shots';
import { tell } from './store';

/** Runs whose results stay though nothing shows them, for switching between variants: results are large. */
const SPARE_RUNS = 2;

/** Everything read from the server by name; it never changes under its name, so it is read once. */
export const queries = new QueryClient({
  queryCache: new QueryCache({ onError: tell }),
  defaultOptions: {
    queries: {
      staleTime: Infinity,
      retry: false,
      refetchOnWindowFocus: false,
      // Typed arrays are taken as they are; comparing them would cost more than drawing.
      structuralSharing: false,
      // The server is on this machine, whatever the browser thinks of the network.
      networkMode: 'always',
    },
  },
});

export const runKey = (runId: string, name: string) => ['run', runId, name] as const;

/** Something stored of a run; what was refused is asked for again by the next one who wants it. */
export const runBlob = <T>(runId: string, name: string, read: (buffer: ArrayBuffer) => T) =>
  queryOptions({
    queryKey: runKey(runId, name),
    queryFn: async () => read(await api.binary(blobPath(runId, name))),
    // Runs go by how many there are, not by how long ago: see below.
    gcTime: Infinity,
  });

/** A stored surface, m. */
export const storedMesh = (hash: string) =>
  queryOptions({
    queryKey: ['mesh', hash],
    queryFn: async () => unpackMesh(new Uint8Array(await api.binary(`/api/geometries/${hash}`))),
  });

/** When something of a run was last let go, in order. */
const letGo = new Map<string, number>();
let order = 0;

queries.getQueryCache().subscribe((event) => {
  if (event.type !== 'observerRemoved') return;
  const [kind, runId] = event.query.queryKey as string[];
  if (kind !== 'run') return;
  letGo.set(runId, ++order);
  forgetRuns();
});

/** Drops what no place on the page shows, but for the runs that were looked at last. */
function forgetRuns(): void {
  const all = queries.getQueryCache().findAll({ queryKey: ['run'] });
  const runOf = (q: (typeof all)[number]) => String(q.queryKey[1]);
  const shown = new Set(all.filter((q) => q.getObserversCount() > 0).map(runOf));
  const idle = [...new Set(all.map(runOf))].filter((id) => !shown.has(id));
  idle.sort((a, b) => (letGo.get(b) ?? 0) - (letGo.get(a) ?? 0));
  for (const id of idle.slice(SPARE_RUNS)) {
    queries.removeQueries({ queryKey: ['run', id] });
    letGo.delete(id);
  }
}
