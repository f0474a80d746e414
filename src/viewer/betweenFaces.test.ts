import * as THREE from 'three';
import type { MeshBVH } from 'three-mesh-bvh';
import { describe, expect, it } from 'vitest';
import { openBox, TURNS } from '../../verification/solids';
import { mapVertices } from '../core/geometry/mesh';
import { betweenFaces, readBetween } from './betweenFaces';
import { NO_VALUE } from './results';
import { geometryOf } from './surfaceGeometry';

type Place = [number, number, number];
/** Inside walls and floor of the box, and outside of it; m. */
const INSIDE: Place[] = [
  [0.012, 0.007, 0.0013],
  [0.0294, 0.003, 0.012],
  [-0.011, -0.0191, 0.008],
  [0.0005, -0.0002, 0.0001],
];
const OUTSIDE: Place = [0.012, 0.007, -0.004];
/** Linear in place, mm. */
const linear = (x: number, y: number, z: number) => 3 + 0.2 * x - 0.5 * y + 0.8 * z;

describe('what is read across a wall', () => {
  it.each(Object.entries(TURNS))('is exact for what is linear, %s', (_name, turn) => {
    const solid = mapVertices(openBox(0.06, 0.04, 0.02, 0.002), turn);
    const geometry = geometryOf(solid);
    const corners = geometry.getAttribute('position');
    const values = new Float32Array(2 * corners.count);
    for (let v = 0; v < corners.count; v++) {
      values[2 * v] = linear(corners.getX(v), corners.getY(v), corners.getZ(v));
      values[2 * v + 1] = -2 * values[2 * v];
    }
    const places = [...INSIDE, OUTSIDE].map((p) => turn(p).map((x) => 1000 * x) as Place);
    const points = new THREE.BufferAttribute(Float32Array.from(places.flat()), 3);
    const map = betweenFaces(points, geometry, geometry.boundsTree as MeshBVH);
    const read = readBetween(map, values, 2);
    INSIDE.forEach((_, k) => {
      expect(read[2 * k]).toBeCloseTo(linear(...places[k]), 3);
      expect(read[2 * k + 1]).toBeCloseTo(-2 * linear(...places[k]), 3);
    });
    // Below the floor: what the floor has there.
    const floor = turn([OUTSIDE[0], OUTSIDE[1], 0]).map((x) => 1000 * x) as Place;
    expect(read[2 * INSIDE.length]).toBeCloseTo(linear(...floor), 3);
    for (let k = 0; k < places.length; k++)
      expect(map.weights.slice(6 * k, 6 * k + 6).reduce((s, w) => s + w, 0)).toBeCloseTo(1, 5);
  });

  it('is nothing where a corner has none', () => {
    const map = { vertices: Uint32Array.of(0, 1, 2, 3, 3, 3), weights: Float32Array.of(0.2, 0.3, 0.5, 0, 0, 0) };
    expect(readBetween(map, Float32Array.of(1, 2, 3, NaN))[0]).toBeCloseTo(2.3, 6);
    for (const none of [NaN, NO_VALUE])
      expect(readBetween(map, Float32Array.of(1, none, 3, 0))[0]).toBeCloseTo(NO_VALUE, -25);
  });
});
