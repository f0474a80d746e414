import { dot as dotOf } from '../../numerics/csr';
import type { StageContext } from '../../stage/context';
import { LANES } from './solid';
import type { GeometricModel } from './geometric';
import type { LinearSystem } from './linearSystem';

const MOST_ITERATIONS = 150;
/** Energy that is left to gain, its root over that of the bend there is without large deflections. */
const TOLERANCE = 2e-4;
/** That bend counts as no less than this share of all energy. */
const LEAST = 1e-7;

/** Steps that are remembered. */
const MEMORY = 40;

/** The structure in balance with large deflections. */
export interface LargeDeflection {
  /** 3 numbers a node, m. */
  displacement: Float64Array;
  iterations: number;
  /** Whether it came to rest. */
  settled: boolean;
}

/**
 * Displacements of least energy: that of the linear system, u K u / 2 - loads u, and what large deflections add, by a
 * quasi-Newton iteration that begins from the inverse of the linear stiffness, with the exact minimum along every line, a
 * polynomial of fourth degree. `from` is where to begin, and a little of a buckling mode in it lets it leave a shape that
 * has become unstable; `bend` what the linear displacements are beside even growth.
 */
export async function largeDeflection(
  system: LinearSystem,
  model: GeometricModel,
  loads: Float64Array,
  from: Float64Array,
  bend: Float64Array,
  ctx: StageContext,
): Promise<LargeDeflection> {
  const n = loads.length;
  const wide = new Float64Array(LANES * n);
  const answer = new Float64Array(LANES * n);
  /** The system on one vector: the first lane. */
  const onOne = (apply: LinearSystem['product']) => (x: Float64Array) => {
    for (let i = 0; i < n; i++) wide[LANES * i] = x[i];
    apply(wide, answer);
    return Float64Array.from({ length: n }, (_, i) => answer[LANES * i]);
  };
  const product = onOne((x, y) => system.product(x, y));
  const precondition = onOne((x, y) => system.precondition(x, y));
  const u = from.slice();
  const stiff = product(u);
  const forces = () => {
    const g = stiff.map((k, i) => k - loads[i]);
    model.addForces(u, g);
    return g;
  };
  const first = Math.max(dot(bend, product(bend)), LEAST * dot(loads, precondition(loads)));
  let g = forces();
  const steps: Step[] = [];
  let size = Infinity;
  let iterations = 0;
  for (; iterations < MOST_ITERATIONS; iterations++) {
    await ctx.checkpoint();
    const p = direction(g, steps, precondition);
    size = -dot(p, g);
    if (!(size > TOLERANCE ** 2 * first)) break;
    const share = Math.min(1, Math.max(0, Math.log(size / first) / Math.log(TOLERANCE ** 2)));
    ctx.report({ stage: 'warp', fraction: 0.5 + 0.5 * share, message: `Large deflections, iteration ${iterations}` });
    const Kp = product(p);
    const added = model.along(u, p);
    const a = lowest(dot(p, stiff) - dot(p, loads) + added[0], 0.5 * dot(p, Kp) + added[1], added[2], added[3]);
    // No way down: rounding, or a memory that has lost its way.
    if (!(a > 0)) {
      if (!steps.length) break;
      steps.length = 0;
      continue;
    }
    for (let i = 0; i < n; i++) {
      u[i] += a * p[i];
      stiff[i] += a * Kp[i];
    }
    const next = forces();
    const s = p.map((v) => a * v);
    const y = next.map((v, i) => v - g[i]);
    g = next;
    const curvature = dot(s, y);
    if (curvature > 0) {
      steps.push({ s, y, curvature });
      if (steps.length > MEMORY) steps.shift();
    }
  }
  return { displacement: u, iterations, settled: size <= TOLERANCE ** 2 * first };
}

interface Step {
  s: Float64Array;
  y: Float64Array;
  curvature: number;
}

/** The way down by the steps that are remembered (Nocedal, Math. Comp. 35 (1980) 773). */
function direction(g: Float64Array, steps: readonly Step[], precondition: (r: Float64Array) => Float64Array) {
  const q = g.slice();
  const shares = new Float64Array(steps.length);
  for (let k = steps.length - 1; k >= 0; k--) {
    const { s, y, curvature } = steps[k];
    shares[k] = dot(s, q) / curvature;
    for (let i = 0; i < q.length; i++) q[i] -= shares[k] * y[i];
  }
  const z = precondition(q);
  steps.forEach(({ s, y, curvature }, k) => {
    const rest = shares[k] - dot(y, z) / curvature;
    for (let i = 0; i < z.length; i++) z[i] += rest * s[i];
  });
  return z.map((v) => -v);
}

const dot = (a: Float64Array, b: Float64Array) => dotOf(a, b, a.length);

/** The first minimum over a > 0 of c1 a + c2 a^2 + c3 a^3 + c4 a^4; 0 where it does not fall from 0 on. */
export function lowest(c1: number, c2: number, c3: number, c4: number): number {
  const slope = (a: number) => c1 + a * (2 * c2 + a * (3 * c3 + 4 * a * c4));
  if (!(c1 < 0)) return 0;
  let high = c2 > 0 ? -c1 / (2 * c2) : 1;
  for (let k = 0; k < 60 && slope(high) < 0; k++) high *= 2;
  if (!(slope(high) >= 0)) return 0;
  // The slope may pass zero more than once below: the lowest crossing is looked for in small steps.
  let low = 0;
  for (let k = 1; k <= 16; k++)
    if (slope((high * k) / 16) >= 0) {
      low = (high * (k - 1)) / 16;
      high = (high * k) / 16;
      break;
    }
  for (let k = 0; k < 60; k++) {
    const middle = (low + high) / 2;
    if (slope(middle) < 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
