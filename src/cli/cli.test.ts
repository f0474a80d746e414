import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import type { z } from 'zod';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { caseFileSchema, kindOf } from '../../verification/runner';
import { box } from '../../verification/shapes';
import { writeStl } from '../core/formats/stl';
import { mapVertices } from '../core/geometry/mesh';
import { DEFAULT_INSERT } from '../core/model/insert';
import { viscosity } from '../core/material/viscosity';
import { RESINS, resinById } from '../core/material/library';
import type { studyFileSchema } from '../core/model/studyFile';

const bin = fileURLToPath(new URL('../../bin/bellows.mjs', import.meta.url));
const folder = mkdtempSync(path.join(os.tmpdir(), 'bellows-cli-'));
const study: z.input<typeof studyFileSchema> = {
  format: 'bellows-study',
  version: 1,
  name: 'Plate',
  geometry: { path: 'plate.stl', unit: 'mm' },
  gates: [{ id: 'G1', position_mm: [4, 0, 1], diameter_mm: 2 }],
  resin: 'pp-hollin-h14',
  cycle: { flowRate_cm3_s: 4, pressureLimit_MPa: 80 },
  probes: [],
  detail: 'quick',
  stages: ['fill'],
};

function bellows(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [bin, ...args], { encoding: 'utf8', cwd: folder });
  return { status, stdout, stderr };
}
function runStudy(patch: object, name = 'study.json') {
  writeFileSync(path.join(folder, name), JSON.stringify({ ...study, ...patch }));
  return bellows('run', name, '--out', 'out');
}

