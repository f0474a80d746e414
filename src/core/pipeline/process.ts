import { packTree, treeKey } from '../formats/tree';
import type { FillSoFar } from '../solvers/fill/outcome';
import type { Packed } from '../solvers/pack/outcome';
import type { StageName } from '../stage/context';
import { AS_BEFORE, kept, type PhaseStore } from '../formats/phaseStore';
import type { PhaseContext, PhaseFailure } from '../solvers/shot/phase';
import type { ShotState } from '../solvers/shot/state';
import type { Warmth } from '../solvers/shot/transfer';

/** What each phase finds beside the state it leaves. A new phase adds its entry here. */
export interface PhaseFindings {
  fill: FillSoFar;
  pack: Omit<Packed, 'state'>;
  /** When the mould closes for the next shot. */
  transfer: Warmth;
}

/** Where a process has come to: the state, and what the phases up to there have found. */
export interface Stand {
  readonly state: ShotState;
  readonly found: Partial<PhaseFindings>;
}

/** A phase in its place in a process. */
export interface PhaseStep<Input = unknown> {
  name: string;
  /** Under which its progress is told. */
  stage: StageName;
  /** Everything it reads beside state and findings: plain data, since its hash names the outcome. null: not wanted here. */
  input(stand: Stand): Input | null;
  run(stand: Stand, input: Input, ctx: PhaseContext): Promise<Stand | PhaseFailure>;
}

/** Phases that fill one set of cavities, in order. */
export interface ShotPlan {
  phases: readonly PhaseStep[];
}

export interface ProcessOutcome {
  status: 'done';
  stand: Stand;
  /** Names of phases that were taken from the store. */
  reused: string[];
}

/** A step of the process whose types hang together. */
export const phaseStep = <Input>(step: PhaseStep<Input>): PhaseStep => step as PhaseStep;

/**
 * Shots one after the other, each phase from where the one before has left the state. With a store, a phase of the same
 * key is not run again: its key is the hash of what it reads and of the key before it, so a change reruns what comes
 * after the first phase that reads it.
 */
export async function runProcess(
  shots: readonly ShotPlan[],
  start: Stand,
  ctx: PhaseContext,
  { version, store }: { version: string; store?: PhaseStore },
): Promise<ProcessOutcome | PhaseFailure> {
  let stand = start;
  let key = version;
  const reused: string[] = [];
  for (const { name, stage, input, run } of shots.flatMap((shot) => shot.phases)) {
    const reads = input(stand);
    if (reads === null) continue;
    if (store) key = await treeKey([key, name, reads]);
    const stored = store ? ((await kept(store, key)) as Stand | null) : null;
    if (stored) {
      stand = stored;
      reused.push(name);
      ctx.report({ stage, fraction: 1, message: AS_BEFORE });
      continue;
    }
    const next = await run(stand, reads, ctx);
    if ('status' in next) return next;
    stand = next;
    if (store) await store.put(key, packTree(stand));
  }
  return { status: 'done', stand, reused };
}
