import { strToU8, zipSync, type Zippable } from 'fflate';
import { describe, expect, it } from 'vitest';
import { readStl, readStlSolids } from '../core/formats/stl';
import { selfIntersections } from '../core/geometry/intersections';
import { SurfaceTree } from '../core/geometry/surfaceTree';
import { read3mf } from './threemf';

const RELS = '<Relationships><Relationship Target="/3D/3dmodel.model"/></Relationships>';
const packed = (model: string, more: Zippable = {}) =>
  zipSync({ '_rels/.rels': strToU8(RELS), '3D/3dmodel.model': strToU8(model), ...more }, { level: 6 });
const model = (resources: string, items = '<item objectid="1"/>') =>
  `<model unit="millimeter"><resources>${resources}</resources><build>${items}</build></model>`;
const TRIANGLE =
  '<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/></triangles></mesh>';

describe('packages made to fill the memory', () => {
  /** A package whose table of contents says that its model has so many bytes unpacked. */
  const claiming = (length: number) => {
    const bytes = packed(model(`<object id="1">${TRIANGLE}</object>`));
    const view = new DataView(bytes.buffer, bytes.byteOffset);
    // The model is the last entry of the table.
    let at = bytes.length - 22;
    while (view.getUint32(at, true) !== 0x02014b50) at--;
    view.setUint32(at + 24, length, true);
    return bytes;
  };

  it('that unpack to more than they may are refused before they are unpacked', () => {
    const before = process.memoryUsage().arrayBuffers;
    expect(() => read3mf(claiming(300 * 2 ** 20))).toThrow(/unpacks to more than 256 MB/);
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(50e6);
  });

  it('that lie about how long an entry is unpack to no more than they say', () => {
    expect(() => read3mf(claiming(40))).toThrow(/3MF file cannot be read/);
  });

  it('with thousands of files', () => {
    const many = Object.fromEntries(Array.from({ length: 2100 }, (_, k) => [`a${k}.txt`, new Uint8Array(1)]));
    expect(() => read3mf(packed(model(`<object id="1">${TRIANGLE}</object>`), many))).toThrow(/more than 2000 files/);
  });

  it('whose components multiply, with triangles or without', () => {
    const level = (id: number, inner: string) => `<object id="${id}">${inner}</object>`;
    const eight = (id: number) => `<components>${`<component objectid="${id}"/>`.repeat(8)}</components>`;
    for (const last of [TRIANGLE, '<components/>']) {
      const levels = Array.from({ length: 12 }, (_, k) => level(k + 1, k === 11 ? last : eight(k + 2))).join('');
      expect(() => read3mf(packed(model(levels)))).toThrow(/places more than 20000 objects/);
    }
  });

  it('whose components contain themselves', () => {
    const loop = '<object id="1"><components><component objectid="1"/></components></object>';
    expect(() => read3mf(packed(model(loop)))).toThrow(/contain themselves/);
  });
});

describe('texts made to be searched for ever', () => {
  const vertices = 'vertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\n';

  it('name each solid once, whatever begins and does not end', () => {
    const text = `solid first\n${vertices}endsolid\n  solid  second part \n${vertices}endsolid\nendsolid`;
    expect(readStlSolids(strToU8(`${text.replace('solid first', 'solid first\nfacet')}`)).map((s) => s.name)).toEqual([
      'first',
      'second part',
    ]);
  });

  it('vertices on one line count like those on lines of their own', () => {
    const flat = `facet ${vertices.replaceAll('\n', ' ')}endfacet`;
    const text = `solid one\n${flat}\nendsolid\nsolid two\n${flat}\nendsolid`;
    expect(readStlSolids(strToU8(text)).map((s) => [s.name, s.soup.length])).toEqual([
      ['one', 9],
      ['two', 9],
    ]);
  });

  it('half a million beginnings without an end are one body', () => {
    const text = `solid x\nfacet\n${'solid x\n'.repeat(500_000)}${vertices}x endsolid`;
    const solids = readStlSolids(strToU8(text));
    expect(solids).toHaveLength(1);
    expect(solids[0].soup).toHaveLength(9);
  });

  it('a vertex that never ends is not carried along', () => {
    const text = `solid x\nfacet\nvertex 1${' '.repeat(60e6)}`;
    expect(() => readStl(strToU8(text))).toThrow(/no triangles/);
  });
});

describe('triangles stacked on each other', () => {
  it('end the search instead of being compared pair by pair', () => {
    const n = 30_000;
    // Each a little turned in its plane: none is another, all lie in each other's boxes.
    const positions = Float64Array.from({ length: 9 * n }, (_, k) => {
      const [corner, axis] = [Math.floor(k / 3) % 3, k % 3];
      const angle = (2 * Math.PI * corner) / 3 + 1e-5 * Math.floor(k / 9);
      return axis === 0 ? Math.cos(angle) : axis === 1 ? Math.sin(angle) : 0;
    });
    const mesh = { positions, triangles: Uint32Array.from({ length: 3 * n }, (_, k) => k) };
    expect(selfIntersections(mesh, new SurfaceTree(mesh), 100)).toHaveLength(200);
    const same = { positions: positions.slice(0, 9), triangles: Uint32Array.from({ length: 3 * n }, (_, k) => k % 3) };
    expect(selfIntersections(same, new SurfaceTree(same))).toHaveLength(0);
  });
});
