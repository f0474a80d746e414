import type { Closure } from '../../model/fibres';
import type { PressureGrid } from '../../grid/pressureGrid';
import { frameOn, SYMMETRIC } from '../../geometry/vec';
import { eigenOf, frame } from '../../numerics/eigen';
import { fibreDrag, relativeFluidity } from '../../material/fibres/coupling';
import { Orientation, type FibreModel } from '../../material/fibres/orientation';
import type { Columns } from '../melt/columns';
import type { FlowSolver } from '../melt/pressure';
import { meanVelocity } from '../melt/velocity';
import type { LengthInput } from './lengths';
import type { MigrationInput } from './migration';
import { Resident } from './resident';

/** Fibres in the melt. */
export interface FibreInput {
  model: FibreModel;
  closure: Closure;
  /** Direction across the wall of every node, from its first side to its second: a unit vector; 3 a node. */
  across: Float64Array;
  /** Of the melt that comes in: 11, 22, 33, 12, 23, 13 in the axes of the part. */
  fresh: ArrayLike<number>;
  /** Nodes (1) whose melt is fresh whatever comes to them; absent: none. */
  kept?: Uint8Array;
  /** Fibres that leave the layers in which they are sheared; absent: there are as many in every layer. */
  shares?: MigrationInput;
  /** Fibres that break; absent: they stay as long as they come in. */
  lengths?: LengthInput;
  /** What the flow feels of them; absent: nothing. */
  coupling?: CouplingInput;
}

/** How fibres slow the flow down: see core/material/fibres/coupling. */
export interface CouplingInput {
  /** Length over diameter that they drag with. */
  aspect: number;
  /** Their share of the volume, and their resistance, where the viscosity was measured. */
  share: number;
  resistance: number;
}

/** Numbers of a symmetric tensor. */
export const SIX = 6;
/** Neighbours' velocities count by the fourth power of their nearness, in nodes, and no more than one so far away. */
const NEAR = 0.1;
/** Strain that melt goes through in the front: about 1 on the way from the middle of the wall to its face. */
const OVERTURNED = 1;
/** What comes from two sides at a right angle cancels out by so much, and meets nothing. */
const CORNER = 0.3;
/** Error of a step of a layer: the transport is not as exact as the law. */
const TOLERANCE = 1e-2;
/** Neighbours that lie in a line tell no gradient across it. */
const LEAST_SPAN = 1e-6;

/**
 * Orientation of the fibres in every layer, carried along and turned by the flow: the shear of the layer across the wall, and
 * the gradient of the mean velocity along it times the layer's speed over the mean (that turns the core across the flow where it
 * spreads). What happens in a node while a layer passes lasts as long as the melt stays there, or as long as the step.
 */
export class OrientationField extends Resident {
  readonly name = 'orientation';
  readonly components = SIX;
  readonly replaces = true;
  /** As the melt leaves the node. Length n * nLayers * 6. */
  readonly values: Float64Array;
  private readonly follow: Orientation;
  private readonly velocity: Float64Array;
  private readonly known: Uint8Array;
  /** Logarithm of every node's wall. */
  private readonly wallLog: Float64Array;
  private readonly stencil: Stencil;
  private readonly gradient = new Float64Array(9);
  private readonly turnGradient = new Float64Array(9);
  private readonly turned = new Float64Array(SIX);
  private readonly inflows = new Float64Array(SIX);
  private readonly spectrum = frame();
  /** Fibres as they are turned in the front: by strain alone, at once. */
  private readonly overturn: Orientation;
  /** Of the step at hand. */
  private linkFlow: Float64Array | null = null;

  constructor(
    grid: PressureGrid,
    private readonly columns: Columns,
    private readonly input: FibreInput,
    /** Where the columns lie, like the velocities, 3 a node. */
    values: Float64Array,
    velocity: Float64Array,
    before?: Float64Array,
    /** Share of the volume that is fibres, of every layer; null: the same everywhere. */
    private readonly shares: Float64Array | null = null,
  ) {
    super(grid);
    this.values = values;
    this.follow = new Orientation(input.model, input.closure, TOLERANCE, grid.n * columns.nLayers);
    const { aspect, interaction } = input.model;
    this.overturn = new Orientation({ aspect, interaction, slowing: 1 }, input.closure, TOLERANCE);
    if (before?.length) values.set(before);
    else for (let k = 0; k < values.length; k++) values[k] = input.fresh[k % SIX];
    this.velocity = velocity;
    this.known = new Uint8Array(grid.n);
    this.wallLog = Float64Array.from(grid.thickness, Math.log);
    // Phases of a shot share the directions across: what follows from them is worked out once.
    this.stencil = stencils.get(input.across) ?? stencilOf(grid, input.across);
    stencils.set(input.across, this.stencil);
  }

  get stream(): Float64Array {
    return this.velocity;
  }

  freshOf(): ArrayLike<number> {
    return this.input.fresh;
  }

  override get beside(): Float64Array[] {
    return this.input.coupling ? [...super.beside, this.columns.relativeFluidity] : super.beside;
  }

