/** Whether every case is run in every turn: what takes long is otherwise run in part. */
export const ALL = Boolean(process.env.BELLOWS_ALL);

/** Cases with the turns that they are held in: the first and one of the others, in rotation, so that no case is flat alone. */
export const inTurns = <C, T>(cases: readonly C[], [first, ...others]: readonly T[]): (readonly [C, T])[] =>
  cases.flatMap((c, k) => {
    const some = ALL || !others.length ? others : [others[k % others.length]];
    return [first, ...some].map((turn) => [c, turn] as const);
  });

/** The first of a list, or with BELLOWS_ALL all of it. */
export const few = <T>(list: readonly T[], n: number): readonly T[] => (ALL ? list : list.slice(0, n));
