import { useEffect } from 'react';
import { toast } from 'sonner';
import { create } from 'zustand';
import { hasResults, isUnderWay, type RunEventWire } from '@/runtime/wire';
import { api } from './api';
import { addFilled, loadGrid } from './runData';
import { runUnderWay, tell, useStudy } from './store';

export interface LiveProgress {
  /** Of the whole run, 0..1. */
  share: number;
  message: string;
  remaining_s: number | null;
}

interface Live {
  progress: Record<string, LiveProgress>;
  put(runId: string, progress: LiveProgress): void;
}

export const useLive = create<Live>((set) => ({
  progress: {},
  put: (runId, progress) => set((s) => ({ progress: { ...s.progress, [runId]: progress } })),
}));

function bytes(text: string): ArrayBuffer {
  return Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer;
}

const SAID: Partial<Record<string, string>> = {
  failed: 'The run failed',
  cancelled: 'Run cancelled',
  interrupted: 'The run was interrupted',
};

/** Follows one run: the browser reconnects by itself and the server resumes after the last event seen. */
function follow(runId: string): () => void {
  const source = new EventSource(`/api/runs/${runId}/events`);
  source.onmessage = (message: MessageEvent<string>) => {
    const event = JSON.parse(message.data) as RunEventWire;
    if (event.type === 'progress') useLive.getState().put(runId, event);
    else if (event.type === 'grid') loadGrid(runId);
    else if (event.type === 'filled')
      addFilled(runId, new Int32Array(bytes(event.nodes)), new Float32Array(bytes(event.times)));
    else if (event.type === 'status') {
      if (!isUnderWay(event.status)) {
        source.close();
        const problem = event.problems?.[0];
        if (!hasResults(event.status))
          toast(problem?.message ?? SAID[event.status] ?? event.status, { description: problem?.remedy });
      }
      api.runById(runId).then(useStudy.getState().putRun).catch(tell);
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
  const run = runUnderWay(useStudy.getState());
  if (run) api.cancel(run.id).catch(tell);
}
