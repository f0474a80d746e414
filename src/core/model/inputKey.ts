import { geometryKey, type Inputs } from './study';

/** Branches are kept by gate name; a name changes no number. */
function feedKey({ feed, gates }: Inputs) {
  if (!feed) return null;
  const { branches, ...rest } = feed;
  return { ...rest, branches: gates.map((g) => branches[g.id]?.diameter ?? null) };
}

/**
 * Text that is equal exactly when two inputs would give the same numbers: the cavities' surfaces, gates
 * in order without their names, everything else that a run reads. Probes only read. A run is out of date when its key differs from its variant's.
 */
export function inputKey(inputs: Inputs): string {
  return JSON.stringify([
    geometryKey(inputs),
    inputs.gates.map((g) => [...g.position, g.diameter, ...(g.pin ? [g.pin] : [])]),
    inputs.resin,
    inputs.cycle,
    inputs.tool.partingHeight,
    inputs.detail,
    // Last and only when there is one: keys of studies without a feed stay what they were.
    ...(inputs.feed && inputs.gates.length ? [feedKey(inputs)] : []),
  ]);
}
