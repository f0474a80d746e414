import { describe, expect, it } from 'vitest';
import { packTree, treeKey, unpackTree } from './tree';

const tree = {
  name: 'Feeder tray',
  none: null,
  odd: [NaN, Infinity, -Infinity, -0, 0.1],
  deep: { list: [{ values: Float64Array.of(NaN, -0, Math.PI) }, { values: new Float32Array(0) }] },
  marks: Uint8Array.of(1, 0, 255),
  signed: Int16Array.of(-1, 300),
};

describe('trees of plain data as bytes', () => {
  it('come back as they were, to the last bit', () => {
    const back = unpackTree(packTree(tree)) as typeof tree;
    expect(back).toEqual(tree);
    expect(Object.is(back.odd[3], -0)).toBe(true);
    expect(back.deep.list[0].values).toBeInstanceOf(Float64Array);
    expect(Object.is(back.deep.list[0].values[1], -0)).toBe(true);
  });

  it('lie anywhere in a buffer, and what comes back is not a view of it', () => {
    const bytes = packTree(tree);
    const moved = new Uint8Array(bytes.length + 3);
    moved.set(bytes, 3);
    const back = unpackTree(moved.subarray(3)) as typeof tree;
    moved.fill(0);
    expect(back).toEqual(tree);
  });

  it('hold nothing that is not plain', () => {
    expect(() => packTree({ a: { law: () => 1 } })).toThrow('.a.law is no plain data');
    expect(() => packTree([new Map()])).toThrow('[0] is no plain data');
    expect(() => packTree({ when: new Date(0) })).toThrow(TypeError);
  });

  it('are named by what they hold, whatever the order of their keys', async () => {
    const { name, ...rest } = tree;
    expect(await treeKey({ ...rest, name })).toBe(await treeKey(tree));
    expect(await treeKey({ ...tree, left: undefined })).toBe(await treeKey(tree));
    expect(await treeKey({ ...tree, marks: Uint8Array.of(1, 0, 254) })).not.toBe(await treeKey(tree));
    expect(await treeKey({ ...tree, marks: Int16Array.of(1, 0, 255) })).not.toBe(await treeKey(tree));
    expect(await treeKey({ ...tree, odd: [NaN, Infinity, -Infinity, 0, 0.1] })).not.toBe(await treeKey(tree));
  });
});
