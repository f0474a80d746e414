import { useMemo } from 'react';
import { expectedHeat } from '@/core/setup/expectedHeat';
import { networkAlone, type AloneResult } from '@/core/cooling/alone';
import { blockOf } from '@/core/cooling/block';
import { checkCircuits, checkClearances, type CoolingFinding } from '@/core/cooling/check';
import { boundsOf, type Bounds, type TriangleMesh } from '@/core/geometry/mesh';
import { SurfaceTree } from '@/core/geometry/surfaceTree';
import type { Cooling } from '@/core/model/cooling';
import type { Inputs } from '@/core/model/study';
import { meshWithCopies } from '@/core/setup/copies';
import { feedPlaces } from '@/core/setup/mould';
import { resolveMachine, resolveResin, resolveSettings } from '@/core/setup/settings';
import { presentPart, presentInputs, useStudy } from '../study/store';
import { useCavity } from '../study/meshes';

/** Changes the cooling of the present variant as one undoable step. */
export function changeCooling(label: string, next: (cooling: Cooling) => Cooling): void {
  const study = useStudy.getState();
  const inputs = presentInputs(study);
  if (inputs.cooling) study.change(label, { ...inputs, cooling: next(inputs.cooling) });
}

export const patchCooling = (label: string, patch: Partial<Cooling>): void =>
  changeCooling(label, (cooling) => ({ ...cooling, ...patch }));

/** All cavities with their copies and the block around them; null while the surfaces are coming. */
export function useMouldSpace(): { mesh: TriangleMesh; part: Bounds; block: Bounds } | null {
  const inputs = useStudy((s) => presentInputs(s));
  const { mesh } = useCavity(inputs);
  const whole = useMemo(
    () => (mesh ? meshWithCopies(mesh, { cavities: inputs.cavities }) : null),
    [mesh, inputs.cavities],
  );
  const part = useMemo(() => (whole ? boundsOf(whole.positions) : null), [whole]);
  return useMemo(
    () => (whole && part ? { mesh: whole, part, block: blockAround(inputs, part) } : null),
    [whole, part, inputs],
  );
}

export const blockAround = (inputs: Inputs, part: Bounds): Bounds =>
  blockOf({ block: inputs.cooling?.block ?? null }, part, feedPlaces(inputs));

/** Flows and temperatures of the circuits as they are now, for the heat that is to be expected. */
export function useNetwork(): AloneResult | null {
  const inputs = useStudy((s) => presentInputs(s));
  const part = useStudy(presentPart);
  const { cooling } = inputs;
  const heat = useMemo(() => {
    if (!part || !resolveResin(inputs) || !resolveMachine(inputs, part.size)) return 0;
    return expectedHeat(resolveSettings(inputs, part.size));
  }, [inputs, part]);
  return useMemo(() => (cooling ? networkOf(cooling, heat) : null), [cooling, heat]);
}

/** Several panels show the same network: it is solved once. */
let solved: { cooling: Cooling; heat: number; result: AloneResult | null } | null = null;
function networkOf(cooling: Cooling, heat: number): AloneResult | null {
  if (solved?.cooling !== cooling || solved.heat !== heat)
    solved = { cooling, heat, result: networkAlone(cooling, heat) };
  return solved.result;
}

/** What is wrong or close with circuits and bores. */
export function useCoolingCheck(): CoolingFinding[] {
  const cooling = useStudy((s) => presentInputs(s).cooling);
  const space = useMouldSpace();
  const mesh = space?.mesh ?? null;
  // The surface stays while lines are changed.
  const tree = useMemo(() => (mesh ? new SurfaceTree(mesh) : null), [mesh]);
  return useMemo(() => {
    if (!cooling) return [];
    const own = checkCircuits(cooling);
    return space && tree ? [...checkClearances(cooling, tree, space.part, space.block), ...own] : own;
  }, [cooling, space, tree]);
}