beforeAll(() => {
  const plate = box(0.06, 0.02, 0.002);
  writeFileSync(path.join(folder, 'plate.stl'), writeStl(plate));
  writeFileSync(path.join(folder, 'open.stl'), writeStl({ ...plate, triangles: plate.triangles.slice(3) }));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('bellows run', () => {
  it('writes summary, history and fields', () => {
    const { status, stdout } = runStudy({});
    expect(status).toBe(0);
    expect(stdout).toMatch(/Will it fill\? GOOD/);
    const summary = JSON.parse(readFileSync(path.join(folder, 'out/summary.json'), 'utf8')) as Record<string, unknown>;
    expect(summary).toMatchObject({ study: 'Plate', status: 'filled', detail: 'quick' });
    expect(summary.shareFilled).toBeCloseTo(1, 8);
    // The last 1 % comes in under packing pressure, a little slower than set.
    const set = (0.06 * 0.02 * 0.002) / 4e-6;
    expect(summary.fillTime_s).toBeGreaterThan(0.999 * set);
    expect(summary.fillTime_s).toBeLessThan(1.03 * set);
    // Every number says its unit, or is a count or a share by its name.
    const plain =
      /^(study|solver|detail|status|machine|failedChecks|shareFilled|frozenShareEnd|weakestWeldLine|massError|heatError|gateShares|n[A-Z]\w*|steps|solverIterations)$/;
    for (const key of Object.keys(summary)) expect(plain.test(key) || /_[A-Za-z0-9]+$/.test(key)).toBe(true);
    expect(readFileSync(path.join(folder, 'out/history.csv'), 'utf8')).toMatch(/^time_s,pressure_MPa/);
    expect(existsSync(path.join(folder, 'out/fields.vtu'))).toBe(true);
  });

  it('a melt given in full: the pressure of a Newtonian plate is proportional to its viscosity', () => {
    const resin = resinById('ps-merrow-k5');
    const needed = (eta: number): number => {
      const { status } = runStudy({ resin: { ...resin, viscosity: { kind: 'newtonian', eta } } });
      expect(status).toBe(0);
      return (JSON.parse(readFileSync(path.join(folder, 'out/summary.json'), 'utf8')) as { pressureNeeded_Pa: number })
        .pressureNeeded_Pa;
    };
    // Not quite: the stiffer melt is heated more, and its skin is a little thinner.
    expect(needed(200) / needed(100)).toBeCloseTo(2, 1);
  });

  it.each([
    ['an unknown key', { gatez: [] }, /gatez/],
    ['two ways to inject', { cycle: { injectionTime_s: 1, flowRate_cm3_s: 2 } }, /give one of/],
    ['an unknown resin', { resin: 'wax' }, /"wax" is not in the library/],
    ['no gate', { gates: [] }, /There is no gate/],
    ['a gate in the air', { gates: [{ id: 'G1', position_mm: [4, 0, 40], diameter_mm: 2 }] }, /39\.0 mm off the part/],
    ['an open part', { geometry: { path: 'open.stl', unit: 'mm' } }, /not closed/],
    ['no such file', { geometry: { path: 'nowhere.stl', unit: 'mm' } }, /no file .*nowhere\.stl/],
    ['a part that is no part', { geometry: { path: 'bad.json', unit: 'mm' } }, /cannot be read/],
    ['a cold melt', { cycle: { melt_C: 100 } }, /does not flow/],
  ])('%s: exit code 2 and a reason', (_name, patch, reason) => {
    const { status, stderr } = runStudy(patch, 'bad.json');
    expect(stderr).toMatch(reason);
    expect(status).toBe(2);
  });

  it('writes the shape and its structure where it is asked for', () => {
    writeFileSync(path.join(folder, 'shape.json'), JSON.stringify({ ...study, stages: ['fill', 'pack', 'warp'] }));
    const { status, stderr } = bellows('run', 'shape.json', '--out', 'shape', '--structure');
    expect([status, stderr.trim()]).toEqual([0, '']);
    expect(readFileSync(path.join(folder, 'shape/structure.inp'), 'utf8')).toContain(
      '*INITIAL CONDITIONS, TYPE=STRESS',
    );
    expect(readFileSync(path.join(folder, 'shape/structure.vtu'), 'utf8')).toContain('Name="stress_Pa"');
    for (const name of ['shape.stl', 'counter-warped.stl'])
      expect(readFileSync(path.join(folder, 'shape', name)).length).toBeGreaterThan(1000);
    const none = bellows('run', 'study.json', '--out', 'out', '--structure');
    expect([none.status, /no shape to write/.test(none.stderr)]).toEqual([2, true]);
  });

  it('inserts that the study names stick to the plastic, from files of their own', () => {
    const bar = mapVertices(box(0.05, 0.006, 0.002), ([x, y, z]) => [x + 0.005, y, z - 0.002]);
    writeFileSync(path.join(folder, 'bar.stl'), writeStl(bar));
    const inserts = [{ ...DEFAULT_INSERT, id: 'B7' }];
    const bodies = [{ id: 'B7', name: 'Bar', path: 'bar.stl', unit: 'mm' }];
    const largest = (patch: object) => {
      const { status, stderr } = runStudy({ stages: ['fill', 'pack', 'warp'], ...patch }, 'insert.json');
      expect([status, stderr.trim()]).toEqual([0, '']);
      return JSON.parse(readFileSync(path.join(folder, 'out/summary.json'), 'utf8')).shape.largest_m as number;
    };
    // Steel on one side holds what the plastic would shrink: the plate bends.
    expect(largest({ inserts, bodies })).toBeGreaterThan(3 * largest({}));
    const { status, stderr } = runStudy({ inserts, stages: ['fill', 'pack', 'warp'] }, 'lost.json');
    expect([status, stderr]).toEqual([2, expect.stringContaining('none of the bodies')]);
  });

  it('a short shot is a result', () => {
    const { status, stdout } = runStudy({ cycle: { pressureLimit_MPa: 0.2 } });
    expect(status).toBe(0);
    expect(stdout).toMatch(/PROBLEM: Short shot/);
  });

  it('compares studies in numbers and inputs, and says how many it takes', () => {
    for (const [name, melt] of [
      ['cold', 210],
      ['hot', 250],
    ] as const)
      writeFileSync(
        path.join(folder, `${name}.study.json`),
        JSON.stringify({ ...study, cycle: { ...study.cycle, melt_C: melt } }),
      );
    const { status, stdout } = bellows(
      'compare',
      'cold.study.json',
      'hot.study.json',
      '--quick',
      '--causes',
      '--csv',
      'two.csv',
    );
    expect(status).toBe(0);
    expect(stdout).toMatch(/Will it fill\?\s+Good\s+Good/);
    expect(stdout).toMatch(/Pressure needed\s+[\d.]+ MPa\s+[\d.]+ MPa \(−[\d.]+ MPa, better\)/);
    expect(stdout).toContain('hot against cold\n  Melt temperature: 210 °C → 250 °C');
    // One change alone: all of the difference is its own.
    const [, from, to, moved] =
      /Pressure needed: ([\d.]+) MPa → ([\d.]+) MPa\n {4}Melt temperature {2}−([\d.]+) MPa/.exec(stdout) ?? [];
    expect(Number(from) - Number(to) - Number(moved)).toBeCloseTo(0, 1);
    expect(stdout.slice(stdout.indexOf('What did it?'))).not.toContain('Time to fill');
    expect(readFileSync(path.join(folder, 'two.csv'), 'utf8')).toMatch(/^number,unit,cold,cold ±,hot,/);
    const alone = bellows('compare', 'cold.study.json');
    expect(alone.status).toBe(2);
    expect(alone.stderr).toContain('Two to 4 studies are compared, not 1.');
  });

  it('text that is no JSON', () => {
    writeFileSync(path.join(folder, 'broken.json'), '{ "format": ');
    const { status, stderr } = bellows('run', 'broken.json', '--out', 'out');
    expect([status, /no valid JSON/.test(stderr)]).toEqual([2, true]);
  });
});

describe('bellows material', () => {
  it('prints the viscosity of the model', () => {
    const resin = resinById('pc-veyra-10');
    if (!resin) throw new Error('no such resin');
    const { stdout } = bellows('material', 'pc-veyra-10', '--at', '300,2000,30');
    const printed = Number(/: ([\d.]+) Pa·s/.exec(stdout)?.[1]);
    expect(printed / viscosity(resin.viscosity, 573.15, 3e7, 2000)).toBeCloseTo(1, 4);
  });

  it('lists the library, and says when a resin is not in it', () => {
    expect(bellows('material').stdout.trim().split('\n')).toHaveLength(RESINS.length);
    expect(bellows('material', 'wax')).toMatchObject({ status: 2 });
    expect(bellows('material', 'pc-veyra-10', '--at', 'hot').status).not.toBe(0);
  });
});

describe('bellows verify', () => {
  const file = (value: number) => ({
    cases: [
      {
        id: 'slope',
        case: 14,
        inputs: { alpha: 8e-5, dT: 10, h: 0.002, E: 2e9, nu: 0.35, L: 0.1, B: 0.05 },
        expected: [{ q: 'curvature_free', at: null, value, unit: '1/m', tol: { rel: 1e-6 } }],
      },
      { id: 'later', case: 99, inputs: {}, expected: [{ q: 'x', at: null, value: 1, unit: 'm', tol: {} }] },
    ],
  });

  it('marks rows, lists what is not built, and writes what it measured', () => {
    writeFileSync(path.join(folder, 'cases.json'), JSON.stringify(file(0.4)));
    const good = bellows('verify', 'cases.json', '--out', 'measured.json');
    expect(good.stdout).toContain('slope, flat: 1 of 1 rows pass');
    expect(good.stdout).toContain('Not built: later');
    expect(good.status).toBe(0);
    const measured = JSON.parse(readFileSync(path.join(folder, 'measured.json'), 'utf8')) as Record<string, number[]>;
    expect(measured.slope[0]).toBeCloseTo(0.4, 9);
    writeFileSync(path.join(folder, 'cases.json'), JSON.stringify(file(0.5)));
    const bad = bellows('verify', 'cases.json');
    expect(bad.stdout).toContain('FAILS  curvature_free: 0.4, expected 0.5');
    expect(bad.status).toBe(1);
  });

  it('cases of fibres along streams are read as a row for each component', () => {
    const place = { zeta: 0.5, at_m: 0.01, a11: 0.6, a22: 0.3, a33: 0.1, a13: -0.1 };
    const stream = { id: 'R', flow: 'radial', n: 0.4, start_m: 0.004, tolerance: 0.04, expected: [place] };
    const [read] = caseFileSchema.parse({ cases: [stream] }).cases;
    expect(read).toMatchObject({ id: 'R', inputs: { flow: 'radial', n: 0.4, start_m: 0.004 } });
    expect(kindOf(read)?.turns).toBe(true);
    expect(read.expected.map(({ q, value, tol, at }) => [q, value, tol.abs, at])).toEqual(
      (['a11', 'a22', 'a33', 'a13'] as const).map((q) => [q, place[q], 0.04, { at_m: 0.01, zeta: 0.5 }]),
    );
  });

  it('a file that is none is refused with what is missing', () => {
    writeFileSync(path.join(folder, 'cases.json'), '{ "cases": [{ "id": "x", "case": 1, "inputs": {} }] }');
    const { status, stderr } = bellows('verify', 'cases.json');
    expect([status, /cases\.0\.expected: is missing/.test(stderr)]).toEqual([2, true]);
  });
});

describe('bellows mend', () => {
  it('closes what check finds, and says what it wrote', () => {
    expect(bellows('check', 'open.stl').status).toBe(1);
    const { status, stdout } = bellows('mend', 'open.stl', 'mended.stl');
    expect(stdout).toMatch(/hole closed/);
    expect(status).toBe(0);
    expect(bellows('check', 'mended.stl').status).toBe(0);
    expect(bellows('mend', 'open.stl', 'mended.3mf').status).toBe(0);
    expect(bellows('check', 'mended.3mf').stdout).toContain('unit 1.00 mm');
    expect(bellows('mend', 'open.stl', 'mended.step')).toMatchObject({ status: 2 });
    expect(bellows('mend', 'open.stl', 'mended.stl', '--unit', 'ell').stderr).toContain('mm, cm, m, in');
  });
});
