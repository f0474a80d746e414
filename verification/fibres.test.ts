import { readFileSync } from 'node:fs';
import { readStl } from '../src/core/formats/stl';
import { weld } from '../src/core/geometry/mesh';
import { defaultTab } from '../src/core/model/outlet';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { tabStudy } from '../src/core/pipeline/tabStudy';
import { beforeAll, describe, expect, it } from 'vitest';
import { closestPoint } from '../src/core/geometry/closestPoint';
import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { cross, dot } from '../src/core/geometry/vec';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import { eigenOf, frame } from '../src/core/numerics/eigen';
import type { Filled, FillInput } from '../src/core/solvers/fill/outcome';
import { fill } from '../src/core/solvers/fill/stage';
import { constantFlow } from '../src/core/solvers/melt/drive';
import { noGating, placeGating, type Gating } from '../src/core/solvers/melt/gating';
import { meanVelocity } from '../src/core/solvers/melt/velocity';
import { CENTRES, HALF_LAYERS } from '../src/core/solvers/melt/layers';
import { emptyState } from '../src/core/solvers/shot/state';
import { plainContext } from '../src/core/stage/context';
import { evenHeat } from './evenMelt';
import { ALL } from './extent';
import { box, disc, ORIENTATIONS } from './shapes';

interface Flow {
  n: number;
  halfGap: number;
  start: number;
  aspect: number;
  CI: number;
  points: { at: number; zeta: number; a: number[] }[];
}
const reference = JSON.parse(readFileSync(new URL('./reference/fibreFlow.json', import.meta.url), 'utf8')) as {
  radial: Flow;
  straight: Flow;
};
const MELT = 500;
type Turn = (v: Vec3) => Vec3;

interface Run {
  grid: PressureGrid;
  after: Filled;
  place: (i: number) => Vec3;
}

/** A filling to 96 % with fibres that have no direction before another in the nodes that are `kept`, in the body's own axes. */
async function flow(
  c: Flow,
  mesh: TriangleMesh,
  turn: Turn,
  gatingOf: (grid: PressureGrid, place: (i: number) => Vec3) => Gating | null,
  kept: (place: Vec3) => boolean,
  detail: Inputs['detail'] = 'normal',
): Promise<Run> {
  const turned = mapVertices(mesh, turn);
  const fine = buildFineGrid(turned, latticeFor(turned, detail));
  const grid = buildPressureGrid(fine);
  const axes = [0, 1, 2].map((d) => turn([0, 1, 2].map((k) => Number(k === d)) as Vec3));
  const place = (i: number) => axes.map((e) => e.reduce((s, x, d) => s + x * grid.centroid[3 * i + d], 0)) as Vec3;
  const top = closestPoint(turned, turn([0, 0, c.halfGap]));
  const gating = gatingOf(grid, place) ?? placeGating(fine, grid, [{ id: 'G1', surface: top, diameter: 0.004 }]);
  const input: FillInput = {
    grid,
    gating,
    nGates: 1,
    viscosity: { kind: 'power-law', K: 5000, n: c.n },
    meltTemperature: MELT,
    control: { ...constantFlow(2e-5), switchover: { by: 'share', share: 0.96 }, packing: null },
    heat: evenHeat(grid.n, MELT),
    air: null,
    projectedArea: null,
    timeLimit: 1e5,
    fibres: {
      model: { aspect: c.aspect, interaction: { by: 'even', CI: c.CI }, slowing: 1 },
      closure: 'hybrid',
      across: Float64Array.from({ length: 3 * grid.n }, (_, k) => axes[2][k % 3]),
      fresh: [1 / 3, 1 / 3, 1 / 3, 0, 0, 0],
      kept: Uint8Array.from({ length: grid.n }, (_, i) => Number(kept(place(i)))),
    },
  };
  const after = await fill(emptyState(grid, gating), input, plainContext());
  if (after.status === 'failed') throw new Error(after.message);
  return { grid, after, place };
}

/** Along the flow, across it in the plane, across the wall and their shear, at a way along it [m] and a place of the wall. */
function measured(
  { grid, after, place }: Run,
  turn: Turn,
  wayOf: (p: Vec3) => { way: number; along: Vec3 } | null,
  at: number,
  zeta: number,
): number[] {
  const { orientation } = after.state.layer;
  let l = CENTRES.findIndex((x) => x > zeta);
  if (l < 0) l = HALF_LAYERS - 1;
  const below = Math.max(0, l - 1);
  const weight = l === below ? 0 : Math.max(0, (zeta - CENTRES[below]) / (CENTRES[l] - CENTRES[below]));
  const sums = [0, 0, 0, 0];
  let all = 0;
  for (let i = 0; i < grid.n; i++) {
    const found = wayOf(place(i));
    const near = found ? 1 - Math.abs(found.way - at) / (0.7 * grid.spacing) : 0;
    if (!found || !(near > 0)) continue;
    // A half column is that of the first wall: outwards is against the way across.
    const [e1, e3] = [turn(found.along), turn([0, 0, -1])];
    const e2 = cross(e3, e1);
    const a = Array.from(
      { length: 6 },
      (_, k) =>
        (1 - weight) * orientation[(i * HALF_LAYERS + below) * 6 + k] +
        weight * orientation[(i * HALF_LAYERS + l) * 6 + k],
    );
    const row = (v: Vec3): Vec3 => [
      a[0] * v[0] + a[3] * v[1] + a[5] * v[2],
      a[3] * v[0] + a[1] * v[1] + a[4] * v[2],
      a[5] * v[0] + a[4] * v[1] + a[2] * v[2],
    ];
    [dot(e1, row(e1)), dot(e2, row(e2)), dot(e3, row(e3)), dot(e1, row(e3))].forEach((v, k) => (sums[k] += near * v));
    all += near;
  }
  return sums.map((s) => s / all);
}

