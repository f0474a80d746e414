import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { RESINS } from '@/core/material/library';
import { METALS } from '@/core/material/others';
import { allResins, copyOf, freshId, othersOf, useMaterials } from './materials';

let kept: Map<string, string>;
let refuse = false;
let requests: string[];
beforeEach(() => {
  kept = new Map();
  refuse = false;
  requests = [];
  vi.stubGlobal('localStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
  });
  vi.stubGlobal('fetch', (url: string, init?: RequestInit) => {
    requests.push(`${init?.method ?? 'GET'} ${url}`);
    if (refuse) return Promise.resolve(Response.json({ message: 'Disk full.', remedy: 'Make room.' }, { status: 507 }));
    if (init?.method === 'PUT') return Promise.resolve(new Response(init.body as string));
    return Promise.resolve(Response.json(init?.method === 'DELETE' ? {} : []));
  });
  useMaterials.setState({ own: [], loaded: false, failed: null, favourites: [], recent: [], draft: null });
});
afterEach(() => vi.unstubAllGlobals());
const state = () => useMaterials.getState();

describe('the library of the page', () => {
  it('says why it could not be read, and reads it when asked again', async () => {
    refuse = true;
    await state().load();
    expect(state()).toMatchObject({ loaded: false, failed: 'Disk full. Make room.' });
    refuse = false;
    await state().load();
    expect(state()).toMatchObject({ loaded: true, failed: null });
  });

  it('lists own grades before the samples, and one that is saved again only once', async () => {
    const own = copyOf(RESINS[0]);
    await state().save('resin', own);
    await state().save('resin', { ...own, name: 'Renamed' });
    expect(allResins(state().own).map((r) => r.name)).toEqual(['Renamed', ...RESINS.map((r) => r.name)]);
    expect(othersOf('metal', state().own)).toEqual(METALS);
    await state().remove(own.id);
    expect(requests.at(-1)).toBe(`DELETE /api/materials/${own.id}`);
    expect(allResins(state().own)).toEqual(RESINS);
  });

  it('keeps what it has when a save is refused', async () => {
    refuse = true;
    await expect(state().save('resin', copyOf(RESINS[0]))).rejects.toMatchObject({ message: 'Disk full.' });
    expect(state().own).toEqual([]);
  });

  it('remembers favourites, and the last eight that were used, newest first', async () => {
    state().toggleFavourite('a');
    state().toggleFavourite('b');
    state().toggleFavourite('a');
    for (let k = 0; k < 10; k++) state().used(`r${k}`);
    state().used('r5');
    useMaterials.setState({ favourites: [], recent: [] });
    await state().load();
    expect(state().favourites).toEqual(['b']);
    expect(state().recent).toEqual(['r5', 'r9', 'r8', 'r7', 'r6', 'r4', 'r3', 'r2']);
  });

  it('does not stumble over what something else wrote into the store of the browser', async () => {
    kept.set('bellows.resins', '{broken');
    await state().load();
    expect(state()).toMatchObject({ favourites: [], recent: [], loaded: true });
  });

  it('opens the sheet for whatever is asked of it', () => {
    useMaterials.setState({ open: false });
    state().set({ tab: 'fit' });
    expect(state()).toMatchObject({ open: true, tab: 'fit' });
    state().set({ open: false });
    expect(state().open).toBe(false);
  });
});

describe('a copy of a grade', () => {
  it('is another grade with the same data, typed in from now on', () => {
    const copy = copyOf(RESINS[0]);
    expect(copy.id).not.toBe(RESINS[0].id);
    expect(copy).toEqual({ ...RESINS[0], id: copy.id, name: `${RESINS[0].name} copy`, origin: 'typed in' });
    expect(copyOf({ ...RESINS[0], name: 'x'.repeat(80) }).name).toHaveLength(80);
  });

  it('has an id that may stand in an address', () => {
    expect(freshId('Grade 12 / "Ü" 30 % glass')).toMatch(/^own-[a-z0-9-]+$/);
  });
});
