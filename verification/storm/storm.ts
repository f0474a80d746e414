import { flipped, mapVertices, measure, type TriangleMesh, type Vec3 } from '../../src/core/geometry/mesh';
import { closestPoint } from '../../src/core/geometry/closestPoint';
import { cavityBody, emptyInputs, type Inputs } from '../../src/core/model/study';
import { runPipeline, type PipelineOutcome } from '../../src/core/pipeline/pipeline';
import { plainContext } from '../../src/core/stage/context';
import { objectPart } from './objects';
import { mirrorOf, stormPart, turnOf, type StormPart, type Turn } from './parts';

/** What one run of a storm part came to. SI. */
export interface StormRun {
  name: string;
  status: string;
  /** Everything that makes it a failure, in words; empty for a sound run. */
  failures: string[];
  /** Before the ends close, and at 99 %, Pa. */
  pressure: [number, number];
  mass: number;
  /** Heat that is not accounted for, the worse of filling and packing. */
  heat: number;
  /** Steps of packing that were halved. */
  halvings: number;
  fillTime: number;
  shareFilled: number;
  /** Largest deviation of the shape from the drawing, m; NaN where it was not asked for. */
  deviation: number;
}

export interface StormCase {
  seed: number;
  kind: string;
  wall: number;
  runs: StormRun[];
  /** Failures of the runs and of the comparisons between them. */
  failures: string[];
  /** Relative differences of turned and mirrored runs to the first, in pressure and in weight. */
  pairs: { name: string; pressure: number; weight: number; deviation: number }[];
  seconds: number;
}

export interface StormOptions {
  /** Things as people bring them along in place of plain solids. */
  objects?: boolean;
  detail: Inputs['detail'];
  /** On to the shape in the room. */
  shape: boolean;
  /** Largest relative difference in pressure and weight between a part and its turned or mirrored self. */
  tolerance: number;
}

type Drawn = Omit<StormPart, 'kind'>;

const AS_DRAWN: Turn = { name: 'as drawn', apply: (v) => v, mirrors: false };
/** Differences below this pressure are those of a machine at rest, Pa. */
const SMALL_PRESSURE = 2e5;

const direction = (turn: Turn, v: Vec3): Vec3 => {
  const [from, to] = [turn.apply([0, 0, 0]), turn.apply(v)];
  return [to[0] - from[0], to[1] - from[1], to[2] - from[2]];
};

function turned(part: Pick<Drawn, 'mesh' | 'gate'>, turn: Turn): { mesh: TriangleMesh; gate: Vec3 } {
  const mesh = mapVertices(part.mesh, turn.apply);
  // On the surface first: a point beside it could turn to another spot.
  const gate = turn.apply(closestPoint(part.mesh, part.gate.at).point);
  return { mesh: turn.mirrors ? flipped(mesh) : mesh, gate };
}

/** The part with its tool in the given orientation; odd seeds let air out at the parting line, even ones everywhere. */
export function stormInputs(
  part: Pick<Drawn, 'seed' | 'gate'>,
  gate: Vec3,
  turn: Turn,
  options: Omit<StormOptions, 'tolerance'>,
): Inputs {
  const base = emptyInputs();
  return {
    ...base,
    bodies: [cavityBody('storm')],
    tool: { ...base.tool, opening: direction(turn, [0, 0, 1]) },
    gates: [{ id: 'G1', position: gate, diameter: part.gate.diameter }],
    cycle: { ...base.cycle, venting: part.seed % 2 ? 'parting-line' : 'open' },
    detail: options.detail,
    upTo: options.shape ? undefined : 'pack',
  };
}

function runOf(name: string, mesh: TriangleMesh, outcome: PipelineOutcome): StormRun {
  const nothing = {
    pressure: [NaN, NaN] as [number, number],
    mass: NaN,
    heat: NaN,
    halvings: 0,
    fillTime: NaN,
    shareFilled: NaN,
    deviation: NaN,
  };
  if (outcome.status === 'refused')
    return { name, status: 'refused', failures: outcome.problems.map((p) => `refused: ${p.message}`), ...nothing };
  if (outcome.status === 'failed') return { name, status: 'failed', failures: [outcome.message], ...nothing };
  const { summary, breaches } = outcome;
  const failures = breaches.map((b) => `${b.rule}: ${b.message}`);
  const noShape = outcome.answers.find((a) => a.id === 'what-shape' && a.key.value === 'not calculated');
  if (noShape) failures.push(`shape: ${noShape.headline}`);
  const volume = Math.abs(summary.partVolume_m3 / Math.abs(measure(mesh).volume) - 1);
  if (!(volume < 1e-9)) failures.push(`the grid's volume is off by ${volume.toExponential(1)}`);
  return {
    name,
    status: outcome.status,
    failures,
    pressure: [summary.pressureBeforeEnds_Pa, summary.pressureNeeded_Pa],
    mass: summary.pack?.mass_kg ?? NaN,
    heat: Math.max(summary.heatError, Math.abs(summary.pack?.heatError ?? 0)),
    halvings: outcome.pack?.halvings ?? 0,
    fillTime: summary.fillTime_s,
    shareFilled: summary.shareFilled,
    deviation: summary.shape?.largest_m ?? NaN,
  };
}

