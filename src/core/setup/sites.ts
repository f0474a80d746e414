import { openingOf as mouthOf } from '../feed/land';
import type { LaidFeed } from '../feed/layout';
import type { SurfacePoint } from '../geometry/closestPoint';
import type { Vec3 } from '../geometry/mesh';
import { cross, normalised } from '../geometry/vec';
import type { FineGrid } from '../grid/grid';
import type { PressureGrid } from '../grid/pressureGrid';
import type { ToolOnGrid } from '../grid/tool';
import { openingOf } from '../model/body';
import type { Tab } from '../model/outlet';
import { movesOf, type PinEvent } from '../model/pin';
import type { Inputs } from '../model/study';
import { nearestCell } from '../grid/nearestCell';
import type { Gating } from '../solvers/melt/gating';
import type { Switchover } from '../solvers/melt/drive';
import type { GateSite } from '../solvers/melt/star';
import { onJoined, type JoinedFeed } from '../solvers/melt/joinFeed';
import type { PinTrigger, ValvePin } from '../solvers/melt/pins';
import type { NodeVent } from '../solvers/melt/trappedAir';

/** Gates as they open on the surface; slots lie along it, level. */
export function gateSites({ gates, tool }: Inputs, surfaces: readonly SurfacePoint[]): GateSite[] {
  return gates.map((gate, g) => {
    const { diameter, width } = mouthOf(gate);
    const site = { id: gate.id, surface: surfaces[g], diameter };
    return width > diameter
      ? { ...site, slot: { width, along: levelAlong(surfaces[g].normal, openingOf(tool)) } }
      : site;
  });
}

/** Mouths of the tabs' lands on the part. */
export const tabSites = ({ tabs = [], tool }: Inputs): GateSite[] =>
  tabs.map(({ id, position, direction, land }) => ({
    id,
    surface: { point: position, normal: direction, distance: 0, triangle: -1 },
    diameter: Math.min(land.thickness, land.width),
    slot: { width: land.width, along: levelAlong(direction, openingOf(tool)) },
  }));

/** Nodes with free air: those of the part, and the end of every vented tab. */
export function ventedWithTabs(
  vented: Uint8Array,
  joined: JoinedFeed,
  network: LaidFeed | null,
  tabs: readonly Tab[],
): Uint8Array {
  const out = Uint8Array.from(onJoined(Float64Array.from(vented), joined), (v) => (v > 0 ? 1 : 0));
  for (const tab of network ? tabs : []) {
    if (!tab.vented) continue;
    const segment = network?.segments.findIndex((s) => s.id === tab.id);
    const cells = joined.cells.filter(({ cell }) => cell.segment === segment);
    out[cells[cells.length - 1].node] = 1;
  }
  return out;
}

/** Entry loss of a thin vent. */
const DISCHARGE = 0.8;

/** Vents with the nodes they open into: along the parting line, or those within half the width of a place. */
export function ventsOn({ vents = [] }: Inputs, fine: FineGrid, grid: PressureGrid, tool: ToolOnGrid): NodeVent[] {
  return vents.map(({ at, gap, land, exitPressure }) => {
    if (at.kind === 'rim') {
      const nodes = [...tool.vented.keys()].filter((i) => tool.vented[i]);
      const vent = { width: tool.partingLength, gap, land, discharge: DISCHARGE };
      return { nodes, vent, exitPressure };
    }
    const own = grid.nodeOfCell[nearestCell(fine, at.position)];
    const near = (i: number) =>
      Math.hypot(...at.position.map((x, d) => x - grid.centroid[3 * i + d])) < at.width / 2 + 0.5 * grid.spacing;
    const nodes = new Set([own]);
    for (let i = 0; i < grid.n; i++) if (near(i)) nodes.add(i);
    return { nodes: [...nodes], vent: { width: at.width, gap, land, discharge: DISCHARGE }, exitPressure };
  });
}

/** Unit vector in a surface, level in the tool; in a level surface the x axis, turned as z was turned to the opening. */
function levelAlong(normal: Vec3, opening: Vec3): Vec3 {
  const level = cross(opening, normal);
  if (Math.hypot(...level) > 0.1) return normalised(level);
  const [x, y, z] = opening;
  return z < -0.999 ? [1, 0, 0] : [1 - (x * x) / (1 + z), (-x * y) / (1 + z), -x];
}

/** Nodes of the joined grid that the needles of the core open into; through the nozzle: where the melt came in. */
export function needlesOn({ core }: Inputs, fine: FineGrid, grid: PressureGrid, joined: JoinedFeed): number[] {
  if (!core) return [];
  if (core.through === 'nozzle') return [...new Set(joined.gating.attached.map((a) => a.node))];
  return core.needles.map(({ position }) => joined.nodeOf[grid.nodeOfCell[nearestCell(fine, position)]]);
}

/** When the melt ends before a fluid is let into its core. */
export function meltEnd({ core }: Inputs, fine: FineGrid, grid: PressureGrid, joined: JoinedFeed): Switchover | null {
  if (!core) return null;
  if (core.melt.by === 'share') return { by: 'share', share: Math.min(ALMOST_FULL, core.melt.share) };
  if (core.melt.by !== 'front') return core.melt;
  return { by: 'front', node: joined.nodeOf[grid.nodeOfCell[nearestCell(fine, core.melt.position)]] };
}

/** A melt that ends no sooner leaves the fluid a cavity that is full: the last drop stays out. */
const ALMOST_FULL = 0.995;

/** The gating with the mouths of the tabs shut that wait for a fluid in the core. */
export function withTabsShut({ tabs = [], gates, core }: Inputs, gating: Gating): Gating {
  if (!core || !tabs.some((t) => t.opens === 'core')) return gating;
  const linkFactor = gating.linkFactor.slice();
  for (const { link, star } of gating.rims ?? []) if (tabs[star - gates.length]?.opens === 'core') linkFactor[link] = 0;
  return { ...gating, linkFactor };
}

/** The gating with the gates alone that the first, or the second melt comes in through. */
export function gatesOfMelt({ gates, core }: Inputs, gating: Gating, which: 'first' | 'second'): Gating {
  const own = core?.fluid === 'melt' ? gates.findIndex((g) => g.id === core.second?.gate) : -1;
  if (own < 0) return gating;
  const shut = (gate: number) => gate < gates.length && (gate === own) === (which === 'first');
  const linkFactor = gating.linkFactor.slice();
  for (const { link, gate } of gating.rims ?? []) if (shut(gate)) linkFactor[link] = 0;
  return { ...gating, linkFactor, attached: gating.attached.filter((a) => a.star < 0 || !shut(a.gate)) };
}

/** Pins shut the last piece of feed before their gate. */
export function pinsOf(
  { gates }: Inputs,
  fine: FineGrid,
  grid: PressureGrid,
  joined: JoinedFeed,
  network: LaidFeed,
): ValvePin[] {
  return gates.flatMap((gate, g) => {
    if (!gate.pin) return [];
    const last = network.segments.findIndex((s) => s.to === network.gatePoints[g]);
    const trigger = (event: PinEvent): PinTrigger => {
      if (event.by !== 'front') return event;
      const cell = nearestCell(fine, event.position ?? gate.position);
      return { by: 'front', node: joined.nodeOf[grid.nodeOfCell[cell]] };
    };
    return [{ gate: g, link: joined.entryLinks[last], moves: movesOf(gate.pin).map(trigger), over: gate.pin.over }];
  });
}
