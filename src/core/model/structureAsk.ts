/** What the shape of a run can be made into: a deck, points with stress, or the body that comes out right. */
export const STRUCTURE_ASKS = ['deck', 'vtu', 'counter'] as const;
export type StructureAsk = (typeof STRUCTURE_ASKS)[number];
