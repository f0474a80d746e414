/** Bumped whenever the same inputs give other numbers. */
export const SOLVER_VERSION = 'streams-2';
