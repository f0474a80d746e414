import { geometryKey, type Inputs } from './study';

/**
 * Text that is equal exactly when two inputs would give the same numbers: the cavities' surfaces, gates
 * in order without their names, everything else that a run reads. Probes only read. A run is out of date when its key differs from its variant's.
 */
export function inputKey(inputs: Inputs): string {
  return JSON.stringify([
    geometryKey(inputs),
    inputs.gates.map((g) => [...g.position, g.diameter]),
    inputs.resin,
    inputs.cycle,
    inputs.tool.partingHeight,
    inputs.detail,
  ]);
}
