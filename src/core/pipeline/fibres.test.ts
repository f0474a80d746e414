import { beforeAll, describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { TURNS } from '../../../verification/solids';
import { mapVertices, type Vec3 } from '../geometry/mesh';
import { hasFibres, turningOf, volumeShare, weightShare } from '../material/fibres/defaults';
import { instability } from '../material/fibres/stable';
import { resinById } from '../material/library';
import { DEFAULT_FIBRES, fibresSchema, loadOf, type FibreChoice } from '../model/fibres';
import { emptyInputs, type Inputs } from '../model/study';
import { fillerSchema } from '../model/resin';
import { fibresCsv } from '../results/fibreFields';
import { guardFibres } from '../results/guard';
import { plainContext } from '../stage/context';
import { onNodes, perNode, type PerNode } from '../solvers/shot/located';
import { checkInputs } from './checkRun';
import { packShotStrain, unpackShotStrain } from './shape';
import { runPipeline } from './pipeline';

/** A strip with melt coming in along one end, m. */
const SIZE: Vec3 = [0.06, 0.016, 0.002];
const strip = box(...SIZE);
const FILLED = 'pa6-lowan-n30-g30';

const study = (patch: Partial<Inputs> = {}, turn: (p: Vec3) => Vec3 = (p) => p): Inputs => ({
  ...emptyInputs('strip'),
  resin: FILLED,
  gates: [{ id: 'G1', position: turn([0.002, 0, SIZE[2] / 2]), diameter: 0.0015 }],
  detail: 'quick',
  ...patch,
});

async function run(inputs: Inputs, part = strip) {
  const outcome = await runPipeline(part, 'strip', inputs, plainContext(), { gridError: false });
  if (outcome.status !== 'filled') throw new Error(JSON.stringify(outcome));
  return outcome;
}
type Run = Awaited<ReturnType<typeof run>>;

const field = (outcome: Run, id: string) => outcome.fields.find((f) => f.id === id)!;
/** Mean over the nodes between two places along the strip. */
function meanOf(outcome: Run, id: string, [from, to]: [number, number], at = 0): number {
  const { grid } = outcome.gridResult;
  const { data, components } = field(outcome, id);
  let [sum, n] = [0, 0];
  for (let i = 0; i < grid.n; i++) {
    const x = grid.centroid[3 * i];
    if (x < from || x > to) continue;
    sum += data[i * components + at];
    n++;
  }
  return sum / n;
}

describe('a run of a filled resin', () => {
  let outcome: Run;
  beforeAll(async () => {
    outcome = await run(study());
  });

  it('lays its fibres along the strip, and the wall shrinks less and is stiffer that way', () => {
    const middle: [number, number] = [0.02, 0.045];
    const places = field(outcome, 'fibreOn').components;
    const shell = Math.floor(places * 0.6);
    expect(meanOf(outcome, 'fibreOn', middle, shell)).toBeGreaterThan(
      meanOf(outcome, 'fibreSquare', middle, shell) + 0.15,
    );
    expect(meanOf(outcome, 'fibreThrough', middle, shell)).toBeLessThan(0.3);
    expect(meanOf(outcome, 'shrinkageOnFibres', middle)).toBeLessThan(0.9 * meanOf(outcome, 'shrinkageSquare', middle));
    expect(meanOf(outcome, 'fibreModulus', middle)).toBeGreaterThan(
      1.15 * meanOf(outcome, 'fibreModulusLeast', middle),
    );
    // The load of this study runs along x, as the melt does.
    expect(meanOf(outcome, 'fibreModulusAlong', middle) / meanOf(outcome, 'fibreModulus', middle)).toBeCloseTo(1, 1);
    const { onFibres, causes } = outcome.summary.shape!;
    expect(onFibres!.along).toBeLessThan(onFibres!.square);
    expect(causes.map((c) => c.cause)).toContain('oriented');
  });

  it('says how strong it is, and what it knows of it', () => {
    const answer = outcome.answers.find((a) => a.id === 'how-strong')!;
    expect(answer.why.join(' ')).toMatch(/No weld line crosses it\..*rule of thumb/);
    expect(outcome.summary.strength!.modulus_Pa).toBeLessThan(outcome.summary.strength!.sheetModulus_Pa * 1.2);
  });

  it('writes its tensors and stiffness for others: traces of 1, a line a node', () => {
    const { grid } = outcome.gridResult;
    const text = fibresCsv(grid.centroid, new Map(outcome.fields.map((f) => [f.id, Float32Array.from(f.data)])))!;
    const [head, ...rows] = text
      .trim()
      .split('\n')
      .map((l) => l.split(','));
    expect(rows.length).toBe(grid.n);
    const at = head.indexOf('a1_xx');
    for (const row of rows) {
      expect(row.length).toBe(head.length);
      expect(Number(row[at]) + Number(row[at + 1]) + Number(row[at + 2])).toBeCloseTo(1, 3);
    }
    expect(fibresCsv(grid.centroid, new Map())).toBeNull();
    // Where fibres break and move there is more of them to tell.
    const fields = new Map(outcome.fields.map((f) => [f.id, Float32Array.from(f.data)]));
    fields.set('fibreLength', new Float32Array(grid.n).fill(0.0025));
    fields.set(
      'fibreWeight',
      Float32Array.from({ length: 2 * grid.n }, (_, k) => (k % 2 ? 0.3 : NaN)),
    );
    const [names, first] = fibresCsv(grid.centroid, fields)!
      .split('\n')
      .map((l) => l.split(','));
    expect(names.slice(-3)).toEqual(['length_mm', 'shareByWeight_1', 'shareByWeight_2']);
    expect(first.slice(-3)).toEqual(['2.5', '', '0.3']);
  });

  it('keeps them with the strains of the shot', () => {
    const strain = outcome.shape!.shot;
    const bytes = packShotStrain(strain);
    const again = unpackShotStrain(
      bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
    );
    expect(again.fibres?.orientation).toEqual(strain.fibres?.orientation);
    expect(again.fibres?.nLayers).toBe(strain.fibres?.nLayers);
  });

  it('turns with the part: the tensors do, and what comes of them stays', async () => {
    const turn = TURNS['turned 30° about x, then 17° about z'];
    const turned = await run(study({}, turn), mapVertices(strip, turn));
    const a = outcome.summary;
    const b = turned.summary;
    const near = (x: number, y: number, share: number) => expect(Math.abs(x / y - 1)).toBeLessThan(share);
    near(b.strength!.most_Pa, a.strength!.most_Pa, 0.02);
    near(b.strength!.least_Pa, a.strength!.least_Pa, 0.02);
    near(b.shape!.onFibres!.along, a.shape!.onFibres!.along, 0.04);
    near(b.shape!.onFibres!.square, a.shape!.onFibres!.square, 0.04);
    // The mean tensor of the middle of the strip, back in its own axes.
    const mean = (o: Run, back: (p: Vec3) => Vec3) => {
      const { grid } = o.gridResult;
      const { data, components } = field(o, 'fibreTensor');
      const sum = new Float64Array(6);
      let n = 0;
      for (let i = 0; i < grid.n; i++) {
        const [x] = back([grid.centroid[3 * i], grid.centroid[3 * i + 1], grid.centroid[3 * i + 2]]);
        if (x < 0.02 || x > 0.045) continue;
        for (let k = 0; k < components; k++) sum[k % 6] += data[i * components + k];
        n += components / 6;
      }
      return sum.map((v) => v / n);
    };
    const axes = ([0, 1, 2] as const).map((m) => turn([0, 1, 2].map((d) => Number(d === m)) as Vec3));
    const back = (p: Vec3): Vec3 => axes.map((e) => e[0] * p[0] + e[1] * p[1] + e[2] * p[2]) as Vec3;
    const flat = mean(outcome, (p) => p);
    const t = mean(turned, back);
    const full = [
      [t[0], t[3], t[5]],
      [t[3], t[1], t[4]],
      [t[5], t[4], t[2]],
    ];
    axes.forEach((e, m) => {
      const own = e.reduce((s, x, i) => s + x * e.reduce((r, y, j) => r + y * full[i][j], 0), 0);
      expect(Math.abs(own - flat[m])).toBeLessThan(0.02);
    });
  });

  it('has none of it where fibres are alike all over, or there are none', async () => {
    const alike = await run(study({ fibres: { ...DEFAULT_FIBRES, follow: false }, upTo: 'pack' }));
    const plain = await run(study({ resin: 'pa6-lowan-n30', upTo: 'pack' }));
    for (const o of [alike, plain]) {
      expect(o.fields.some((f) => f.id.startsWith('fibre'))).toBe(false);
      expect(o.answers.some((a) => a.id === 'how-strong')).toBe(false);
    }
  });

  it('is held against itself: a layer whose shares are no whole is found with its place', () => {
    const { grid } = outcome.gridResult;
    const orientation = perNode(grid.n, 18 * 6, 0);
    for (let k = 0; k < orientation.length; k += 6) orientation.fill(1 / 3, k, k + 3);
    const found = { nLayers: 18, orientation, across: perNode(grid.n, 3, 0) };
    expect(guardFibres(grid, found)).toEqual([]);
    orientation[6 * 18 * 7] = 0.6;
    const [breach] = guardFibres(grid, found);
    expect([breach.rule, breach.place?.[0]]).toEqual(['fibres', grid.centroid[21]]);
    orientation[6 * 18 * 7] = NaN;
    expect(guardFibres(grid, found)[0].value).toBe(Infinity);
  });
});

/** An array of nodes with other values. */
function changed(values: PerNode, by: (v: number, k: number) => number): PerNode {
  const out = onNodes(values.slice(), values.length);
  values.forEach((v, k) => (out[k] = by(v, k)));
  return out;
}

describe('a run of long fibres', () => {
  const LONG = 'pp-hollin-h14-lg40';
  let outcome: Run;
  beforeAll(async () => {
    outcome = await run(study({ resin: LONG }));
  });

  it('breaks them on their way, and moves them to the middle of the wall', () => {
    expect(outcome.breaches).toEqual([]);
    const { shortest } = outcome.summary.strength!;
    expect(shortest!.granule_m).toBeCloseTo(0.011, 9);
    expect(shortest!.nozzle_m).toBeLessThan(0.4 * shortest!.granule_m);
    expect(shortest!.byWeight_m).toBeLessThan(shortest!.nozzle_m);
    expect(shortest!.byNumber_m).toBeLessThan(shortest!.byWeight_m);
    const [near, far]: [number, number][] = [
      [0.005, 0.015],
      [0.04, 0.05],
    ];
    expect(meanOf(outcome, 'fibreLength', far)).toBeLessThan(meanOf(outcome, 'fibreLength', near));
    const { components } = field(outcome, 'fibreVolume');
    const places = Array.from({ length: components }, (_, k) => meanOf(outcome, 'fibreVolume', [0.02, 0.05], k));
    expect(places[0]).toBeGreaterThan(1.03 * Math.min(...places));
    const resin = resinById(LONG)!;
    expect(weightShare(volumeShare(resin), resin)).toBeCloseTo(0.4, 6);
    const how = outcome.answers.find((a) => a.id === 'how-strong')!;
    expect(how.why.join(' ')).toMatch(/11\.?0? mm in the granules the screw leaves 2\.\d mm by weight/);
  });

  it('keeps lengths and shares with the strains of the shot', () => {
    const bytes = packShotStrain(outcome.shape!.shot);
    const { fibres } = unpackShotStrain(
      bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
    );
    expect(fibres!.share).toEqual(outcome.shape!.shot.fibres!.share);
    expect(fibres!.lengths).toEqual(outcome.shape!.shot.fibres!.lengths);
    const { grid } = outcome.gridResult;
    expect(
      guardFibres(grid, { ...fibres!, share: changed(fibres!.share!, (v, k) => (k === 90 ? NaN : v)) }),
    ).toHaveLength(1);
    const lengths = { ...fibres!.lengths!, byWeight: changed(fibres!.lengths!.byWeight, () => 0) };
    expect(guardFibres(grid, { ...fibres!, lengths })[0].rule).toBe('fibres');
  });

  it('is softer where the screw has broken them more', async () => {
    const followed = { ...DEFAULT_FIBRES, migrates: false };
    const [less, more] = [
      await run(study({ resin: LONG, upTo: 'pack', fibres: { ...followed, screwStrain: 0 } })),
      await run(study({ resin: LONG, upTo: 'pack', fibres: { ...followed, screwStrain: 20000 } })),
    ];
    expect(less.summary.strength!.shortest!.nozzle_m).toBeCloseTo(0.011, 9);
    expect(more.summary.strength!.shortest!.nozzle_m).toBeLessThan(0.0012);
    expect(more.summary.strength!.most_Pa).toBeLessThan(less.summary.strength!.most_Pa);
    const why = more.answers.find((a) => a.id === 'how-strong')!.why.join(' ');
    expect(why).toContain('in the granules');
  });

  it('lets a load run along any direction: along an axis it is that axis', async () => {
    const along = (load: FibreChoice['load']) => study({ upTo: 'pack', fibres: { ...DEFAULT_FIBRES, load } });
    const [same, between] = [await run(along([0, 3, 0])), await run(along([1, 1, 0]))];
    const modulus = (o: Run) => o.summary.strength!.modulus_Pa;
    expect(loadOf({ load: [0, 3, 0] })).toEqual(loadOf({ load: 'y' }));
    expect(modulus(between)).not.toBeCloseTo(modulus(same), -6);
    expect(between.summary.strength!.load).toBe('(0.71, 0.71, 0)');
    // Fibres lie along the strip, x, rather than across it.
    expect(meanOf(between, 'fibreOnLoad', [0.02, 0.05])).toBeGreaterThan(meanOf(same, 'fibreOnLoad', [0.02, 0.05]));
    expect(fibresSchema.safeParse({ ...DEFAULT_FIBRES, load: [0, 0, 0] }).success).toBe(false);
  });
});

describe('bad numbers', () => {
  const resin = resinById(FILLED)!;
  const size = { volume: 2e-6, wall: 0.002 };
  const told = (fibres: Partial<FibreChoice>, own = resin) =>
    checkInputs(study({ resin: own, fibres: { ...DEFAULT_FIBRES, ...fibres } }), size).filter(
      (p) => p.target === 'fibres',
    );

  it('a length over diameter below 1 is refused, and says what flat fillers have', () => {
    const parsed = fillerSchema.safeParse({ ...resin.filler, aspectRatio: 0.2 });
    expect(parsed.error?.issues[0].message).toContain('flat fillers have their diameter over their thickness');
    expect(fibresSchema.safeParse({ ...DEFAULT_FIBRES, aspect: 0.5 }).success).toBe(false);
    expect(fibresSchema.safeParse(DEFAULT_FIBRES).success).toBe(true);
  });

  it('interactions that gather fibres or never come to rest are told before a run', () => {
    expect(told({})).toEqual([]);
    const five = (b: [number, number, number, number, number]) => ({
      turning: { interaction: { by: 'five' as const, b }, slowing: 0.05 },
    });
    expect(told(five([1.9e-4, 5.8e-3, 0.04, 1.2e-5, 0]))).toEqual([]);
    expect(told(five([-1e-3, 0.005, 0, 0, 0]))[0].message).toContain('gather');
    expect(told({ turning: { interaction: { by: 'even', CI: 0 }, slowing: 1 } })[0].message).toContain('rest');
    expect(told({ follow: false, ...five([-1e-3, 0, 0, 0, 0]) })).toEqual([]);
    expect(instability({ aspect: 20, interaction: { by: 'even', CI: 0.01 }, slowing: 0.1 }, 'invariant')).toBeNull();
  });

  it('data that do not go with their fibres are told; with the plastic between given they do', () => {
    const { matrix: _, ...filler } = resin.filler!;
    const soft = { ...resin, filler, elastic: { ...resin.elastic, E1: 3e9 } };
    expect(told({}, { ...resin, filler })).toEqual([]);
    expect(told({ mechanics: 'mixture' }, soft)[0].message).toMatch(/3\.0 GPa: too little/);
    expect(told({ mechanics: 'mixture' }, { ...soft, filler: resin.filler })).toEqual([]);
  });

  it('beads have no direction; long fibres follow more slowly than short ones', () => {
    expect(hasFibres(resinById('pa6-lowan-n30-b25')!)).toBe(false);
    expect(turningOf(resin, 100).slowing).toBeLessThan(turningOf(resin, 20).slowing);
  });
});
