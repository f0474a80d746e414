import { X } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { ApiError, type OnProgress } from './api';
import { Button } from '../ui/controls';

/** Trials on the server: what they are at, what they found and for which inputs, or why they could not. */
export function useTrials<Report, Of>() {
  const [running, setRunning] = useState<{ fraction: number; message: string } | null>(null);
  const [found, setFound] = useState<{ report: Report; of: Of } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const abort = useRef<AbortController | null>(null);
  useEffect(() => () => abort.current?.abort(), []);
  const start = async (of: Of, ask: (onProgress: OnProgress, signal: AbortSignal) => Promise<Report>) => {
    const own = (abort.current = new AbortController());
    setProblem(null);
    setRunning({ fraction: 0, message: 'Starting' });
    try {
      const report = await ask((fraction, message) => setRunning({ fraction, message }), own.signal);
      setFound({ report, of });
    } catch (error) {
      if (!own.signal.aborted)
        setProblem(error instanceof ApiError ? `${error.message} ${error.remedy}` : String(error));
    }
    setRunning(null);
  };
  return { running, found, problem, start, stop: () => abort.current?.abort() };
}

export function TrialProgress({
  fraction,
  message,
  onStop,
}: {
  fraction: number;
  message: string;
  onStop: () => void;
}) {
  return (
    <div role="status">
      <div className="bg-well h-1.5 overflow-hidden rounded">
        <div className="bg-copper h-full" style={{ width: `${Math.max(3, 100 * fraction)}%` }} />
      </div>
      <div className="mt-1 flex items-center justify-between gap-2">
        <span className="text-soft text-[12px]">{message}</span>
        <Button className="h-6 px-2 text-[12px]" onClick={onStop}>
          <X size={12} /> Stop
        </Button>
      </div>
    </div>
  );
}
