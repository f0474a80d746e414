import { closestPoint } from '@/core/geometry/closestPoint';
import { unpackMesh } from '@/core/formats/meshBlob';
import { joined } from '@/core/geometry/shells';
import { freshBodyId, UNTURNED, type Body } from '@/core/model/body';
import { cavities, emptyInputs, type Inputs } from '@/core/model/study';
import { OFF_PART } from '@/core/pipeline/checkRun';
import type { AcceptedImport } from '@/runtime/wire';
import { api } from '../study/api';

/** What becomes of the bodies that are there already. */
export type Arrival = 'new' | 'add' | 'newer';

/**
 * The study's inputs once files have come in. "new" starts over; "add" puts the bodies beside those that
 * are there; "newer" puts each in place of the body of its name, or of `target` when there is one.
 */
export function inputsWith(
  inputs: Inputs,
  arrivals: AcceptedImport['bodies'],
  how: Arrival,
  target: string | null,
): Inputs {
  if (how === 'newer') return replaced(inputs, arrivals, target);
  const kept = how === 'add' ? inputs.bodies : [];
  const bodies: Body[] = [...kept];
  // With several bodies only one can be guessed to be the moulded part; the person says so of the others.
  const single = arrivals.length === 1 && kept.length === 0;
  for (const { name, colour, mesh } of arrivals) {
    const id = freshBodyId(bodies);
    bodies.push({ id, name, colour, role: single ? 'cavity' : 'left-out', mesh, original: null, standIn: null });
  }
  if (how === 'add') return { ...inputs, bodies };
  return {
    ...emptyInputs(),
    resin: inputs.resin,
    cycle: inputs.cycle,
    detail: inputs.detail,
    rules: inputs.rules,
    bodies,
    tool: { placement: UNTURNED, partingHeight: null },
  };
}

function replaced(inputs: Inputs, arrivals: AcceptedImport['bodies'], target: string | null): Inputs {
  const waiting = [...arrivals];
  const take = (b: Body): Body => {
    const byName = waiting.findIndex((a) => a.name.toLowerCase() === b.name.toLowerCase());
    const i = arrivals.length === 1 ? (b.id === target ? 0 : -1) : byName;
    const found = i >= 0 ? waiting.splice(i, 1)[0] : undefined;
    return found ? { ...b, mesh: found.mesh, original: null, standIn: null } : b;
  };
  const bodies = inputs.bodies.map(take);
  for (const { name, colour, mesh } of waiting) {
    if (arrivals.length === 1 && target) break;
    bodies.push({ id: freshBodyId(bodies), name, colour, role: 'left-out', mesh, original: null, standIn: null });
  }
  return { ...inputs, bodies };
}

/** The largest body by the extent of its box becomes the cavity when no body is one. */
export function withGuessedCavity(inputs: Inputs, sizes: ReadonlyMap<string, number>): Inputs {
  if (cavities(inputs).length || !inputs.bodies.length) return inputs;
  const largest = inputs.bodies.reduce((a, b) => ((sizes.get(b.mesh) ?? 0) > (sizes.get(a.mesh) ?? 0) ? b : a));
  return { ...inputs, bodies: inputs.bodies.map((b) => (b === largest ? { ...b, role: 'cavity' } : b)) };
}

/** Gates farther than a quarter wall from every cavity: their place is gone. */
export async function looseGates(inputs: Inputs, wall: number): Promise<string[]> {
  const meshes = await Promise.all(
    cavities(inputs).map(async (b) => unpackMesh(new Uint8Array(await api.binary(`/api/geometries/${b.mesh}`)))),
  );
  if (!meshes.length) return inputs.gates.map((g) => g.id);
  const mesh = joined(meshes);
  return inputs.gates.filter((g) => closestPoint(mesh, g.position).distance > OFF_PART * wall).map((g) => g.id);
}
