import { perNode, type PerNode } from '../shot/located';
import type { Carried, FlowingLayers } from '../melt/carrier';
import type { Gating } from '../melt/gating';

/** Share of each gate in the melt of every layer, carried along with it. */
export class GateShares implements Carried {
  readonly name = 'gateShare';
  readonly components: number;
  /** Gate that a node's melt counts to from here on, -1 for none. */
  private readonly gateOfNode: Int16Array;
  private readonly ofGate: Float64Array[];
  private readonly ofNozzle: Float64Array;

  constructor(
    gating: Gating,
    nGates: number,
    /** Length n * nLayers * gates. */
    readonly values: Float64Array,
  ) {
    this.components = nGates;
    this.gateOfNode = gating.gateOfNode.slice();
    // Behind the gates come the mouths of overflow tabs: their melt has come from elsewhere.
    gating.gateNode?.forEach((node, g) => g < nGates && (this.gateOfNode[node] = g));
    this.ofNozzle = new Float64Array(nGates);
    this.ofGate = Array.from({ length: nGates }, (_, g) =>
      Float64Array.from(this.ofNozzle, (_s, k) => Number(k === g)),
    );
  }

  freshOf(gate: number): ArrayLike<number> {
    return this.ofGate[gate] ?? this.ofNozzle;
  }

  sourceAt(node: number): number {
    return this.gateOfNode[node];
  }

  /** Shares of whole nodes: mean over the layers by their sections. Length n * gates. */
  ofNodes(layers: FlowingLayers, n: number): PerNode {
    const { components, values } = this;
    const { nLayers } = layers;
    const out = perNode(n, components, 0);
    for (let i = 0; i < n; i++) {
      const gate = this.gateOfNode[i];
      if (gate >= 0) out[i * components + gate] = 1;
      else {
        const { share } = layers.layersOf(i);
        for (let t = 0; t < nLayers; t++)
          for (let g = 0; g < components; g++)
            out[i * components + g] += share[t] * values[(i * nLayers + t) * components + g];
      }
    }
    return out;
  }
}
