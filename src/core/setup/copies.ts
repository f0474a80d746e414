import { flipped, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { joined } from '../geometry/shells';
import { copyPlacements, mirrors, type Placement } from '../model/cavityLayout';
import type { Charge, Compression } from '../model/compression';
import type { Needle } from '../model/core';
import type { Tab, VentInput } from '../model/outlet';
import type { Gate, Inputs } from '../model/study';
import { placed } from '../geometry/placement';
import { placedMesh } from '../geometry/placement';

/** Name of a gate on copy number k (1 is the first copy beside the cavity itself). */
export const gateOnCopy = (id: string, k: number): string => `${id}.${k + 1}`;

const gateAt = (gate: Gate, m: Placement, k: number): Gate => ({
  ...gate,
  id: gateOnCopy(gate.id, k),
  position: placed(m, gate.position) as Gate['position'],
  ...(gate.pin ? { pin: pinAt(gate.pin, m) } : {}),
});

/** A pin that waits for the front at a place waits for it at the same place of its own copy. */
function pinAt(pin: NonNullable<Gate['pin']>, m: Placement): Gate['pin'] {
  const moved = <E extends { by: string } | null>(event: E): E =>
    event && event.by === 'front' && 'position' in event && event.position
      ? { ...event, position: placed(m, event.position as Vec3) }
      : event;
  const again = pin.again?.map((a) => ({ open: moved(a.open), close: moved(a.close) }));
  return { ...pin, open: moved(pin.open), close: moved(pin.close), ...(again ? { again } : {}) };
}

/** All gates of the tool: those of the cavity itself, then those of every copy. */
export function allGates({ gates, cavities }: Inputs): Gate[] {
  if (!cavities) return gates;
  return [...gates, ...copyPlacements(cavities).flatMap((m, k) => gates.map((g) => gateAt(g, m, k + 1)))];
}

/** Overflow tabs and vents of the cavity itself, then those of every copy. Rims go round all by themselves. */
export function allTabs({ tabs = [], cavities }: Inputs): Tab[] {
  if (!cavities) return tabs;
  const placedTab = (tab: Tab, m: Placement, k: number): Tab => {
    const tip = placed(m, tab.position.map((x, d) => x + tab.direction[d]) as Vec3);
    const position = placed(m, tab.position);
    return { ...tab, id: `${tab.id}.${k + 1}`, position, direction: tip.map((x, d) => x - position[d]) as Vec3 };
  };
  return [...tabs, ...copyPlacements(cavities).flatMap((m, k) => tabs.map((t) => placedTab(t, m, k + 1)))];
}

/** Needles of the cavity itself, then those of every copy. */
function allNeedles({ core, cavities }: Inputs): Needle[] {
  if (!core || !cavities) return core?.needles ?? [];
  const moved = copyPlacements(cavities).flatMap((m, k) =>
    core.needles.map((n) => ({ id: `${n.id}.${k + 2}`, position: placed(m, n.position) as Needle['position'] })),
  );
  return [...core.needles, ...moved];
}

/** A charge with the pieces of every copy. */
function withAllPieces(compression: Compression, { cavities }: Inputs): Compression {
  const { melt } = compression;
  if (melt.by !== 'charge' || !cavities) return compression;
  const moved = copyPlacements(cavities).flatMap((m, k) =>
    melt.pieces.map((c) => ({ id: `${c.id}.${k + 2}`, position: placed(m, c.position) as Charge['position'] })),
  );
  return { ...compression, melt: { ...melt, pieces: [...melt.pieces, ...moved] } };
}

function allVents({ vents = [], cavities }: Inputs): VentInput[] {
  if (!cavities) return vents;
  const moved = copyPlacements(cavities).flatMap((m, k) =>
    vents.flatMap((v) =>
      v.at.kind === 'place'
        ? [{ ...v, id: `${v.id}.${k + 2}`, at: { ...v.at, position: placed(m, v.at.position) } }]
        : [],
    ),
  );
  return [...vents, ...moved];
}

/** The cavities with their copies as one surface. */
export function meshWithCopies(mesh: TriangleMesh, { cavities }: Pick<Inputs, 'cavities'>): TriangleMesh {
  if (!cavities) return mesh;
  return joined([mesh, ...copyPlacements(cavities).map((m) => placedCopy(mesh, m))]);
}

export function placedCopy(mesh: TriangleMesh, m: Placement): TriangleMesh {
  const moved = placedMesh(mesh, m);
  return mirrors(m) ? flipped(moved) : moved;
}

/** The same tool with every copy as a cavity of its own. */
export function withCopies(inputs: Inputs): Inputs {
  if (!inputs.cavities) return inputs;
  const { cavities: _, ...rest } = inputs;
  const outlets = { vents: allVents(inputs), tabs: allTabs(inputs) };
  const core = inputs.core && { core: { ...inputs.core, needles: allNeedles(inputs) } };
  const compression = inputs.compression && { compression: withAllPieces(inputs.compression, inputs) };
  return { ...rest, gates: allGates(inputs), ...outlets, ...core, ...compression };
}