/** Largest component that is off. */
const off = (found: number[], expected: number[]) => Math.max(...found.map((v, k) => Math.abs(v - expected[k])));

const outward = (p: Vec3) => {
  const way = Math.hypot(p[0], p[1]);
  return way > 0 ? { way, along: [p[0] / way, p[1] / way, 0] as Vec3 } : null;
};

/** A disc filled from its middle; where its fibres start to turn the outer faces of the nodes lie in the mean. */
const roundFlow = (turn: Turn, detail?: Inputs['detail']) => {
  const { radial } = reference;
  const fresh = (p: Vec3) => Math.hypot(p[0], p[1]) < radial.start;
  return flow(radial, disc(0.055, 2 * radial.halfGap), turn, () => null, fresh, detail);
};

it.runIf(ALL)('a finer grid follows the fibres of a disc from nearer to where they start', async () => {
  const turn = ORIENTATIONS.flat;
  const fine = await roundFlow(turn, 'fine');
  for (const { at, zeta, a } of reference.radial.points)
    expect(off(measured(fine, turn, outward, at, zeta), a), `${at} m, ${zeta}`).toBeLessThan(0.035);
});

describe.each(Object.entries(ORIENTATIONS).filter(([name]) => !name.includes('17° about z') || name.includes('30°')))(
  'fibres in the stage, %s',
  (_, turn) => {
    let round: Run;
    let strip: Run;
    let from = 0;
    const onward = (p: Vec3) => (Math.abs(p[1]) < 0.006 ? { way: p[0] - from, along: [1, 0, 0] as Vec3 } : null);
    beforeAll(async () => {
      const { straight } = reference;
      round = await roundFlow(turn);
      const kept = 0.0065;
      strip = await flow(
        straight,
        box(0.085, 0.026, 2 * straight.halfGap),
        turn,
        (grid, place) => ({
          ...noGating(grid),
          gateOfNode: Int16Array.from({ length: grid.n }, (_v, i) => (place(i)[0] < 0.002 ? 0 : -1)),
        }),
        (p) => p[0] < kept,
      );
      const ways = [...strip.grid.volume.keys()].map((i) => strip.place(i)[0]).filter((x) => x >= kept);
      from = Math.min(...ways) - strip.grid.spacing / 2;
    });

    it('spreading from a gate the core turns across the flow, the skin along it', () => {
      for (const { at, zeta, a } of reference.radial.points) {
        const found = measured(round, turn, outward, at, zeta);
        // Two nodes after the start, where a node already has what leaves it, counts what fifteen nodes on is nothing.
        expect(off(found, a), `${at} m, ${zeta}`).toBeLessThan(at < 0.01 ? 0.1 : at < 0.03 ? 0.055 : 0.02);
      }
    });

    it('between walls it shears layer by layer', () => {
      for (const { at, zeta, a } of reference.straight.points) {
        if (at > 0.05) continue;
        expect(off(measured(strip, turn, onward, at, zeta), a), `${at} m, ${zeta}`).toBeLessThan(0.035);
      }
    });

    it('what has gone through a place since it was full is the way of the front from there', () => {
      const { grid, after, place } = strip;
      const { passed } = after.state.link;
      const filled = [...grid.volume.keys()].reduce((v, i) => v + (after.state.node.full[i] ? grid.volume[i] : 0), 0);
      const front = filled / (0.026 * 2 * reference.straight.halfGap);
      const ends = [0.02, 0.03, 0.04, 0.05, 0.06].map((x) => {
        let [sum, all] = [0, 0];
        for (let i = 0; i < grid.n; i++) {
          const [at] = place(i);
          if (Math.abs(at - x) > 2 * grid.spacing) continue;
          sum += grid.volume[i] * (Math.hypot(...meanVelocity(grid, passed, i)) + at);
          all += grid.volume[i];
        }
        return sum / all;
      });
      // A place counts from the step after it was full, in which the front goes on by up to two nodes.
      expect(Math.max(...ends) - Math.min(...ends)).toBeLessThan(0.3 * grid.spacing);
      for (const end of ends) {
        expect(end).toBeLessThan(front);
        expect(end).toBeGreaterThan(front - 2 * grid.spacing);
      }
    });

    it('keeps trace 1 and eigenvalues between 0 and 1 everywhere', () => {
      const own = frame();
      for (const { grid, after } of [round, strip]) {
        const { orientation } = after.state.layer;
        let [trace, below, above] = [0, 0, 0];
        for (let k = 0; k < grid.n * HALF_LAYERS; k++) {
          const a = orientation.subarray(6 * k, 6 * k + 6);
          trace = Math.max(trace, Math.abs(a[0] + a[1] + a[2] - 1));
          for (const v of eigenOf(a, own).values) [below, above] = [Math.min(below, v), Math.max(above, v - 1)];
        }
        expect(trace).toBeLessThan(1e-6);
        expect(below).toBeGreaterThan(-1e-6);
        expect(above).toBeLessThan(1e-6);
      }
    });
  },
);

