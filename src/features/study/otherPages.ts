import { useEffect } from 'react';
import { api } from './api';
import { openChannel } from './channel';
import { useStudy } from './store';

/** Changes in quick succession are fetched together, ms. */
const TOGETHER_MS = 150;

/** Keeps the page in step with others that show the same project: when they say so, and when it is looked at again. */
export function useInStep(): void {
  const projectId = useStudy((s) => s.projectId);
  useEffect(() => {
    if (!projectId) return;
    let timer: ReturnType<typeof setTimeout> | null = null;
    const fetchSoon = () => {
      timer ??= setTimeout(() => {
        timer = null;
        // Nobody asked for it: where it fails, the next save tells.
        api.project(projectId).then(useStudy.getState().refresh, () => {});
      }, TOGETHER_MS);
    };
    const heard = ({ data }: MessageEvent) => data === projectId && fetchSoon();
    const seen = () => document.visibilityState === 'visible' && fetchSoon();
    const pages = openChannel();
    pages?.addEventListener('message', heard);
    document.addEventListener('visibilitychange', seen);
    window.addEventListener('focus', seen);
    return () => {
      if (timer) clearTimeout(timer);
      pages?.removeEventListener('message', heard);
      document.removeEventListener('visibilitychange', seen);
      window.removeEventListener('focus', seen);
    };
  }, [projectId]);
}
