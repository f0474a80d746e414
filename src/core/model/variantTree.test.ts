import { describe, expect, it } from 'vitest';
import { mayStandUnder, treeRows } from './variantTree';

const tree = [
  { id: 'first', parentId: null },
  { id: 'hot', parentId: 'first' },
  { id: 'hotter', parentId: 'hot' },
  { id: 'gate', parentId: 'first' },
  { id: 'lost', parentId: 'deleted' },
];

describe('variants as a tree', () => {
  it('stand under what they were branched from, and at the root where that is gone', () => {
    const rows = treeRows(tree);
    expect(rows.map((r) => [r.variant.id, r.depth])).toEqual([
      ['first', 0],
      ['hot', 1],
      ['hotter', 2],
      ['gate', 1],
      ['lost', 0],
    ]);
    // The branch of "first" goes on to "gate" beside "hot" and "hotter".
    expect(rows.map((r) => r.goesOn)).toEqual([[true], [true, true], [true, true, false], [true, false], [false]]);
  });

  it('go under another one, never under themselves or their own', () => {
    expect(mayStandUnder(tree, 'gate', 'hotter')).toBe(true);
    expect(mayStandUnder(tree, 'hot', null)).toBe(true);
    expect(mayStandUnder(tree, 'hot', 'hot')).toBe(false);
    expect(mayStandUnder(tree, 'first', 'hotter')).toBe(false);
  });

  it('are all there even where a file has put them in a ring', () => {
    const ring = [
      { id: 'a', parentId: 'b' },
      { id: 'b', parentId: 'a' },
      { id: 'c', parentId: null },
    ];
    expect(treeRows(ring).map((r) => r.variant.id)).toEqual(['c', 'a', 'b']);
    expect(mayStandUnder(ring, 'c', 'a')).toBe(true);
  });
});