describe('a lid that two fronts fill', () => {
  const soup = readStl(readFileSync(new URL('../samples/queen-cage-lid.stl', import.meta.url)));
  const { mesh } = weld(Float64Array.from(soup, (x) => x / 1000));
  const inputs: Inputs = {
    ...emptyInputs('lid'),
    resin: 'pa6-lowan-n30-g30',
    gates: [-0.034, 0.034].map((x, k) => ({ id: `G${k + 1}`, position: [x, 0, 0], diameter: 0.0015 })),
    detail: 'quick',
    upTo: 'pack',
    // What flows through the line does so at once.
    cycle: { ...emptyInputs('lid').cycle, packing: { by: 'constant', pressure: 4e7, time: 0.4 } },
  };
  const run = async (patch: Partial<Inputs> = {}) => {
    const outcome = await runPipeline(mesh, 'lid', { ...inputs, ...patch }, plainContext(), { gridError: false });
    if (outcome.status !== 'filled') throw new Error(outcome.status);
    return outcome;
  };
  let plain: ReturnType<typeof run> | null = null;
  const asItIs = () => (plain ??= run());

  it.runIf(ALL)('places of a tab are tried, and the best strengthens the line', async () => {
    const said: string[] = [];
    const context = plainContext(({ message, fraction }) => {
      said.push(message);
      expect(fraction).toBeLessThanOrEqual(1);
    });
    const outcome = await tabStudy(mesh, 'lid', inputs, context, 3);
    if (outcome.status === 'refused') throw new Error(outcome.message);
    const { before, trials } = outcome.report;
    expect(trials.length).toBeGreaterThan(1);
    const shares = trials.map((t) => t.after?.share ?? 1);
    shares.forEach((share, k) => expect(share).toBeLessThanOrEqual(shares[Math.max(0, k - 1)]));
    expect(shares[0]).toBeGreaterThan(before.share);
    expect(trials[0].after!.flowedThrough).toBeGreaterThan(before.flowedThrough);
    expect(trials[0].inputs).toMatchObject({ detail: inputs.detail, upTo: inputs.upTo, tabs: [{ id: 'T1' }] });
    expect(new Set(said)).toContain('The study as it is');
    const without = await tabStudy(mesh, 'lid', { ...inputs, resin: 'pa6-lowan-n30' }, plainContext());
    expect(without).toMatchObject({ status: 'refused', message: 'The study follows no fibres.' });
  });

  it('a tab beside its weld line draws melt through it, and more fibres cross it', async () => {
    const before = await asItIs();
    const { weld: line } = before.summary.strength!;
    const { position, direction, wall } = line!.tab!;
    const after = await run({ tabs: [defaultTab('T1', position, direction, wall)] });
    // Its mouth holds next to nothing of what flows through it: its balance closes all the same.
    expect(after.pack!.halvings).toBeLessThan(3);
    const through = (o: typeof before) => Math.max(...o.findings.weldLines.map((w) => w.flowedThrough!));
    expect(through(after)).toBeGreaterThan(4 * through(before));
    // Modulus square to the line, along it and on both sides.
    const across = ({ fields, gridResult: { grid } }: typeof before) => {
      const { data } = fields.find((f) => f.id === 'fibreModulusAlong')!;
      let [sum, volume] = [0, 0];
      for (let i = 0; i < grid.n; i++) {
        if (Math.abs(grid.centroid[3 * i]) > 0.0015) continue;
        sum += grid.volume[i] * data[i];
        volume += grid.volume[i];
      }
      return sum / volume;
    };
    expect(across(after)).toBeGreaterThan(across(before));
    // Where fronts meet fewer fibres lie across than elsewhere.
    expect(line!.ofFibres).toBeLessThan(0.98);
  });

  it('both halves of it are alike, as its gates are', async () => {
    const { fields, gridResult } = await asItIs();
    const { grid } = gridResult;
    const { data } = fields.find((f) => f.id === 'fibreModulusAlong')!;
    const half = (sign: number) => {
      let [sum, volume] = [0, 0];
      for (let i = 0; i < grid.n; i++) {
        // Without the tongue, which is on one side alone.
        if (grid.centroid[3 * i] * sign < 0.002 || Math.abs(grid.centroid[3 * i]) > 0.022) continue;
        sum += grid.volume[i] * data[i];
        volume += grid.volume[i];
      }
      return sum / volume;
    };
    expect(Math.abs(half(1) / half(-1) - 1)).toBeLessThan(0.02);
  });
});