  sourceAt(node: number): number {
    return this.input.kept?.[node] ? 0 : -1;
  }

  /** Takes the flow of a step, before anything moves in it; `full` (1) are the nodes that it was solved for. */
  override look(solver: FlowSolver, full: Uint8Array): void {
    const { grid, velocity, known } = this;
    const { linkFlow } = solver;
    this.linkFlow = linkFlow;
    known.set(full);
    super.look(solver);
    for (let i = 0; i < grid.n; i++) if (full[i]) velocity.set(meanVelocity(grid, linkFlow, i), 3 * i);
  }

  /**
   * In the front melt is drawn out across the wall and pressed together along the flow, and turned back as it comes to lie on the faces
   * (Tadmor, J. Appl. Polym. Sci. 18 (1974) 1753): what one front leaves is the mean of what came. Where fronts meet nothing turns the
   * fibres back: they stay in the plane of the front. How much of a meeting it is, is told by how far what comes cancels out.
   */
  arrive(i: number, fresh: Float64Array): void {
    const { grid, input, linkFlow, turned, turnGradient, inflows } = this;
    if (!linkFlow) return;
    inflows.fill(0);
    let all = 0;
    const net = [0, 0, 0];
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const [j, l] = [grid.rowNode[k], grid.rowLink[k]];
      const flow = grid.linkFrom[l] === i ? -linkFlow[l] : linkFlow[l];
      if (!(flow > 0)) continue;
      const e = this.wayFrom(j, i);
      all += flow;
      for (let d = 0; d < 3; d++) net[d] += flow * e[d];
      SYMMETRIC.forEach(([p, q], c) => (inflows[c] += flow * e[p] * e[q]));
    }
    const meeting = all > 0 ? (1 - Math.hypot(...net) / all - CORNER) / (1 - CORNER) : 0;
    if (!(meeting > 0)) return;
    const { vectors: v } = eigenOf(inflows, this.spectrum);
    const n = input.across.subarray(3 * i, 3 * i + 3);
    for (let p = 0; p < 3; p++) for (let q = 0; q < 3; q++) turnGradient[3 * p + q] = n[p] * n[q] - v[3 * p] * v[3 * q];
    for (let k = 0; k < SIX; k++) turned[k] = fresh[k];
    this.overturn.advance(turned, turnGradient, OVERTURNED * meeting);
    for (let k = 0; k < SIX; k++) fresh[k] = turned[k];
  }

  private wayFrom(j: number, i: number): [number, number, number] {
    const { centroid } = this.grid;
    const way = [0, 1, 2].map((d) => centroid[3 * i + d] - centroid[3 * j + d]);
    const length = Math.hypot(...way) || 1;
    return [way[0] / length, way[1] / length, way[2] / length];
  }

  /** Turns the fibres of a node for a step of `dt` s. */
  change(i: number, dt: number): void {
    const { columns, values, velocity, gradient, input, follow } = this;
    if (!this.known[i]) return;
    this.gradientAt(i);
    const { nLayers, flowShare } = columns;
    const { share } = columns.layersOf(i);
    const [u, v, w] = [velocity[3 * i], velocity[3 * i + 1], velocity[3 * i + 2]];
    const speed = Math.hypot(u, v, w);
    if (!(speed > 0)) return;
    const { calls, layers, shear, faster, stay, meanGradient, along, across } = follow.kernel;
    along[0] = u / speed;
    along[1] = v / speed;
    along[2] = w / speed;
    for (let d = 0; d < 3; d++) across[d] = input.across[3 * i + d];
    meanGradient.set(gradient);
    const renewal = this.renewal(i);
    for (let t = 0; t < nLayers; t++) {
      const relative = flowShare[i * nLayers + t] / share[t];
      faster[t] = relative;
      shear[t] = this.sideOf(i, t) * columns.shearRateOf(i, t);
      stay[t] = Math.min(dt, 1 / (renewal * relative));
    }
    const from = i * nLayers * SIX;
    const end = from + nLayers * SIX;
    for (let k = from; k < end; k++) layers[k - from] = values[k];
    calls.advanceLayers(nLayers, follow.kernel.keptOf(i * nLayers), input.coupling !== undefined);
    for (let k = from; k < end; k++) values[k] = layers[k - from];
    if (input.coupling) this.slow(i, input.coupling);
  }

  /** Sets what the fibres of a node do to the fluidity of its layers. */
  private slow(i: number, { aspect, share, resistance }: CouplingInput): void {
    const { columns, shares, follow } = this;
    const asData = { drag: fibreDrag(share, aspect), resistance };
    for (let t = 0; t < columns.nLayers; t++) {
      const layer = i * columns.nLayers + t;
      const now = follow.kernel.resistance[t];
      if (now < 0) continue;
      const drag = shares ? fibreDrag(shares[layer], aspect) : asData.drag;
      columns.relativeFluidity[layer] = relativeFluidity({ drag, resistance: now }, asData);
    }
  }

  /** Sign of du/dz in a layer, z from the first wall to the second: half columns are their first half. */
  private sideOf(i: number, t: number): number {
    if (this.columns.nHalves === 1) return 1;
    return this.columns.placeOf(t) > this.columns.noShearAt(i) ? 1 : -1;
  }

  /**
   * Gradient of the mean velocity in the plane of the wall, by least squares over the neighbours and theirs, with what
   * the melt then does across the wall. Melt keeps its volume: it only gets thinner where the wall does, and what it spreads
   * across the stream it is held up along it. A plane through values that fall as 1/r does not know that: near a gate the
   * melt would be flattened.
   */
  private gradientAt(i: number): void {
    const { velocity, gradient, known, stencil, wallLog } = this;
    gradient.fill(0);
    const from = stencil.start[i];
    const end = stencil.start[i + 1];
    let all = true;
    for (let k = from; k < end; k++) if (!known[stencil.node[k]]) all = false;
    const weights = all ? stencil.weight : this.partial(i);
    if (!weights) return;
    const offset = all ? 3 * from : 0;
    let thins = 0;
    for (let k = from; k < end; k++) {
      const j = stencil.node[k];
      if (!known[j]) continue;
      const at = offset + 3 * (k - from);
      const wall = wallLog[j] - wallLog[i];
      for (let a = 0; a < 3; a++) {
        const du = velocity[3 * j + a] - velocity[3 * i + a];
        for (let b = 0; b < 3; b++) gradient[3 * a + b] += du * weights[at + b];
        thins += velocity[3 * i + a] * wall * weights[at + a];
      }
    }
    const [u, v, w] = [velocity[3 * i], velocity[3 * i + 1], velocity[3 * i + 2]];
    const squared = u * u + v * v + w * w;
    const spread = gradient[0] + gradient[4] + gradient[8];
    const held = squared > 0 ? (-thins - spread) / squared : 0;
    const { across } = this.input;
    const along = [u, v, w];
    for (let a = 0; a < 3; a++)
      for (let b = 0; b < 3; b++)
        gradient[3 * a + b] += held * along[a] * along[b] + thins * across[3 * i + a] * across[3 * i + b];
  }

  /** Weights of the neighbours that are known; null where they do not span the plane. */
  private partial(i: number): Float64Array | null {
    const { stencil, known } = this;
    const nodes = stencil.node.subarray(stencil.start[i], stencil.start[i + 1]);
    return planeWeights(this.grid, this.input.across, i, nodes, (j) => known[j] === 1);
  }
}

