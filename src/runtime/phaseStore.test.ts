import { mkdtempSync, readdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { phaseFiles } from './phaseStore';

let folder: string;
beforeEach(() => void (folder = mkdtempSync(path.join(tmpdir(), 'bellows-phases-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const bytes = (length: number, value = 7) => new Uint8Array(length).fill(value);
/** Makes a file look as if it had been used that many minutes ago. */
const age = (key: string, minutes: number) => {
  const then = new Date(Date.now() - 60_000 * minutes);
  utimesSync(path.join(folder, `${key}.phase`), then, then);
};

describe('outcomes of phases in a folder', () => {
  it('are there for the one who knows the key, and for nobody else', async () => {
    const store = phaseFiles(path.join(folder, 'new'));
    expect(await store.get('a')).toBeNull();
    await store.put('a', bytes(10));
    expect(Uint8Array.from((await store.get('a')) ?? [])).toEqual(bytes(10));
    expect(await store.get('b')).toBeNull();
  });

  it('make room: those go first that nobody has asked for the longest', async () => {
    const store = phaseFiles(folder, 100);
    for (const key of ['a', 'b', 'c']) await store.put(key, bytes(30));
    age('a', 30);
    age('b', 20);
    age('c', 10);
    await store.get('a');
    await store.put('d', bytes(40));
    expect(readdirSync(folder).sort()).toEqual(['a.phase', 'c.phase', 'd.phase']);
  });

  it('that would take most of the room are not kept', async () => {
    const store = phaseFiles(folder, 100);
    await store.put('a', bytes(40));
    await store.put('b', bytes(60));
    expect(await store.get('b')).toBeNull();
    expect(await store.get('a')).not.toBeNull();
  });

  it('that can not be written stop nobody', async () => {
    const blocked = path.join(folder, 'file');
    writeFileSync(blocked, 'a file where the folder should be');
    const store = phaseFiles(blocked);
    await expect(store.put('a', bytes(10))).resolves.toBeUndefined();
    expect(await store.get('a')).toBeNull();
  });
});
