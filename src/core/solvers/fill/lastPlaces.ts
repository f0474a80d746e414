import type { PressureGrid } from '../../grid/pressureGrid';

/** Share of an empty region that may lie behind its first row of nodes for it to count as one node wide. */
const DRY = 0.1;

/**
 * Last places to fill: empty regions one node wide. Which of their nodes closes first is below what the grid can tell;
 * a single one that is full would turn from front to wall and press the melt before it, though melt still flows past
 * to its neighbours. So all of a place stays a front at the air's pressure until the last of it is full, and what
 * flows into its full nodes goes to the space around.
 */
export class LastPlaces {
  /** Nodes with a pressure of their own: full, and in no place that is still open. Length n. */
  readonly active: Uint8Array;
  /** Place of every node, -1 for none. */
  private readonly placeOf: Int32Array;
  private readonly places: Int32Array[] = [];
  /** Places that still have space. */
  private open: Int32Array[] = [];

  constructor(
    private readonly grid: PressureGrid,
    /** Volume of every node that melt can come to, 0 for the rest. */
    private readonly reachable: Float64Array,
  ) {
    this.active = new Uint8Array(grid.n);
    this.placeOf = new Int32Array(grid.n).fill(-1);
  }

  /** Finds new places among the nodes that are not full, and sets `active`. */
  update(full: Uint8Array): void {
    this.find(full);
    this.active.set(full);
    this.open = this.open.filter((place) => !place.every((i) => full[i]));
    for (const place of this.open) for (const i of place) if (!full[i] || !this.feeds(i, full)) this.active[i] = 0;
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

  private find(full: Uint8Array): void {
    const { grid, reachable, placeOf } = this;
    const seen = new Uint8Array(grid.n);
    const empty = (i: number) => !full[i] && !seen[i] && placeOf[i] < 0 && reachable[i] > 0;
    for (let start = 0; start < grid.n; start++) {
      if (!empty(start)) continue;
      const region = [start];
      seen[start] = 1;
      let [wet, dry] = [0, 0];
      for (let q = 0; q < region.length; q++) {
        const i = region[q];
        let touches = false;
        for (let k = grid.rowStart[i]; k < grid.rowStart[i + 1]; k++) {
          const j = grid.rowNode[k];
          if (full[j]) touches = true;
          else if (empty(j)) {
            seen[j] = 1;
            region.push(j);
          }
        }
        if (touches) wet += grid.volume[i];
        else dry += grid.volume[i];
      }
      if (!(dry <= DRY * (wet + dry)) || !(wet > 0)) continue;
      const place = Int32Array.from(region);
      for (const i of place) placeOf[i] = this.places.length;
      this.places.push(place);
      this.open.push(place);
    }
  }

  /** Melt [any flow unit] that flows into full nodes of a place goes to the nodes beside it with space, by their space. */
  share(full: Uint8Array, held: Float64Array, inflow: Float64Array): void {
    const { grid } = this;
    for (const place of this.open) {
      let [extra, space] = [0, 0];
      for (const i of place) {
        if (full[i] && !this.active[i]) {
          extra += inflow[i];
          inflow[i] = 0;
        } else if (!full[i]) space += grid.volume[i] - held[i];
      }
      if (!(extra > 0) || !(space > 0)) continue;
      for (const i of place) if (!full[i]) inflow[i] += (extra * (grid.volume[i] - held[i])) / space;
    }
  }

  /** The air's pressure [Pa] in every node that is a front; full nodes of a place have that of its space. */
  airAround(air: Float64Array, full: Uint8Array): Float64Array {
    if (!this.open.length) return air;
    const out = air.slice();
    for (const place of this.open) {
      const free = place.find((i) => !full[i]);
      if (free === undefined) continue;
      for (const i of place) if (full[i]) out[i] = air[free];
    }
    return out;
  }
}
