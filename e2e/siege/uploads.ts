import { readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { strToU8, zipSync } from 'fflate';
import type { TaskLine } from '../../src/runtime/wire';
import { CORPUS } from '../../verification/corpus';
import { random as seeded } from '../../verification/random';
import type { App } from '../app';
import { memoryOf } from './clients';

export interface Uploads {
  nSent: number;
  nRead: number;
  nRefused: number;
  faults: string[];
  longest_s: number;
  /** What the server grew by meanwhile, MB. */
  growth_MB: number;
}

const samplesDir = fileURLToPath(new URL('../../samples', import.meta.url));

/** A package whose components multiply eightfold, twelve times. */
function bomb(): Uint8Array {
  const level = (k: number) =>
    k === 12
      ? '<object id="12"><components/></object>'
      : `<object id="${k}"><components>${`<component objectid="${k + 1}"/>`.repeat(8)}</components></object>`;
  const resources = Array.from({ length: 12 }, (_, k) => level(k + 1)).join('');
  const model = `<model unit="millimeter"><resources>${resources}</resources><build><item objectid="1"/></build></model>`;
  const rels = '<Relationships><Relationship Target="/3D/3dmodel.model"/></Relationships>';
  return zipSync({ '_rels/.rels': strToU8(rels), '3D/3dmodel.model': strToU8(model) });
}

/**
 * Uploads files that are broken: crafted ones, those of the corpus where asked for, then samples cut short or with bits
 * turned; the same ones for the same seed.
 */
export async function upload(server: App, n: number, seed: number, corpus: boolean): Promise<Uploads> {
  const random = seeded(seed);
  const samples = readdirSync(samplesDir)
    .filter((name) => /\.(stl|3mf|step)$/.test(name))
    .map((name) => ({ name, bytes: new Uint8Array(readFileSync(path.join(samplesDir, name))) }));
  const crafted = [
    { name: 'bomb.3mf', bytes: bomb() },
    { name: 'solids.stl', bytes: strToU8('solid a\n'.repeat(200_000)) },
    { name: 'x'.repeat(4000) + '.stl', bytes: strToU8('solid x') },
    { name: '../../bellows.db', bytes: strToU8('x') },
    ...(corpus ? CORPUS.map(({ file, bytes }) => ({ name: file, bytes })) : []),
  ];
  const damaged = () => {
    const { name, bytes } = samples[Math.floor(random() * samples.length)];
    if (random() < 0.5) return { name, bytes: bytes.slice(0, Math.floor(random() * bytes.length)) };
    const turned = bytes.slice();
    for (let k = 0; k < 40; k++) turned[Math.floor(random() * turned.length)] ^= 1 << Math.floor(8 * random());
    return { name, bytes: turned };
  };
  const out: Uploads = { nSent: 0, nRead: 0, nRefused: 0, faults: [], longest_s: 0, growth_MB: 0 };
  const before = memoryOf(server.pid);
  for (let k = 0; k < n; k++) {
    const { name, bytes } = k < crafted.length ? crafted[k] : damaged();
    const begun = performance.now();
    const response = await fetch(`${server.url}/api/imports?name=${encodeURIComponent(name)}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: bytes as BodyInit,
    });
    const lines = (await response.text()).trim().split('\n');
    out.nSent++;
    out.longest_s = Math.max(out.longest_s, (performance.now() - begun) / 1000);
    const last = JSON.parse(lines[lines.length - 1]) as TaskLine | { message: string };
    if ('type' in last && last.type === 'done') out.nRead++;
    else out.nRefused++;
    const said = 'message' in last ? last.message : '';
    if (response.status >= 500 || /fault|stopped before|could not be read to its end/.test(said))
      out.faults.push(`${name.slice(0, 40)}: ${response.status} ${said}`);
  }
  out.longest_s = Math.round(10 * out.longest_s) / 10;
  out.growth_MB = Math.round(memoryOf(server.pid) - before);
  return out;
}
