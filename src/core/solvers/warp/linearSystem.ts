import type { StructureGrid } from '../../grid/structureGrid';
import { NODES_PER_ELEMENT } from '../../grid/structureGrid';
import { LANES } from './solid';
import type { FrontalSolver } from './frontal';
import type { ElasticKernel } from './kernel';
import type { TwoLevel } from './twoLevel';

/** The stiffness of a structure and (nearly) its inverse. Vectors have 3 x LANES numbers a node, lanes side by side. */
export interface LinearSystem {
  /** y = K x */
  product(x: Float64Array, y: Float64Array): void;
  /** z near K^-1 r, symmetric and positive definite. */
  precondition(r: Float64Array, z: Float64Array): void;
}

/** Of a structure with matrices element by element and a direct solution. */
export function directSystem(
  kernel: ElasticKernel,
  grid: StructureGrid,
  whole: number,
  solver: FrontalSolver,
): LinearSystem {
  const own = 3 * NODES_PER_ELEMENT;
  const local = new Float64Array(own * LANES);
  const bytes = 8 * 3 * LANES * grid.nNodes;
  let vector: number | null = null;
  return {
    product(x, y) {
      y.fill(0);
      for (let e = 0; e < grid.nElements; e++) {
        const K = kernel.f64(whole + 8 * own * own * e, own * own);
        const nodes = grid.nodes.subarray(NODES_PER_ELEMENT * e, NODES_PER_ELEMENT * (e + 1));
        nodes.forEach((node, a) => local.set(x.subarray(12 * node, 12 * node + 12), 12 * a));
        for (let r = 0; r < own; r++) {
          const to = 12 * nodes[Math.floor(r / 3)] + LANES * (r % 3);
          for (let c = 0; c < own; c++) {
            const k = K[own * r + c];
            for (let lane = 0; lane < LANES; lane++) y[to + lane] += k * local[LANES * c + lane];
          }
        }
      }
    },
    precondition(r, z) {
      vector ??= kernel.allocate(bytes);
      kernel.f64(vector, r.length).set(r);
      solver.solve(vector);
      z.set(kernel.f64(vector, r.length));
    },
  };
}

/** Of a structure with an assembled matrix and the two-level cycle. */
export function assembledSystem(kernel: ElasticKernel, grid: StructureGrid, levels: TwoLevel): LinearSystem {
  const length = 3 * LANES * grid.nNodes;
  let room: [number, number] | null = null;
  const through = (apply: (from: number, to: number) => void) => (x: Float64Array, y: Float64Array) => {
    // Most structures are never asked.
    const [a, b] = (room ??= [kernel.allocate(8 * length), kernel.allocate(8 * length)]);
    kernel.f64(a, length).set(x);
    apply(a, b);
    y.set(kernel.f64(b, length));
  };
  return {
    product: through((x, y) => levels.multiply(x, y)),
    precondition: through((r, z) => levels.precondition(r, z)),
  };
}
