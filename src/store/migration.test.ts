import { readFileSync } from 'node:fs';
import { createClient } from '@libsql/client';
import { expect, it } from 'vitest';
import { inputKey } from '../core/model/inputKey';
import { emptyInputs, inputsSchema, type Inputs } from '../core/model/study';

const statements = (name: string) =>
  readFileSync(`drizzle/${name}.sql`, 'utf8')
    .split('--> statement-breakpoint')
    .map((s) => s.trim())
    .filter(Boolean);

it('a database of the first version is taken over: its part becomes a cavity, runs stay up to date', async () => {
  const db = createClient({ url: ':memory:' });
  for (const sql of statements('0000_start')) await db.execute(sql);
  const hash = 'a'.repeat(64);
  const { bodies: _b, tool: _t, rules: _r, axes: _a, probes: _p, noGate: _n, feed: _f, ...plain } = emptyInputs();
  const { meltTemperature, mouldTemperature, injection, pressureLimit } = plain.cycle;
  const rest = { ...plain, cycle: { meltTemperature, mouldTemperature, injection, pressureLimit } };
  const old = JSON.stringify({ part: hash, ...rest });
  await db.execute({
    sql: "INSERT INTO parts VALUES (?, 'Lid', 'mm', '{}', '[1]', '{}', 0)",
    args: [hash],
  });
  await db.execute("INSERT INTO projects VALUES ('p', 'P', 0, 0)");
  await db.execute({ sql: "INSERT INTO variants VALUES ('v', 'p', NULL, 'First', ?, 0, NULL)", args: [old] });
  await db.execute({
    sql: "INSERT INTO variants VALUES ('w', 'p', NULL, 'Empty', ?, 0, NULL)",
    args: [JSON.stringify({ part: null, ...rest })],
  });
  await db.execute({
    sql: "INSERT INTO runs VALUES ('r', 'v', ?, 'key', 'filled', NULL, NULL, NULL, 0, 0, 0)",
    args: [old],
  });
  for (const name of ['0001_bodies', '0002_filling', '0003_feed', '0004_packing', '0005_materials'])
    for (const sql of statements(name)) await db.execute(sql);

  const inputsOf = async (table: string, id: string): Promise<Inputs> => {
    const { rows } = await db.execute({ sql: `SELECT inputs FROM ${table} WHERE id = ?`, args: [id] });
    return inputsSchema.parse(JSON.parse(String(rows[0].inputs)));
  };
  const taken = await inputsOf('variants', 'v');
  expect(taken).toEqual(emptyInputs(hash, 'Lid'));
  expect(await inputsOf('runs', 'r')).toEqual(taken);
  expect((await inputsOf('variants', 'w')).bodies).toEqual([]);
  // The first item of the key was the part's hash and still is, so old results do not go out of date.
  expect(JSON.parse(inputKey(taken))[0]).toBe(hash);
  const { rows } = await db.execute('SELECT * FROM geometries');
  expect(Object.keys(rows[0]).sort()).toEqual(['created_at', 'findings', 'hash', 'report']);
});