/** Relative difference of two pressures: none where their ranges while the ends close overlap. */
function apart(a: [number, number], b: [number, number]): number {
  const scale = Math.max(b[1], SMALL_PRESSURE);
  if (a[0] > b[1]) return (a[0] - b[1]) / scale;
  return b[0] > a[1] ? (a[1] - b[0]) / scale : a[0] <= b[1] && b[0] <= a[1] ? 0 : NaN;
}

/** One part as drawn, turned with its tool, and mirrored and turned with it. */
export async function stormCase(seed: number, options: StormOptions): Promise<StormCase> {
  const { tolerance } = options;
  const start = performance.now();
  const part: Drawn & { kind: string } = await (options.objects ? objectPart(seed) : stormPart(seed));
  const runs: StormRun[] = [];
  for (const turn of [AS_DRAWN, turnOf(seed), mirrorOf(seed)]) {
    const { mesh, gate } = turned(part, turn);
    const inputs = stormInputs(part, gate, turn, options);
    const outcome = await runPipeline(mesh, 'storm', inputs, plainContext(), { gridError: false });
    runs.push(runOf(turn.name, mesh, outcome));
  }
  const [drawn, ...others] = runs;
  const failures = runs.flatMap((r) => r.failures.map((f) => `${r.name}: ${f}`));
  const pairs = others.map((r) => ({
    name: r.name,
    pressure: apart(r.pressure, drawn.pressure),
    weight: r.mass / drawn.mass - 1,
    deviation: r.deviation / drawn.deviation - 1,
  }));
  others.forEach((r, k) => {
    if (r.failures.length || drawn.failures.length) return;
    if (r.status !== drawn.status) {
      failures.push(`${drawn.status} as drawn, ${r.status} ${r.name}: one of them is false`);
      return;
    }
    if (!(Math.abs(pairs[k].pressure) <= tolerance))
      failures.push(`${r.name}: pressure ${(100 * pairs[k].pressure).toFixed(1)} % off`);
    if (drawn.status === 'filled' && !(Math.abs(pairs[k].weight) <= tolerance))
      failures.push(`${r.name}: weight ${(100 * pairs[k].weight).toFixed(2)} % off`);
  });
  const seconds = (performance.now() - start) / 1000;
  return { seed, kind: part.kind, wall: part.wall, runs, failures, pairs, seconds };
}

const rms = (x: number[]) => Math.sqrt(x.reduce((s, v) => s + v * v, 0) / Math.max(1, x.length));

/** Root mean square and largest difference of the pairs, and how many cases are sound. */
export function stormFigures(cases: readonly StormCase[]) {
  const pairs = cases.flatMap((c) => c.pairs).filter((p) => Number.isFinite(p.pressure) && Number.isFinite(p.weight));
  const of = (f: (p: (typeof pairs)[number]) => number) => ({
    rms: rms(pairs.map(f)),
    largest: pairs.reduce((m, p) => Math.max(m, Math.abs(f(p))), 0),
  });
  return {
    parts: cases.length,
    sound: cases.filter((c) => !c.failures.length).length,
    /** Of all runs: the largest heat that is not accounted for, and steps of packing that were halved. */
    heat: cases.flatMap((c) => c.runs).reduce((m, r) => Math.max(m, r.heat || 0), 0),
    halvings: cases.flatMap((c) => c.runs).reduce((m, r) => m + r.halvings, 0),
    beforeEnds: rms(
      cases.flatMap(({ runs: [drawn, ...rest] }) =>
        rest.map((r) => r.pressure[0] / drawn.pressure[0] - 1).filter(Number.isFinite),
      ),
    ),
    pressure: of((p) => p.pressure),
    weight: of((p) => p.weight),
    deviation: of((p) => p.deviation || 0),
    /** Turned against mirrored and turned: what the lattice does that lies along no wall. */
    turnedDeviation: rms(cases.map(({ runs: [, a, b] }) => b.deviation / a.deviation - 1).filter(Number.isFinite)),
  };
}
