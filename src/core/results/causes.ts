import { differenceText, UNTOLD, valueText } from './compare';
import { KEY_IDS, KEY_NUMBERS, type KeyEntry, type KeyId } from './keyNumbers';
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

/** Ends of the changes: the study without them, with all of them, and with each alone (null where that is no study). */
export interface Trials {
  first: Summary;
  all: Summary;
  alone: readonly { label: string; summary: Summary | null; why: string | null }[];
}

/** Effects of changes on a key number; null where the study has no such number. */
export function effectsOn(
  id: KeyId,
  { first, all, alone }: Pick<Trials, 'first' | 'all'> & { alone: readonly { summary: Summary | null }[] },
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

/** The interaction of the changes in a sentence. */
export function interactionSaid({ interaction, before, after, alone }: Effects, entry: KeyEntry): string {
  if (interaction === null) return 'What could not be tried alone leaves open what the changes do to each other.';
  if (alone.length < 2) return 'One change alone: all of it is its own.';
  const most = Math.max(Math.abs(after - before), ...alone.map((e) => Math.abs(e ?? 0)));
  if (Math.abs(interaction) <= 0.02 * most)
    return 'They hardly act on each other: together they do what they do one by one.';
  return `They act on each other: together they do ${differenceText(entry, interaction)} beside what they do one by one.`;
}

/** Effects on every key number that the changes move, as lines of text. */
export function causesText(trials: Trials): string {
  const lines: string[] = [];
  const width = Math.max(...trials.alone.map((a) => a.label.length));
  for (const id of KEY_IDS) {
    const [entry, effects]: [KeyEntry, Effects | null] = [KEY_NUMBERS[id], effectsOn(id, trials)];
    if (!effects) continue;
    const { before, after, alone } = effects;
    // What no comparison would call a difference is none here, either.
    if ([after - before, ...alone].every((e) => Math.abs(e ?? 0) <= UNTOLD * Math.abs(before))) continue;
    lines.push(`  ${entry.label}: ${valueText(entry, effects.before)} → ${valueText(entry, effects.after)}`);
    effects.alone.forEach((e, k) => {
      const { label } = trials.alone[k];
      lines.push(`    ${label.padEnd(width)}  ${e === null ? 'not known alone' : differenceText(entry, e)}`);
    });
    if (effects.alone.length > 1) lines.push(`    ${interactionSaid(effects, entry)}`);
  }
  if (!lines.length) lines.push('  nothing: no key number moves');
  for (const { label, why } of trials.alone) if (why) lines.push(`  ${label} alone: ${why}`);
  return lines.join('\n');
}
