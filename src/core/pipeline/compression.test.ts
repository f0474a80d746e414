import { beforeAll, describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { TURNS } from '../../../verification/solids';
import { mapVertices, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { compressionSchema, defaultCharge, defaultCompression, type Compression } from '../model/compression';
import { defaultCore } from '../model/core';
import { inputKey, stationKey } from '../model/inputKey';
import { cavityBody, emptyInputs, type Inputs } from '../model/study';
import { inputsOf, studyFileOf, studyFileSchema } from '../model/studyFile';
import { withCopies } from '../setup/copies';
import { plainContext } from '../stage/context';
import { compressionProblems, doseProblem } from './checkCompression';
import { checkInputs, checkRun } from './checkRun';
import { runPipeline, type ShotOutcome } from './pipeline';

const [LENGTH, WIDTH, WALL] = [0.08, 0.05, 0.002];
const plate = box(LENGTH, WIDTH, WALL);
const SIZE = { volume: LENGTH * WIDTH * WALL, wall: WALL };

const study = (compression: Partial<Compression>, more: Partial<Inputs> = {}): Inputs => ({
  ...emptyInputs('plate'),
  detail: 'quick',
  upTo: 'pack',
  gates: [{ id: 'G1', position: [0.04, 0, 0.001], diameter: 0.003 }],
  compression: { ...defaultCompression(), ...compression },
  ...more,
});
const charge = (own: Partial<ReturnType<typeof defaultCharge>> = {}): Partial<Compression> => ({
  melt: { ...defaultCharge(), pieces: [{ id: 'C1', position: [0.04, 0, 0.001] }], ...own },
});

async function run(inputs: Inputs, mesh: TriangleMesh = plate): Promise<ShotOutcome> {
  const outcome = await runPipeline(mesh, 'plate', inputs, plainContext(), { gridError: false });
  if (outcome.status === 'failed' || outcome.status === 'refused') throw new Error(JSON.stringify(outcome));
  return outcome;
}

describe('a plate that is pressed', () => {
  let laid: ShotOutcome;
  let injected: ShotOutcome;
  beforeAll(async () => {
    laid = await run(study(charge(), { gates: [] }));
    injected = await run(study({ melt: { by: 'gates', gap: 0.001 } }));
  });

  it('from a charge: full, as heavy as what was laid in, and no machine has injected anything', () => {
    const { summary, history, status, breaches } = laid;
    expect([status, breaches]).toEqual(['filled', []]);
    expect(summary.press).toMatchObject({ by: 'charge', limitedAt_s: null });
    expect(summary.injectedVolume_m3 / (1.08 * SIZE.volume)).toBeCloseTo(1, 6);
    expect(summary.massError).toBeLessThan(1e-9);
    expect(summary.pressureNeeded_Pa).toBe(0);
    expect(Math.max(...history.flowRate)).toBe(0);
    expect(summary.gateShares).toEqual([]);
  });

  it('into a gap: the same plate, with the melt in before the half moves', () => {
    const { summary, history, status, breaches } = injected;
    expect([status, breaches]).toEqual(['filled', []]);
    expect(summary.press!.gapAtStart_m).toBe(0.001);
    const moving = history.gap.findIndex((g) => g < 0.001);
    expect(history.time[moving - 1]).toBeGreaterThanOrEqual(summary.switchoverTime_s! + 0.1 - 1e-9);
    expect(summary.injectedVolume_m3 / (1.08 * SIZE.volume)).toBeCloseTo(1, 3);
    expect(summary.pressureNeeded_Pa).toBeGreaterThan(0);
  });

  it('the force is never above what the press has, and is held until the halves meet', () => {
    for (const { summary, history } of [laid, injected]) {
      const { forceLimit_N, met_s, gapWhenFull_m } = summary.press!;
      expect(Math.max(...history.clampForce)).toBeLessThan(1.006 * forceLimit_N);
      expect(gapWhenFull_m / (0.08 * WALL)).toBeCloseTo(1, 1);
      expect(met_s).toBeGreaterThan(summary.fillTime_s);
      history.gap.forEach((g, k) => expect(g).toBeLessThanOrEqual(k ? history.gap[k - 1] + 1e-12 : Infinity));
      expect(summary.pack!.mass_kg / summary.pack!.massBefore_kg).toBeCloseTo(1, 6);
    }
  });

  it('answers tell it, and try what is a study', () => {
    for (const { answers } of [laid, injected]) {
      const answer = answers.find((a) => a.id === 'does-tool-close')!;
      expect(answer.verdict).toBe('good');
      expect(answer.key.note).toBe('the halves meet');
      for (const { inputs } of answers.flatMap((a) => a.try))
        expect(compressionSchema.parse(inputs.compression)).toEqual(inputs.compression);
      expect(answers.find((a) => a.id === 'does-it-pack-out')!.why[0]).toContain('The tool packs all over the part');
      expect(answers.flatMap((a) => a.try.map((t) => t.label)).join()).not.toContain('Inject in');
    }
  });

  it('turned in space it is the same', async () => {
    const [, turn] = Object.entries(TURNS)[2];
    const place = (p: readonly number[]) => turn(p as Vec3);
    const opening = turn([0, 0, 1]);
    const turned = await run(
      study(charge({ pieces: [{ id: 'C1', position: place([0.04, 0, 0.001]) }] }), {
        gates: [],
        tool: { ...emptyInputs().tool, opening },
      }),
      mapVertices(plate, turn),
    );
    const [a, b] = [laid.summary, turned.summary];
    expect(Math.abs(b.press!.gapAtStart_m / a.press!.gapAtStart_m - 1)).toBeLessThan(0.02);
    expect(Math.abs(b.fillTime_s / a.fillTime_s - 1)).toBeLessThan(0.03);
    expect(Math.abs(b.pack!.mass_kg / a.pack!.mass_kg - 1)).toBeLessThan(2e-3);
  });

  it('too little melt leaves it short when the halves meet, and more is tried', async () => {
    const { status, summary, answers } = await run(study({ ...charge(), dose: 0.9 }, { gates: [] }));
    expect(status).toBe('stalled');
    expect(summary.shareFilled).toBeCloseTo(0.9, 3);
    expect(summary.press!.gapLeft_m).toBe(0);
    const answer = answers.find((a) => a.id === 'does-tool-close')!;
    expect([answer.verdict, answer.headline]).toEqual(['problem', 'It closes before the part is full.']);
    expect(answer.try[0].inputs.compression!.dose).toBeGreaterThan(1);
  });

  it('more melt than it can press in keeps the halves apart, and is told', async () => {
    const { summary, answers } = await run(study({ ...charge(), dose: 1.4 }, { gates: [] }));
    expect(summary.press!.gapLeft_m).toBeGreaterThan(0.05 * WALL);
    expect(summary.press!.met_s).toBeNull();
    const answer = answers.find((a) => a.id === 'does-tool-close')!;
    expect(answer.verdict).toBe('problem');
    expect(answer.try.find((t) => t.id === 'less-melt')!.inputs.compression!.dose).toBeLessThan(1.35);
  });
});

describe('what can not be pressed', () => {
  const said = (inputs: Inputs) => compressionProblems(inputs).map((p) => p.message);

  it('a charge without a piece, a fluid in the core besides, a force that the machine does not have', () => {
    expect(said(study(charge({ pieces: [] })))).toEqual(['No piece of melt lies in the open tool.']);
    expect(said(study({}, { core: defaultCore() }))[0]).toContain('exclude each other');
    const strong = checkInputs({ ...study({ force: 1e8 }), bodies: [cavityBody('a'.repeat(64))] }, SIZE);
    expect(strong.map((p) => p.message).join()).toContain('The press would close with');
    expect(checkInputs({ ...study({}), bodies: [cavityBody('a'.repeat(64))] }, SIZE)).toEqual([]);
  });

  it('a piece that lies beside the part, with how far', () => {
    const beside = study(charge({ pieces: [{ id: 'C1', position: [0.2, 0, 0] }] }), {
      bodies: [cavityBody('a'.repeat(64))],
      gates: [],
    });
    const [problem] = checkRun(beside, plate).problems;
    expect(problem).toMatchObject({ station: 'cycle', target: 'C1' });
    expect(problem.message).toContain('120 mm off the part');
  });

  it('melt that the gap does not hold, a charge that is too flat or lies on no wall', async () => {
    const refused = await runPipeline(plate, 'plate', study({ melt: { by: 'gates', gap: 1e-4 } }), plainContext(), {
      gridError: false,
    });
    expect(refused).toMatchObject({ status: 'failed', likely: 'Open it wider, or inject less.' });
    expect(doseProblem(study(charge()), -1e-4, 1, 1)!.message).toContain('flatter than the walls');
    expect(doseProblem(study(charge()), Infinity, 1, 1)!.message).toContain('no wall');
    expect(doseProblem(study(charge()), 1e-3, 1, 1)).toBeNull();
    expect(doseProblem(emptyInputs(), 1, 1, 1)).toBeNull();
  });
});

describe('compression in a study', () => {
  it('changes the key at the station where it is set, names of its pieces do not', () => {
    const a = study(charge());
    const b = study(charge({ pieces: [{ id: 'C9', position: [0.04, 0, 0.001] }] }));
    expect(inputKey(a)).toBe(inputKey(b));
    expect(inputKey(a)).not.toBe(inputKey(study({ ...charge(), dose: 1.1 })));
    expect(stationKey(a, 'cycle')).not.toBe(stationKey(study({}), 'cycle'));
    expect(stationKey(a, 'feed')).toBe(stationKey(study({}), 'feed'));
  });

  it('comes back from a study file, and copies have pieces of their own', () => {
    const inputs = study(charge({ outline: { as: 'rectangle', width: 0.02, length: 0.03, turned: 0.5 } }));
    const file = studyFileOf('plate', inputs, 'plate.stl', 'mm');
    const written = studyFileSchema.parse(JSON.parse(JSON.stringify(file)));
    expect(inputsOf(written).compression).toEqual(inputs.compression);
    const copied = withCopies({
      ...inputs,
      cavities: {
        middle: [0, 0],
        places: { by: 'row', columns: 2, rows: 1, pitch: [0.1, 0.1], facing: false },
        solveOnce: false,
      },
    });
    expect(copied.compression!.melt).toMatchObject({ pieces: [{ id: 'C1' }, { id: 'C1.2' }] });
  });
});
