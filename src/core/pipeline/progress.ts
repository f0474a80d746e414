import type { Inputs } from '../model/study';
import type { StageName } from '../stage/context';

/** Stages that a run goes through, with their share of its time on the demo parts. */
type Weights = Partial<Record<StageName, number>>;

/** The cost of a filling step grows with what is full; cooling goes fast at first. */
const EVEN = (fraction: number) => fraction;
const WITHIN: Partial<Record<StageName, (fraction: number) => number>> = {
  fill: (fraction) => fraction ** 1.6,
  pack: Math.sqrt,
};
const ORDER: readonly StageName[] = ['grid', 'cool', 'fill', 'pack', 'warp', 'grid-error'];

export interface RunPlan {
  cools: boolean;
  packs: boolean;
  shape: boolean;
  gridError: boolean;
  /** 1 where absent. */
  shots?: number;
}

/** What a run of these inputs goes through; `gridError` false where nobody asks for it. */
export const planOf = ({ cooling, upTo, detail, later = [] }: Inputs, gridError = true): RunPlan => ({
  shots: 1 + later.length,
  cools: cooling !== undefined,
  packs: upTo !== 'fill',
  shape: !upTo,
  gridError: gridError && detail !== 'quick',
});

const weightsOf = ({ cools, packs, shape, gridError }: RunPlan): Weights => ({
  grid: 0.05,
  ...(cools ? { cool: 0.15 } : {}),
  fill: 0.25,
  ...(packs ? { pack: 0.2 } : {}),
  ...(shape ? { warp: 0.3 } : {}),
  ...(gridError ? { 'grid-error': 0.2 } : {}),
});

/** Stages that every shot goes through; the others are those of the whole run. */
const OF_SHOT: ReadonlySet<StageName> = new Set(['grid', 'cool', 'fill', 'pack']);

/** Way of a whole run. It only grows: a shot that is run again in a mould that has moved takes up no new ground. */
export class RunProgress {
  private readonly weights: Weights;
  private readonly whole: number;
  private readonly perShot: number;
  private readonly shots: number;
  private most = 0;

  constructor(plan: RunPlan) {
    this.weights = weightsOf(plan);
    this.shots = plan.shots ?? 1;
    const sum = (of: (stage: StageName) => boolean) =>
      ORDER.filter(of).reduce((s, stage) => s + (this.weights[stage] ?? 0), 0);
    this.perShot = sum((stage) => OF_SHOT.has(stage));
    this.whole = this.shots * this.perShot + sum((stage) => !OF_SHOT.has(stage));
  }

  /** Share of the run that is done, 0..1, after a report of a stage, of which shot. */
  share(stage: StageName, fraction: number, shot = 1): number {
    let before = (OF_SHOT.has(stage) ? shot - 1 : this.shots - 1) * this.perShot;
    for (const earlier of ORDER) {
      if (earlier === stage) break;
      before += this.weights[earlier] ?? 0;
    }
    const within = (WITHIN[stage] ?? EVEN)(Math.min(1, Math.max(0, fraction)));
    this.most = Math.max(this.most, (before + within * (this.weights[stage] ?? 0)) / this.whole);
    return this.most;
  }
}
