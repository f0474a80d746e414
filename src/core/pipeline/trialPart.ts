import type { StageContext } from '../stage/context';

/** Where a stage of a trial begins, and how much of it that is. */
const WEIGHT: Record<string, [number, number]> = { grid: [0, 0.15], fill: [0.15, 0.4], pack: [0.55, 0.45] };

/** Progress of one trial, a run, as a part of the whole. */
export const trialPart = (ctx: StageContext, from: number, share: number, message: string): StageContext => ({
  signal: ctx.signal,
  checkpoint: () => ctx.checkpoint(),
  report: ({ stage, fraction }) => {
    const [start, width] = WEIGHT[stage] ?? [1, 0];
    ctx.report({ stage: 'fill', fraction: from + share * (start + width * fraction), message });
  },
});
