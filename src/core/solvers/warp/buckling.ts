import { CholeskyDecomposition, EigenvalueDecomposition, inverse, Matrix } from 'ml-matrix';
import { fillWithNoise } from '../../numerics/noise';
import type { StageContext } from '../../stage/context';
import { LANES } from './solid';
import type { LinearSystem } from './linearSystem';

const MOST_ITERATIONS = 80;
/** The factor has settled when two steps in a row change it by less than this share. */
const SETTLED = 1e-3;
/** Above this the load is far from buckling and the factor is not told. */
export const FAR = 5;
/** Iterations after which a factor that large is taken for that. */
const FAR_AFTER = 12;

/** The lowest load that buckles a structure over the one it has. */
export interface Buckling {
  /** null above FAR; undefined where the iteration did not settle. */
  factor: number | null | undefined;
  /** 3 numbers a node; empty where there is no factor. */
  mode: Float64Array;
  iterations: number;
}

/** A block of LANES vectors with what stiffness and softening make of it. */
interface Block {
  x: Float64Array;
  stiff: Float64Array;
  soft: Float64Array;
}

/**
 * The lowest buckling factor f > 0 of (K + f K_s) x = 0: the largest eigenvalue 1 / f of -K_s x = (1 / f) K x by
 * preconditioned conjugate gradients on a block (Knyazev, SIAM J. Sci. Comput. 23 (2001) 517). `soften` is x -> -K_s x.
 */
export async function lowestBuckling(
  system: LinearSystem,
  soften: (x: Float64Array, y: Float64Array) => void,
  length: number,
  ctx: StageContext,
): Promise<Buckling> {
  const blockOf = (x: Float64Array): Block => {
    const block = { x, stiff: new Float64Array(length), soft: new Float64Array(length) };
    system.product(x, block.stiff);
    soften(x, block.soft);
    return block;
  };
  const start = new Float64Array(length);
  fillWithNoise(start);
  const smooth = new Float64Array(length);
  system.precondition(start, smooth);
  let X = blockOf(smooth);
  let P: Block | null = null;
  let values = [0];
  let quiet = 0;
  ({ X, P, values } = ritz([X]));
  let iterations = 0;
  let far = false;
  for (; iterations < MOST_ITERATIONS && quiet < 2 && !far; iterations++) {
    await ctx.checkpoint();
    ctx.report({ stage: 'warp', fraction: 0.5, message: `Buckling, iteration ${iterations}` });
    const residual = X.soft.map((s, i) => s - values[i % LANES] * X.stiff[i]);
    const w = new Float64Array(length);
    system.precondition(residual, w);
    const [before] = values;
    ({ X, P, values } = ritz(P ? [X, blockOf(w), P] : [X, blockOf(w)]));
    quiet = Math.abs(values[0] - before) < SETTLED * Math.abs(values[0]) ? quiet + 1 : 0;
    far = iterations >= FAR_AFTER && !(values[0] > 0.8 / FAR);
  }
  const settled = quiet === 2 ? 1 / Math.max(values[0], 0) : undefined;
  const factor = far || (settled !== undefined && settled > FAR) ? null : settled;
  const mode =
    factor == null ? new Float64Array(0) : Float64Array.from({ length: length / LANES }, (_, i) => X.x[LANES * i]);
  return { factor, mode, iterations };
}

/** The best LANES vectors of the span of some blocks (Rayleigh-Ritz), the step that led there, and their values. */
function ritz(blocks: Block[]): { X: Block; P: Block | null; values: number[] } {
  const m = LANES * blocks.length;
  const A = Matrix.zeros(m, m);
  const B = Matrix.zeros(m, m);
  blocks.forEach((a, i) =>
    blocks.forEach((b, j) => {
      if (j < i) return;
      gram(a.x, b.soft, A, LANES * i, LANES * j);
      gram(a.x, b.stiff, B, LANES * i, LANES * j);
    }),
  );
  const scale = B.diagonal().map((v) => 1 / Math.sqrt(v > 0 ? v : 1));
  for (let r = 0; r < m; r++)
    for (let c = 0; c <= r; c++) {
      for (const M of [A, B]) {
        const v = M.get(c, r) * scale[r] * scale[c];
        M.set(r, c, v);
        M.set(c, r, v);
      }
    }
  const factor = new CholeskyDecomposition(B);
  // Vectors that have become one another's: begin anew without the last step.
  if (!factor.isPositiveDefinite()) {
    if (blocks.length > 1) return ritz(blocks.slice(0, -1));
    throw new Error('the stiffness of a structure is not positive');
  }
  const L = factor.lowerTriangularMatrix;
  const Li = inverse(L);
  const eigen = new EigenvalueDecomposition(Li.mmul(A).mmul(Li.transpose()), { assumeSymmetric: true });
  const order = eigen.realEigenvalues.map((v, k) => [v, k] as const).sort((a, b) => b[0] - a[0]);
  const vectors = Li.transpose().mmul(eigen.eigenvectorMatrix);
  const C = Matrix.zeros(m, LANES);
  for (let r = 0; r < m; r++) for (let l = 0; l < LANES; l++) C.set(r, l, scale[r] * vectors.get(r, order[l][1]));
  return {
    X: combined(blocks, C, 0),
    P: blocks.length > 1 ? combined(blocks, C, 1) : null,
    values: order.slice(0, LANES).map(([v]) => v),
  };
}

/** Products of all lanes of a with all of b, put into M at (row, column). */
function gram(a: Float64Array, b: Float64Array, M: Matrix, row: number, column: number): void {
  const sums = new Float64Array(LANES * LANES);
  for (let i = 0; i < a.length; i += LANES)
    for (let k = 0; k < LANES; k++) {
      const v = a[i + k];
      for (let l = 0; l < LANES; l++) sums[LANES * k + l] += v * b[i + l];
    }
  for (let k = 0; k < LANES; k++) for (let l = 0; l < LANES; l++) M.set(row + k, column + l, sums[LANES * k + l]);
}

/** Combinations of blocks from number `first` on. */
function combined(blocks: readonly Block[], C: Matrix, first: number): Block {
  const of = (key: keyof Block) => {
    const out = new Float64Array(blocks[0].x.length);
    for (let b = first; b < blocks.length; b++) {
      const from = blocks[b][key];
      const c = Float64Array.from({ length: LANES * LANES }, (_, i) =>
        C.get(LANES * b + Math.floor(i / LANES), i % LANES),
      );
      for (let i = 0; i < out.length; i += LANES)
        for (let k = 0; k < LANES; k++) {
          const v = from[i + k];
          for (let l = 0; l < LANES; l++) out[i + l] += v * c[LANES * k + l];
        }
    }
    return out;
  };
  return { x: of('x'), stiff: of('stiff'), soft: of('soft') };
}
