import { useEffect } from 'react';
import { toast } from 'sonner';
import { create } from 'zustand';
import { reworded } from '@/core/units/reader';
import { hasResults, isUnderWay, runEventSchema, type RunEventWire } from '@/runtime/wire';
import { api, understood } from './api';
import { useBench } from './bench';
import { dataWarning } from './dataWarning';
import { shotRunId } from './shots';
import { askedUnderWay, tell, useStudy } from './store';

export interface LiveProgress {
  /** Of the whole run, 0..1. */
  share: number;
  message: string;
  remaining_s: number | null;
}

/** The front of a run under way: fill times of the nodes as far as they came in, s; NaN where not filled. */
export interface LiveFront {
  times: Float32Array;
  end: number;
}

interface Live {
  progress: Record<string, LiveProgress>;
  /** Runs whose grid can be read, with their fronts. */
  fronts: Record<string, LiveFront>;
  /** Shot that a run has come to, from 1. */
  shots: Record<string, number>;
}

export const useLive = create<Live>(() => ({ progress: {}, fronts: {}, shots: {} }));

/** Drawing a large part in software takes longer than a message: the page must stay free to cancel. */
const DRAW_EVERY_MS = 400;
const pending = new Map<string, { nodes: Int32Array; times: Float32Array }[]>();

/** Notes nodes that the front has reached; they are drawn with those of the next moments. */
export function addFilled(runId: string, nodes: Int32Array, times: Float32Array): void {
  const list = pending.get(runId);
  if (list) return void list.push({ nodes, times });
  pending.set(runId, [{ nodes, times }]);
  setTimeout(() => {
    const arrived = pending.get(runId) ?? [];
    pending.delete(runId);
    useLive.setState(({ fronts }) => ({ fronts: { ...fronts, [runId]: withFilled(fronts[runId], arrived) } }));
  }, DRAW_EVERY_MS);
}

/** A front with what has come in since. */
export function withFilled(
  before: LiveFront | undefined,
  arrived: readonly { nodes: Int32Array; times: Float32Array }[],
): LiveFront {
  const n = arrived.reduce(
    (most, { nodes }) => nodes.reduce((m, node) => Math.max(m, node + 1), most),
    before?.times.length ?? 0,
  );
  const times = new Float32Array(n).fill(NaN);
  times.set(before?.times ?? []);
  let end = before?.end ?? 0;
  for (const some of arrived)
    some.nodes.forEach((node, i) => {
      times[node] = some.times[i];
      end = Math.max(end, some.times[i]);
    });
  return { times, end };
}

/** Id of the shot that a run has come to. */
export const liveId = (runId: string): string => shotRunId(runId, useLive.getState().shots[runId] ?? 1);

const NO_FRONT: LiveFront = { times: new Float32Array(0), end: 0 };

function bytes(text: string): ArrayBuffer {
  return Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer;
}

const SAID: Partial<Record<string, string>> = {
  failed: 'The run failed',
  cancelled: 'Run cancelled',
  interrupted: 'The run was interrupted',
};

/** Lets go of what was known of a run while it was under way: its result takes over. */
function forgetLive(runId: string): void {
  const without = <T>(all: Record<string, T>) =>
    Object.fromEntries(Object.entries(all).filter(([id]) => id.split('#')[0] !== runId));
  useLive.setState(({ progress, fronts, shots }) => ({
    progress: without(progress),
    fronts: without(fronts),
    shots: without(shots),
  }));
}

/** An event of a run; one that is not understood is told, and null. */
function readEvent(text: string): RunEventWire | null {
  try {
    return understood(runEventSchema, JSON.parse(text));
  } catch (error) {
    tell(error);
    return null;
  }
}

/** Tells of a result that was asked for while another variant is looked at, with the way to it. */
function tellOfResult(variantId: string): void {
  const study = useStudy.getState();
  const variant = study.variants.find((v) => v.id === variantId);
  if (!variant || study.variantId === variantId) return;
  toast(`The result of “${variant.name}” is there.`, {
    action: {
      label: 'Show',
      onClick: () => {
        study.selectVariant(variantId);
        useBench.getState().goTo('answers');
      },
    },
  });
}

let warned = '';

/** Tells, once, that the room for results comes to its end. */
function warnOfRoom(): void {
  // Nobody asked for it: where it fails there is nothing to tell.
  api.usage().then(
    (usage) => {
      const warning = dataWarning(usage);
      if (warning && warning !== warned) toast.warning(warning, { description: 'See Data on the start page.' });
      warned = warning;
    },
    () => {},
  );
}

/** Follows one run: the browser reconnects by itself and the server resumes after the last event seen. */
function follow(runId: string): () => void {
  const source = new EventSource(`/api/runs/${runId}/events`);
  source.onmessage = (message: MessageEvent<string>) => {
    const event = readEvent(message.data);
    if (!event) return source.close();
    if (event.type === 'progress') useLive.setState(({ progress }) => ({ progress: { ...progress, [runId]: event } }));
    else if (event.type === 'grid')
      useLive.setState(({ fronts, shots }) => ({
        fronts: { [shotRunId(runId, event.shot)]: NO_FRONT, ...fronts },
        shots: { ...shots, [runId]: event.shot },
      }));
    else if (event.type === 'filled')
      addFilled(liveId(runId), new Int32Array(bytes(event.nodes)), new Float32Array(bytes(event.times)));
    else if (event.type === 'status') {
      if (!isUnderWay(event.status)) {
        source.close();
        const problem = event.problems?.[0];
        // One that nobody had asked for was given up for one that somebody did.
        const aside = useStudy.getState().runs.find((r) => r.id === runId)?.aside;
        if (!hasResults(event.status) && !(aside && event.status === 'cancelled'))
          toast(problem ? reworded(problem.message) : (SAID[event.status] ?? event.status), {
            description: problem && reworded(problem.remedy),
          });
      }
      api
        .runById(runId)
        .then((run) => {
          useStudy.getState().putRun(run);
          // One that made way for another begins anew.
          if (run.status !== 'running') forgetLive(runId);
          if (!hasResults(run.status)) return;
          warnOfRoom();
          if (!run.aside) tellOfResult(run.variantId);
        })
        .catch(tell);
    }
  };
  return () => source.close();
}

/** Keeps following every run of the project that is under way. */
export function useLiveRuns(): void {
  const ids = useStudy((s) =>
    s.runs
      .filter((r) => isUnderWay(r.status))
      .map((r) => r.id)
      .sort()
      .join(),
  );
  useEffect(() => {
    const stops = ids ? ids.split(',').map(follow) : [];
    return () => stops.forEach((stop) => stop());
  }, [ids]);
}

export function cancelRun(): void {
  const run = askedUnderWay(useStudy.getState());
  if (run) api.cancel(run.id).catch(tell);
}
