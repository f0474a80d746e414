import { same } from '../model/mergeInputs';
import { CYCLE_NUMBERS, type CycleNumber } from '../model/parameters';
import type { Inputs } from '../model/study';
import { knownOf, resolveMachine, resolveResin, type PartSize } from '../setup/settings';
import type { Answer } from './answer';
import { madeOtherwise, valueAt, type InputPath } from './inputDifferences';
import { KEY_NUMBERS, type KeyEntry, type KeyId } from './keyNumbers';
import type { Summary } from './summary';

/** A run that something is known from. */
export interface KnownRun {
  name: string;
  inputs: Inputs;
  summary: Summary;
}

/** Number that each question is estimated by; missing: none says enough. */
export const ESTIMATED: Partial<Record<Answer['id'], KeyId>> = {
  'will-it-fill': 'pressureNeeded_Pa',
  'where-fronts-meet': 'weakestWeldLine',
  'what-machine': 'clampForce_N',
  'does-it-pack-out': 'shrinkageSpread',
  'how-long-to-cool': 'cycleTime_s',
  'what-shape': 'deviation_m',
  'how-strong': 'modulusAlong_Pa',
};

/** Two runs that were made otherwise in one place alone. */
export interface OneChange {
  path: InputPath;
  from: KnownRun;
  to: KnownRun;
}

/** A number of a study before it is run. SI. */
export interface Estimate {
  id: KeyId;
  before: number;
  after: number;
  /** Runs that it was taken from. */
  from: string[];
}

/** So far beyond what was tried a change is carried on in proportion. */
const FARTHEST = 2;

/** All pairs of runs at one Detail that differ in one place alone. */
export function oneChanges(runs: readonly KnownRun[]): OneChange[] {
  const found: OneChange[] = [];
  for (const [k, from] of runs.entries())
    for (const to of runs.slice(k + 1)) {
      if (from.inputs.detail !== to.inputs.detail) continue;
      const differences = madeOtherwise(from.inputs, to.inputs);
      if (differences.length === 1) found.push({ path: differences[0].path, from, to });
    }
  return found;
}

/**
 * Number of a study as it would be if every one of its changes did what it did between other runs: as much where it was the
 * same change, in proportion where it is a number up to twice as far. null where one of the changes was never tried by
 * itself, or the sum is no such number. `size`: of the part, for defaults.
 */
export function estimate(
  of: KnownRun,
  tried: Inputs,
  id: KeyId,
  known: readonly OneChange[],
  size: PartSize,
): Estimate | null {
  const entry: KeyEntry = KEY_NUMBERS[id];
  const before = entry.of(of.summary);
  const changes = madeOtherwise(of.inputs, tried);
  if (before === null || !Number.isFinite(before) || !changes.length) return null;
  let after = before;
  const from = new Set<string>();
  for (const { path } of changes) {
    const best = effect(of.inputs, tried, path, known, entry, size);
    if (!best) return null;
    after += best.by;
    for (const { name } of best.runs) if (name !== of.name) from.add(name);
  }
  return after > 0 ? { id, before, after, from: [...from] } : null;
}

/** What a change of one place does to a number, by the pair of runs whose own change is nearest to it. */
function effect(
  inputs: Inputs,
  tried: Inputs,
  path: InputPath,
  known: readonly OneChange[],
  entry: KeyEntry,
  size: PartSize,
): { by: number; runs: readonly KnownRun[] } | null {
  const [a, b] = [inputs, tried].map((i) => settledAt(i, path, size));
  let best: { by: number; runs: readonly KnownRun[] } | null = null;
  let least = Infinity;
  for (const { path: place, from, to } of known) {
    if (!same(place, path)) continue;
    const [v, w] = [entry.of(from.summary), entry.of(to.summary)];
    if (v === null || w === null || !Number.isFinite(w - v)) continue;
    const share = shareOf(
      [a, b],
      [from, to].map((r) => settledAt(r.inputs, path, size)),
    );
    if (share === null || !(Math.abs(share) <= FARTHEST)) continue;
    const off = Math.abs(share - 1);
    if (off < least) [best, least] = [{ by: share * (w - v), runs: [from, to] }, off];
  }
  return best;
}

/** How much of one change another one is, -1 for the same the other way; null where they can not be compared. */
function shareOf([a, b]: readonly unknown[], [from, to]: readonly unknown[]): number | null {
  if (same(a ?? null, from ?? null) && same(b ?? null, to ?? null)) return 1;
  if (same(a ?? null, to ?? null) && same(b ?? null, from ?? null)) return -1;
  const numbers = [a, b, from, to].filter((v) => typeof v === 'number');
  if (numbers.length < 4 || numbers[2] === numbers[3]) return null;
  return (numbers[1] - numbers[0]) / (numbers[3] - numbers[2]);
}

/** Value at a place, with the default of a number of the cycle where none is set. */
function settledAt(inputs: Inputs, path: InputPath, size: PartSize): unknown {
  const value = valueAt(inputs, path);
  if (value !== null || path.length !== 2 || path[0] !== 'cycle' || !(path[1] in CYCLE_NUMBERS)) return value;
  const [resin, machine] = [resolveResin(inputs), resolveMachine(inputs, size)];
  return resin && machine ? CYCLE_NUMBERS[path[1] as CycleNumber].fallback(knownOf(inputs, resin, machine)) : value;
}
