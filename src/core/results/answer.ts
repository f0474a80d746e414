import type { Vec3 } from '../geometry/mesh';
import type { Gate, Inputs } from '../model/study';
import type { Verdict } from './rules';

/** A change worth trying: what it is, why, and the inputs with it. */
export interface Suggestion {
  id: string;
  label: string;
  why: string;
  inputs: Inputs;
}

export interface Answer {
  id: 'will-it-fill' | 'where-fronts-meet' | 'what-machine' | 'does-it-pack-out' | 'how-long-to-cool' | 'what-shape';
  question: string;
  verdict: Verdict;
  headline: string;
  key: { label: string; value: string; note: string };
  where: { label: string; position: Vec3; field?: string } | null;
  why: string[];
  try: Suggestion[];
}

/** Inputs with some settings of the cycle changed. */
export const withCycle = (inputs: Inputs, patch: Partial<Inputs['cycle']>): Inputs => ({
  ...inputs,
  cycle: { ...inputs.cycle, ...patch },
});

/** A free name of a vent (V) or tab (T). */
export function freshOutletId(letter: 'V' | 'T', taken: readonly { id: string }[]): string {
  for (let n = taken.length + 1; ; n++) if (!taken.some((t) => t.id === `${letter}${n}`)) return `${letter}${n}`;
}

export function freshGateId(gates: readonly Gate[]): string {
  for (let n = gates.length + 1; ; n++) if (!gates.some((g) => g.id === `G${n}`)) return `G${n}`;
}
