import { asShot, nShots, wholeOf } from './shots';
import { LONGEST_NAME, type Inputs } from './study';

/** Kinds of things in a study that can be given a name besides their id. */
export const NAMED = [
  'gate',
  'vent',
  'tab',
  'needle',
  'piece',
  'runner',
  'line',
  'supply',
  'probe',
  'support',
  'measure',
] as const;
export type NamedKind = (typeof NAMED)[number];

/** Kinds that every shot has its own of. */
const OF_SHOT: ReadonlySet<NamedKind> = new Set(['gate', 'vent', 'tab', 'needle', 'piece', 'runner']);

const keyOf = ({ shot }: Pick<Inputs, 'shot'>, kind: NamedKind, id: string): string =>
  `${kind} ${id}${shot && OF_SHOT.has(kind) ? ` of shot ${shot.number}` : ''}`;

/** Ids of everything that can be named, of the shot that is looked at and of all shots together. */
function idsOf(inputs: Inputs): Record<NamedKind, readonly { id: string }[]> {
  const { gates, vents, tabs, core, compression, feed, cooling, probes, warpage } = inputs;
  return {
    gate: gates,
    vent: vents ?? [],
    tab: tabs ?? [],
    needle: core?.needles ?? [],
    piece: compression?.melt.by === 'charge' ? compression.melt.pieces : [],
    runner: feed?.lines ?? [],
    line: cooling?.lines ?? [],
    supply: cooling?.supplies ?? [],
    probe: probes,
    support: warpage?.supports ?? [],
    measure: warpage?.measures ?? [],
  };
}

/** What a thing is called: its name, or its id where it has none. */
export const nameOf = (inputs: Pick<Inputs, 'names' | 'shot'>, kind: NamedKind, id: string): string =>
  inputs.names?.[keyOf(inputs, kind, id)] ?? id;

/** The names with one more, or one less: null takes it away. Undefined where none is left. */
export function withName(inputs: Inputs, kind: NamedKind, id: string, name: string | null): Inputs['names'] {
  const key = keyOf(inputs, kind, id);
  const { [key]: _, ...others } = inputs.names ?? {};
  const wanted = name?.trim().slice(0, LONGEST_NAME);
  const names = wanted && wanted !== id ? { ...others, [key]: wanted } : others;
  return Object.keys(names).length ? names : undefined;
}

/** A study without the names of what is no longer there: a new gate must not be called like one that was deleted. */
export function withoutLostNames(study: Inputs): Inputs {
  if (!study.names) return study;
  const whole = wholeOf(study);
  const there = new Set<string>();
  for (let shot = 1; shot <= nShots(whole); shot++) {
    const inputs = asShot(whole, shot);
    const ids = idsOf(inputs);
    for (const kind of NAMED) for (const { id } of ids[kind]) there.add(keyOf(inputs, kind, id));
  }
  const kept = Object.entries(study.names).filter(([key]) => there.has(key));
  if (kept.length === Object.keys(study.names).length) return study;
  const { names: _, ...rest } = study;
  return kept.length ? { ...rest, names: Object.fromEntries(kept) } : rest;
}

const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, String.raw`\$&`);

/**
 * A function that says texts with the names in place of ids: "Gate G1 is 3 mm off" becomes "Gate Rim is 3 mm off".
 * Ids that two kinds share stay as they are: a text does not tell which one it means.
 */
export function inNames(inputs: Inputs): (text: string) => string {
  if (!inputs.names) return (text) => text;
  const ids = idsOf(inputs);
  const found = new Map<string, string | null>();
  for (const kind of NAMED)
    for (const { id } of ids[kind]) found.set(id, found.has(id) ? null : nameOf(inputs, kind, id));
  const named = [...found].filter(([id, name]) => name !== null && name !== id);
  if (!named.length) return (text) => text;
  const longestFirst = named.map(([id]) => escaped(id)).sort((a, b) => b.length - a.length);
  const pattern = new RegExp(String.raw`(?<![\p{L}\p{N}_-])(?:${longestFirst.join('|')})(?![\p{L}\p{N}_-])`, 'gu');
  return (text) => text.replace(pattern, (id) => found.get(id) ?? id);
}

/** The same things by their names, for charts and lists that tell them by their ids. */
export const inTheirNames = <T extends { id: string }>(
  inputs: Pick<Inputs, 'names' | 'shot'>,
  kind: NamedKind,
  list: readonly T[],
): T[] => list.map((thing) => ({ ...thing, id: nameOf(inputs, kind, thing.id) }));
