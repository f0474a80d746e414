import * as THREE from 'three';
import type { MeshBVH } from 'three-mesh-bvh';
import { NO_VALUE } from './results';

/** Corners of the triangles on either face of a wall that a point between them is read from, and their weights. */
export interface BetweenFaces {
  /** 6 a point: 3 of the nearest face, 3 of the one opposite. */
  vertices: Uint32Array;
  /** The same; they add up to 1. */
  weights: Float32Array;
}

/**
 * How points in a body [mm] are read from values at the vertices of its surface: straight from face to face, so exact
 * for what is linear through the wall. Points outside take what the nearest place has.
 */
export function betweenFaces(
  points: THREE.BufferAttribute,
  surface: THREE.BufferGeometry,
  tree: MeshBVH,
): BetweenFaces {
  const n = points.count;
  const map: BetweenFaces = { vertices: new Uint32Array(6 * n), weights: new Float32Array(6 * n) };
  const index = surface.index as THREE.BufferAttribute;
  const corners = surface.getAttribute('position') as THREE.BufferAttribute;
  const [triangle, weights] = [new THREE.Triangle(), new THREE.Vector3()];
  const [p, normal] = [new THREE.Vector3(), new THREE.Vector3()];
  const near = { point: new THREE.Vector3(), distance: 0, faceIndex: 0 };
  const ray = new THREE.Ray();
  const put = (at: number, face: number, place: THREE.Vector3, share: number) => {
    const vertices = [0, 1, 2].map((k) => index.getX(3 * face + k));
    triangle.setFromAttributeAndIndices(corners, vertices[0], vertices[1], vertices[2]);
    // A sliver has no inside: any of its corners will do.
    if (!triangle.getBarycoord(place, weights)) weights.set(1, 0, 0);
    vertices.forEach((v, k) => {
      map.vertices[at + k] = v;
      map.weights[at + k] = share * weights.getComponent(k);
    });
    triangle.getNormal(normal);
  };
  for (let k = 0; k < n; k++) {
    p.fromBufferAttribute(points, k);
    if (!tree.closestPointToPoint(p, near)) continue;
    put(6 * k, near.faceIndex, near.point, 1);
    const outwards = ray.direction.copy(p).sub(near.point).dot(normal);
    if (outwards > 0) continue;
    ray.origin.copy(p);
    ray.direction.copy(normal).negate();
    const far = tree.raycastFirst(ray, THREE.DoubleSide);
    if (far?.faceIndex == null || !(near.distance + far.distance > 0)) continue;
    const share = near.distance / (near.distance + far.distance);
    for (let c = 0; c < 3; c++) map.weights[6 * k + c] *= 1 - share;
    put(6 * k + 3, far.faceIndex, far.point, share);
  }
  return map;
}

/** Values at the points, of `components` numbers a vertex; what has no value at a corner has none at the point. */
export function readBetween({ vertices, weights }: BetweenFaces, values: Float32Array, components = 1): Float32Array {
  const n = weights.length / 6;
  const out = new Float32Array(components * n);
  for (let k = 0; k < n; k++)
    for (let c = 0; c < components; c++) {
      let sum = 0;
      for (let m = 6 * k; m < 6 * k + 6; m++) {
        const v = values[components * vertices[m] + c];
        if (!weights[m]) continue;
        if (!(v < NO_VALUE / 2)) {
          sum = NO_VALUE;
          break;
        }
        sum += weights[m] * v;
      }
      out[components * k + c] = sum;
    }
  return out;
}
