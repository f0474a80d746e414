import type { PressureGrid } from '../../grid/pressureGrid';
import type { CompiledColumns } from './compiledColumns';
import type { Heat } from './heat';
import type { Gating } from './gating';
import type { FlowSolver } from './pressure';
import { Sharpener } from './sharpener';
import { intoStream, TENSOR } from './streamFrame';

const frameMap = new Float64Array(TENSOR * TENSOR);

/** Layers that melt flows in: a column's, or one alone where the melt has one temperature. */
export interface FlowingLayers {
  nLayers: number;
  /** Share of a node's flow in each layer. Length n * nLayers. */
  flowShare: Float64Array;
  /** Share of a node's section in each layer. */
  layersOf(node: number): { share: ArrayLike<number> };
}

export const oneLayer = (n: number): FlowingLayers => {
  const whole = { share: [1] };
  return { nLayers: 1, flowShare: new Float64Array(n).fill(1), layersOf: () => whole };
};

/** Something that every layer of the melt carries along: any number of components that move together. */
export interface Carried {
  name: string;
  components: number;
  /** Length n * nLayers * components, those of a layer side by side. */
  values: Float64Array;
  /** Of melt that comes through a gate, -1: from the nozzle; `components` values. */
  freshOf(gate: number): ArrayLike<number>;
  /** Gate whose fresh melt a node holds whatever comes to it, -1 for none; absent where there are no such nodes. */
  sourceAt?(node: number): number;
  /** What a step changes besides `values`. */
  beside?: Float64Array[];
  /** Its faces stay sharp along the stream: see `Sharpener`. */
  sharp?: boolean;
  /**
   * What comes into a layer pushes out what was there, and the values are those of melt that leaves: nothing is smeared where a
   * step takes the melt through a node, but what is carried is not kept to the bit. Absent: it mixes, and all of it is kept.
   */
  replaces?: boolean;
  /**
   * Velocity of every node [m/s], 3 each, in the memory of the columns: six components that are a symmetric tensor are handed on in
   * the frame of the stream (see `intoStream`). Absent: as they are.
   */
  stream?: Float64Array;
  /** Takes the flow of a step, before anything moves in it; `full` (1) are the nodes that it was solved for. */
  look?(solver: FlowSolver, full: Uint8Array): void;
  /**
   * Time [s] that a full node is moved on by now, with the steps that it has waited; 0 while it waits: where little flows, many steps are
   * taken as one. Absent: the step.
   */
  elapsed?(node: number, dt: number): number;
  /** What becomes of melt on its way through the front into a node, in place: the front turns it over. */
  arrive?(node: number, fresh: Float64Array): void;
  /** What becomes of it in a node over a step, after it has been carried there; absent for what only goes along. */
  change?(node: number, dt: number): void;
}

/**
 * Transport of all that the melt carries, in one sweep downstream: each column after all that feed it, implicit in time,
 * upwind. Layers pass melt to the same layer of the next column; what a layer gains on the way moves across to its
 * neighbours. Temperature, which is conducted besides, is Heat's; everything else goes by the same rows without
 * conduction.
 */
export class Carrier {
  /** Volume that has flowed through every link since both its nodes were full, m3. */
  readonly passed: Float64Array;
  private readonly carried: Carried[] = [];
  private readonly inflow: Float64Array;
  private readonly eliminated: Float64Array;
  private right: Float64Array = new Float64Array(0);
  private fresh: Float64Array = new Float64Array(0);
  private readonly upstream = new Float64Array(3);
  private sharpener: Sharpener | null = null;
  /** Links from the inlet straight into each node: their numbers in its list. */
  private readonly attachedTo = new Map<number, number[]>();

  constructor(
    private readonly grid: PressureGrid,
    private readonly layers: FlowingLayers,
    private readonly gating: Gating,
    private readonly heat: Heat | null = null,
    /** Columns in whose memory all values lie: their kernel then does the rows. */
    private readonly compiled: CompiledColumns | null = null,
  ) {
    this.passed = new Float64Array(grid.linkFrom.length);
    this.inflow = new Float64Array(layers.nLayers);
    this.eliminated = new Float64Array(layers.nLayers);
    gating.attached.forEach(({ node }, k) => this.attachedTo.set(node, [...(this.attachedTo.get(node) ?? []), k]));
  }

