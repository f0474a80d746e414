import { useFrame, useThree, type ThreeEvent } from '@react-three/fiber';
import { useEffect, useMemo, useRef } from 'react';
import * as THREE from 'three';
import { standInMesh } from '@/core/model/standIn';
import type { Vec3 } from '@/core/geometry/mesh';
import type { StandIn } from '@/core/model/body';
import { frameOn } from '@/core/geometry/vec';
import { DOT_SIZE, usePull } from './pull';

/** A stand-in being adjusted, m. */
export type DraftShape = StandIn;

interface Handle {
  /** m */
  position: Vec3;
  direction: Vec3;
  /** The shape when this handle has been pulled outwards by d [m]. */
  pulled: (d: number) => StandIn;
}

interface Props {
  shape: StandIn;
  colour: string;
  onChange: (next: StandIn, done: boolean) => void;
}

const LEAST = 1e-5;
const add = (a: Vec3, b: Vec3, s: number): Vec3 => [a[0] + s * b[0], a[1] + s * b[1], a[2] + s * b[2]];

/** Dots on the faces of the shape: pulling one moves that face and leaves the opposite one where it is. */
function handlesOf(s: StandIn): Handle[] {
  if (s.shape === 'box')
    return s.axes.flatMap((axis, k) =>
      [1, -1].map((sign) => ({
        position: add(s.centre, axis, (sign * s.size[k]) / 2),
        direction: axis.map((x) => x * sign) as Vec3,
        pulled: (d: number): StandIn => {
          const grow = Math.max(d, LEAST - s.size[k]);
          const size = s.size.map((x, i) => (i === k ? x + grow : x)) as Vec3;
          return { ...s, size, centre: add(s.centre, axis, (sign * grow) / 2) };
        },
      })),
    );
  if (s.shape === 'sphere')
    return [[1, 0, 0] as Vec3, [0, 0, 1] as Vec3].map((direction) => ({
      position: add(s.centre, direction, s.diameter / 2),
      direction,
      pulled: (d: number): StandIn => ({ ...s, diameter: Math.max(LEAST, s.diameter + 2 * d) }),
    }));
  const [u] = frameOn(s.axis);
  const ends = [1, -1].map((sign) => ({
    position: add(s.centre, s.axis, (sign * s.length) / 2),
    direction: s.axis.map((x) => x * sign) as Vec3,
    pulled: (d: number): StandIn => {
      const grow = Math.max(d, LEAST - s.length);
      return { ...s, length: s.length + grow, centre: add(s.centre, s.axis, (sign * grow) / 2) };
    },
  }));
  const flank: Handle = {
    position: add(s.centre, u, s.diameter / 2),
    direction: u,
    pulled: (d: number): StandIn => ({ ...s, diameter: Math.max(LEAST, s.diameter + 2 * d) }),
  };
  return [...ends, flank];
}

const MM = 1000;

export function StandInDraft({ shape, colour, onChange }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  const camera = useThree((s) => s.camera);
  const pull = usePull();
  const geometry = useMemo(() => {
    const { positions, triangles } = standInMesh(shape);
    const made = new THREE.BufferGeometry();
    made.setAttribute(
      'position',
      new THREE.BufferAttribute(
        Float32Array.from(positions, (x) => MM * x),
        3,
      ),
    );
    made.setIndex(new THREE.BufferAttribute(triangles, 1));
    return made;
  }, [shape]);
  const edges = useMemo(() => new THREE.EdgesGeometry(geometry, 28), [geometry]);
  useEffect(() => {
    invalidate();
    return () => {
      geometry.dispose();
      edges.dispose();
    };
  }, [geometry, edges, invalidate]);
  const latest = useRef(shape);
  latest.current = shape;
  const dots = useRef<THREE.Group>(null);
  // The same size on the screen for a screw and for a housing.
  useFrame(() => {
    for (const dot of dots.current?.children ?? [])
      dot.scale.setScalar(DOT_SIZE * dot.getWorldPosition(new THREE.Vector3()).distanceTo(camera.position));
  });

  const grab = (event: ThreeEvent<PointerEvent>, handle: Handle) => {
    const line = {
      origin: new THREE.Vector3(...handle.position).multiplyScalar(MM),
      direction: new THREE.Vector3(...handle.direction),
    };
    pull(
      event,
      line,
      (by) => onChange(handle.pulled(by / MM), false),
      () => onChange(latest.current, true),
    );
  };

  return (
    <>
      <mesh geometry={geometry} renderOrder={6} raycast={() => null}>
        <meshBasicMaterial color={colour} transparent opacity={0.22} depthWrite={false} side={THREE.DoubleSide} />
      </mesh>
      <lineSegments geometry={edges} renderOrder={7} raycast={() => null}>
        <lineBasicMaterial color={colour} depthTest={false} transparent opacity={0.8} />
      </lineSegments>
      <group ref={dots}>
        {handlesOf(shape).map((handle, i) => (
          <mesh
            key={i}
            position={handle.position.map((x) => MM * x) as Vec3}
            renderOrder={9}
            onPointerDown={(event) => grab(event, handle)}
          >
            <sphereGeometry args={[1, 20, 14]} />
            <meshBasicMaterial color={colour} depthTest={false} transparent />
          </mesh>
        ))}
      </group>
    </>
  );
}
