import { expect } from 'vitest';
import { manifestSchema } from '../src/runtime/manifest';
import { hasResults, projectViewSchema, type ProjectView } from '../src/runtime/wire';
import type { App } from './app';

const overTheWire = (what: unknown): unknown => JSON.parse(JSON.stringify(what));
const read = async (server: App, path: string): Promise<unknown> => (await fetch(server.url + path)).json();

/** What every run of the server says comes through the contract as it was sent: nothing of it is unknown to the page. */
export async function expectWhole(server: App): Promise<void> {
  let n = 0;
  for (const { id } of (await read(server, '/api/projects')) as { id: string }[]) {
    const sent = (await read(server, `/api/projects/${id}`)) as ProjectView;
    const { runs, variants, geometries } = projectViewSchema.parse(sent);
    expect(overTheWire(variants.map((v) => v.inputs))).toEqual(sent.variants.map((v) => v.inputs));
    expect(overTheWire(geometries)).toEqual(sent.geometries);
    for (const [k, run] of runs.entries()) {
      expect(overTheWire(run)).toEqual(sent.runs[k]);
      if (!hasResults(run.status)) continue;
      const manifest = await read(server, `/api/runs/${run.id}/blobs/manifest.json`);
      expect(overTheWire(manifestSchema.parse(manifest))).toEqual(manifest);
      n++;
    }
  }
  expect(n).toBeGreaterThan(0);
}
