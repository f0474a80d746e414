import { describe, expect, it } from 'vitest';
import { mapVertices, type TriangleMesh, type Vec3 } from '../src/core/geometry/mesh';
import { dot, SYMMETRIC } from '../src/core/geometry/vec';
import { buildStructureGrid, locate, type StructureGrid } from '../src/core/grid/structureGrid';
import { bendOf } from '../src/core/solvers/warp/beyondLinear';
import { lowestBuckling, type Buckling } from '../src/core/solvers/warp/buckling';
import { solveElastic, type ElasticInput, type Support } from '../src/core/solvers/warp/elastic';
import { shape } from '../src/core/solvers/warp/elements';
import { LANES, lanesTogether, type StrainAt } from '../src/core/solvers/warp/solid';
import { bowedDisc, curledEnd, plateBuckling, plateCurvature, rollingUp } from '../src/core/solvers/warp/equations';
import { GeometricModel } from '../src/core/solvers/warp/geometric';
import { largeDeflection, type LargeDeflection } from '../src/core/solvers/warp/largeDeflection';
import { plainContext } from '../src/core/stage/context';
import { ALL } from './extent';
import { box, disc } from './shapes';
import { TURNS } from './solids';

const YOUNG = 2e9;

interface Solved {
  grid: StructureGrid;
  buckling: Buckling;
  large: LargeDeflection | null;
  linear: Float64Array;
}

/** A structure with its buckling factor, and (unless `only` that is asked for) with large deflections from a little of its mode. */
async function solved(
  mesh: TriangleMesh,
  edge: number,
  poisson: number,
  strainAt: StrainAt,
  { supports = [], only = false, method }: { supports?: Support[]; only?: boolean } & Pick<ElasticInput, 'method'>,
): Promise<Solved> {
  const ctx = plainContext();
  const grid = buildStructureGrid([mesh], edge);
  const solids = [{ young: YOUNG, poisson }];
  let [buckling, large]: [Buckling | null, LargeDeflection | null] = [null, null];
  let linear = new Float64Array(0);
  await solveElastic({ grid, solids, strainAt, supports, method }, ctx, async (system, { displacement }, loads) => {
    linear = Float64Array.from(loads, (_, i) => lanesTogether(displacement, i));
    const model = await GeometricModel.of(grid, solids, strainAt, ctx);
    buckling = await lowestBuckling(system, model.softening(linear), displacement.length, ctx);
    if (only) return;
    large = await largeDeflection(system, model, loads, new Float64Array(linear.length), bendOf(grid, linear), ctx);
  });
  if (!buckling) throw new Error('not solved');
  return { grid, buckling, large, linear };
}

/** Displacement at a place. */
function at(grid: StructureGrid, u: Float64Array, p: Vec3): Vec3 {
  const local = new Float64Array(3);
  const e = locate(grid, ...p, local);
  if (e < 0) throw new Error('outside');
  const N = new Float64Array(20);
  shape(local, N);
  return [0, 1, 2].map((d) => N.reduce((s, w, a) => s + w * u[3 * grid.nodes[20 * e + a] + d], 0)) as Vec3;
}

/** Stress-free strain that bends freely to a curvature about both axes of a plate with a normal; 0 in its middle. */
const gradient =
  (curvature: number, normal: Vec3): StrainAt =>
  (x, y, z, _, out) => {
    out.fill(0);
    for (let d = 0; d < 3; d++) out[LANES * d] = -curvature * dot([x, y, z], normal);
  };

/**
 * Height [m] over its middle of a free disc that bows as a solid of revolution (von Karman's plate), by finite
 * differences: D (r f'' + f' - f / r) = p f, r p'' + p' - p / r = -E h f^2 / 2 with f = w' and p = r h times the radial stress.
 */
function karmanCap(curvature: number, poisson: number, R: number, h: number): (r: number) => number {
  const n = 400;
  const step = R / n;
  const D = (YOUNG * h ** 3) / 12 / (1 - poisson ** 2);
  /** Solves r y'' + y' - (1 / r + c) y = b with y = 0 in the middle and slope y' + mix y / R = rim, or y = 0, at the rim. */
  const radial = (c: (i: number) => number, b: (i: number) => number, rim: number | null, mix = 0) => {
    const [upper, right] = [new Float64Array(n + 1), new Float64Array(n + 1)];
    for (let i = 1; i <= n; i++) {
      const r = i * step;
      let [low, middle, high, value] = [
        r / step ** 2 - 0.5 / step,
        (-2 * r) / step ** 2 - 1 / r - c(i),
        r / step ** 2 + 0.5 / step,
        b(i),
      ];
      if (i === n) {
        if (rim === null) [low, middle, high, value] = [0, 1, 0, 0];
        else {
          // The place beyond the rim by the condition there.
          middle -= (high * 2 * step * mix) / R;
          low += high;
          value -= high * 2 * step * rim;
          high = 0;
        }
      }
      const pivot = middle - low * upper[i - 1];
      upper[i] = high / pivot;
      right[i] = (value - low * right[i - 1]) / pivot;
    }
    const y = right.slice();
    for (let i = n - 1; i > 0; i--) y[i] -= upper[i] * y[i + 1];
    return y;
  };
  let slope = new Float64Array(n + 1);
  let force = new Float64Array(n + 1);
  for (let k = 0; k < 400; k++) {
    const f = radial(
      (i) => force[i] / D,
      () => 0,
      (1 + poisson) * curvature,
      poisson,
    );
    slope = slope.map((v, i) => 0.7 * v + 0.3 * f[i]);
    force = radial(
      () => 0,
      (i) => (-YOUNG * h * slope[i] ** 2) / 2,
      null,
    );
  }
  return (r) => {
    let w = 0;
    for (let i = 0; i < r / step; i++) w += ((slope[i] + slope[Math.min(n, i + 1)]) / 2) * Math.min(step, r - i * step);
    return w;
  };
}

