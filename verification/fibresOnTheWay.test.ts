import { beforeAll, describe, expect, it } from 'vitest';
import { mapVertices, type Vec3 } from '../src/core/geometry/mesh';
import { dot } from '../src/core/geometry/vec';
import { buildFineGrid } from '../src/core/grid/grid';
import { latticeFor } from '../src/core/grid/lattice';
import { buildPressureGrid, type PressureGrid } from '../src/core/grid/pressureGrid';
import { Breaking, meanLengths } from '../src/core/material/fibres/breakage';
import { resistanceInShear } from '../src/core/material/fibres/coupling';
import { Orientation, type FibreModel } from '../src/core/material/fibres/orientation';
import { isotropic } from '../src/core/material/fibres/tensor';
import { SYMMETRIC } from '../src/core/geometry/vec';
import type { FibreInput } from '../src/core/solvers/fibres/orientationField';
import type { FillInput } from '../src/core/solvers/fill/outcome';
import { fill } from '../src/core/solvers/fill/stage';
import { constantFlow } from '../src/core/solvers/melt/drive';
import { CENTRES, HALF_LAYERS, layerShares } from '../src/core/solvers/melt/layers';
import { noGating } from '../src/core/solvers/melt/gating';
import { emptyState } from '../src/core/solvers/shot/state';
import { plainContext } from '../src/core/stage/context';
import { evenHeat } from './evenMelt';
import { box, ORIENTATIONS } from './shapes';

/** A strip that is filled along x through its whole end by a Newtonian melt, m, m3/s. */
const [LENGTH, WIDTH, GAP] = [0.08, 0.01, 0.002];
const FLOW = 2e-6;
const SPEED = FLOW / (WIDTH * GAP);
const ETA = 300;
const MELT = 500;
const MODEL: FibreModel = { aspect: 20, interaction: { by: 'even', CI: 0.01 }, slowing: 1 };
const BREAKAGE = {
  bins: 40,
  binLength: 2.5e-4,
  drag: 3,
  chance: 0.004,
  spread: 0.25,
  young: 72e9,
  diameter: 1.7e-5,
};
const BREAKING = new Breaking(BREAKAGE);
const FRESH = Float64Array.from({ length: 40 }, (_, i) => Number(i === 39));

type Turn = (v: Vec3) => Vec3;

async function strip(turn: Turn, fibres: Partial<FibreInput>) {
  const turned = mapVertices(box(LENGTH, WIDTH, GAP), turn);
  const fine = buildFineGrid(turned, latticeFor(turned, 'quick'));
  const grid = buildPressureGrid(fine);
  const axes = [0, 1, 2].map((d) => turn([0, 1, 2].map((k) => Number(k === d)) as Vec3));
  const x = Float64Array.from({ length: grid.n }, (_, i) =>
    dot(axes[0], [grid.centroid[3 * i], grid.centroid[3 * i + 1], grid.centroid[3 * i + 2]]),
  );
  const start = Math.min(...x);
  const gating = noGating(grid);
  for (let i = 0; i < grid.n; i++) if (x[i] < start + 0.7 * grid.spacing) gating.gateOfNode[i] = 0;
  const input: FillInput = {
    grid,
    gating,
    nGates: 1,
    viscosity: { kind: 'newtonian', eta: ETA },
    meltTemperature: MELT,
    control: { ...constantFlow(FLOW), switchover: { by: 'share', share: 0.96 }, packing: null },
    heat: evenHeat(grid.n, MELT),
    air: null,
    projectedArea: null,
    timeLimit: 1e5,
    fibres: {
      model: MODEL,
      closure: 'orthotropic-wide',
      across: Float64Array.from({ length: 3 * grid.n }, (_, k) => axes[2][k % 3]),
      fresh: isotropic(),
      ...fibres,
    },
  };
  const after = await fill(emptyState(grid, gating), input, plainContext());
  if (after.status === 'failed') throw new Error(after.message);
  const way = x.map((v) => v - start);
  return { grid, way, axes, state: after.state, pressure: after.state.machine.pressure };
}
type Strip = Awaited<ReturnType<typeof strip>>;

/** Mean over the nodes about a place along the strip. */
function meanAt({ grid, way }: { grid: PressureGrid; way: Float64Array }, at: number, value: (i: number) => number) {
  let [sum, all] = [0, 0];
  way.forEach((w, i) => {
    const near = 1 - Math.abs(w - at) / grid.spacing;
    if (!(near > 0)) return;
    sum += near * grid.volume[i] * value(i);
    all += near * grid.volume[i];
  });
  return sum / all;
}