/** Neighbours of every node and theirs, with what the difference of a value counts for in each component of its gradient, 1/m. */
interface Stencil {
  start: Int32Array;
  node: Int32Array;
  weight: Float64Array;
}

const stencils = new WeakMap<Float64Array, Stencil>();

function stencilOf(grid: PressureGrid, across: Float64Array): Stencil {
  const start = new Int32Array(grid.n + 1);
  const node: number[] = [];
  const weight: number[] = [];
  for (let i = 0; i < grid.n; i++) {
    const seen = new Set([i]);
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      seen.add(j);
      for (let m = grid.rowStart[j]; m < grid.rowStart[j + 1]; m++) seen.add(grid.rowNode[m]);
    }
    seen.delete(i);
    const own = [...seen];
    const weights = planeWeights(grid, across, i, own, () => true);
    if (weights) {
      node.push(...own);
      weight.push(...weights);
    }
    start[i + 1] = node.length;
  }
  return { start, node: Int32Array.from(node), weight: Float64Array.from(weight) };
}

/** The same of one node; null where those that `counts` do not span the plane. */
function planeWeights(
  { centroid, spacing }: PressureGrid,
  across: Float64Array,
  i: number,
  nodes: ArrayLike<number>,
  counts: (j: number) => boolean,
): Float64Array | null {
  const [p, q] = frameOn([across[3 * i], across[3 * i + 1], across[3 * i + 2]]);
  const n = nodes.length;
  const [x, y, w] = [new Float64Array(n), new Float64Array(n), new Float64Array(n)];
  let [pp, pq, qq] = [0, 0, 0];
  for (let k = 0; k < n; k++) {
    const j = nodes[k];
    if (!counts(j)) continue;
    let far = 0;
    for (let d = 0; d < 3; d++) {
      const step = (centroid[3 * j + d] - centroid[3 * i + d]) / spacing;
      x[k] += step * p[d];
      y[k] += step * q[d];
      far += step * step;
    }
    w[k] = 1 / (far * far + NEAR);
    pp += w[k] * x[k] * x[k];
    pq += w[k] * x[k] * y[k];
    qq += w[k] * y[k] * y[k];
  }
  const det = pp * qq - pq * pq;
  if (!(det > LEAST_SPAN * (pp + qq) ** 2)) return null;
  const out = new Float64Array(3 * n);
  for (let k = 0; k < n; k++) {
    const [a, b] = [(w[k] * (x[k] * qq - y[k] * pq)) / det, (w[k] * (y[k] * pp - x[k] * pq)) / det];
    for (let d = 0; d < 3; d++) out[3 * k + d] = (a * p[d] + b * q[d]) / spacing;
  }
  return out;
}
