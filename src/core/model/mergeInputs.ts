import { inputsSchema, type Inputs } from './study';

/** What came of two changes of the same inputs: both together, or the names of what both changed in different ways. */
export type Merged = { inputs: Inputs; clashes: null } | { inputs: null; clashes: string[] };

/** Names of what a study is made of, as the page calls them. */
export const NAMES: Record<keyof Inputs, string> = {
  bodies: 'Bodies',
  tool: 'Orient',
  rules: 'Design rules',
  axes: 'Axes',
  gates: 'Gates',
  cavities: 'Cavities',
  feed: 'Feed',
  cooling: 'Cooling',
  warpage: 'Shape',
  vents: 'Vents',
  tabs: 'Overflow tabs',
  resin: 'Resin',
  cycle: 'Cycle',
  probes: 'Probes',
  noGate: 'Places without gates',
  names: 'Names',
  detail: 'Detail',
  upTo: 'Calculate',
  instants: 'Instants kept',
  inserts: 'Inserts',
  core: 'Core',
  compression: 'Compression',
  fibres: 'Fibres',
  later: 'Later shots',
  shot: 'Shot',
};

/**
 * `ours` and `theirs` made from the same `base`, in one where they do not touch: values that one of them alone has
 * changed, elements of lists by their ids. What together is no study counts as touching.
 */
export function mergeInputs(base: Inputs, ours: Inputs, theirs: Inputs): Merged {
  const clashes = new Set<string>();
  const clash: Clash = (path, _ours, kept) => {
    clashes.add(NAMES[path[0] as keyof Inputs] ?? path[0]);
    return kept;
  };
  const inputs = merge(base, ours, theirs, clash, []);
  if (clashes.size) return { inputs: null, clashes: [...clashes] };
  const parsed = inputsSchema.safeParse(inputs);
  if (parsed.success) return { inputs: parsed.data, clashes: null };
  return { inputs: null, clashes: [...new Set(parsed.error.issues.map((i) => NAMES[i.path[0] as keyof Inputs]))] };
}

/** `theirs` with what `ours` has changed of `base`, also where both touch; `ours` where that is no study. */
export function rebased(base: Inputs, ours: Inputs, theirs: Inputs): Inputs {
  const parsed = inputsSchema.safeParse(merge(base, ours, theirs, (_path, own) => own, []));
  return parsed.success ? parsed.data : ours;
}

type Table = Record<string, unknown>;
/** What stands where both have changed the same in different ways. */
type Clash = (path: readonly string[], ours: unknown, theirs: unknown) => unknown;

export const isTable = (x: unknown): x is Table => typeof x === 'object' && x !== null && !Array.isArray(x);
export const isList = (x: unknown): x is (Table & { id: string })[] =>
  Array.isArray(x) && x.every((e) => isTable(e) && typeof e.id === 'string');
/** Whether two values say the same, in whatever order their keys were set. */
export const same = (a: unknown, b: unknown): boolean => {
  if (Object.is(a, b)) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, k) => same(x, b[k]));
  if (!isTable(a) || !isTable(b)) return false;
  return [...keysOf(a, b)].every((key) => same(a[key], b[key]));
};
const keysOf = (...tables: Table[]): Set<string> => new Set(tables.flatMap((t) => Object.keys(t)));

/** What tells kinds of one thing apart: their other values do not mix. */
const KINDS = ['by', 'as', 'kind', 'shape', 'layout'];
export const ofOneKind = (...tables: Table[]): boolean =>
  KINDS.every((key) => tables.every((t) => same(t[key], tables[0][key])));

function merge(base: unknown, ours: unknown, theirs: unknown, clash: Clash, path: readonly string[]): unknown {
  if (same(ours, theirs) || same(theirs, base)) return ours;
  if (same(ours, base)) return theirs;
  if (isList(base) && isList(ours) && isList(theirs)) return mergeLists(base, ours, theirs, clash, path);
  if (isTable(base) && isTable(ours) && isTable(theirs) && ofOneKind(base, ours, theirs)) {
    const out: Table = {};
    for (const key of keysOf(theirs, ours)) {
      const value = merge(base[key], ours[key], theirs[key], clash, [...path, key]);
      if (value !== undefined) out[key] = value;
    }
    return out;
  }
  return clash(path, ours, theirs);
}

/** Theirs in their order, then what we have added; gone is what one of both has taken away and the other left alone. */
function mergeLists(
  base: readonly { id: string }[],
  ours: readonly { id: string }[],
  theirs: readonly { id: string }[],
  clash: Clash,
  path: readonly string[],
): unknown[] {
  const of = (list: readonly { id: string }[], id: string) => list.find((e) => e.id === id);
  return [...new Set([...theirs, ...ours].map((e) => e.id))].flatMap((id) => {
    const value = merge(of(base, id), of(ours, id), of(theirs, id), clash, path);
    return value === undefined ? [] : [value];
  });
}
