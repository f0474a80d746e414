import { create } from 'zustand';
import type { BalanceAsk } from '@/core/model/balanceAsk';
import type { Inputs } from '@/core/model/study';
import type { BalanceReport } from '@/core/pipeline/balanceStudy';
import { api, ApiError } from '../study/api';

/** The search for diameters: under way, or what it found and for which inputs. */
interface BalanceStore {
  running: { fraction: number; message: string; abort: AbortController } | null;
  report: BalanceReport | null;
  of: Inputs | null;
  problem: { message: string; remedy: string } | null;
}

export const useBalance = create<BalanceStore>(() => ({ running: null, report: null, of: null, problem: null }));

export const cancelBalance = () => useBalance.getState().running?.abort.abort();

export async function startBalance(inputs: Inputs, ask: BalanceAsk): Promise<void> {
  cancelBalance();
  const abort = new AbortController();
  const show = (fraction: number, message: string) => useBalance.setState({ running: { fraction, message, abort } });
  useBalance.setState({ report: null, problem: null });
  show(0, 'Starting');
  try {
    const report = await api.balance(inputs, ask, show, abort.signal);
    useBalance.setState({ report, of: inputs });
  } catch (error) {
    if (abort.signal.aborted) return;
    const remedy = error instanceof ApiError ? error.remedy : 'Try again.';
    useBalance.setState({ problem: { message: (error as Error).message, remedy } });
  } finally {
    if (useBalance.getState().running?.abort === abort) useBalance.setState({ running: null });
  }
}
