import { fieldEntry, FIELD_TABLE } from '../fields/table';
import { CYCLE_NUMBERS } from '../model/parameters';
import type { Parameter } from '../model/parameter';
import { WAY_NUMBERS } from '../model/wayNumbers';
import { DESIGN_RULES, type DesignRule } from '../partmaps/rules';
import { CONSTANT_HELP, TABLE_HELP } from './constantHelp';
import { fieldHelp } from './fieldHelp';
import { INPUT_HELP, type InputHelp } from './inputHelp';
import { TERMS } from './terms';

export type HelpKind = 'input' | 'field' | 'constant' | 'term';

/** One thing that can be looked up: an input, a field, a constant of a material or a word. */
export interface HelpEntry {
  id: string;
  kind: HelpKind;
  title: string;
  means: string;
  /** What to do about it. */
  use?: string;
  formula?: string;
  source?: string;
  /** Limits and default of an input, SI. */
  input?: Pick<Parameter, 'unit' | 'min' | 'max' | 'above'> & Partial<Pick<Parameter, 'otherwise'>>;
  /** Other words by which it is found. */
  also?: readonly string[];
}

const lower = (text: string) => text.toLowerCase();

/** Under which an input is looked up. */
export const inputHelpId = ({ label, named }: Pick<Parameter, 'label' | 'named'>): string =>
  `input:${lower(named ?? label)}`;
export const fieldHelpId = (id: string): string => `field:${/^gateShare-/.test(id) ? 'gateShare-1' : id}`;
export const termHelpId = (name: string): string => `term:${lower(name)}`;

function inputEntry(p: Parameter): HelpEntry {
  const { label, named, means, more, source, unit, min, max, above, otherwise } = p;
  return {
    id: inputHelpId(p),
    kind: 'input',
    title: named ?? label,
    means,
    use: more,
    source,
    input: { unit, min, max, above, otherwise },
    also: [label],
  };
}

function fieldEntryOf(id: string): HelpEntry[] {
  const help = fieldHelp(id);
  const entry = fieldEntry(id);
  if (!help || !entry) return [];
  const { use, formula, source } = help;
  const title = id === 'gateShare-1' ? 'Share from a gate' : entry.label;
  return [
    { id: fieldHelpId(id), kind: 'field', title, means: entry.means, use, formula, source, also: [entry.quantity] },
  ];
}

const otherInput = ({ title, means, use, formula, source, also }: InputHelp): HelpEntry => ({
  id: `input:${lower(title)}`,
  kind: 'input',
  title,
  means,
  use,
  formula,
  source,
  also,
});

/** Under which a rule of good design is looked up. */
export const ruleHelpId = (label: string): string => `input:rule: ${lower(label)}`;

const ruleEntry = ({ label, of, why, unit, min, max }: DesignRule): HelpEntry => ({
  id: ruleHelpId(label),
  kind: 'input',
  title: `Rule: ${lower(label)}`,
  means: `${label} this much ${of}: places that break it are told on the part.`,
  use: why,
  input: { unit, min, max },
});

/** All there is to look up, by kind and in the order of the tables. */
export const HELP: readonly HelpEntry[] = [
  ...[...Object.values(CYCLE_NUMBERS), ...Object.values(WAY_NUMBERS)].map(inputEntry),
  ...Object.values(INPUT_HELP).map(otherInput),
  ...Object.values(TABLE_HELP).map(otherInput),
  ...Object.values(DESIGN_RULES).map(ruleEntry),
  ...[...Object.keys(FIELD_TABLE), 'gateShare-1'].flatMap(fieldEntryOf),
  ...CONSTANT_HELP.map((entry): HelpEntry => ({ ...otherInput(entry), kind: 'constant' })),
  ...TERMS.map(({ name, also, means }): HelpEntry => ({
    id: termHelpId(name),
    kind: 'term',
    title: name[0].toUpperCase() + name.slice(1),
    means,
    also: [name, ...(also ?? [])],
  })),
];

/** Entries whose name, or else whose text, has all of the words; those whose name begins with them come first. */
export function helpFound(asked: string): HelpEntry[] {
  const words = lower(asked).split(/\s+/).filter(Boolean);
  if (!words.length) return [...HELP];
  const rank = ({ title, also = [], means, use = '' }: HelpEntry): number => {
    const names = [title, ...also].map(lower);
    if (names.includes(words.join(' '))) return -1;
    if (names.some((n) => n.startsWith(words.join(' ')))) return 0;
    if (names.some((n) => words.every((w) => n.includes(w)))) return 1;
    const all = lower([...names, means, use].join(' '));
    return words.every((w) => all.includes(w)) ? 2 : 3;
  };
  return HELP.map((entry) => ({ entry, at: rank(entry) }))
    .filter(({ at }) => at < 3)
    .sort((a, b) => a.at - b.at)
    .map(({ entry }) => entry);
}

/** A text cut at the terms in it: each is told once, at its first place. */
export interface TextPart {
  text: string;
  /** Of the term that it names. */
  id?: string;
}

const FORMS = new Map(
  TERMS.flatMap(({ name, also = [] }) => [name, ...also].map((form) => [lower(form), termHelpId(name)])),
);
const ANY_TERM = new RegExp(
  `\\b(${[...FORMS.keys()]
    .sort((a, b) => b.length - a.length)
    .map((f) => f.replace(/[-]/g, '\\-'))
    .join('|')})\\b`,
  'gi',
);

/** The terms of a text, but for `own`, which it explains. */
export function withTerms(text: string, own?: string): TextPart[] {
  const parts: TextPart[] = [];
  const told = new Set(own ? [own] : []);
  let from = 0;
  for (const found of text.matchAll(ANY_TERM)) {
    const id = FORMS.get(lower(found[0]))!;
    if (told.has(id)) continue;
    told.add(id);
    if (found.index > from) parts.push({ text: text.slice(from, found.index) });
    parts.push({ text: found[0], id });
    from = found.index + found[0].length;
  }
  if (from < text.length) parts.push({ text: text.slice(from) });
  return parts;
}
