import { describe, expect, it } from 'vitest';
import { isSigned, shapeSaid } from './shapeSaid';
import type { ShapeLook } from './view';

const look: ShapeLook = {
  cause: 'all',
  along: 'total',
  align: 'best-fit',
  points: [],
  frame: 'drawing',
  against: null,
  body: 'shape',
  stressIn: 'plastic',
  scale: 1,
  moving: false,
};

describe('how a field of the shape is looked at', () => {
  it('says nothing of what is plain, and all that is not', () => {
    expect(shapeSaid('deviation', look)).toBe('');
    expect(shapeSaid('deviation', { ...look, cause: 'cooling', along: 'z', scale: 20 })).toBe(
      'uneven cooling, along z, drawn 20 ×',
    );
    expect(shapeSaid('deviation', { ...look, along: 'x', frame: 'points', align: 'three-points', scale: 0 })).toBe(
      'along x, axes by three points, laid on three points, drawn as the drawing',
    );
  });

  it('names a direction for what is read along one alone', () => {
    expect(shapeSaid('vonMises', { ...look, along: 'z' })).toBe('');
    expect(shapeSaid('stressAlong', { ...look, along: 'normal' })).toBe('square to the face');
  });

  it('has a zero in its middle where values have two signs', () => {
    expect(isSigned('deviation', { along: 'total' })).toBe(false);
    expect(isSigned('deviation', { along: 'normal' })).toBe(true);
    expect(isSigned('stressAlong', { along: 'total' })).toBe(true);
    expect(isSigned('vonMises', { along: 'z' })).toBe(false);
  });
});
