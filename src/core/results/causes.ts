import { KEY_NUMBERS, type KeyEntry, type KeyId } from './keyNumbers';
import type { Summary } from './summary';

/** What each of several changes does to a number, alone and together. SI. */
export interface Effects {
  before: number;
  after: number;
  /** In the order of the changes; null where one could not be tried alone. */
  alone: (number | null)[];
  /** What all of them do together is more than the sum of what each does alone; null where one is not known. */
  interaction: number | null;
}

/** Effects of changes on a key number; null where the study has no such number. */
export function effectsOn(
  id: KeyId,
  { first, all, alone }: { first: Summary; all: Summary; alone: readonly { summary: Summary | null }[] },
): Effects | null {
  const entry: KeyEntry = KEY_NUMBERS[id];
  const value = (summary: Summary | null): number | null => {
    const v = summary && entry.of(summary);
    return v !== null && Number.isFinite(v) ? v : null;
  };
  const [before, after] = [value(first), value(all)];
  if (before === null || after === null) return null;
  const effects = alone.map(({ summary }) => {
    const v = value(summary);
    return v === null ? null : v - before;
  });
  const known = effects.every((e) => e !== null);
  const sum = effects.reduce<number>((s, e) => s + (e ?? 0), 0);
  return { before, after, alone: effects, interaction: known ? after - before - sum : null };
}
