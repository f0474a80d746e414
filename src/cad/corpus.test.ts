import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { random } from '../../verification/random';
import { FormatError } from '../core/formats/formatError';
import { inspect } from '../core/geometry/check';
import { mendSurface } from '../core/geometry/mend';
import { measure } from '../core/geometry/mesh';
import { checkBody } from '../core/pipeline/importPart';
import { CORPUS, type Specimen } from '../../verification/corpus';
import { readFile } from './readFile';
import { combine, joinShells, projectedArea, sharedVolume } from './solids';
import { slab } from '../../verification/solids';
import { mapVertices } from '../core/geometry/mesh';

const read = async (file: string, bytes: Uint8Array) => {
  const { bodies, metresPerUnit } = await readFile(file, bytes);
  return { metresPerUnit, bodies: bodies.map((b) => ({ ...b, ...checkBody(b.mesh, b.nDropped) })) };
};

describe('the corpus', () => {
  it('has at least forty files', () => expect(CORPUS.length).toBeGreaterThan(40));

  it.each(CORPUS.map((s): [string, Specimen] => [s.name, s]))(
    '%s',
    async (_name, { file, bytes, expect: wanted, mends }) => {
      if ('refused' in wanted) {
        const error = await read(file, bytes).catch((e: unknown) => e);
        expect(error).toBeInstanceOf(FormatError);
        expect((error as FormatError).message).toMatch(wanted.refused);
        expect((error as FormatError).remedy.length).toBeGreaterThan(10);
        return;
      }
      const { bodies } = await read(file, bytes);
      if (wanted.bodies !== undefined) expect(bodies.length).toBe(wanted.bodies);
      const found = bodies.flatMap((b) => b.findings);
      const codes = found.map((f) => f.code);
      for (const code of wanted.codes) expect(codes).toContain(code);
      if (!wanted.codes.length) expect(codes).toEqual([]);
      for (const f of found) {
        expect(f.message.length * f.remedy.length * f.count).toBeGreaterThan(0);
        for (const place of f.places) expect(place.position.every(Number.isFinite)).toBe(true);
      }
      if (!mends) return;
      for (const body of bodies) {
        const surface = mendSurface(body.mesh).mesh;
        const skin = (await joinShells(surface)) ?? surface;
        expect(inspect(skin)).toMatchObject({ watertight: true, insideOut: false });
        const left = checkBody(skin).findings.filter((f) => f.severity !== 'cosmetic');
        expect(left.map((f) => f.code)).toEqual([]);
      }
    },
  );

  it('mending gives back the volume that was drawn', async () => {
    const volume = 0.05 * 0.03 * 0.003;
    for (const name of [
      'one triangle missing',
      'a whole side missing',
      'many faces flipped',
      'a hollow inside',
      'a ball inside',
      'a fin',
    ]) {
      const { bytes } = CORPUS.find((s) => s.name === name)!;
      const [{ mesh }] = (await read('x.stl', bytes)).bodies;
      if (name !== 'many faces flipped') expect(measure(mendSurface(mesh).mesh).volume * 1e-9).toBeCloseTo(volume, 10);
    }
  });

  it('units and placed components come out in their true size', async () => {
    const inch = await read('x.3mf', CORPUS.find((s) => s.name === '3MF in inches')!.bytes);
    expect(inch.bodies[0].report.volume * inch.metresPerUnit! ** 3).toBeCloseTo(4.5e-6, 12);
    const micron = await read('x.3mf', CORPUS.find((s) => s.name.startsWith('3MF in micro'))!.bytes);
    expect(micron.bodies.map((b) => Math.round(b.report.bounds.min[2] + 1500))).toEqual([9000, 9000, -9000]);
    for (const b of micron.bodies) expect(b.report.insideOut).toBe(false);
  });
});

