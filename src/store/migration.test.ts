import { readFileSync } from 'node:fs';
import { createClient } from '@libsql/client';
import { expect, it } from 'vitest';
import { inputKey } from '../core/model/inputKey';
import { cavityBody, emptyInputs, inputsSchema, type Inputs } from '../core/model/study';
import { warpageOf } from '../core/model/warpage';

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

it('inserts and second shots of an earlier version are taken over', async () => {
  const db = createClient({ url: ':memory:' });
  const before = [
    '0000_start',
    '0001_bodies',
    '0002_filling',
    '0003_feed',
    '0004_packing',
    '0005_materials',
    '0006_versions',
    '0007_deleted',
  ];
  for (const name of before) for (const sql of statements(name)) await db.execute(sql);
  const { later: _l, inserts: _i, ...plain } = emptyInputs();
  const body = (id: string, role: string) => ({ ...cavityBody('b'.repeat(64), id), id, role });
  const { supports, measures, ...rest } = warpageOf({});
  const bonded = { body: 'B3', young: 2.1e11, poisson: 0.3, expansion: 1.2e-5 };
  const old = {
    ...plain,
    bodies: [body('B1', 'cavity'), body('B2', 'second-shot'), body('B3', 'insert')],
    warpage: { ...rest, supports, measures, inserts: [bonded] },
  };
  await db.execute("INSERT INTO projects (id, name, created_at, changed_at) VALUES ('p', 'P', 0, 0)");
  const put = (id: string, inputs: object) =>
    db.execute({
      sql: "INSERT INTO variants (id, project_id, name, inputs, created_at, version) VALUES (?, 'p', 'V', ?, 0, 1)",
      args: [id, JSON.stringify(inputs)],
    });
  await put('v', old);
  await put('w', { ...plain, bodies: [body('B1', 'cavity')], warpage: { ...rest, supports, measures, inserts: [] } });
  await put('x', { ...plain, bodies: [body('B1', 'cavity')] });
  for (const name of ['0008_shots', '0009_later']) for (const sql of statements(name)) await db.execute(sql);
  const now = async (id: string): Promise<Inputs> => {
    const { rows } = await db.execute({ sql: 'SELECT inputs FROM variants WHERE id = ?', args: [id] });
    return inputsSchema.parse(JSON.parse(String(rows[0].inputs)));
  };
  const taken = await now('v');
  // Second shots were drawn only: what was run stays what it was, until they get a shot.
  expect(taken.bodies.map((b) => b.role)).toEqual(['cavity', 'left-out', 'insert']);
  expect(taken.inserts).toMatchObject([
    { id: 'B3', contact: 'bonded', temperature: null, held: [], material: { modulus: 2.1e11, expansion: 1.2e-5 } },
  ]);
  expect((await now('w')).inserts).toBeUndefined();
  expect((await now('x')).warpage).toBeUndefined();
  const { rows } = await db.execute('SELECT later FROM runs');
  expect(rows).toEqual([]);
});
