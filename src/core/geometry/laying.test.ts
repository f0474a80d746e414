import { describe, expect, it } from 'vitest';
import { box } from '../../../verification/shapes';
import { openBox, TURNS } from '../../../verification/solids';
import { apartFrom, layOnto, surfacePoints } from './laying';
import { mapVertices, measure, type TriangleMesh, type Vec3 } from './mesh';
import { placed } from './placement';
import { refine } from './refine';
import { joined } from './shells';
import { SurfaceTree } from './surfaceTree';
import { distance } from './vec';

const tray = openBox(0.06, 0.04, 0.015, 0.002);
/** A boss that stands on the floor, off every plane of symmetry. */
const boss = mapVertices(box(0.006, 0.006, 0.01), ([x, y, z]) => [x + 0.012, y + 0.008, z + 0.006]);
const withBoss = joined([tray, boss]);

const farthest = (mesh: TriangleMesh, matrix: readonly number[], want: (v: Vec3) => Vec3): number =>
  Math.max(...surfacePoints(mesh, 200).map((p) => distance(placed(matrix, p), want(p))));

describe('laying a part onto another', () => {
  it.each(Object.entries(TURNS))('brings a part that was turned and moved back, %s', (_name, turn) => {
    const moved = (v: Vec3): Vec3 => turn(v).map((x, d) => x + [0.03, -0.05, 0.011][d]) as Vec3;
    const { matrix, distance: apart } = layOnto(withBoss, mapVertices(withBoss, moved));
    expect(apart).toBeLessThan(1e-6);
    expect(farthest(withBoss, matrix, moved)).toBeLessThan(1e-5);
  });

  it('leaves a part that lies as drawn where it lies, whatever was added to it', () => {
    const { matrix } = layOnto(tray, withBoss);
    expect(farthest(tray, matrix, (v) => v)).toBe(0);
    const back = layOnto(withBoss, tray);
    expect(farthest(withBoss, back.matrix, (v) => v)).toBe(0);
  });

  it.each(Object.entries(TURNS))('of a part that fits several ways round goes by its gates, %s', (name, turn) => {
    const gates: Vec3[] = [[0.02, -0.01, 0]];
    const across: Vec3[] = [[-0.02, 0.01, 0]];
    // Where a part lies as drawn a gate elsewhere is a gate that was moved.
    for (const onto of name === 'as drawn' ? [gates] : [gates, across]) {
      const { matrix } = layOnto(tray, mapVertices(tray, turn), { from: gates, onto: onto.map(turn) });
      expect(distance(placed(matrix, gates[0]), turn(onto[0]))).toBeLessThan(1e-4);
    }
  });

  it('without gates turns it as little as it has to', () => {
    const [c, s] = [Math.cos(0.4), Math.sin(0.4)];
    const turn = ([x, y, z]: Vec3): Vec3 => [c * x - s * y, s * x + c * y, z];
    expect(farthest(tray, layOnto(tray, mapVertices(tray, turn)).matrix, turn)).toBeLessThan(1e-4);
  });

  it('is not pulled aside by what was added', () => {
    const turn = TURNS['turned 30° about x, then 17° about z'];
    const { matrix } = layOnto(tray, mapVertices(withBoss, turn));
    // The bare tray fits two ways round: what counts is that all of it lies on the other's walls.
    const walls = new SurfaceTree(mapVertices(tray, turn));
    for (const p of surfacePoints(tray, 200)) {
      walls.closest(...placed(matrix, p));
      expect(walls.distance).toBeLessThan(1e-4);
    }
  });

  it.each(Object.entries(TURNS))('tells what stands outside the other and what lies inside it, %s', (_name, turn) => {
    const fine = mapVertices(refine(boss, 0.002), turn);
    const other = new SurfaceTree(mapVertices(tray, turn));
    const { outside, inside } = apartFrom(fine, other, [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], 1.1e-3);
    expect(outside.length).toBeGreaterThan(20);
    expect(inside).toHaveLength(0);
    // The other way round: a core smaller than the block lies inside it all over.
    const block = new SurfaceTree(mapVertices(box(0.02, 0.02, 0.02), turn));
    const core = mapVertices(refine(box(0.01, 0.01, 0.01), 0.004), (v) => turn([v[0] + 0.005, v[1], v[2]]));
    const found = apartFrom(core, block, [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0], 1e-3);
    expect(found.outside).toHaveLength(0);
    expect(found.inside).toHaveLength(core.triangles.length / 3);
  });

  it('spreads points by area', () => {
    const points = surfacePoints(box(0.1, 0.02, 0.01), 4000);
    expect(points.length).toBeGreaterThan(3980);
    const height = Math.max(...points.map((p) => p[2]));
    const top = points.filter((p) => Math.abs(p[2] - height) < 1e-12).length;
    const { area } = measure(box(0.1, 0.02, 0.01));
    expect(top / points.length).toBeCloseTo((0.1 * 0.02) / area, 2);
  });
});
