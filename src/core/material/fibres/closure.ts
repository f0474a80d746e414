import { CLOSURES, type Closure } from '../../model/fibres';
import { FibreKernel } from './kernel';
import { COLUMNS, ROWS, sym, type Sym } from './tensor';

/**
 * A : d of the fourth moment A that a closure has for a, for a symmetric d; into `out`. Closures in the order of `assembly/fibres.ts`;
 * `quadratic` and `hybrid`: Advani & Tucker, J. Rheol. 31 (1987) 751 and 34 (1990) 367; the others are fitted: see
 * `assembly/closures.ts`.
 */
export class FourthMoment {
  private readonly kernel = new FibreKernel();

  constructor(readonly closure: Closure) {
    this.kernel.calls.model(CLOSURES.indexOf(closure), 0, 0, 0, 0, 0, 0, 1, 1, 1);
  }

  contract(a: Sym, d: Sym, out: Sym): Sym {
    const { calls, tensor, gradient, result } = this.kernel;
    tensor.set(a);
    gradient.set(d);
    calls.contract();
    out.set(result);
    return out;
  }
}

/** Symmetric tensors of one component: 11, 22, 33, 12, 23, 13. */
const UNITS = ROWS.map((i, k) =>
  Float64Array.from({ length: 6 }, (_, m) => (m === k ? (i === COLUMNS[k] ? 1 : 0.5) : 0)),
);

/** All components A_ijkl of pairs ij and kl, 6 x 6, row major. */
export function fourthMoment(moment: FourthMoment, a: Sym): Float64Array {
  const A = new Float64Array(36);
  const column = sym();
  UNITS.forEach((unit, k) => {
    moment.contract(a, unit, column);
    for (let m = 0; m < 6; m++) A[6 * m + k] = column[m];
  });
  return A;
}
