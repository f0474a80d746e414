import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { leftStanding, type FindingMarks } from './FindingsLayer';

const marks: FindingMarks = {
  curves: [
    {
      id: 'W1',
      label: 'W1',
      points: [
        [-3, 0, 0],
        [-2, 0, 0],
        [1, 0, 0],
        [-1, 5, 0],
        [-2, 5, 0],
      ],
    },
    {
      id: 'W2',
      label: 'W2',
      points: [
        [2, 0, 0],
        [3, 0, 0],
      ],
    },
  ],
  places: [
    { id: 'A1', position: [-1, 0, 0], label: 'A1', kind: 'air' },
    { id: 'A2', position: [0, 0, 0], label: 'A2', kind: 'air' },
    { id: 'H1', position: [1, 0, 0], label: 'H1', kind: 'slow' },
  ],
};

describe('marks on a part that is cut', () => {
  it('are all there without a section', () => expect(leftStanding(marks, null)).toEqual(marks));

  it('stay where the part stays, lines in pieces, and on the plane itself', () => {
    const { curves, places } = leftStanding(marks, new THREE.Vector4(1, 0, 0, 0));
    expect(places.map((p) => p.id)).toEqual(['A1', 'A2']);
    expect(curves.map((c) => [c.id, c.points.length])).toEqual([
      ['W1', 2],
      ['W1 1', 2],
    ]);
    expect(new Set(curves.map((c) => c.label))).toEqual(new Set(['W1']));
  });
});
