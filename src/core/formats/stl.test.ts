import { describe, expect, it } from 'vitest';
import { box, disc } from '../../../verification/shapes';
import { importPart, inMetres } from '../pipeline/importPart';
import { measure, mapVertices, flipped, type TriangleMesh } from '../geometry/mesh';
import { packMesh, unpackMesh } from './meshBlob';
import { readStl, writeStl } from './stl';

const bytes = (text: string) => new TextEncoder().encode(text);
const ascii = (mesh: TriangleMesh, indent = '  ') => {
  const lines = ['solid part'];
  for (let i = 0; i < mesh.triangles.length; i += 3) {
    lines.push('facet normal 0 0 0', ' outer loop');
    for (const v of mesh.triangles.slice(i, i + 3))
      lines.push(
        `${indent}vertex ${[...mesh.positions.slice(3 * v, 3 * v + 3)].map((x) => (x * 1000).toExponential(9)).join('\t ')}`,
      );
    lines.push(' endloop', 'endfacet');
  }
  return bytes([...lines, 'endsolid part', ''].join('\r\n'));
};
const plate = box(0.04, 0.03, 0.002);

describe('reading', () => {
  it('binary and ASCII give the same part', () => {
    for (const file of [writeStl(plate), ascii(plate), ascii(plate, '\t\t')]) {
      const { mesh, report, findings, guessedUnit } = importPart(file);
      expect(report.watertight).toBe(true);
      expect(findings).toEqual([]);
      expect(guessedUnit).toBe('mm');
      expect(measure(inMetres(mesh, 'mm')).volume).toBeCloseTo(0.04 * 0.03 * 0.002, 12);
    }
  });

  it('a binary file whose header begins with "solid" is still binary', () => {
    const file = writeStl(plate);
    file.set(bytes('solid by some exporter'), 0);
    expect(readStl(file)).toHaveLength(12 * 9);
  });

  it.each([
    ['empty', new Uint8Array(0), /empty/],
    ['text of another kind', bytes('hello, this is no geometry at all, only words'), /not an STL/],
    ['a picture', Uint8Array.from({ length: 900 }, (_, i) => (i * 97) % 251), /not an STL/],
    ['cut short', writeStl(plate).slice(0, 84 + 50 * 7 + 13), /cut short.*12 triangles.*7/],
    ['ASCII cut short', ascii(plate).slice(0, 700), /cut short|no triangles/],
    ['no triangles', new Uint8Array(84), /no triangles/],
    ['ASCII without facets', bytes('solid nothing\nendsolid nothing\n'), /no triangles/],
    ['not a number', ascii(mapVertices(plate, ([x, y, z]) => [x > 0.03 ? NaN : x, y, z])), /not a number/],
  ])('%s: says what is wrong', (_name, file, message) => {
    expect(() => readStl(file)).toThrow(message);
  });
});

describe('checking', () => {
  const without = (mesh: TriangleMesh, n: number): TriangleMesh => ({
    ...mesh,
    triangles: mesh.triangles.slice(3 * n),
  });
  const codes = (mesh: TriangleMesh) => importPart(writeStl(mesh)).findings.map((f) => f.code);

  it('a hole', () => expect(codes(without(plate, 1))).toContain('open'));
  it('one flipped face', () => {
    const triangles = plate.triangles.slice();
    [triangles[0], triangles[1]] = [triangles[1], triangles[0]];
    expect(codes({ ...plate, triangles })).toContain('misoriented');
  });
  it('a part turned inside out is turned back', () => {
    const { mesh, findings } = importPart(writeStl(flipped(plate)));
    expect(findings.map((f) => [f.code, f.severity])).toEqual([['inside-out', 'cosmetic']]);
    expect(measure(mesh).volume).toBeGreaterThan(0);
  });
  it('a sheet without volume', () => {
    const sheet = mapVertices(plate, ([x, y]) => [x, y, 0]);
    expect(importPart(writeStl(sheet)).findings.some((f) => f.severity === 'blocks')).toBe(true);
  });
  it('collapsed triangles are left out and counted', () => {
    const triangles = Uint32Array.from([...plate.triangles, 0, 0, 1]);
    expect(codes({ ...plate, triangles })).toEqual(['degenerate']);
  });
});

describe('storing', () => {
  it('a mesh comes back as it was', () => {
    const mesh = disc(0.03, 0.002, 20);
    expect(unpackMesh(packMesh(mesh))).toEqual(mesh);
    // A small Buffer is a piece of a shared pool, at any address.
    expect(unpackMesh(Buffer.concat([Buffer.alloc(3), packMesh(mesh)]).subarray(3))).toEqual(mesh);
  });

  it('a part written in its own unit and read again has the same numbers', () => {
    const first = inMetres(importPart(writeStl(disc(0.03, 0.002, 20))).mesh, 'mm');
    const again = inMetres(importPart(writeStl(first)).mesh, 'mm');
    expect(again).toEqual(first);
  });
});
