import { useThree } from '@react-three/fiber';
import { useEffect, useMemo, useReducer } from 'react';
import * as THREE from 'three';
import { MeshBVH, type SerializedBVH } from 'three-mesh-bvh';
import { NO_VALUE } from './results';

export interface DrawMesh {
  /** m, 3 per vertex */
  positions: ArrayLike<number>;
  triangles: Uint32Array;
}

/** What the worker gets: mm, 3 a vertex; corners, 3 a triangle. */
export interface TreeTask {
  positions: Float32Array;
  triangles: Uint32Array;
}

/** The tree of a surface of more triangles is made by a thread of its own: a page must not stand still so long. */
const LARGE = 60_000;

/** What a mesh is drawn and picked with, made once however often and wherever it is drawn. */
interface Made {
  /** mm */
  positions: Float32Array;
  box: THREE.Box3;
  sphere: THREE.Sphere;
  tree: MeshBVH | null;
  /** Told once the tree is there. */
  waiting: Set<(tree: MeshBVH) => void>;
}

const kept = new WeakMap<DrawMesh, Made>();

function madeOf(mesh: DrawMesh): Made {
  const known = kept.get(mesh);
  if (known) return known;
  const positions = Float32Array.from(mesh.positions);
  for (let k = 0; k < positions.length; k++) positions[k] = 1000 * mesh.positions[k];
  const plain = new THREE.BufferGeometry();
  plain.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  plain.setIndex(new THREE.BufferAttribute(mesh.triangles, 1));
  plain.computeBoundingBox();
  plain.computeBoundingSphere();
  const made: Made = {
    positions,
    box: plain.boundingBox!,
    sphere: plain.boundingSphere!,
    tree: null,
    waiting: new Set(),
  };
  kept.set(mesh, made);
  if (mesh.triangles.length / 3 < LARGE || typeof Worker === 'undefined') {
    // Beside the triangles and not in their place: they are those of the mesh and of all that is drawn of it.
    made.tree = new MeshBVH(plain, { indirect: true });
    return made;
  }
  const worker = new Worker(new URL('./surfaceTree.worker.ts', import.meta.url), { type: 'module' });
  worker.onmessage = ({ data }: MessageEvent<Pick<SerializedBVH, 'roots' | 'indirectBuffer'>>) => {
    worker.terminate();
    const tree = MeshBVH.deserialize({ version: 1, index: null, ...data } as SerializedBVH, plain, { setIndex: false });
    made.tree = tree;
    for (const tell of made.waiting) tell(tree);
    made.waiting.clear();
  };
  const task: TreeTask = { positions: positions.slice(), triangles: mesh.triangles.slice() };
  worker.postMessage(task, [task.positions.buffer, task.triangles.buffer]);
  return made;
}

/** Tells of the tree of a mesh, now or once it is there; the returned function ends the waiting. */
export function whenTreeIsThere(mesh: DrawMesh, tell: (tree: MeshBVH) => void): () => void {
  const { tree, waiting } = madeOf(mesh);
  if (tree) tell(tree);
  else waiting.add(tell);
  return () => void waiting.delete(tell);
}

/** Buffer geometry of a mesh, mm; its tree for picking is there at once, or for a large one somewhat later. */
export function geometryOf(mesh: DrawMesh): THREE.BufferGeometry {
  const { positions, box, sphere, tree } = madeOf(mesh);
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  geometry.setIndex(new THREE.BufferAttribute(mesh.triangles, 1));
  const n = positions.length / 3;
  geometry.setAttribute('aOffset', new THREE.BufferAttribute(new Float32Array(3 * n), 3));
  geometry.setAttribute('aTime', new THREE.BufferAttribute(new Float32Array(n).fill(NO_VALUE), 1));
  geometry.boundingBox = box.clone();
  geometry.boundingSphere = sphere.clone();
  geometry.boundsTree = tree ?? undefined;
  return geometry;
}

/** The same, for as long as it is drawn; drawn anew once its tree is there. */
export function useGeometryOf(mesh: DrawMesh): THREE.BufferGeometry;
export function useGeometryOf(mesh: DrawMesh | null): THREE.BufferGeometry | null;
export function useGeometryOf(mesh: DrawMesh | null): THREE.BufferGeometry | null {
  const invalidate = useThree((s) => s.invalidate);
  const [, drawAnew] = useReducer((times: number) => times + 1, 0);
  const geometry = useMemo(() => mesh && geometryOf(mesh), [mesh]);
  useEffect(() => {
    if (!mesh || !geometry) return;
    const end = whenTreeIsThere(mesh, (tree) => {
      if (geometry.boundsTree === tree) return;
      geometry.boundsTree = tree;
      drawAnew();
      invalidate();
    });
    return () => {
      end();
      geometry.dispose();
    };
  }, [mesh, geometry, invalidate]);
  return geometry;
}
