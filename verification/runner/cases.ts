import { z } from 'zod';
import type { Vec3 } from '../../src/core/geometry/mesh';

/**
 * File of reference cases: `cases`, each with inputs (SI), what is known of it, and rows of expected values. A value
 * passes when it is off by at most the larger of tol.rel x |expected| and tol.abs.
 */
const number = z.number();
const atSchema = z.record(z.string(), z.unknown());
const rowSchema = z.looseObject({
  q: z.string(),
  at: atSchema.nullish(),
  value: number,
  unit: z.string().default(''),
  tol: z.object({ rel: number.optional(), abs: number.optional() }).default({}),
});
const caseSchema = z.looseObject({
  id: z.string().min(1),
  /** Kind of the case: see docs/verification.md. */
  case: z.number().int(),
  inputs: z.record(z.string(), z.unknown()),
  expected: z.array(rowSchema),
});
export const caseFileSchema = z.looseObject({ cases: z.array(z.preprocess(plainCase, caseSchema)) });

/** Number of the kind that follows fibres along the streams of a filling. */
export const STREAMS = 19;
const COMPONENTS = ['a11', 'a22', 'a33', 'a13'] as const;
const streamSchema = z.looseObject({
  flow: z.enum(['radial', 'straight']),
  tolerance: number,
  expected: z.array(z.looseObject({ zeta: number, at_m: number, a11: number, a22: number, a33: number, a13: number })),
});

/** Cases of fibres along streams say all components of a place in one row: one row each of them here. */
function plainCase(given: unknown): unknown {
  const found = streamSchema.safeParse(given);
  if (!found.success) return given;
  const { id, expected, tolerance, ...inputs } = found.data;
  const rows = expected.flatMap((row) =>
    COMPONENTS.map((q) => ({
      q,
      at: { at_m: row.at_m, zeta: row.zeta },
      value: row[q],
      unit: '1',
      tol: { abs: tolerance },
    })),
  );
  return { id, case: STREAMS, inputs, expected: rows };
}
export type ReferenceCase = z.infer<typeof caseFileSchema>['cases'][number];
export type Row = ReferenceCase['expected'][number];

/** How a body lies in space. */
export interface Lie {
  name: string;
  turn: (v: Vec3) => Vec3;
  /** Tilt about the width of a plate, degrees: what a single row of nodes can follow. */
  tilt: number;
}

const rad = (deg: number) => (deg * Math.PI) / 180;
const about = (i: number, j: number, deg: number) => (v: Vec3) => {
  const out: Vec3 = [...v];
  const [c, s] = [Math.cos(rad(deg)), Math.sin(rad(deg))];
  out[i] = c * v[i] - s * v[j];
  out[j] = s * v[i] + c * v[j];
  return out;
};
export const FLAT: Lie = { name: 'flat', turn: (v) => v, tilt: 0 };
export const TILTED: Lie[] = [
  [17, 0, 0, 13],
  [17, 30, 0, 30],
  [45, 20, 10, 45],
  [31, 52, 64, 22],
].map(([a, b, c, tilt]) => ({
  name: `${a}/${b}/${c}°`,
  turn: (v: Vec3) => about(0, 1, c)(about(0, 1, a)(about(1, 2, b)(v))),
  tilt,
}));

/** What a row came to; `on` says whether a function or a stage on the grid gave it. */
export interface Measured {
  value: number;
  on: 'function' | 'grid';
  /** What the stage gives on the grid, where the row's tolerance is meant for the function. */
  beside?: number;
}

export type Finder = (row: Row) => Measured | null;
/** Makes what finds the rows of a case in one orientation; null where the kind is not built. */
export type Kind = (c: ReferenceCase, lie: Lie) => Finder | Promise<Finder>;

export const byFunction = (value: number | undefined): Measured | null =>
  value === undefined ? null : { value, on: 'function' };
export const onGrid = (value: number | undefined): Measured | null =>
  value === undefined ? null : { value, on: 'grid' };

/** A number among the inputs or the conditions of a row. @throws Error that names what is missing. */
export function num(from: Record<string, unknown> | null | undefined, key: string): number {
  const value = from?.[key];
  if (typeof value !== 'number') throw new Error(`"${key}" is no number`);
  return value;
}
export const numbers = (from: Record<string, unknown>, key: string): number[] => z.array(number).parse(from[key]);
export const group = (from: Record<string, unknown>, key: string): Record<string, unknown> => atSchema.parse(from[key]);

export const limitOf = ({ tol, value }: Row): number => Math.max((tol.rel ?? 0) * Math.abs(value), tol.abs ?? 0);
