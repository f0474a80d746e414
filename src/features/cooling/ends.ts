import type { CircuitEnd, Cooling } from '@/core/model/cooling';
import { alongLine, JOINED } from '@/core/solvers/cool/circuit';
import { isWell } from '@/core/solvers/cool/passages';

/** An end of a channel or hose that meets no other line. */
export interface FreeEnd {
  line: string;
  bore: number;
  at: [number, number, number];
  mark: CircuitEnd | null;
}

const same = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((x, d) => x - b[d])) < JOINED;

export function freeEnds(cooling: Cooling): FreeEnd[] {
  const ways = cooling.lines.filter((l) => !isWell(l));
  return ways.flatMap((line) =>
    [line.from, line.to].flatMap((at) => {
      const met = ways.some(
        (other) =>
          other !== line &&
          (same(other.from, at) ||
            same(other.to, at) ||
            (other.kind.as === 'channel' && alongLine(other, at).off < JOINED)),
      );
      return met
        ? []
        : [{ line: line.id, bore: line.diameter, at, mark: cooling.ends.find((e) => same(e.at, at)) ?? null }];
    }),
  );
}

/** The ends with one of them given another part. */
export function withEnd(
  cooling: Cooling,
  at: readonly number[],
  as: CircuitEnd['as'] | 'open',
  supply: string | null,
): CircuitEnd[] {
  const others = cooling.ends.filter((e) => !same(e.at, at));
  return as === 'open' ? others : [...others, { at: [at[0], at[1], at[2]], as, supply: as === 'plug' ? null : supply }];
}

/** The ends with the coolant of a supply the other way round: where it came in it goes out. */
export const turnedRound = (ends: readonly CircuitEnd[], supply: string): CircuitEnd[] =>
  ends.map((e) => (e.supply !== supply || e.as === 'plug' ? e : { ...e, as: e.as === 'inlet' ? 'outlet' : 'inlet' }));
