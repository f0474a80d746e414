import { useThree, type ThreeEvent } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { MeshBVH } from 'three-mesh-bvh';
import { Label } from './Label';

export interface GateMark {
  id: string;
  /** mm */
  position: [number, number, number];
  diameter: number;
  selected: boolean;
  /** Of a needle for a fluid in the core; absent: a gate's. */
  as?: 'needle';
  /** Written beside it; absent: nothing. */
  label?: string;
}

interface Props {
  gates: GateMark[];
  geometry: THREE.BufferGeometry | null;
  /** Length of a marker, mm */
  size: number;
  colour: string;
  selectedColour: string;
  paper: string;
  onGrab: (id: string) => void;
}

const RIM = '#fbf8f2';
const UP = new THREE.Vector3(0, 1, 0);

/** A gate: a disc of its true diameter on the surface and a slim drop of melt standing on it. */
export function GateMarkers({ gates, geometry, size, colour, selectedColour, paper, onGrab }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate(), [gates, invalidate]);
  return gates.map((gate) => (
    <GateMarker
      key={gate.id}
      gate={gate}
      normal={normalAt(geometry, gate.position)}
      size={size}
      colour={gate.selected ? selectedColour : colour}
      paper={paper}
      onGrab={onGrab}
    />
  ));
}

interface MarkerProps {
  gate: GateMark;
  normal: THREE.Vector3;
  size: number;
  colour: string;
  paper: string;
  onGrab: (id: string) => void;
}

function GateMarker({ gate, normal, size, colour, paper, onGrab }: MarkerProps) {
  const turn = useMemo(() => new THREE.Quaternion().setFromUnitVectors(UP, normal), [normal]);
  const drop = useMemo(() => (gate.as === 'needle' ? needleGeometry(size) : dropGeometry(size)), [gate.as, size]);
  const grab = (event: ThreeEvent<PointerEvent>) => {
    event.stopPropagation();
    onGrab(gate.id);
  };
  return (
    <group position={gate.position} quaternion={turn}>
      <mesh geometry={drop} renderOrder={5} onPointerDown={grab}>
        <meshBasicMaterial color={colour} />
      </mesh>
      {/* Seen faintly through the part: a gate on the far side must not be lost. */}
      <mesh geometry={drop} renderOrder={7} raycast={() => null}>
        <meshBasicMaterial color={colour} transparent opacity={0.45} depthTest={false} />
      </mesh>
      <mesh geometry={drop} scale={[1.3, 1.05, 1.3]} renderOrder={6} raycast={() => null}>
        <meshBasicMaterial color={RIM} side={THREE.BackSide} transparent opacity={0.4} depthTest={false} />
      </mesh>
      {/* A pale rim, so that the drop stands out on any field colour. */}
      <mesh geometry={drop} scale={[1.22, 1.04, 1.22]} renderOrder={5} raycast={() => null}>
        <meshBasicMaterial color={RIM} side={THREE.BackSide} />
      </mesh>
      <mesh rotation={[-Math.PI / 2, 0, 0]} position={[0, 0.02 * size, 0]} renderOrder={5} onPointerDown={grab}>
        <ringGeometry args={[gate.diameter / 2, gate.diameter / 2 + 0.09 * size, 40]} />
        <meshBasicMaterial color={colour} side={THREE.DoubleSide} />
      </mesh>
      {gate.label && (
        <Label
          position={[0, size, 0]}
          text={gate.label}
          ink={paper}
          ground={colour}
          anchor={[0.5, -0.2]}
          rank={gate.selected ? 0 : 3}
          group="gate"
        />
      )}
    </group>
  );
}

/** Slender drop, its tip on the surface. */
function dropGeometry(size: number): THREE.BufferGeometry {
  const profile: THREE.Vector2[] = [];
  for (let i = 0; i <= 16; i++) {
    const t = i / 16;
    profile.push(
      new THREE.Vector2(0.23 * size * Math.pow(t, 1.15) * Math.sqrt(Math.max(0, 1 - t * t)) * 1.55, t * size),
    );
  }
  return new THREE.LatheGeometry(profile, 24);
}

/** A hollow needle with a collar, its slanted tip let into the surface. */
function needleGeometry(size: number): THREE.BufferGeometry {
  const outline: [number, number][] = [
    [0, -0.16],
    [0.05, -0.06],
    [0.05, 0.52],
    [0.17, 0.56],
    [0.17, 0.66],
    [0.08, 0.7],
    [0.08, 1],
    [0, 1],
  ];
  const profile = outline.map(([r, z]) => new THREE.Vector2(r * size, z * size));
  return new THREE.LatheGeometry(profile, 20);
}

/** Outward normal of the surface nearest to a point. */
export function normalAt(geometry: THREE.BufferGeometry | null, point: [number, number, number]): THREE.Vector3 {
  const found = (geometry?.boundsTree as MeshBVH | undefined)?.closestPointToPoint(new THREE.Vector3(...point));
  if (!geometry || !found || found.faceIndex === undefined) return UP.clone();
  const index = geometry.getIndex() as THREE.BufferAttribute;
  const position = geometry.getAttribute('position');
  const [a, b, c] = [0, 1, 2].map((i) =>
    new THREE.Vector3().fromBufferAttribute(position, index.getX(3 * found.faceIndex + i)),
  );
  return new THREE.Triangle(a, b, c).getNormal(new THREE.Vector3());
}
