import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { Overlays } from './fieldView';
import type { DrawMesh } from './PartSurface';

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

/** The parting plane as a pale sheet with a rim, somewhat larger than the part. */
export function PartingPlane({ box, height, colour }: { box: THREE.Box3; height: number; colour: string }) {
  const size = box.getSize(new THREE.Vector3());
  const centre = box.getCenter(new THREE.Vector3());
  const margin = 0.08 * Math.max(size.x, size.y);
  const [w, d] = [size.x + 2 * margin, size.y + 2 * margin];
  const rim = useMemo(() => new THREE.EdgesGeometry(new THREE.PlaneGeometry(w, d)), [w, d]);
  return (
    <group position={[centre.x, centre.y, height]}>
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
