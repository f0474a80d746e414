import type { PressureGrid } from '../../grid/pressureGrid';

/** Share of an empty region that may lie behind its first row of nodes for it to count as one node wide. */
const DRY = 0.06;
/** Share of the cavity that is left when its empty regions are told apart for good. */
const END = 0.06;

/** Places that were found so far: what LastPlaces goes on from. */
export interface PlacesMemory {
  taken: Uint8Array;
  regionOf: Int32Array | null;
  regions: number[][];
  open: { nodes: number[]; region: number; until: readonly number[] }[];
}

/**
 * Last places to fill: empty regions one node wide. Which of their nodes closes first is below what the grid can tell;
 * a single one that is full would turn from front to wall and press the melt before it, though melt still flows past
 * to its neighbours. So all of a place stays a front at the air's pressure until the last of it is full, and what
 * flows into its full nodes goes to the space around. Places that were one region when the end began, like the rim
 * of a disc that closes here and there, stay open together.
 */
export class LastPlaces {
  /** Nodes with a pressure of their own: full, and in no place that is still open. Length n. */
  readonly active: Uint8Array;
  /** 1 for nodes that belong to a place. Length n. */
  private readonly taken: Uint8Array;
  /** Region of every node that was empty when the end began; null before. */
  private regionOf: Int32Array | null = null;
  private readonly total: number;
  /** Places that still have space, with what has to be full before they close. */
  private open: PlacesMemory['open'] = [];
  private readonly regions: number[][] = [];

  constructor(
    private readonly grid: PressureGrid,
    /** Volume of every node that melt can come to, 0 for the rest. */
    private readonly reachable: Float64Array,
    before?: PlacesMemory,
  ) {
    this.active = new Uint8Array(grid.n);
    this.taken = before?.taken.slice() ?? new Uint8Array(grid.n);
    this.total = reachable.reduce((s, v) => s + v, 0);
    if (!before) return;
    this.regionOf = before.regionOf?.slice() ?? null;
    this.regions = before.regions.map((r) => r.slice());
    this.open = before.open.map((place) => ({ ...place, nodes: place.nodes.slice() }));
  }

  get memory(): PlacesMemory {
    const { taken, regionOf, regions, open } = this;
    return {
      taken: taken.slice(),
      regionOf: regionOf?.slice() ?? null,
      regions: regions.map((r) => r.slice()),
      open: open.map((place) => ({ ...place, nodes: place.nodes.slice() })),
    };
  }

  /** Finds new places among the nodes that are not full, and sets `active`. */
  update(full: Uint8Array): void {
    const { grid, reachable } = this;
    let left = 0;
    for (let i = 0; i < grid.n; i++) if (!full[i]) left += reachable[i];
    if (!this.regionOf && left < END * this.total) this.beginEnd(full);
    for (const region of this.emptyRegions((i) => !full[i] && !this.taken[i])) this.take(region, full);
    this.active.set(full);
    this.open = this.open.filter(({ until }) => !until.every((i) => full[i]));
    for (const { nodes } of this.open) for (const i of nodes) if (!full[i] || !this.feeds(i, full)) this.active[i] = 0;
  }

  private beginEnd(full: Uint8Array): void {
    this.regionOf = new Int32Array(this.grid.n).fill(-1);
    for (const region of this.emptyRegions((i) => !full[i])) {
      for (const i of region) this.regionOf[i] = this.regions.length;
      this.regions.push(region);
    }
  }

  /** Makes a place of a region that is one node wide. */
  private take(region: number[], full: Uint8Array): void {
    const { grid, regionOf } = this;
    let [wet, dry] = [0, 0];
    for (const i of region) {
      let touches = false;
      for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1] && !touches; k++) touches = full[grid.rowNode[k]] === 1;
      if (touches) wet += grid.volume[i];
      else dry += grid.volume[i];
    }
    if (!(dry <= DRY * (wet + dry)) || !(wet > 0)) return;
    for (const i of region) this.taken[i] = 1;
    const own = regionOf ? regionOf[region[0]] : -1;
    const beside = own >= 0 ? this.open.find((place) => place.region === own) : undefined;
    if (beside) beside.nodes.push(...region);
    else this.open.push({ nodes: region, region: own, until: own >= 0 ? this.regions[own] : region });
  }

  /** Connected sets of nodes that melt can come to and that `empty` says are so. */
  private emptyRegions(empty: (i: number) => boolean): number[][] {
    const { grid, reachable } = this;
    const seen = new Uint8Array(grid.n);
    const free = (i: number) => !seen[i] && reachable[i] > 0 && empty(i);
    const found: number[][] = [];
    for (let start = 0; start < grid.n; start++) {
      if (!free(start)) continue;
      const region = [start];
      seen[start] = 1;
      for (let q = 0; q < region.length; q++)
        for (let k = grid.rowStart[region[q]]; k < grid.rowStart[region[q] + 1]; k++) {
          const j = grid.rowNode[k];
          if (!free(j)) continue;
          seen[j] = 1;
          region.push(j);
        }
      found.push(region);
    }
    return found;
  }

  /** Whether a full node has a neighbour with space that melt comes to through it alone. */
  private feeds(i: number, full: Uint8Array): boolean {
    const { rowStart, rowNode } = this.grid;
    for (let k = rowStart[i]; k < rowStart[i + 1]; k++) {
      const j = rowNode[k];
      if (full[j]) continue;
      let alone = true;
      for (let m = rowStart[j]; m < rowStart[j + 1] && alone; m++) alone = !full[rowNode[m]] || rowNode[m] === i;
      if (alone) return true;
    }
    return false;
  }

  /** Melt [any flow unit] that flows into full nodes of a place goes to the nodes beside it with space, by their space. */
  share(full: Uint8Array, held: Float64Array, inflow: Float64Array): void {
    const { grid } = this;
    for (const { nodes } of this.open) {
      let [extra, space] = [0, 0];
      for (const i of nodes) {
        if (!full[i]) space += grid.volume[i] - held[i];
        else if (!this.active[i]) extra += inflow[i];
      }
      // Where the region has no space left nothing is shared out: what comes in flows over to its neighbours.
      if (!(extra > 0) || !(space > 0)) continue;
      for (const i of nodes) {
        if (!full[i]) inflow[i] += (extra * (grid.volume[i] - held[i])) / space;
        else if (!this.active[i]) inflow[i] = 0;
      }
    }
  }

  /** The air's pressure [Pa] in every node that is a front; full nodes of a place have that of its space. */
  airAround(air: Float64Array, full: Uint8Array): Float64Array {
    if (!this.open.length) return air;
    const out = air.slice();
    for (const { nodes, until } of this.open) {
      const free = until.find((i) => !full[i]);
      if (free === undefined) continue;
      for (const i of nodes) if (full[i]) out[i] = air[free];
    }
    return out;
  }
}
