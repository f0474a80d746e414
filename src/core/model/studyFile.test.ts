import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { random } from '../../../verification/random';
import { CYCLE_NUMBER_IDS, CYCLE_NUMBERS } from './parameters';
import { toFile, type Parameter } from './parameter';
import { WAY_NUMBERS } from './wayNumbers';
import { emptyInputs, inputsSchema, type Inputs } from './study';
import { inputsOf, studyFileOf, studyFileSchema, takenOver } from './studyFile';
import { warpageOf } from './warpage';

/** What is kept with a study and changes no number of a run. */
const NO_NUMBERS: readonly (keyof Inputs)[] = ['rules', 'axes', 'noGate', 'shot'];

type Draw = () => number;

/** Something that a schema lets pass, drawn by chance; refinements are met by drawing again. */
function drawn(schema: z.ZodType, draw: Draw, depth = 0): unknown {
  for (let attempt = 0; attempt < 400; attempt++) {
    const value = attempted(schema, draw, depth);
    if (schema.safeParse(value).success) return value;
  }
  throw new Error(`nothing drawn passes ${schema.def.type}`);
}

function attempted(schema: z.ZodType, draw: Draw, depth: number): unknown {
  const inner = (s: unknown) => drawn(s as z.ZodType, draw, depth + 1);
  const whole = (n: number) => Math.floor(draw() * n);
  if (schema instanceof z.ZodObject)
    return Object.fromEntries(
      Object.entries(schema.shape).flatMap(([key, s]) => {
        const value = inner(s);
        return value === undefined ? [] : [[key, value]];
      }),
    );
  if (schema instanceof z.ZodOptional) return draw() < 0.4 ? undefined : inner(schema.unwrap());
  if (schema instanceof z.ZodNullable) return draw() < 0.3 ? null : inner(schema.unwrap());
  if (schema instanceof z.ZodDefault) return inner(schema.def.innerType);
  if (schema instanceof z.ZodUnion) return inner(schema.options[whole(schema.options.length)]);
  if (schema instanceof z.ZodLiteral) return [...schema.values][0];
  if (schema instanceof z.ZodEnum) return schema.options[whole(schema.options.length)];
  if (schema instanceof z.ZodBoolean) return draw() < 0.5;
  if (schema instanceof z.ZodTuple) return (schema.def.items as z.ZodType[]).map(inner);
  if (schema instanceof z.ZodRecord) return { [`G${1 + whole(3)}`]: inner(schema.valueType) };
  if (schema instanceof z.ZodArray) {
    const list = Array.from({ length: whole(4) + (draw() < 0.2 ? 12 : 0) }, () => inner(schema.element));
    // Points of profiles go on from nothing.
    const times = list as { time?: unknown }[];
    if (times.every((p) => typeof p?.time === 'number')) times.sort((a, b) => (a.time as number) - (b.time as number));
    const places = list as { at?: unknown }[];
    if (!places.every((p) => typeof p?.at === 'number')) return list;
    places.sort((a, b) => (a.at as number) - (b.at as number));
    if (places.length) places[0].at = 0;
    return list;
  }
  if (schema instanceof z.ZodNumber) {
    const low = Math.max(schema.minValue ?? -1, -1e3);
    const high = Math.min(schema.maxValue ?? 1, 1e9);
    const x = low + (high - low) * draw() ** 2;
    return schema.format === 'safeint' ? Math.round(x) : x;
  }
  if (schema instanceof z.ZodString)
    return draw() < 0.5 ? `G${1 + whole(4)}` : schema.safeParse('a'.repeat(64)).success ? 'a'.repeat(64) : '#a0b1c2';
  throw new Error(`no way to draw ${schema.def.type}`);
}

/** Numbers to a part in 10^11, everything else the same. */
function expectSame(a: unknown, b: unknown, at = ''): void {
  if (typeof a === 'number' && typeof b === 'number') {
    if (!(Math.abs(a - b) <= 1e-11 * Math.max(Math.abs(a), 1e-6))) expect(b, at).toBe(a);
  } else if (a && b && typeof a === 'object' && typeof b === 'object') {
    expect(Object.keys(b).sort(), at).toEqual(Object.keys(a).sort());
    for (const key of Object.keys(a))
      expectSame((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key], `${at}.${key}`);
  } else expect(b, at).toEqual(a);
}

const numbersOf = (inputs: Inputs) => ({
  ...Object.fromEntries(Object.entries(inputs).filter(([key]) => !NO_NUMBERS.includes(key as keyof Inputs))),
  // Where the file's coordinates are is where its bodies lie.
  tool: { ...inputs.tool, placement: null },
  bodies: null,
  // None and no list are the same.
  ...outlets(inputs),
  later: inputs.later?.map((shot) => ({ ...shot, ...outlets(shot) })) ?? null,
});