const turns = ['as drawn', 'turned 30° about x, then 17° about z'] as const;

describe.each(turns)('large deflections, %s', (how) => {
  const turn = TURNS[how];
  const axes = (
    [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ] as Vec3[]
  ).map(turn);
  const normal = axes[2];

  it.runIf(ALL || how !== 'as drawn')('a strip curls up on a circle', async () => {
    const [length, width, h] = [0.06, 0.006, 0.001];
    const mesh = mapVertices(box(length, width, h), turn);
    const curvature = 6;
    const { grid, large, linear } = await solved(mesh, 1.2 * h, 0, gradient(curvature, normal), {});
    if (!large) throw new Error();
    expect(large.settled).toBe(true);
    // box() begins at x = 0: ends and middle, held against each other.
    const height = (u: Float64Array) => {
      const place = (x: number) => {
        const p = turn([x, 0, 0]);
        const moved = at(grid, u, p);
        return p.map((v, d) => v + moved[d]) as Vec3;
      };
      const [a, m, b] = [place(0.001), place(length / 2), place(length - 0.001)];
      const chord = b.map((v, d) => v - a[d]) as Vec3;
      const span = Math.hypot(...chord);
      const r = m.map((v, d) => v - a[d]) as Vec3;
      const along = dot(r, chord) / span;
      return { span, rise: Math.sqrt(dot(r, r) - along ** 2) };
    };
    const [x, z] = curledEnd(curvature, length / 2 - 0.001);
    const found = height(large.displacement);
    expect(found.span / (2 * x)).toBeCloseTo(1, 2);
    expect(found.rise / z).toBeGreaterThan(0.97);
    expect(found.rise / z).toBeLessThan(1.02);
    // Small deflections miss what the ends come nearer by: the way along the arc stays the way along the chord.
    expect(height(linear).span / (2 * x)).toBeGreaterThan(1.004);
  });

  it('a disc bows as a cap, less than small deflections say', async () => {
    const [R, h, poisson] = [0.018, 0.001, 0.33];
    const mesh = mapVertices(disc(R, h, 96), turn);
    /** The two principal curvatures, larger first, by the heights at a radius over the middle. */
    const bow = (grid: StructureGrid, u: Float64Array, r: number) => {
      const w = (x: number, y: number) => dot(at(grid, u, turn([x, y, 0])), normal);
      const along = (x: number, y: number) => (w(x, y) + w(-x, -y) - 2 * w(0, 0)) / r ** 2;
      const d = Math.SQRT1_2 * r;
      const [xx, yy, both] = [along(r, 0), along(0, r), (along(d, d) - along(d, -d)) / 2];
      const [mean, apart] = [(xx + yy) / 2, Math.hypot((xx - yy) / 2, both)];
      return [mean + apart, mean - apart].map(Math.abs).sort((a, b) => b - a);
    };
    const given = 0.7 * rollingUp(poisson, R, h);
    const cap = await solved(mesh, 1.5 * h, poisson, gradient(given, normal), {});
    const profile = karmanCap(given, poisson, R, h);
    for (const share of [0.5, 0.97]) {
      const [first, second] = bow(cap.grid, cap.large!.displacement, share * R);
      const expected = (2 * profile(share * R)) / (share * R) ** 2;
      expect((first + second) / 2 / expected).toBeGreaterThan(0.97);
      expect((first + second) / 2 / expected).toBeLessThan(1.03);
      expect(second / first).toBeGreaterThan(0.95);
    }
    // With one curvature all over, Freund's cap is a little stiffer at the rim and softer in the middle.
    const rim = (2 * profile(R)) / R ** 2 / bowedDisc(given, poisson, R, h);
    expect(rim).toBeGreaterThan(0.88);
    expect(rim).toBeLessThan(1);
    expect(bow(cap.grid, cap.linear, R / 2)[0] / plateCurvature(given, 1, 1)).toBeGreaterThan(0.97);
  });

  it.runIf(ALL || how !== 'as drawn')('a square plate held at its edges buckles where the textbook says', async () => {
    const [side, h, poisson] = [0.05, 0.001, 0.35];
    const mesh = mapVertices(box(side, side, h), turn);
    const strain = 4e-3;
    const grow: StrainAt = (_x, _y, _z, _b, out) => {
      out.fill(0);
      SYMMETRIC.forEach(([i, j], k) => (out[LANES * k] = strain * axes[0][i] * axes[0][j]));
    };
    const n = 40;
    const supports: Support[] = [];
    const put = (x: number, y: number, direction: Vec3) => supports.push({ position: turn([x, y, 0]), direction });
    const near = 1e-6;
    for (let k = 0; k < n; k++) {
      const s = (side * (k + 0.5)) / n;
      for (const x of [near, side - near]) {
        put(x, s - side / 2, normal);
        put(x, s - side / 2, axes[0]);
      }
      for (const y of [near - side / 2, side / 2 - near]) put(s, y, normal);
    }
    put(side / 2, 0, axes[1]);
    const { buckling } = await solved(mesh, 1.2 * h, poisson, grow, { supports, only: true });
    const expected = plateBuckling(YOUNG, poisson, h, side) / (YOUNG * strain);
    expect((buckling.factor ?? 0) / expected).toBeGreaterThan(0.97);
    expect((buckling.factor ?? 0) / expected).toBeLessThan(1.03);
  });
});
