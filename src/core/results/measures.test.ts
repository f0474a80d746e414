import { describe, expect, it } from 'vitest';
import { box, disc } from '../../../verification/shapes';
import { prismOf, TURNS } from '../../../verification/solids';
import { mapVertices, type TriangleMesh, type Vec3 } from '../geometry/mesh';
import { refine } from '../geometry/refine';
import type { Measure } from '../model/warpage';
import { carriedOver } from './compareShapes';
import { measured } from './measures';

const displaced = ({ positions }: TriangleMesh, of: (p: Vec3) => Vec3) => {
  const out = new Float64Array(positions.length);
  for (let v = 0; v < out.length; v += 3) out.set(of([positions[v], positions[v + 1], positions[v + 2]]), v);
  return out;
};
const ask = (kind: Measure['kind'], ...places: Vec3[]): Measure => ({ id: 'M1', kind, places, tolerance: null });

// 80 x 50 x 20 mm; along x and y from 0 and -25, z from -10.
const block = refine(box(0.08, 0.05, 0.02), 0.005);

describe('measures before and after', () => {
  it('a distance between two places', () => {
    const stretched = displaced(block, ([x]) => [0.01 * x, 0, 0]);
    const [low, high] = [0, 1].map((k) => [0, 1, 2].map((d) => extreme(block, d, k)) as Vec3);
    const found = measured(block, stretched, ask('distance', [low[0], low[1], low[2]], [high[0], low[1], low[2]]))!;
    expect(found.before).toBeCloseTo(0.08, 9);
    expect(found.after).toBeCloseTo(0.0808, 9);
    expect(found.error).toBeCloseTo(0.0008, 9);
  });

  it('flatness of a face that has become a cap', () => {
    const top = extreme(block, 2, 1);
    const middle = (extreme(block, 0, 0) + extreme(block, 0, 1)) / 2;
    const cap = displaced(block, ([x]) => [0, 0, 0.2 * (x - middle) ** 2]);
    const found = measured(block, cap, ask('flatness', [middle, 0, top]))!;
    expect(found.before).toBeLessThan(1e-12);
    // The plane leans a little towards where the vertices lie closer.
    expect(found.after / (0.2 * 0.04 ** 2)).toBeCloseTo(1, 1);
    // Leaning makes no face uneven.
    const leant = displaced(block, ([x]) => [0, 0, 0.01 * x]);
    expect(measured(block, leant, ask('flatness', [middle, 0, top]))!.after).toBeLessThan(1e-12);
  });

  it('flatness of the plane between rounded ends, none of a round face', () => {
    // A stadium: each of its planes is a fourteenth of what smooth edges reach.
    const outline = Array.from({ length: 64 }, (_, k): [number, number] => {
      const angle = (2 * Math.PI * (k + 0.5)) / 64;
      return [0.02 * Math.cos(angle) + 0.004 * Math.sign(Math.cos(angle)), 0.02 * Math.sin(angle)];
    });
    const rounded = refine(prismOf(outline, 0.01), 0.004);
    const still = displaced(rounded, () => [0, 0, 0]);
    const flat = measured(rounded, still, ask('flatness', [0, 0, 0.02]));
    expect(flat?.after).toBeLessThan(1e-9);
    expect(measured(rounded, still, ask('flatness', [0.024, 0, 0]))).toBeNull();
    expect(measured(rounded, still, ask('roundness', [0.024, 0, 0]))).not.toBeNull();
  });

  it('the angle of a corner that closes by one degree', () => {
    const [x1, z0] = [extreme(block, 0, 1), extreme(block, 2, 0)];
    const lean = Math.tan(Math.PI / 180);
    const closed = displaced(block, ([, , z]) => [-lean * (z - z0), 0, 0]);
    const found = measured(block, closed, ask('angle', [x1, 0, 0], [x1 / 2, 0, z0]))!;
    expect((found.before * 180) / Math.PI).toBeCloseTo(90, 6);
    expect((found.after * 180) / Math.PI).toBeCloseTo(89, 6);
  });

  it('roundness of a rim that has become oval, in any orientation', () => {
    for (const turn of Object.values(TURNS)) {
      const drawn = refine(disc(0.02, 0.01, 96), 0.004);
      const oval = displaced(drawn, ([x]) => [0.005 * x, 0, 0]);
      const turned = mapVertices(drawn, turn);
      const offset = new Float64Array(oval.length);
      for (let v = 0; v < oval.length; v += 3) offset.set(turn([oval[v], oval[v + 1], oval[v + 2]]), v);
      const found = measured(turned, offset, ask('roundness', turn([0.02, 0, 0])))!;
      // What the facets' chords leave.
      expect(found.before).toBeLessThan(1.2e-5);
      expect(Math.abs(found.after - 0.005 * 0.02)).toBeLessThan(1.2e-5);
      // A flat face has none.
      expect(measured(turned, offset, ask('roundness', turn([0.005, 0, 0.005])))).toBeNull();
    }
  });

  it('the deviation of a face counts that face alone', () => {
    const [x0, x1] = [extreme(block, 0, 0), extreme(block, 0, 1)];
    const bent = displaced(block, ([x]) => [x === x1 ? 3e-4 : 0, 0, 0]);
    expect(measured(block, bent, ask('face', [x1, 0, 0]))!.error).toBeCloseTo(3e-4, 9);
    expect(measured(block, bent, ask('face', [x0, 0, 0]))!.error).toBeLessThan(1e-12);
  });

  it('says nothing of places that are no longer there', () => {
    expect(
      measured(
        block,
        displaced(block, () => [0, 0, 0]),
        ask('flatness', [1, 1, 1]),
      ),
    ).toBeNull();
  });
});

describe('comparing two runs of a part', () => {
  it('reads one surface at the vertices of another, whatever their triangles', () => {
    const bend = (p: Vec3): Vec3 => [0.01 * p[2], 0.02 * p[0], 0.3 * p[0] * p[1]];
    const coarse = refine(box(0.08, 0.05, 0.02), 0.012);
    const carried = carriedOver(block, displaced(block, bend), coarse, 1e-4);
    const own = displaced(coarse, bend);
    // Linear parts are met; what is curved within a triangle of 5 mm by a hundredth of the whole.
    for (let k = 0; k < own.length; k++) expect(Math.abs(carried[k] - own[k])).toBeLessThan(5e-6);
  });

  it('says nothing where the other part is not', () => {
    const longer = refine(box(0.1, 0.05, 0.02), 0.01);
    const carried = carriedOver(
      block,
      displaced(block, () => [1, 1, 1]),
      longer,
      1e-3,
    );
    for (let v = 0; v < carried.length; v += 3) {
      const beyond = longer.positions[v] > extreme(block, 0, 1) + 1.1e-3;
      expect(Number.isNaN(carried[v])).toBe(beyond);
    }
  });
});

function extreme({ positions }: TriangleMesh, d: number, end: number): number {
  const along = Array.from({ length: positions.length / 3 }, (_, v) => positions[3 * v + d]);
  return end ? Math.max(...along) : Math.min(...along);
}
