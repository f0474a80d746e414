import type { OpenTool } from './openTool';

/** How closely the force is kept. */
const FORCE_TOLERANCE = 5e-3;
/** Most that the gap changes by from pass to pass, over wall and gap: densities answer to it within this. */
const LONGEST = 0.02;

/** A press that keeps a force on a full cavity, whose halves have not met: they follow what the melt shrinks by. */
export class HoldingTool {
  /** Gap and force of the pass before. */
  private before: { gap: number; force: number } | null = null;

  constructor(
    private readonly tool: OpenTool,
    /** Until when, s since the start of the shot; then the halves stay where they are. */
    readonly until: number,
  ) {}

  /** Whether the press moves the half at a time [s]. */
  moves(time: number): boolean {
    return time <= this.until + 1e-9 && !this.tool.met;
  }

  /** A step begins: what a pass of it answers to is found anew. */
  begin(): void {
    this.before = null;
  }

  /**
   * Moves the half towards where the melt takes the force, for densities [kg/m3] with their slopes against pressure; nodes
   * that are `loose` press on nothing. True when it stands there, or at the other half.
   */
  follow(
    pressure: Float64Array,
    density: Float64Array,
    slope: Float64Array,
    nodes: Int32Array,
    loose: Uint8Array,
  ): boolean {
    const { tool, before } = this;
    const { force } = tool.input.closing!;
    const now = { gap: tool.gap, force: tool.forceOf(pressure) };
    const miss = (now.force - force) / force;
    if (Math.abs(miss) < FORCE_TOLERANCE || (tool.met && miss < 0)) return true;
    const seen = before && before.gap !== now.gap ? (before.force - now.force) / (now.gap - before.gap) : 0;
    const stiffness = seen > 0 ? seen : this.stiffnessOf(density, slope, nodes, loose);
    const [opens, volume] = [0, 1].map((k) => nodes.reduce((s, i) => s + (k ? tool.grid.volume[i] : tool.opens(i)), 0));
    const most = (LONGEST * volume) / opens;
    const change = stiffness > 0 ? (now.force - force) / stiffness : -most;
    const gap = now.gap + Math.max(-most, Math.min(most, change));
    this.before = now;
    tool.setGap(Math.max(0, Math.min(gap, tool.input.gap)));
    return false;
  }

  /** Force per gap of melt that flows to where there is room at once, N/m: one pressure for all. */
  private stiffnessOf(density: Float64Array, slope: Float64Array, nodes: Int32Array, loose: Uint8Array): number {
    const { tool } = this;
    let [under, opens, gives] = [0, 0, 0];
    for (const i of nodes) {
      if (loose[i]) continue;
      under += tool.input.area[i];
      opens += density[i] * tool.opens(i);
      gives += slope[i] * tool.grid.volume[i];
    }
    return gives > 0 ? (under * opens) / gives : 0;
  }
}
