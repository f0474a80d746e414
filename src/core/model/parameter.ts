import { z } from 'zod';
import { fromSi, tidy, toSi, type Unit } from '../units/units';
import type { Machine } from './machine';
import { limited } from './quantity';
import type { Resin } from './resin';

/** What defaults follow from. SI. */
export interface Known {
  resin: Resin;
  machine: Machine;
  /** Of the upper half of the mould, K. */
  mouldTemperature: number;
  /** Moves of the press, together, s. */
  movesTime: number;
}

/** Phase of a run that reads a parameter first: a change reruns it and what comes after it. */
export type ReadingPhase = 'fill' | 'fill-up' | 'pack' | 'answers';

/** A number that is set: all that forms, study file, its page, limits and defaults need to know of it. */
export interface Parameter<Key extends string = string> {
  /** Of its field; `named`: by itself, in the list of what can be undone, where that says too little. */
  label: string;
  named?: string;
  /** One sentence: what it is. */
  means: string;
  /** What more or less of it does, and when to change it. */
  more: string;
  /** Where its default comes from, where that is published. */
  source?: string;
  /** At the edge; SI inside. */
  unit: Unit;
  /** Limits, SI; `above`: the lower one itself is not allowed. */
  min: number;
  max: number;
  above?: true;
  /** Of the arrow keys, in `unit`. */
  step: number;
  /** Key in the study file, with the unit that it carries. */
  file: { key: Key; unit: Unit };
  /** What stands where none is given: SI, null where it is not one number or follows from the run; and in words. */
  fallback: (known: Known) => number | null;
  otherwise: string;
  phase: ReadingPhase;
}

/** Entry of a table of parameters, with the type of its key. */
export const parameter = <const Key extends string>(p: Parameter<Key>): Parameter<Key> => p;

/** Schema of a parameter, SI. */
export const numberSchema = (p: Parameter) => limited(p, p.label);

/** Schema of a parameter as the study file writes it. */
export function fileNumberSchema({ min, max, above, file }: Parameter) {
  const at = (si: number) => tidy(fromSi(si, file.unit));
  const base = z.number().max(at(max));
  return above ? base.gt(at(min)) : base.min(at(min));
}

/** SI value as the study file writes it, and back. */
export const toFile = ({ file }: Parameter, si: number): number => tidy(fromSi(si, file.unit));
export const fromFile = ({ file }: Parameter, value: number): number => toSi(value, file.unit);