/** A tensor of the strip's own axes in those of the part. */
const turnedTensor = (a: ArrayLike<number>, axes: Vec3[]) =>
  SYMMETRIC.map(([p, q]) => {
    const full = [
      [a[0], a[3], a[5]],
      [a[3], a[1], a[4]],
      [a[5], a[4], a[2]],
    ];
    let sum = 0;
    for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) sum += full[i][j] * axes[i][p] * axes[j][q];
    return sum;
  });

const TURNED = Object.entries(ORIENTATIONS).filter(([name]) => !name.includes('17° about z') || name.includes('30°'));

describe.each(TURNED)('fibres on their way, %s', (_, turn) => {
  describe('that break', () => {
    let run: Strip;
    const numbersAt = (at: number) =>
      Float64Array.from({ length: 40 }, (_v, b) => meanAt(run, at, (i) => run.state.ofWall.fibreLengths[40 * i + b]));
    /** Rates of a wall: every layer for its share. */
    const rates = (() => {
      const out = new Float64Array(40);
      layerShares(HALF_LAYERS).forEach((share, l) => {
        const shearRate = (6 * SPEED * CENTRES[l]) / GAP;
        BREAKING.addRates(out, { stress: ETA * shearRate, shearRate }, share);
      });
      return out;
    })();
    beforeAll(async () => {
      run = await strip(turn, { lengths: { breakage: BREAKAGE, fresh: FRESH } });
    });

    it('lose no length', () => {
      const length = (n: Float64Array) => n.reduce((s, v, i) => s + v * (i + 1), 0);
      for (const at of [0.02, 0.04, 0.06]) expect(length(numbersAt(at)) / length(FRESH)).toBeCloseTo(1, 9);
    });

    it.each([0.02, 0.04, 0.06])('are as long at %f m as so much time in the shear leaves them', (at) => {
      const exact = FRESH.slice();
      BREAKING.advance(exact, rates, at / SPEED);
      const [found, wanted] = [numbersAt(at), exact].map((n) => meanLengths(n, 2.5e-4));
      expect(wanted.byWeight).toBeLessThan(0.96 * 0.01);
      expect(found.byWeight / wanted.byWeight).toBeGreaterThan(0.97);
      expect(found.byWeight / wanted.byWeight).toBeLessThan(1.03);
    });
  });

  describe('that move across the flow', () => {
    it('gather in the middle, and as many go on as come', async () => {
      const share = 0.2;
      const run = await strip(turn, { shares: { share, radius: 1e-4 } });
      const layer = (at: number, l: number) => meanAt(run, at, (i) => run.state.layer.fibreShare[i * HALF_LAYERS + l]);
      expect(layer(0.05, 0)).toBeGreaterThan(layer(0.02, 0));
      expect(layer(0.05, HALF_LAYERS - 1)).toBeLessThan(0.97 * share);
      // What flows has the share that comes in, wherever it goes through.
      for (const at of [0.02, 0.04]) {
        const flowing = meanAt(run, at, (i) => {
          let sum = 0;
          for (let l = 0; l < HALF_LAYERS; l++) {
            const k = i * HALF_LAYERS + l;
            sum += run.state.layer.flowShare[k] * run.state.layer.fibreShare[k];
          }
          return sum;
        });
        expect(flowing / share).toBeGreaterThan(0.97);
        expect(flowing / share).toBeLessThan(1.03);
      }
    });
  });

  describe('that the flow feels', () => {
    const coupling = { aspect: MODEL.aspect, share: 0.15, resistance: resistanceInShear(MODEL, 'orthotropic-wide') };
    let [plain, random, asData]: Strip[] = [];
    beforeAll(async () => {
      const axes = [0, 1, 2].map((d) => turn([0, 1, 2].map((k) => Number(k === d)) as Vec3));
      const steady = isotropic();
      // In a half of the wall the melt is slower towards its face, which lies against the way across.
      new Orientation(MODEL, 'orthotropic-wide').advance(steady, [0, 0, 1, 0, 0, 0, 0, 0, 0], 400);
      [plain, random, asData] = [
        await strip(turn, {}),
        await strip(turn, { coupling, model: { ...MODEL, slowing: 0.02 } }),
        await strip(turn, { coupling, fresh: turnedTensor(steady, axes) }),
      ];
    });

    it('leave its pressure where they lie as the data had them', () => {
      expect(asData.pressure / plain.pressure).toBeGreaterThan(0.97);
      expect(asData.pressure / plain.pressure).toBeLessThan(1.03);
    });

    it('slow it down where they lie in all directions', () => {
      expect(random.pressure).toBeGreaterThan(1.05 * plain.pressure);
    });
  });
});
