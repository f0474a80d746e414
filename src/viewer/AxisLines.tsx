import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';

/** A centre line: points with diameters and the segments between them, mm. */
export interface AxisLine {
  id: string;
  nodes: { position: [number, number, number]; diameter: number }[];
  segments: readonly (readonly [number, number])[];
}

/** Centre lines with a ring of the true diameter at every point; seen through everything. */
export function AxisLines({ axes, colour }: { axes: AxisLine[]; colour: string }) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate(), [axes, colour, invalidate]);
  return axes.map((axis) => <Axis key={axis.id} axis={axis} colour={colour} />);
}

function Axis({ axis, colour }: { axis: AxisLine; colour: string }) {
  const line = useMemo(() => {
    const points = axis.segments.flatMap(([a, b]) =>
      [axis.nodes[a], axis.nodes[b]].map((n) => new THREE.Vector3(...n.position)),
    );
    return new THREE.BufferGeometry().setFromPoints(points);
  }, [axis]);
  useEffect(() => () => line.dispose(), [line]);
  return (
    <>
      <lineSegments geometry={line} renderOrder={8} raycast={() => null}>
        <lineBasicMaterial color={colour} depthTest={false} transparent />
      </lineSegments>
      {axis.nodes.map((node, i) => (
        <mesh key={i} position={node.position} quaternion={facing(axis, i)} renderOrder={8} raycast={() => null}>
          <torusGeometry args={[node.diameter / 2, node.diameter * 0.03, 8, 32]} />
          <meshBasicMaterial color={colour} depthTest={false} transparent opacity={0.75} />
        </mesh>
      ))}
    </>
  );
}

/** A ring across the mean direction of the segments at a point. */
function facing(axis: AxisLine, i: number): THREE.Quaternion {
  const direction = new THREE.Vector3();
  for (const [a, b] of axis.segments) {
    if (a !== i && b !== i) continue;
    const step = new THREE.Vector3(...axis.nodes[b].position)
      .sub(new THREE.Vector3(...axis.nodes[a].position))
      .normalize();
    direction.add(step.dot(direction) < 0 ? step.negate() : step);
  }
  return new THREE.Quaternion().setFromUnitVectors(
    new THREE.Vector3(0, 0, 1),
    direction.lengthSq() ? direction.normalize() : new THREE.Vector3(0, 0, 1),
  );
}
