import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { Overlays } from './fieldView';
import type { DrawMesh } from './surfaceGeometry';
import { reachAlong } from './section';

/** The part as glass: its shape stays, what lies behind it is seen. */
export function Ghost({ geometry, colour }: { geometry: THREE.BufferGeometry; colour: string }) {
  return (
    <mesh geometry={geometry} renderOrder={3} raycast={() => null}>
      <meshBasicMaterial color={colour} transparent opacity={0.34} depthWrite={false} />
    </mesh>
  );
}

/** Painted places: flat balls, one instance each. */
export function Patches({ patches, colour }: { patches: Overlays['patches']; colour: string }) {
  const invalidate = useThree((s) => s.invalidate);
  const mesh = useMemo(() => {
    const made = new THREE.InstancedMesh(
      new THREE.SphereGeometry(1, 16, 12),
      new THREE.MeshBasicMaterial({ color: colour, transparent: true, opacity: 0.4, depthWrite: false }),
      patches.length,
    );
    const matrix = new THREE.Matrix4();
    patches.forEach((p, i) => {
      matrix.makeScale(p.radius, p.radius, p.radius).setPosition(...p.position);
      made.setMatrixAt(i, matrix);
    });
    made.renderOrder = 6;
    made.raycast = () => {};
    return made;
  }, [patches, colour]);
  useEffect(() => {
    invalidate();
    return () => mesh.dispose();
  }, [mesh, invalidate]);
  return <primitive object={mesh} />;
}

/** Soft edges where neighbouring faces meet at more than 28 degrees. */
export function Creases({ mesh, colour, plane }: { mesh: DrawMesh; colour: string; plane: THREE.Vector4 | null }) {
  const geometry = useMemo(() => {
    const plain = new THREE.BufferGeometry();
    plain.setAttribute(
      'position',
      new THREE.BufferAttribute(
        Float32Array.from(mesh.positions, (x) => 1000 * x),
        3,
      ),
    );
    plain.setIndex(new THREE.BufferAttribute(mesh.triangles.slice(), 1));
    return new THREE.EdgesGeometry(plain, 28);
  }, [mesh]);
  const clip = useMemo(
    () => (plane ? [new THREE.Plane(new THREE.Vector3(-plane.x, -plane.y, -plane.z), -plane.w)] : []),
    [plane],
  );
  const renderer = useThree((s) => s.gl);
  useEffect(() => {
    renderer.localClippingEnabled = true;
  }, [renderer]);
  return (
    <lineSegments geometry={geometry} renderOrder={4} raycast={() => null}>
      <lineBasicMaterial color={colour} transparent opacity={0.5} clippingPlanes={clip} depthTest />
    </lineSegments>
  );
}

/** Height along the opening direction, mm, and that direction, of length 1. */
export interface PartingMark {
  height: number;
  opening: readonly [number, number, number];
}

/** The parting plane, square to the way that the tool opens, as a pale sheet with a rim, somewhat larger than the part. */
export function PartingPlane({
  box,
  plane: { height, opening },
  colour,
}: {
  box: THREE.Box3;
  plane: PartingMark;
  colour: string;
}) {
  const way = useMemo(() => new THREE.Vector3(...opening), [opening]);
  const turn = useMemo(() => new THREE.Quaternion().setFromUnitVectors(new THREE.Vector3(0, 0, 1), way), [way]);
  const centre = box.getCenter(new THREE.Vector3());
  const across = (axis: THREE.Vector3) => 2 * reachAlong(box, axis.applyQuaternion(turn));
  const size = { x: across(new THREE.Vector3(1, 0, 0)), y: across(new THREE.Vector3(0, 1, 0)) };
  const margin = 0.08 * Math.max(size.x, size.y);
  const [w, d] = [size.x + 2 * margin, size.y + 2 * margin];
  const middle = centre.addScaledVector(way, height - way.dot(centre));
  const rim = useMemo(() => new THREE.EdgesGeometry(new THREE.PlaneGeometry(w, d)), [w, d]);
  return (
    <group position={middle} quaternion={turn}>
      <mesh renderOrder={5} raycast={() => null}>
        <planeGeometry args={[w, d]} />
        <meshBasicMaterial color={colour} transparent opacity={0.13} side={THREE.DoubleSide} depthWrite={false} />
      </mesh>
      <lineSegments geometry={rim} renderOrder={5} raycast={() => null}>
        <lineBasicMaterial color={colour} transparent opacity={0.7} />
      </lineSegments>
    </group>
  );
}

export function PlaceMark({
  position,
  radius,
  colour,
}: {
  position: [number, number, number];
  radius: number;
  colour: string;
}) {
  return (
    <group position={position}>
      <mesh renderOrder={6}>
        <sphereGeometry args={[radius, 20, 14]} />
        <meshBasicMaterial color={colour} depthTest={false} transparent opacity={0.9} />
      </mesh>
    </group>
  );
}
