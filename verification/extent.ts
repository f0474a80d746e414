/**
 * How much of the verification is run: with BELLOWS_ALL every case in every turn, else the first turn of every case and one
 * of the others, in rotation, so that all turns are there and no case is flat alone.
 */
export const ALL = Boolean(process.env.BELLOWS_ALL);

/** Cases with the turns that they are held in. */
export const inTurns = <C, T>(cases: readonly C[], [first, ...others]: readonly T[]): (readonly [C, T])[] =>
  cases.flatMap((c, k) => {
    const some = ALL || !others.length ? others : [others[k % others.length]];
    return [first, ...some].map((turn) => [c, turn] as const);
  });

/** The first of a list, or with BELLOWS_ALL all of it. */
export const few = <T>(list: readonly T[], n: number): readonly T[] => (ALL ? list : list.slice(0, n));
