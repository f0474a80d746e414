import type { BehindMaterial, BehindSpec } from './behind';
import { layerEdges } from './layers';

/** A body behind a wall, or half of it. */
export interface Slab {
  material: BehindMaterial;
  /** m */
  thickness: number;
  /** To what lies nearer to the melt, W/(m2 K); Infinity where it is fused. */
  joint: number;
  /** Start temperature [K] at a share of the thickness, 0 nearest to the melt. */
  temperature: (share: number) => number;
  /** Plastic, in which heat goes slowly: more layers. */
  plastic: boolean;
}

/** What lies behind one side of a node, from the melt outwards, and what it ends at, K and W/(m2 K). */
export interface Stack {
  slabs: readonly Slab[];
  far: { temperature: number; transfer: number };
  /** Number of the stack that has the other half of the last slab; absent: none. */
  partner?: number;
  /** Of the wall before it, m2. */
  area: number;
}

/** Edges of the layers of a slab over its thickness: thin at both faces, where temperatures change first. */
const slabEdges = (n: number, first: number): Float64Array => {
  const half = layerEdges(n, first);
  return Float64Array.from({ length: 2 * n + 1 }, (_, e) => (e <= n ? (1 - half[n - e]) / 2 : (1 + half[e - n]) / 2));
};
const PLASTIC = slabEdges(12, 0.012);
const METAL = slabEdges(6, 0.06);

/** Stacks as the solver takes them; slabs of one material are to share the very same object. */
export function behindSpec(stacks: readonly Stack[]): BehindSpec {
  const materials: BehindMaterial[] = [];
  const start = new Int32Array(stacks.length + 1);
  const edgesOf = (slab: Slab) => (slab.plastic ? PLASTIC : METAL);
  stacks.forEach(({ slabs }, s) => {
    start[s + 1] = start[s] + slabs.reduce((n, slab) => n + edgesOf(slab).length - 1, 0);
  });
  const n = start[stacks.length];
  const layer = {
    thickness: new Float64Array(n),
    material: new Uint8Array(n),
    temperature: new Float64Array(n),
    joint: new Float64Array(n).fill(Infinity),
  };
  let at = 0;
  for (const { slabs } of stacks)
    for (const slab of slabs) {
      let material = materials.indexOf(slab.material);
      if (material < 0) material = materials.push(slab.material) - 1;
      const edges = edgesOf(slab);
      layer.joint[at] = slab.joint;
      for (let l = 0; l + 1 < edges.length; l++, at++) {
        layer.thickness[at] = slab.thickness * (edges[l + 1] - edges[l]);
        layer.material[at] = material;
        layer.temperature[at] = slab.temperature((edges[l] + edges[l + 1]) / 2);
      }
    }
  return {
    materials,
    start,
    layer,
    far: {
      temperature: Float64Array.from(stacks, (s) => s.far.temperature),
      transfer: Float64Array.from(stacks, (s) => s.far.transfer),
    },
    partner: Int32Array.from(stacks, (s) => s.partner ?? -1),
    area: Float64Array.from(stacks, (s) => s.area),
    shared: Int32Array.from(stacks, ({ slabs }, s) => start[s + 1] - edgesOf(slabs[slabs.length - 1]).length + 1),
  };
}
