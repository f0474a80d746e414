import * as THREE from 'three';
import type { MeshBVH } from 'three-mesh-bvh';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { DrawMesh, TreeTask } from './surfaceGeometry';
import { workerHere } from './testWorker';

/** A wavy sheet of 2 n² triangles over 1 m × 1 m. */
function sheet(n: number): DrawMesh {
  const positions = new Float64Array(3 * (n + 1) ** 2);
  const triangles: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) {
      const k = i + (n + 1) * j;
      positions.set([i / n, j / n, 0.1 * Math.sin((7 * i) / n) * Math.cos((5 * j) / n)], 3 * k);
      if (i < n && j < n) triangles.push(k, k + 1, k + n + 2, k, k + n + 2, k + n + 1);
    }
  return { positions, triangles: Uint32Array.from(triangles) };
}

const ray = new THREE.Ray(new THREE.Vector3(413, 287, 500), new THREE.Vector3(0, 0, -1));
const hit = (geometry: THREE.BufferGeometry) => (geometry.boundsTree as MeshBVH).raycastFirst(ray, THREE.DoubleSide)!;

afterEach(() => {
  vi.unstubAllGlobals();
  vi.resetModules();
});

describe('the geometry of a surface', () => {
  it('is in millimetres, shares what is made of the mesh and keeps the state of each view to itself', async () => {
    const { geometryOf } = await import('./surfaceGeometry');
    const mesh = sheet(20);
    const before = mesh.triangles.slice();
    const [a, b] = [geometryOf(mesh), geometryOf(mesh)];
    expect(a.boundingBox!.max.x).toBeCloseTo(1000, 3);
    expect(a.boundsTree).toBe(b.boundsTree);
    expect(a.getAttribute('position').array).toBe(b.getAttribute('position').array);
    (a.getAttribute('aTime') as THREE.BufferAttribute).setX(0, 3);
    expect(b.getAttribute('aTime').getX(0)).not.toBe(3);
    // A tree in place of the triangles would turn them about under every other view of the mesh.
    expect(mesh.triangles).toEqual(before);
    expect(hit(a).point.z).toBeCloseTo(100 * Math.sin(7 * 0.413) * Math.cos(5 * 0.287), -1);
  });

  it('of many triangles is picked once another thread has made its tree, where a tree made here picks it', async () => {
    const here = (await import('./surfaceGeometry')).geometryOf(sheet(180));
    vi.resetModules();
    const give = await workerHere<TreeTask, unknown>(() => import('./surfaceTree.worker'));
    const { geometryOf, whenTreeIsThere } = await import('./surfaceGeometry');
    const mesh = sheet(180);
    const geometry = geometryOf(mesh);
    expect(geometry.boundsTree).toBeUndefined();
    const told = vi.fn((tree: MeshBVH) => void (geometry.boundsTree = tree));
    const untold = vi.fn();
    whenTreeIsThere(mesh, told);
    whenTreeIsThere(mesh, untold)();
    give();
    expect(told).toHaveBeenCalledOnce();
    expect(untold).not.toHaveBeenCalled();
    expect(hit(geometry).faceIndex).toBe(hit(here).faceIndex);
    expect(hit(geometry).point.distanceTo(hit(here).point)).toBeLessThan(1e-9);
    // Whoever comes later has it at once.
    expect(geometryOf(mesh).boundsTree).toBe(geometry.boundsTree);
  });
});
