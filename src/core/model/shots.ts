import { shotOf, type Body } from './body';
import { DEFAULT_INSERT, type InsertChoice } from './insert';
import {
  DEFAULT_TRANSFER,
  emptyInputs,
  inSetMould,
  shotSchema,
  type Inputs,
  type LaterShot,
  type ShotInputs,
} from './study';

/** How many shots a study has. */
export const nShots = ({ later }: Pick<Inputs, 'later'>): number => 1 + (later?.length ?? 0);

/** Number of the shot that inputs are looked at as, from 1. */
export const shotNumber = ({ shot }: Pick<Inputs, 'shot'>): number => shot?.number ?? 1;

const OWN = Object.keys(shotSchema.shape) as (keyof ShotInputs)[];
/** Keys of `from` that a shot has its own of; what is absent stays absent. */
function ownOf(from: ShotInputs): ShotInputs {
  return Object.fromEntries(OWN.flatMap((key) => (from[key] === undefined ? [] : [[key, from[key]]]))) as ShotInputs;
}

function without(inputs: Inputs): Omit<Inputs, keyof ShotInputs> {
  return Object.fromEntries(Object.entries(inputs).filter(([key]) => !OWN.includes(key as keyof ShotInputs))) as Omit<
    Inputs,
    keyof ShotInputs
  >;
}

/**
 * A study looked at as one of its shots, from 1: gates, feed, resin and cycle are those of that shot, and its cavities
 * those that `cavities` gives. What the mould block does counts for the first shot; later ones have the mould that is set.
 */
export function asShot(inputs: Inputs, number: number): Inputs {
  const whole = wholeOf(inputs);
  const later = whole.later?.[number - 2];
  if (number < 2 || !later) return whole;
  return { ...without(whole), ...ownOf(later), shot: { number, first: ownOf(whole) } };
}

/** The study itself, of inputs that are looked at as a shot: with what was changed of it. */
export function wholeOf(inputs: Inputs): Inputs {
  const { shot, ...rest } = inputs;
  if (!shot) return inputs;
  const later = rest.later?.map((l, k) => (k + 2 === shot.number ? { ...ownOf(rest), transfer: l.transfer } : l));
  return { ...without(rest), ...shot.first, ...(later ? { later } : {}) };
}

/** A shot as if it were the only one, its mould of the temperature that is set. The first of several keeps its inserts. */
export function byItself(inputs: Inputs): Inputs {
  const { shot, later, ...rest } = inputs;
  if (!shot && !later) return inputs;
  const own = shot?.number ?? 1;
  const bodies = rest.bodies.map((b): Body => {
    const { shot: _, ...plain } = b;
    return shotOf(b) && shotOf(b) !== own ? { ...plain, role: 'left-out' } : plain;
  });
  return shot ? inSetMould({ ...rest, bodies }) : { ...rest, bodies };
}

/** What a later shot begins with: nothing that is the first one's but the tool. */
export function freshShot(): LaterShot {
  return { ...ownOf(emptyInputs()), resin: 'tpe-marlow-55', transfer: DEFAULT_TRANSFER };
}

/** The study with as many shots as its bodies want: a new one begins with the defaults, one without a body goes. */
export function withShotsOf(inputs: Inputs): Inputs {
  const whole = wholeOf(inputs);
  const wanted = Math.max(1, ...whole.bodies.map(shotOf));
  const { later = [], ...rest } = whole;
  const kept = Array.from({ length: wanted - 1 }, (_, k) => later[k] ?? freshShot());
  const changed: Inputs = kept.length ? { ...rest, later: kept } : rest;
  return inputs.shot && inputs.shot.number <= wanted ? asShot(changed, inputs.shot.number) : changed;
}

/** What an insert is made of and how it lies: its settings, the default ones where none are set. */
export const insertChoice = ({ inserts }: Pick<Inputs, 'inserts'>, id: string): InsertChoice =>
  inserts?.find((i) => i.id === id) ?? { ...DEFAULT_INSERT, id };
