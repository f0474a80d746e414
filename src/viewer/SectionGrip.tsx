import { useFrame, useThree } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import * as THREE from 'three';
import { DOT_SIZE, usePull } from './pull';
import { placeOnPlane, reachAlong } from './section';

interface Props {
  box: THREE.Box3;
  /** n.x + w = 0, mm. */
  plane: THREE.Vector4;
  flipped: boolean;
  at: number;
  colour: string;
  paper: string;
  onMove: (at: number) => void;
}

const UP = new THREE.Vector3(0, 1, 0);

/** Two arrows in the middle of the section, by which it is pulled through the part. */
export function SectionGrip({ box, plane, flipped, at, colour, paper, onMove }: Props) {
  const pull = usePull();
  const invalidate = useThree((s) => s.invalidate);
  const camera = useThree((s) => s.camera);
  const grip = useRef<THREE.Group>(null);
  const arrows = useMemo(arrowsGeometry, []);
  useEffect(() => invalidate(), [plane, invalidate]);
  const normal = useMemo(
    () => new THREE.Vector3(plane.x, plane.y, plane.z).multiplyScalar(flipped ? -1 : 1),
    [plane, flipped],
  );
  const centre = useMemo(() => placeOnPlane(plane, box.getCenter(new THREE.Vector3())), [plane, box]);
  const turn = useMemo(() => new THREE.Quaternion().setFromUnitVectors(UP, normal), [normal]);
  useFrame(() => grip.current?.scale.setScalar(1.1 * DOT_SIZE * centre.distanceTo(camera.position)));
  return (
    <group ref={grip} position={centre} quaternion={turn} name="section-grip">
      <mesh
        geometry={arrows}
        renderOrder={11}
        onPointerDown={(event) => {
          const reach = reachAlong(box, normal);
          pull(event, { origin: centre.clone(), direction: normal.clone() }, (by) =>
            onMove(Math.min(1, Math.max(0, at + by / (2 * reach)))),
          );
        }}
      >
        <meshBasicMaterial color={colour} depthTest={false} transparent />
      </mesh>
      <mesh geometry={arrows} scale={[1.35, 1.12, 1.35]} renderOrder={10} raycast={() => null}>
        <meshBasicMaterial color={paper} depthTest={false} transparent />
      </mesh>
    </group>
  );
}

/** A slim rod with a point at either end, along y, 6 long. */
function arrowsGeometry(): THREE.BufferGeometry {
  const half: [number, number][] = [
    [0.22, 0],
    [0.22, 1.6],
    [0.75, 1.6],
    [0, 3],
  ];
  const outline = [...half.map(([r, y]) => [r, -y] as const).reverse(), ...half.slice(1)];
  return new THREE.LatheGeometry(
    outline.map(([r, y]) => new THREE.Vector2(r, y)),
    18,
  );
}
