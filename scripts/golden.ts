/**
 * `npm run golden write DIR` and `npm run golden compare DIR`: every demo project, and the Feeder tray in the variants
 * that take other ways through a run, kept as scalars and fields; then held against what the present code gives. For
 * changes of structure, which must not change a number. Exit code 1 where scalars differ by more than 1e-6 of
 * themselves or fields by more than 1e-5 of their range.
 */
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { defaultFeed } from '../src/core/model/feed';
import { defaultTab, defaultVent } from '../src/core/model/outlet';
import { cavities, otherBodies, type Inputs } from '../src/core/model/study';
import { joined } from '../src/core/geometry/shells';
import { runPipeline, type PipelineOutcome } from '../src/core/pipeline/pipeline';
import { plainContext } from '../src/core/stage/context';
import { openDatabase } from '../src/store/db/client';
import { seedDemo } from '../src/server/demo';
import { loadMesh } from '../src/server/geometry';
import { listProjects, viewProject } from '../src/server/studies';

const SCALARS = 1e-6;
const FIELDS = 1e-5;

interface Kept {
  scalars: Record<string, number | string | boolean | null>;
  /** Lengths; the values lie beside it. */
  fields: Record<string, number>;
}

/** Demo projects as they are seeded, at Detail quick and without the shape where that is asked for. */
async function studies(): Promise<Map<string, Inputs>> {
  const db = await openDatabase();
  await seedDemo(db);
  const all = new Map<string, Inputs>();
  for (const { id, name } of await listProjects(db)) {
    const view = await viewProject(db, id);
    if (!view) throw new Error(`${name} is not there`);
    all.set(name, { ...view.variants[0].inputs, detail: 'quick' });
  }
  const tray = all.get('Feeder tray');
  const slider = all.get('Entrance slider');
  if (!tray || !slider) throw new Error('the demo world has changed');
  const { cycle } = tray;
  const pack = { ...tray, upTo: 'pack' as const };
  all.set('tray normal', { ...tray, detail: 'normal' });
  all.set('tray filling', { ...tray, upTo: 'fill' });
  all.set('tray halves', { ...tray, cycle: { ...cycle, mouldTemperature: 333.15, lowerMouldTemperature: 313.15 } });
  all.set('tray sealed', { ...pack, cycle: { ...cycle, venting: 'sealed' } });
  all.set('tray short', { ...pack, cycle: { ...cycle, pressureLimit: 6e6 } });
  all.set('tray copies', {
    ...pack,
    feed: defaultFeed(0.002, -0.012, false),
    cavities: {
      middle: [0.06, 0],
      places: { by: 'row', columns: 1, rows: 2, pitch: [0.16, 0.1], facing: false },
      solveOnce: true,
    },
  });
  const vents = [defaultVent('V1', { kind: 'rim' })];
  const tabs = [defaultTab('T1', [0.12, 0, 0.001], [1, 0, 0], 0.002)];
  all.set('tray outlets', { ...pack, vents, tabs, cycle: { ...cycle, venting: 'vents' } });
  const two = [...tray.gates, { id: 'G2', position: [0.06, 0.003, 0] as [number, number, number], diameter: 0.002 }];
  all.set('tray two gates', { ...pack, gates: two });
  all.set('tray hot', { ...pack, feed: { ...defaultFeed(0.002, -0.012, false), hot: { temperature: null } } });
  return all;
}

function flatten(value: unknown, key: string, into: Kept['scalars']): void {
  if (value === null || typeof value === 'number' || typeof value === 'string' || typeof value === 'boolean')
    into[key] = typeof value === 'number' && !Number.isFinite(value) ? String(value) : value;
  else if (Array.isArray(value)) value.forEach((v, i) => flatten(v, `${key}.${i}`, into));
  else if (ArrayBuffer.isView(value)) return;
  else if (typeof value === 'object') for (const [k, v] of Object.entries(value)) flatten(v, `${key}.${k}`, into);
}

function keptOf(outcome: PipelineOutcome): { kept: Kept; data: Map<string, Float32Array> } {
  const kept: Kept = { scalars: {}, fields: {} };
  const data = new Map<string, Float32Array>();
  kept.scalars.status = outcome.status;
  if (outcome.status === 'failed') kept.scalars.message = outcome.message;
  if (outcome.status === 'refused') flatten(outcome.problems, 'problems', kept.scalars);
  if (outcome.status === 'filled' || outcome.status === 'stalled') {
    const { summary, answers, findings, breaches, history, course, gateIds } = outcome;
    flatten({ summary, answers, findings, breaches, history, course, gateIds }, '', kept.scalars);
    for (const field of outcome.fields) {
      data.set(field.id, field.data);
      kept.fields[field.id] = field.data.length;
    }
  }
  return { kept, data };
}