  /** From now on the melt carries this too. */
  follow(field: Carried): void {
    const { nLayers } = this.layers;
    if (field.values.length !== this.grid.n * nLayers * field.components)
      throw new RangeError(`${field.name} does not lie on the layers of this grid`);
    if (field.stream && field.components !== TENSOR) throw new RangeError(`${field.name} is no symmetric tensor`);
    this.carried.push(field);
    const most = Math.max(...this.carried.map((f) => f.components));
    const room = (length: number) => this.compiled?.work(length) ?? new Float64Array(length);
    if (this.fresh.length >= most) return;
    this.fresh = room(most);
    this.right = room(most * nLayers);
  }

  /** All that a step changes. */
  get memory(): Float64Array[] {
    return [this.passed, ...this.carried.flatMap((f) => [f.values, ...(f.beside ?? [])])];
  }

  /**
   * One step of the full nodes in `order` (falling pressure; `full` and `order` as they were when the flow was solved,
   * `pinned` nodes are the inlet) and then of the front: nodes that gained melt, from `before` to `after` [m3].
   */
  advance(
    dt: number,
    solver: FlowSolver,
    full: Uint8Array,
    order: Int32Array,
    pinned: Uint8Array,
    before: Float64Array,
    after: Float64Array,
  ): void {
    const { heat, carried } = this;
    this.count(dt, solver.linkFlow, full);
    heat?.begin(solver, pinned);
    for (const field of carried) field.look?.(solver, full);
    for (const field of carried)
      if (field.sharp) (this.sharpener ??= new Sharpener(this.grid, this.layers)).begin(field);
    for (const i of order) {
      heat?.node(i, dt, solver, pinned);
      for (const field of carried) this.node(field, i, dt, solver, pinned);
    }
    for (const field of carried) if (field.sharp) this.sharpener?.sharpen(field, dt, solver, order);
    heat?.front(dt, solver, full, pinned, before, after);
    for (const field of carried) this.front(field, dt, solver, full, before, after);
  }

  private count(dt: number, linkFlow: Float64Array, full: Uint8Array): void {
    const { linkFrom, linkTo } = this.grid;
    for (let l = 0; l < linkFlow.length; l++)
      if (full[linkFrom[l]] && full[linkTo[l]]) this.passed[l] += dt * linkFlow[l];
  }

