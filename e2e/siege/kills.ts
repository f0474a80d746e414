import { examine } from '../../src/store/doctor';
import type { ProjectView, VariantView } from '../../src/runtime/wire';
import { random as seeded } from '../../verification/random';
import { sleep, type App } from '../app';
import { ask, trayOf } from './clients';

export interface Kills {
  nKills: number;
  nEdits: number;
  /** Edits that were acknowledged and are gone. */
  nLost: number;
  /** What the doctor finds afterwards. */
  damage: string[];
}

/** Kills the server in the middle of edits and a run, again and again, and looks what is left. */
export async function kill(server: App, n: number, seed: number): Promise<Kills> {
  const random = seeded(seed);
  let variant = await trayOf(server);
  const id = variant.projectId;
  const out: Kills = { nKills: 0, nEdits: 0, nLost: 0, damage: [] };
  for (let k = 0; k < n; k++) {
    await ask(server, '/api/runs', 'POST', { variantId: variant.id }).catch(() => null);
    let kept = variant;
    let alive = true;
    const editing = (async () => {
      for (let e = 0; alive; e++) {
        const { cycle } = kept.inputs;
        const change = {
          version: kept.version,
          inputs: {
            ...kept.inputs,
            detail: 'quick',
            upTo: 'fill',
            cycle: { ...cycle, meltTemperature: 480 + (e % 50) },
          },
        };
        // One that is on its way when the server dies may have been kept or not.
        const answer = await ask<VariantView>(server, `/api/variants/${kept.id}`, 'PATCH', change).catch(() => null);
        if (!answer) return;
        kept = answer;
        out.nEdits++;
      }
    })();
    await sleep(200 + 1200 * random());
    await server.kill();
    alive = false;
    await editing;
    out.nKills++;
    await server.start();
    const now = (await ask<ProjectView>(server, `/api/projects/${id}`)).variants.find((v) => v.id === kept.id);
    if (!now || now.version < kept.version) out.nLost++;
    variant = now ?? kept;
  }
  process.env.BELLOWS_DATA = server.data;
  out.damage = (await examine()).filter((f) => f.severity === 'bad').map((f) => f.message);
  return out;
}
