import { MeshoptSimplifier } from 'meshoptimizer';
import * as THREE from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { describe, expect, it } from 'vitest';
import { fineTriangles, hasMoved, withCoarse } from './coarse';

/** A ball of many triangles. */
function ball() {
  const geometry = new THREE.IcosahedronGeometry(10, 40);
  const welded = new THREE.BufferGeometry();
  const key = new Map<string, number>();
  const positions: number[] = [];
  const index: number[] = [];
  const p = geometry.getAttribute('position');
  for (let k = 0; k < p.count; k++) {
    const at = [p.getX(k), p.getY(k), p.getZ(k)];
    const name = at.map((x) => x.toFixed(4)).join();
    if (!key.has(name)) {
      key.set(name, positions.length / 3);
      positions.push(...at);
    }
    index.push(key.get(name)!);
  }
  welded.setAttribute('position', new THREE.BufferAttribute(Float32Array.from(positions), 3));
  welded.setIndex(new THREE.BufferAttribute(Uint32Array.from(index), 1));
  return welded;
}

describe('a large surface while the eye moves', () => {
  it('has fewer triangles on the same vertices, near the surface, and is picked on the fine one', async () => {
    await MeshoptSimplifier.ready;
    const geometry = ball();
    const bvh = new MeshBVH(geometry);
    const fine = geometry.index!.count;
    const ray = new THREE.Ray(new THREE.Vector3(1, 2, 50), new THREE.Vector3(0, 0, -1));
    const before = bvh.raycastFirst(ray);
    const positions = geometry.getAttribute('position').array as Float32Array;
    const [coarse, error] = MeshoptSimplifier.simplify(
      (geometry.index!.array as Uint32Array).slice(),
      positions,
      3,
      fine / 4,
      1e-2,
    );
    expect(error).toBeLessThan(1e-2);
    expect(coarse.length).toBeLessThan(fine / 3);
    const sizes = withCoarse(geometry, coarse);
    expect(sizes).toEqual({ fine, coarse: coarse.length });
    const own = geometry.index!.array;
    expect(geometry.index!.count).toBe(fine + coarse.length);
    geometry.setDrawRange(fine, coarse.length);
    expect(fineTriangles(geometry)).toEqual(own.slice(0, fine));
    geometry.setDrawRange(0, fine);
    expect(geometry.drawRange).toMatchObject({ start: 0, count: fine });
    // Where the ray met the fine surface it still meets it.
    const after = bvh.raycastFirst(ray);
    expect(after!.faceIndex).toBe(before!.faceIndex);
    expect(after!.distance).toBeCloseTo(before!.distance, 9);
  });

  it('the eye has moved when it stands elsewhere, or looks elsewhere, than at the frame before', () => {
    const camera = new THREE.PerspectiveCamera();
    const kept = new THREE.Matrix4();
    const look = (x: number) => {
      camera.position.set(x, 0, 10);
      camera.updateMatrixWorld();
      return hasMoved(camera, kept);
    };
    expect([look(1), look(1), look(2), look(2)]).toEqual([true, false, true, false]);
  });
});