  /** What enters a node from the inlet, m3/s, and, into `fresh`, the values it brings, times that. */
  private enterFrom(field: Carried, i: number, solver: FlowSolver, pinned: Uint8Array | null): number {
    const { grid, gating, fresh } = this;
    fresh.fill(0);
    let sum = 0;
    const add = (flow: number, gate: number) => {
      if (!(flow > 0)) return;
      const values = field.freshOf(gate);
      for (let c = 0; c < field.components; c++) fresh[c] += flow * values[c];
      sum += flow;
    };
    const attached = Math.max(0, solver.attachedFlow[i]);
    if (attached > 0) {
      // Fluidities have moved since the flow was solved for: single links say how it is shared, not how much it is.
      const links = (this.attachedTo.get(i) ?? []).map((k) => ({
        gate: gating.gateNode ? -1 : gating.attached[k].gate,
        share: Math.max(0, solver.attachedShare(k)),
      }));
      const all = links.reduce((s, l) => s + l.share, 0);
      for (const { gate, share } of links) add(attached * (all > 0 ? share / all : 1 / links.length), gate);
    }
    if (pinned)
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
        const [j, link] = [grid.rowNode[k], grid.rowLink[k]];
        if (pinned[j]) add(inward(grid, solver, link, i), gating.gateOfNode[j]);
      }
    return sum;
  }

  private node(field: Carried, i: number, dt: number, solver: FlowSolver, pinned: Uint8Array): void {
    const source = field.sourceAt?.(i) ?? -1;
    if (source >= 0) return this.set(field, i, field.freshOf(source));
    const elapsed = field.elapsed?.(i, dt) ?? dt;
    if (elapsed > 0) this.move(field, i, elapsed, solver, pinned);
  }

  private move(field: Carried, i: number, dt: number, solver: FlowSolver, pinned: Uint8Array): void {
    const fresh = this.enterFrom(field, i, solver, pinned);
    const filling = this.heat?.fillingOf(i) ?? 1;
    const carrying = this.heat?.carryingOf(i) ?? 1;
    if (this.compiled) {
      const { values, components } = field;
      const at = (array: Float64Array) => array.byteOffset;
      const volume = this.grid.volume[i];
      this.compiled.kernel.carryNode(
        i,
        at(values),
        components,
        (volume / dt) * filling,
        carrying,
        at(this.fresh),
        at(this.right),
        field.replaces === true,
        field.stream?.byteOffset ?? 0,
      );
    } else this.rows(field, i, dt, solver, pinned, fresh, filling, carrying);
    field.change?.(i, dt);
  }

  /** The rows of the node's layers: see Heat.solveRows, without conduction and shear. */
  private rows(
    field: Carried,
    i: number,
    dt: number,
    solver: FlowSolver,
    pinned: Uint8Array,
    freshFlow: number,
    filling: number,
    carrying: number,
  ): void {
    const { grid, layers, inflow, eliminated, right, fresh } = this;
    const { nLayers, flowShare } = layers;
    const { values, components } = field;
    const { share } = layers.layersOf(i);
    const at = i * nLayers;
    const perStep = (grid.volume[i] / dt) * filling;
    let [enter, leave] = [freshFlow, Math.max(0, -solver.attachedFlow[i])];
    for (let t = 0; t < nLayers; t++) {
      inflow[t] = freshFlow * flowShare[at + t];
      for (let c = 0; c < components; c++) right[t * components + c] = carrying * flowShare[at + t] * fresh[c];
    }
    if (field.stream) this.meanStream(field.stream, i, solver, pinned);
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      const flow = inward(grid, solver, grid.rowLink[k], i);
      if (!(flow > 0)) leave -= flow;
      else if (!pinned[j]) {
        enter += flow;
        const turned = field.stream !== undefined && intoStream(frameMap, field.stream, 3 * j, this.upstream);
        for (let t = 0; t < nLayers; t++) {
          const q = flow * flowShare[j * nLayers + t];
          inflow[t] += q;
          const from = (j * nLayers + t) * components;
          for (let c = 0; c < components; c++) {
            let value = turned ? 0 : values[from + c];
            if (turned) for (let m = 0; m < TENSOR; m++) value += frameMap[TENSOR * c + m] * values[from + m];
            right[t * components + c] += carrying * q * value;
          }
        }
      }
    }
    const stays = enter - leave;
    let [pivot, across, arriving] = [0, 0, 0];
    for (let t = 0; t < nLayers; t++) {
      arriving *= carrying;
      const enters = carrying * inflow[t];
      const stored = Math.max(0, perStep * share[t] - (field.replaces ? enters : 0));
      let diagonal = stored + arriving + enters;
      let [upper, leaving] = [0, 0];
      across += inflow[t] - leave * flowShare[at + t] - stays * share[t];
      if (t < nLayers - 1 && across > 0) leaving = across;
      else if (t < nLayers - 1) {
        diagonal -= carrying * across;
        upper = carrying * across;
      }
      diagonal += arriving * pivot;
      const inverse = 1 / diagonal;
      for (let c = 0; c < components; c++) {
        const below = t > 0 ? arriving * right[(t - 1) * components + c] : 0;
        const own = right[t * components + c] + stored * values[(at + t) * components + c];
        right[t * components + c] = (own + below) * inverse;
      }
      pivot = upper * inverse;
      eliminated[t] = pivot;
      arriving = leaving;
    }
    for (let t = nLayers - 2; t >= 0; t--)
      for (let c = 0; c < components; c++) right[t * components + c] -= eliminated[t] * right[(t + 1) * components + c];
    values.set(right.subarray(0, nLayers * components), at * components);
  }

  /** Sets `upstream` to the direction of what flows into a node from its neighbours, a unit vector; 0 where none has one. */
  private meanStream(stream: Float64Array, i: number, solver: FlowSolver, pinned: Uint8Array): void {
    const { grid, upstream } = this;
    upstream.fill(0);
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      const flow = inward(grid, solver, grid.rowLink[k], i);
      if (!(flow > 0) || pinned[j]) continue;
      const speed = Math.sqrt(stream[3 * j] ** 2 + stream[3 * j + 1] ** 2 + stream[3 * j + 2] ** 2);
      if (speed > 0) for (let d = 0; d < 3; d++) upstream[d] += (flow * stream[3 * j + d]) / speed;
    }
    const length = Math.sqrt(upstream[0] ** 2 + upstream[1] ** 2 + upstream[2] ** 2);
    if (length > 0) for (let d = 0; d < 3; d++) upstream[d] /= length;
  }

  /** Melt at the front has come through the core and is laid out over the whole wall: every layer gets the mean by flow. */
  private front(
    field: Carried,
    dt: number,
    solver: FlowSolver,
    full: Uint8Array,
    before: Float64Array,
    after: Float64Array,
  ): void {
    const { grid } = this;
    const spilled: number[] = [];
    for (let i = 0; i < grid.n; i++) {
      if (full[i] || !(after[i] > 0)) continue;
      const source = field.sourceAt?.(i) ?? -1;
      if (source >= 0) {
        this.set(field, i, field.freshOf(source));
        continue;
      }
      let sum = this.enterFrom(field, i, solver, null);
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
        const j = grid.rowNode[k];
        const flow = full[j] ? Math.abs(solver.linkFlow[grid.rowLink[k]]) : 0;
        if (!(flow > 0)) continue;
        sum += flow;
        this.addMean(field, j, flow, this.layers.flowShare.subarray(j * this.layers.nLayers));
      }
      if (sum > 0) this.gain(field, i, sum, before[i], after[i], dt);
      else spilled.push(i);
    }
    // Melt that was passed on by an overflowing neighbour is like that neighbour's, which has its own by now.
    const unknown = new Set(spilled.filter((i) => !(before[i] > 0)));
    for (let rest = spilled.filter((i) => after[i] > before[i]); rest.length;) {
      const later = rest.filter((i) => {
        const sum = this.around(field, i, after, unknown);
        if (!(sum > 0)) return true;
        this.gain(field, i, sum, before[i], after[i], dt);
        unknown.delete(i);
        return false;
      });
      if (later.length === rest.length) break;
      rest = later;
    }
  }

  /** A node at the front takes in what `fresh` holds for a weight of `sum`, laid out over the whole wall. */
  private gain(field: Carried, i: number, sum: number, before: number, after: number, dt: number): void {
    for (let c = 0; c < field.components; c++) this.fresh[c] /= sum;
    field.arrive?.(i, this.fresh);
    this.mix(field, i, Math.max(0, after - before) / after);
    field.change?.(i, dt);
  }

  /** Adds the means of the neighbours that hold melt to `fresh`; those in `unknown` say nothing yet. Returns their weight. */
  private around(field: Carried, i: number, after: Float64Array, unknown: ReadonlySet<number>): number {
    const { grid } = this;
    this.fresh.fill(0);
    let sum = 0;
    for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
      const j = grid.rowNode[k];
      if (!(after[j] > 0) || unknown.has(j)) continue;
      const w = grid.transmissibility[grid.rowLink[k]];
      sum += w;
      this.addMean(field, j, w, this.layers.layersOf(j).share);
    }
    return sum;
  }

  /** Adds `factor` times the mean of a node's layers, by `weights`, to `fresh`. */
  private addMean({ values, components }: Carried, j: number, factor: number, weights: ArrayLike<number>): void {
    const { nLayers } = this.layers;
    for (let t = 0; t < nLayers; t++)
      for (let c = 0; c < components; c++)
        this.fresh[c] += factor * weights[t] * values[(j * nLayers + t) * components + c];
  }

  private mix({ values, components }: Carried, i: number, gained: number): void {
    const { nLayers } = this.layers;
    for (let t = 0; t < nLayers; t++)
      for (let c = 0; c < components; c++) {
        const at = (i * nLayers + t) * components + c;
        values[at] += gained * (this.fresh[c] - values[at]);
      }
  }

  private set({ values, components }: Carried, i: number, to: ArrayLike<number>): void {
    const { nLayers } = this.layers;
    for (let t = 0; t < nLayers; t++) values.set(to, (i * nLayers + t) * components);
  }
}

/** Flow of a link into node i, m3/s; below 0 where it leads out. */
const inward = (grid: PressureGrid, solver: FlowSolver, link: number, i: number): number =>
  grid.linkFrom[link] === i ? -solver.linkFlow[link] : solver.linkFlow[link];
