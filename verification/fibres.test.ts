import { readFileSync } from 'node:fs';
import { readStl } from '../src/core/formats/stl';
import { weld } from '../src/core/geometry/mesh';
import { defaultTab } from '../src/core/model/outlet';
import { emptyInputs, type Inputs } from '../src/core/model/study';
import { runPipeline } from '../src/core/pipeline/pipeline';
import { tabStudy } from '../src/core/pipeline/tabStudy';
import { beforeAll, describe, expect, it } from 'vitest';
import type { Vec3 } from '../src/core/geometry/mesh';
import { eigenOf, frame } from '../src/core/numerics/eigen';
import { meanVelocity } from '../src/core/solvers/melt/velocity';
import { HALF_LAYERS } from '../src/core/solvers/melt/layers';
import { plainContext } from '../src/core/stage/context';
import { ALL } from './extent';
import { flowFibres, STRIP_WIDTH, type FibreFlow, type FlownFibres } from './fibreFlow';
import { ORIENTATIONS } from './shapes';

type Flow = Omit<FibreFlow, 'flow' | 'reach'> & { points: { at: number; zeta: number; a: number[] }[] };
const reference = JSON.parse(readFileSync(new URL('./reference/fibreFlow.json', import.meta.url), 'utf8')) as {
  radial: Flow;
  straight: Flow;
};

/** Largest component that is off. */
const off = (found: number[], expected: number[]) => Math.max(...found.map((v, k) => Math.abs(v - expected[k])));

/** A disc filled from its middle; where its fibres start to turn the outer faces of the nodes lie in the mean. */
const roundFlow = (turn: (v: Vec3) => Vec3, detail?: Inputs['detail']) =>
  flowFibres({ ...reference.radial, flow: 'radial', reach: 0.055 }, turn, detail);

it.runIf(ALL)('a finer grid follows the fibres of a disc from nearer to where they start', async () => {
  const turn = ORIENTATIONS.flat;
  const fine = await roundFlow(turn, 'fine');
  for (const { at, zeta, a } of reference.radial.points)
    expect(off(fine.at(at, zeta), a), `${at} m, ${zeta}`).toBeLessThan(0.015);
});

describe.each(Object.entries(ORIENTATIONS).filter(([name]) => !name.includes('17° about z') || name.includes('30°')))(
  'fibres in the stage, %s',
  (_, turn) => {
    let round: FlownFibres;
    let strip: FlownFibres;
    beforeAll(async () => {
      round = await roundFlow(turn);
      strip = await flowFibres({ ...reference.straight, flow: 'straight', reach: 0.0785 }, turn);
    });

    it('spreading from a gate the core turns across the flow, the skin along it', () => {
      for (const { at, zeta, a } of reference.radial.points) {
        const found = round.at(at, zeta);
        // Two nodes after the start it counts where in its nodes the start lies; fifteen nodes on it does not.
        expect(off(found, a), `${at} m, ${zeta}`).toBeLessThan(at < 0.01 ? 0.08 : 0.02);
      }
    });

    it('between walls it shears layer by layer', () => {
      for (const { at, zeta, a } of reference.straight.points) {
        if (at > 0.05) continue;
        expect(off(strip.at(at, zeta), a), `${at} m, ${zeta}`).toBeLessThan(0.03);
      }
    });

    it('what has gone through a place since it was full is the way of the front from there', () => {
      const { grid, after, place } = strip;
      const { passed } = after.state.link;
      const filled = [...grid.volume.keys()].reduce((v, i) => v + (after.state.node.full[i] ? grid.volume[i] : 0), 0);
      const front = filled / (STRIP_WIDTH * 2 * reference.straight.halfGap);
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