describe('CAD files', () => {
  it('a STEP assembly keeps bodies, names, colours and its unit', async () => {
    const { bodies, metresPerUnit } = await read('hive-monitor.step', readFileSync('samples/hive-monitor.step'));
    expect(metresPerUnit).toBe(1e-3);
    expect(bodies.map((b) => b.name).slice(0, 3)).toEqual(['Housing', 'Board', 'Capacitor 1']);
    expect(bodies[1].colour).toMatch(/^#[0-9a-f]{6}$/);
    for (const b of bodies) expect(b.report.watertight).toBe(true);
    // 84 x 52 x 1.6 with corners of radius 3: chords take off less than a thousandth.
    const drawn = (84 * 52 - (4 - Math.PI) * 9) * 1.6;
    expect(Math.abs(bodies[1].report.volume / drawn - 1)).toBeLessThan(1e-3);
  });
});

describe('solid booleans', () => {
  const a = slab(0.02, 0.02, () => 0.02);
  const b = mapVertices(a, ([x, y, z]) => [x + 0.015, y, z]);
  it('shared volume, cut, join and shadow', async () => {
    expect(await sharedVolume(a, b)).toBeCloseTo(0.005 * 0.02 * 0.02, 11);
    expect(measure((await combine(a, b, 'cut'))!).volume).toBeCloseTo(0.015 * 0.02 * 0.02, 11);
    expect(measure((await combine(a, b, 'join'))!).volume).toBeCloseTo(0.035 * 0.02 * 0.02, 11);
    expect(await projectedArea([a, b])).toBeCloseTo(0.035 * 0.02, 8);
  });
  it('an open surface has none', async () => {
    const open = { ...a, triangles: a.triangles.slice(3) };
    expect(await combine(open, b, 'cut')).toBeNull();
    expect(await projectedArea([open])).toBeNull();
  });
});

describe('mutated files', () => {
  const next = random(99);
  const mutations: ((b: Uint8Array) => Uint8Array)[] = [
    (b) => b.map((x) => (next() < 0.003 ? Math.floor(next() * 256) : x)),
    (b) => b.slice(0, Math.floor(next() * b.length)),
    (b) => {
      const at = Math.floor(next() * b.length);
      return Uint8Array.from([...b.slice(0, at), ...b.slice(at + Math.floor(next() * 200))]);
    },
    (b) => {
      const at = Math.floor(next() * b.length);
      return Uint8Array.from([...b.slice(0, at), ...b.slice(at, at + 60), ...b.slice(at)]);
    },
  ];
  const seeds = CORPUS.filter((s) => 'codes' in s.expect && s.bytes.length < 20000);

  it('a thousand of them: read or refused with a message, none hangs', async () => {
    const outcome = { read: 0, refused: 0 };
    for (let i = 0; i < 1000; i++) {
      const seed = seeds[i % seeds.length];
      const bytes = mutations[i % mutations.length](seed.bytes);
      const started = performance.now();
      try {
        const { bodies } = await read(seed.file, bytes);
        for (const b of bodies) expect(Number.isFinite(b.report.volume) && Number.isFinite(b.report.area)).toBe(true);
        outcome.read++;
      } catch (error) {
        expect(error).toBeInstanceOf(FormatError);
        expect((error as FormatError).remedy.length).toBeGreaterThan(10);
        outcome.refused++;
      }
      // A hang, not a benchmark.
      expect(performance.now() - started).toBeLessThan(10_000);
    }
    expect(Math.min(outcome.read, outcome.refused)).toBeGreaterThan(50);
  });

  it('mutated STEP files are refused or read, and the reader lives on', async () => {
    const step = readFileSync('samples/hive-monitor.step');
    for (let i = 0; i < 6; i++) {
      const bytes = mutations[i % 3](new Uint8Array(step));
      const error = await read('x.step', bytes).then(
        () => null,
        (e: unknown) => e,
      );
      if (error) expect(error).toBeInstanceOf(FormatError);
    }
    expect((await read('x.step', new Uint8Array(step))).bodies.length).toBe(7);
  });
});