const outlets = ({ vents, tabs }: Pick<Inputs, 'vents' | 'tabs'>) => ({
  vents: vents?.length ? vents : null,
  tabs: tabs?.length ? tabs : null,
});

describe('a study that is exported gives the numbers of the page', () => {
  const keys = Object.keys(inputsSchema.shape) as (keyof Inputs)[];

  it.each(keys.filter((key) => key !== 'bodies' && !NO_NUMBERS.includes(key)))('whatever stands under %s', (key) => {
    const draw = random(keys.indexOf(key) + 1);
    for (let k = 0; k < 40; k++) {
      const value = drawn(inputsSchema.shape[key], draw);
      const before = { ...emptyInputs(), [key]: value } as Inputs;
      if (value === undefined) delete before[key];
      const file = JSON.parse(JSON.stringify(studyFileOf('x', before, 'part.stl', 'mm')));
      const parsed = studyFileSchema.safeParse(file);
      expect(parsed.error?.issues ?? []).toEqual([]);
      expectSame(numbersOf(before), numbersOf(inputsOf(parsed.data!)));
    }
  });

  it('every key of the schema is a number of the run, or named as one that is none', () => {
    const file = studyFileOf('x', emptyInputs(), 'part.stl', 'mm');
    expect(studyFileSchema.parse(file)).toBeTruthy();
    for (const key of NO_NUMBERS) expect(keys).toContain(key);
  });
});

describe('a study of an earlier version', () => {
  it('with inserts under what the shape is judged by keeps them, of their elasticity', () => {
    const file = studyFileOf('x', emptyInputs(), 'part.stl', 'mm');
    const old = { body: 'B7', young: 2e11, poisson: 0.3, expansion: 1.2e-5 };
    const warpage = { ...warpageOf({}), inserts: [old] };
    const read = inputsOf(studyFileSchema.parse(takenOver({ ...file, warpage })));
    expect(read.warpage).toEqual(warpageOf({}));
    expect(read.inserts).toMatchObject([
      { id: 'B7', contact: 'bonded', material: { modulus: 2e11, expansion: 1.2e-5 } },
    ]);
    expect(inputsSchema.shape.inserts.safeParse(read.inserts).success).toBe(true);
    const none = inputsOf(studyFileSchema.parse(takenOver({ ...file, warpage: { ...warpage, inserts: [] } })));
    expect(none.inserts).toBeUndefined();
    for (const other of [null, 3, file]) expect(takenOver(other)).toBe(other);
  });
});

describe('the table of parameters', () => {
  const all: Parameter[] = [...CYCLE_NUMBER_IDS.map((id) => CYCLE_NUMBERS[id]), ...Object.values(WAY_NUMBERS)];

  it.each(all.map((p) => [p.file.key, p] as const))('%s: limits hold on the page and in the file alike', (_, p) => {
    expect(p.min).toBeLessThan(p.max);
    const inside = [p.min + 0.3 * (p.max - p.min), p.max, ...(p.above ? [] : [p.min])];
    for (const si of inside) expect(Math.abs(toFile(p, si))).toBeLessThan(Infinity);
    expect(p.step).toBeGreaterThan(0);
  });

  it.each(CYCLE_NUMBER_IDS)('%s is refused beyond its limits, with the unit that is shown', (id) => {
    const p = CYCLE_NUMBERS[id];
    const { cycle } = emptyInputs();
    const at = (si: number) => inputsSchema.shape.cycle.safeParse({ ...cycle, [id]: si });
    expect(at(p.max).success).toBe(true);
    const refused = at(p.max * 1.01);
    expect(refused.success).toBe(false);
    expect(refused.error?.issues[0].message).toContain(p.unit);
    const file = studyFileOf('x', emptyInputs(), 'part.stl', 'mm');
    const beyond = { ...file, cycle: { [p.file.key]: toFile(p, p.max) * 1.01 + 1 } };
    expect(studyFileSchema.safeParse(beyond).success).toBe(false);
  });

  it('is what the page of the study file says', () => {
    const page = readFileSync(new URL('../../../docs/study-file.md', import.meta.url), 'utf8');
    const rows = page.split('\n').map((line) => line.split('|').map((cell) => cell.trim()));
    for (const id of CYCLE_NUMBER_IDS) {
      const { file, means, otherwise } = CYCLE_NUMBERS[id];
      const row = rows.find((cells) => cells[1] === `\`cycle.${file.key}\``);
      expect(row?.slice(2, 4), file.key).toEqual([means, otherwise]);
    }
  });
});
