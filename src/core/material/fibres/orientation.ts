import { CLOSURES, type Closure } from '../../model/fibres';
import { FibreKernel } from './kernel';
import type { Sym } from './tensor';

/** Interactions in the order of `assembly/fibres.ts`. */
export const INTERACTIONS = ['even', 'five', 'two'] as const;

/**
 * What fibres do to each other: diffusion of their directions by even chance, C_I (Folgar & Tucker, J. Reinf. Plast.
 * Compos. 3 (1984) 98); by a tensor of the orientation and the rate of deformation, with five numbers (Phelps & Tucker, J.
 * Non-Newtonian Fluid Mech. 156 (2009) 165); or with two, less across the planes that shear (after Tseng, Chang & Hsu, J. Thermoplast.
 * Compos. Mater. 29 (2016)): C_I (1 - C_M d.d / |d.d|).
 */
export type Interaction =
  { by: 'even'; CI: number } | { by: 'five'; b: readonly number[] } | { by: 'two'; CI: number; CM: number };

export interface FibreModel {
  /** Length over diameter; below 1 for flakes. */
  aspect: number;
  interaction: Interaction;
  /** 0 .. 1: share of its rate at which the spread of directions follows; 1: all of it (Wang, O'Gara & Tucker, J. Rheol. 52 (2008) 1179). */
  slowing: number;
}

/** xi of Jeffery's equation: 1 for slender fibres, 0 for spheres, -1 for flakes. */
export const slenderness = (aspect: number): number => (aspect * aspect - 1) / (aspect * aspect + 1);

const numbersOf = (i: Interaction): readonly number[] =>
  i.by === 'even' ? [i.CI] : i.by === 'five' ? i.b : [i.CI, i.CM];

/** Error of a step that is let be, root of the sum of its squares. */
const TOLERANCE = 3e-4;

/**
 * Orientation that follows a flow, in steps of its own: third order beside the midpoint rule (Bogacki & Shampine, Appl. Math. Lett. 2
 * (1989) 321). Sheared melt comes to rest, and costs next to nothing then.
 */
export class Orientation {
  readonly kernel: FibreKernel;

  /** `tolerance`: error of a step that is let be; `nLayers` that whoever moves layers on wants remembered. */
  constructor({ aspect, interaction, slowing }: FibreModel, closure: Closure, tolerance = TOLERANCE, nLayers = 0) {
    this.kernel = new FibreKernel(nLayers);
    const [b1, b2 = 0, b3 = 0, b4 = 0, b5 = 0] = numbersOf(interaction);
    const by = INTERACTIONS.indexOf(interaction.by);
    const xi = slenderness(aspect);
    this.kernel.calls.model(CLOSURES.indexOf(closure), by, b1, b2, b3, b4, b5, xi, slowing, tolerance);
  }

  /** Rates that were asked for since it was made. */
  get rates(): number {
    return this.kernel.calls.asked();
  }

  /** Moves a on by `dt` s in a steady velocity gradient L_ij = du_i/dx_j, 3 x 3, row major, 1/s. */
  advance(a: Sym, L: ArrayLike<number>, dt: number): void {
    const { calls, tensor, gradient } = this.kernel;
    tensor.set(a);
    gradient.set(L);
    calls.advance(dt);
    a.set(tensor);
  }

  /** What fibres that lie as a have against a flow, d:A:d / d:d of its rate of deformation. */
  resistance(a: Sym, L: ArrayLike<number>): number {
    const { calls, tensor, gradient } = this.kernel;
    tensor.set(a);
    gradient.set(L);
    return calls.resistance();
  }
}
