import { useThree, type ThreeEvent } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';

/** A piece of melt that lies in the open tool. mm. */
export interface ChargeMark {
  id: string;
  position: [number, number, number];
  size: { diameter: number } | { width: number; length: number };
  /** Its height, along the opening direction; and that direction with the one of its width. */
  height: number;
  along: [number, number, number];
  across: [number, number, number];
  selected: boolean;
}

interface Props {
  charges: ChargeMark[];
  colour: string;
  selectedColour: string;
  /** Edges alone, where a result would be tinted. */
  bare: boolean;
  onGrab: (id: string) => void;
}

/** Pieces of a charge as they lie: bodies that the part is seen through. */
export function ChargeLayer({ charges, colour, selectedColour, bare, onGrab }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate(), [charges, bare, invalidate]);
  return charges.map((charge) => (
    <Piece
      key={charge.id}
      charge={charge}
      colour={charge.selected ? selectedColour : colour}
      bare={bare}
      onGrab={onGrab}
    />
  ));
}

interface PieceProps extends Pick<Props, 'bare' | 'onGrab' | 'colour'> {
  charge: ChargeMark;
}

function Piece({ charge, colour, bare, onGrab }: PieceProps) {
  const { position, size, height, along, across } = charge;
  const turn = useMemo(() => {
    const [y, x] = [new THREE.Vector3(...along), new THREE.Vector3(...across)];
    return new THREE.Quaternion().setFromRotationMatrix(
      new THREE.Matrix4().makeBasis(x, y, new THREE.Vector3().crossVectors(x, y)),
    );
  }, [along, across]);
  const body = useMemo(() => {
    const made =
      'diameter' in size
        ? new THREE.CylinderGeometry(size.diameter / 2, size.diameter / 2, height, 48)
        : new THREE.BoxGeometry(size.width, height, size.length);
    return made.translate(0, height / 2, 0);
  }, [size, height]);
  const edges = useMemo(() => new THREE.EdgesGeometry(body, 40), [body]);
  const grab = (event: ThreeEvent<PointerEvent>) => {
    event.stopPropagation();
    onGrab(charge.id);
  };
  return (
    <group position={position} quaternion={turn}>
      <mesh geometry={body} renderOrder={6} onPointerDown={grab}>
        <meshBasicMaterial color={colour} transparent opacity={bare ? 0 : 0.35} depthWrite={false} />
      </mesh>
      <lineSegments geometry={edges} renderOrder={7} raycast={() => null}>
        <lineBasicMaterial color={colour} />
      </lineSegments>
    </group>
  );
}
