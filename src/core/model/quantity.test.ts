import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { INPUT_HELP } from '../help/inputHelp';
import { fromSi, tidy } from '../units/units';
import { leastOf, QUANTITIES, within, type Quantity, type QuantityName } from './quantity';
import { studyFileSchema } from './studyFile';

const all = Object.entries(QUANTITIES) as [QuantityName, Quantity][];
const beyond = ({ min, max }: Quantity) => [min - 0.01 * (max - min) - 1, max + 0.01 * (max - min) + 1];

/** Schemas that stand at a path of a schema, whatever its choices are. */
function schemasAt(schema: z.ZodType, path: readonly string[]): z.ZodType[] {
  if (schema instanceof z.ZodOptional || schema instanceof z.ZodNullable || schema instanceof z.ZodDefault)
    return schemasAt(schema.unwrap() as z.ZodType, path);
  if (schema instanceof z.ZodPipe) return schemasAt(schema.in as z.ZodType, path);
  if (schema instanceof z.ZodUnion) return (schema.options as z.ZodType[]).flatMap((o) => schemasAt(o, path));
  if (schema instanceof z.ZodArray) return schemasAt(schema.element as z.ZodType, path);
  if (schema instanceof z.ZodTuple) return schemasAt(schema.def.items[0] as z.ZodType, path);
  if (!path.length) return [schema];
  if (!(schema instanceof z.ZodObject)) return [];
  const next = (schema.shape as Record<string, z.ZodType>)[path[0]];
  return next ? schemasAt(next, path.slice(1)) : [];
}

describe('quantities', () => {
  it.each(all)('%s takes what lies within its limits and says what they are', (name, q) => {
    const schema = within(name);
    const middle = q.whole ? Math.round((q.min + q.max) / 2) : (q.min + q.max) / 2;
    for (const value of [q.whole ? q.min : leastOf(q), middle, q.max])
      expect(schema.safeParse(value).success, `${value}`).toBe(true);
    expect(schema.safeParse(q.min).success).toBe(!q.above);
    if (q.whole) expect(schema.safeParse(q.min + 0.5).success).toBe(false);
    const [low, high] = beyond(q).map((value) => schema.safeParse(value).error?.issues[0].message);
    expect(low).toContain(String(tidy(fromSi(q.min, q.unit), 4)));
    expect(high).toContain(String(tidy(fromSi(q.max, q.unit), 4)));
    for (const said of [low, high]) expect(said).toContain(q.unit);
  });

  it.each(all.filter(([, { file }]) => file))('%s is bounded so in the study file', (_, q) => {
    const path = q.file!.replaceAll('[]', '').split('.');
    const numbers = schemasAt(studyFileSchema, path).filter((s) => s instanceof z.ZodNumber);
    expect(numbers.length).toBeGreaterThan(0);
    for (const schema of numbers) {
      expect(schema.safeParse(q.max).success).toBe(true);
      for (const value of beyond(q)) expect(schema.safeParse(value).success).toBe(false);
    }
  });

  it('are what the page of the study file says', () => {
    const page = readFileSync(new URL('../../../docs/study-file.md', import.meta.url), 'utf8');
    const rows = page.split('\n').map((line) => line.split('|').map((cell) => cell.trim()));
    for (const [name, q] of all) {
      if (!q.file) continue;
      const row = rows.find((cells) => cells[1] === `\`${q.file}\``);
      expect(row?.slice(2, 4), name).toEqual([titleOf(name), limitsOf(q)]);
    }
  });
});

/** What help calls it; where one text explains several numbers, by the text's. */
const EXPLAINED: Partial<Record<QuantityName, keyof typeof INPUT_HELP>> = {
  cavityColumns: 'cavityCount',
  cavityRing: 'cavityCount',
  platens: 'air',
  platenTransfer: 'airTransfer',
  coreTemperature: 'fluidTemperature',
  meltLetIn: 'fluidTemperature',
  angleTolerance: 'tolerance',
};
const titleOf = (name: QuantityName) => INPUT_HELP[EXPLAINED[name] ?? (name as keyof typeof INPUT_HELP)].title;
const limitsOf = ({ min, max, unit, above }: Quantity) =>
  `${above ? 'above ' : ''}${tidy(fromSi(min, unit), 4)} to ${tidy(fromSi(max, unit), 4)} ${unit}`.trim();
