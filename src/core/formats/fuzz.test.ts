import { describe, expect, it } from 'vitest';
import { box, disc } from '../../../verification/shapes';
import { random } from '../../../verification/random';
import { importPart } from '../pipeline/importPart';
import { FormatError, writeStl } from './stl';

/** A mutated file is either refused with a message and a remedy, or read and checked; nothing else. */
function survives(bytes: Uint8Array): 'read' | 'refused' {
  try {
    const { report, findings } = importPart(bytes);
    expect(Number.isFinite(report.volume) && Number.isFinite(report.area)).toBe(true);
    for (const f of findings) expect(f.message.length * f.remedy.length).toBeGreaterThan(0);
    return 'read';
  } catch (error) {
    expect(error).toBeInstanceOf(FormatError);
    expect((error as FormatError).remedy.length).toBeGreaterThan(10);
    return 'refused';
  }
}

const next = random(99);
const binary = writeStl(disc(0.02, 0.002, 24));
const words = new TextEncoder().encode(
  'solid a\n facet normal 0 0 1\n outer loop\n vertex 0 0 0\n vertex 10 0 0\n vertex 0 10 0\n endloop\n endfacet\nendsolid a\n',
);

describe('mutated files', () => {
  it.each([
    ['flipped bytes', (b: Uint8Array) => b.map((x) => (next() < 0.002 ? Math.floor(next() * 256) : x))],
    ['cut', (b: Uint8Array) => b.slice(0, Math.floor(next() * b.length))],
    [
      'a stretch left out',
      (b: Uint8Array) => {
        const at = Math.floor(next() * b.length);
        return Uint8Array.from([...b.slice(0, at), ...b.slice(at + Math.floor(next() * 200))]);
      },
    ],
    [
      'another triangle count',
      (b: Uint8Array) => {
        const copy = b.slice();
        if (copy.length > 84) new DataView(copy.buffer).setUint32(80, Math.floor(next() * 2 ** 32), true);
        return copy;
      },
    ],
  ])('%s', (_name, mutate) => {
    const outcomes = new Set<string>();
    for (let i = 0; i < 120; i++) outcomes.add(survives(mutate(i % 3 ? binary : words)));
    expect(outcomes.size).toBeGreaterThan(0);
  });

  it('sizes from a grain to a house', () => {
    for (const scale of [1e-9, 1e-3, 1, 1e6]) {
      const plate = box(0.05 * scale, 0.02 * scale, 0.002 * scale);
      expect(importPart(writeStl(plate)).report.watertight).toBe(true);
    }
  });
});
