import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { Head } from './frames';
import type { TracerPaths } from './tracers';
import { useHead } from './useFrames';

/** Vectors at points of the surface; positions in mm. */
export interface VectorSet {
  /** Arrows point; bars have no head, and their middle on the point. */
  as: 'arrow' | 'bar';
  positions: Float32Array;
  /** Outward normals of the surface: a vector lies on it, not in it. */
  normals: Float32Array;
  vectors: Float32Array;
  /** Length of the vectors that are drawn at full length. */
  scale: number;
}

/** Thickness over full length. */
const THICK = { arrow: 0.26, bar: 0.08 };

function shaftOf(as: VectorSet['as']): THREE.BufferGeometry {
  if (as === 'bar') return new THREE.BoxGeometry(THICK.bar, 1, THICK.bar);
  const cone = new THREE.ConeGeometry(THICK.arrow / 2, 1, 8);
  cone.translate(0, 0.5, 0);
  return cone;
}

/** Slender arrows, their length by the square root of the vector so that slow melt is still seen; or bars as long as it. */
export function Vectors({
  set,
  length,
  colour,
  plane,
}: {
  set: VectorSet;
  length: number;
  colour: string;
  /** What lies beyond it is cut away; null: nothing is. */
  plane: THREE.Vector4 | null;
}) {
  const invalidate = useThree((s) => s.invalidate);
  const mesh = useMemo(() => {
    const n = set.positions.length / 3;
    const made = new THREE.InstancedMesh(shaftOf(set.as), new THREE.MeshBasicMaterial({ color: colour }), n);
    made.renderOrder = 7;
    made.raycast = () => {};
    return made;
  }, [set.as, set.positions, colour]);
  useEffect(() => {
    const up = new THREE.Vector3(0, 1, 0);
    const turn = new THREE.Quaternion();
    const at = new THREE.Vector3();
    const v = new THREE.Vector3();
    const matrix = new THREE.Matrix4();
    for (let i = 0; i < mesh.count; i++) {
      at.fromArray(set.positions, 3 * i).addScaledVector(v.fromArray(set.normals, 3 * i), 0.12 * length);
      v.fromArray(set.vectors, 3 * i);
      const value = v.length();
      const share = Math.min(1, value / set.scale);
      const size = length * (set.as === 'bar' ? share : Math.sqrt(share));
      turn.setFromUnitVectors(up, value > 0 ? v.divideScalar(value) : up);
      matrix.compose(at, turn, new THREE.Vector3(length, Math.max(size, 1e-6), length));
      const away = plane !== null && plane.x * at.x + plane.y * at.y + plane.z * at.z + plane.w > 0;
      mesh.setMatrixAt(i, size > 0.04 * length && !away ? matrix : matrix.makeScale(0, 0, 0));
    }
    mesh.instanceMatrix.needsUpdate = true;
    invalidate();
  }, [mesh, set, length, plane, invalidate]);
  useEffect(
    () => () => {
      mesh.geometry.dispose();
      (mesh.material as THREE.Material).dispose();
      mesh.dispose();
    },
    [mesh],
  );
  return <primitive object={mesh} />;
}

/** Particles of the melt where they are at the play head, in the colour of their gate. */
export function Tracers({
  paths,
  head,
  size,
  colours,
  plane,
}: {
  paths: TracerPaths;
  head: Head;
  size: number;
  colours: string[];
  /** What lies beyond it is cut away; null: nothing is. */
  plane: THREE.Vector4 | null;
}) {
  const mesh = useMemo(() => {
    const made = new THREE.InstancedMesh(
      new THREE.SphereGeometry(1, 10, 8),
      new THREE.MeshBasicMaterial({ depthTest: false, transparent: true, opacity: 0.92 }),
      paths.particles.length,
    );
    paths.particles.forEach((p, i) => made.setColorAt(i, new THREE.Color(colours[p.gate % colours.length])));
    made.renderOrder = 9;
    made.raycast = () => {};
    return made;
  }, [paths, colours]);
  const show = (time: number) => {
    const matrix = new THREE.Matrix4();
    paths.particles.forEach((p, i) => {
      const at = p.at(time)?.map((x) => 1000 * x);
      const stands = at && !(plane && plane.x * at[0] + plane.y * at[1] + plane.z * at[2] + plane.w > 0);
      if (stands) matrix.makeScale(size, size, size).setPosition(at[0], at[1], at[2]);
      else matrix.makeScale(0, 0, 0);
      mesh.setMatrixAt(i, matrix);
    });
    mesh.instanceMatrix.needsUpdate = true;
  };
  useHead(
    head,
    show,
    useMemo(() => [mesh, size, plane], [mesh, size, plane]),
  );
  useEffect(
    () => () => {
      mesh.geometry.dispose();
      (mesh.material as THREE.Material).dispose();
      mesh.dispose();
    },
    [mesh],
  );
  return <primitive object={mesh} />;
}
