import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { dataOf, keepShown, loadField } from './runData';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));

let asked: string[] = [];
let refuse = false;
beforeEach(() => {
  asked = [];
  refuse = false;
  vi.stubGlobal('fetch', (url: string) => {
    asked.push(url);
    if (refuse) return Promise.resolve(Response.json({ message: 'gone' }, { status: 404 }));
    return Promise.resolve(new Response(Float32Array.of(1, 2, 3).buffer));
  });
});
afterEach(() => vi.unstubAllGlobals());
const settle = () => new Promise((resolve) => setTimeout(resolve, 10));

describe('results that the page holds', () => {
  it('are asked for once, and come as another object', async () => {
    const before = dataOf('once');
    loadField('once', 'pressure');
    loadField('once', 'pressure');
    await settle();
    expect(asked).toEqual(['/api/runs/once/blobs/pressure.f32']);
    expect(dataOf('once')).not.toBe(before);
    expect([...(dataOf('once').fields.get('pressure') ?? [])]).toEqual([1, 2, 3]);
  });

  it('what was refused may be asked for again', async () => {
    refuse = true;
    loadField('refused', 'pressure');
    await settle();
    expect(dataOf('refused').fields.size).toBe(0);
    refuse = false;
    loadField('refused', 'pressure');
    await settle();
    expect(dataOf('refused').fields.size).toBe(1);
  });

  it('what is on the screen stays, however many runs come after it; the rest goes, oldest first', async () => {
    const letGo = keepShown('shown');
    loadField('shown', 'pressure');
    await settle();
    for (const id of ['r1', 'r2', 'r3', 'r4', 'r5', 'r6']) {
      loadField(id, 'pressure');
      await settle();
    }
    expect(dataOf('shown').fields.size).toBe(1);
    expect(dataOf('r6').fields.size).toBe(1);
    // Touching it makes room for it anew: it had been forgotten.
    expect(dataOf('r1').fields.size).toBe(0);
    letGo();
    for (const id of ['s1', 's2', 's3', 's4', 's5', 's6']) dataOf(id);
    expect(dataOf('shown').fields.size).toBe(0);
  });

  it('two places that show it keep it until both let go', async () => {
    const [a, b] = [keepShown('twice'), keepShown('twice')];
    loadField('twice', 'pressure');
    await settle();
    a();
    for (const id of ['t1', 't2', 't3', 't4', 't5', 't6']) dataOf(id);
    expect(dataOf('twice').fields.size).toBe(1);
    b();
  });
});