/** Largest difference over the range of the first; Infinity where one is a number and the other none. */
function apart(a: Float32Array, b: Float32Array): number {
  let [low, high, most] = [Infinity, -Infinity, 0];
  for (let i = 0; i < a.length; i++) {
    const [x, y] = [a[i], b[i]];
    if (x !== x && y !== y) continue;
    if (x !== x || y !== y) return Infinity;
    low = Math.min(low, x);
    high = Math.max(high, x);
    most = Math.max(most, Math.abs(x - y));
  }
  return most === 0 ? 0 : most / Math.max(high - low, Math.abs(high), 1e-30);
}

/** Differences worth telling, and the largest ones. */
function compare(name: string, dir: string, now: ReturnType<typeof keptOf>): string[] {
  const told: string[] = [];
  const before = JSON.parse(readFileSync(path.join(dir, name, 'kept.json'), 'utf8')) as Kept;
  let most = 0;
  for (const key of new Set([...Object.keys(before.scalars), ...Object.keys(now.kept.scalars)])) {
    const [a, b] = [before.scalars[key], now.kept.scalars[key]];
    if (a === b) continue;
    const d =
      typeof a === 'number' && typeof b === 'number' ? Math.abs(a - b) / Math.max(Math.abs(a), 1e-12) : Infinity;
    most = Math.max(most, d);
    if (d > SCALARS) told.push(`${key}: ${a} -> ${b}`);
  }
  let widest = 0;
  for (const id of new Set([...Object.keys(before.fields), ...Object.keys(now.kept.fields)])) {
    if (before.fields[id] !== now.kept.fields[id]) {
      told.push(`field ${id}: length ${before.fields[id]} -> ${now.kept.fields[id]}`);
      continue;
    }
    const bytes = readFileSync(path.join(dir, name, `${id}.f32`));
    const a = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
    const d = apart(a, now.data.get(id) as Float32Array);
    widest = Math.max(widest, d);
    if (d > FIELDS) told.push(`field ${id}: by ${d.toExponential(1)} of its range`);
  }
  console.log(`${name.padEnd(20)} scalars to ${most.toExponential(1)}, fields to ${widest.toExponential(1)}`);
  return told;
}

const [what, dir, only] = process.argv.slice(2);
if (!dir || (what !== 'write' && what !== 'compare')) {
  console.error('npm run golden write DIR | compare DIR [a part of a name]');
  process.exit(2);
}
const data = mkdtempSync(path.join(tmpdir(), 'bellows-golden-'));
process.env.BELLOWS_DATA = data;
let failures = 0;
try {
  for (const [name, inputs] of await studies()) {
    if (only && !name.includes(only)) continue;
    const mesh = joined(cavities(inputs).map((b) => loadMesh(b.mesh)));
    const bodies = new Map(otherBodies(inputs).map((b) => [b.id, loadMesh(b.mesh)]));
    const outcome = await runPipeline(mesh, 'golden', inputs, plainContext(), { bodies, gridError: false });
    const now = keptOf(outcome);
    if (what === 'write') {
      const at = path.join(dir, name);
      mkdirSync(at, { recursive: true });
      for (const file of readdirSync(at)) rmSync(path.join(at, file));
      writeFileSync(path.join(at, 'kept.json'), JSON.stringify(now.kept, null, 1));
      for (const [id, values] of now.data) writeFileSync(path.join(at, `${id}.f32`), values);
      console.log(
        `${name.padEnd(20)} ${outcome.status}, ${Object.keys(now.kept.scalars).length} scalars, ${now.data.size} fields`,
      );
      continue;
    }
    const told = compare(name, dir, now);
    failures += told.length;
    const kinds = new Map<string, string[]>();
    for (const line of told) {
      const kind = line.split(':')[0].replaceAll(/\.\d+/g, '[]');
      kinds.set(kind, [...(kinds.get(kind) ?? []), line]);
    }
    for (const [kind, lines] of kinds) console.log(`    ${kind}: ${lines.length}, first ${lines[0]}`);
  }
} finally {
  rmSync(data, { recursive: true, force: true });
}
if (failures) process.exitCode = 1;
