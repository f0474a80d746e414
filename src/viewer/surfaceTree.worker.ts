import * as THREE from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import type { TreeTask } from './surfaceGeometry';

/** The tree over a surface's triangles, in the form that another thread takes it up in. */
self.onmessage = ({ data: { positions, triangles } }: MessageEvent<TreeTask>) => {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  geometry.setIndex(new THREE.BufferAttribute(triangles, 1));
  const { roots, indirectBuffer } = MeshBVH.serialize(new MeshBVH(geometry, { indirect: true }), {
    cloneBuffers: false,
  });
  self.postMessage(
    { roots, indirectBuffer },
    { transfer: [...roots, ...(indirectBuffer ? [indirectBuffer.buffer] : [])] },
  );
};
