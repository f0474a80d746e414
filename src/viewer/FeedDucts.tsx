import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';

/** A length of runner: outlines of its section at both ends (across, up), mm, and where they sit. */
export interface DuctMark {
  id: string;
  from: [number, number, number];
  to: [number, number, number];
  start: [number, number][];
  end: [number, number][];
  hot: boolean;
}

/** Steel that carries melt is drawn in the page's accent, what stays cold in clay. */
export function FeedDucts({
  ducts,
  faded,
  cold,
  hot,
}: {
  ducts: DuctMark[];
  faded: boolean;
  cold: string;
  hot: string;
}) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate(), [ducts, faded, cold, hot, invalidate]);
  return ducts.map((duct) => <Duct key={duct.id} duct={duct} colour={duct.hot ? hot : cold} faded={faded} />);
}

function Duct({ duct, colour, faded }: { duct: DuctMark; colour: string; faded: boolean }) {
  const geometry = useMemo(() => loft(duct), [duct]);
  const edges = useMemo(() => new THREE.EdgesGeometry(geometry, 50), [geometry]);
  useEffect(
    () => () => {
      geometry.dispose();
      edges.dispose();
    },
    [geometry, edges],
  );
  return (
    <>
      <mesh geometry={geometry} raycast={() => null} renderOrder={faded ? 4 : 0}>
        <meshBasicMaterial
          key={String(faded)}
          color={colour}
          vertexColors
          side={THREE.DoubleSide}
          transparent={faded}
          opacity={faded ? 0.3 : 1}
          depthWrite={!faded}
        />
      </mesh>
      <lineSegments geometry={edges} raycast={() => null}>
        <lineBasicMaterial color="#4b4439" transparent opacity={faded ? 0.25 : 0.7} />
      </lineSegments>
    </>
  );
}

/** A closed body between the two outlines, which have as many points each. */
function loft({ from, to, start, end }: DuctMark): THREE.BufferGeometry {
  const [a, b] = [new THREE.Vector3(...from), new THREE.Vector3(...to)];
  const along = b.clone().sub(a).normalize();
  // Up stays up for runners in the parting plane; a sprue along z takes y.
  const up = Math.abs(along.z) > 0.9 ? new THREE.Vector3(0, 1, 0) : new THREE.Vector3(0, 0, 1);
  const across = new THREE.Vector3().crossVectors(up, along).normalize();
  up.crossVectors(along, across);
  const ring = (centre: THREE.Vector3, outline: [number, number][]) =>
    outline.map(([x, y]) => centre.clone().addScaledVector(across, x).addScaledVector(up, y));
  const [first, last] = [ring(a, start), ring(b, end)];
  const n = start.length;
  const soup: THREE.Vector3[] = [];
  for (let k = 0; k < n; k++) {
    const m = (k + 1) % n;
    soup.push(first[k], first[m], last[m], first[k], last[m], last[k]);
    if (k > 0 && m > 0) soup.push(first[0], first[m], first[k], last[0], last[k], last[m]);
  }
  const geometry = new THREE.BufferGeometry().setFromPoints(soup);
  geometry.computeVertexNormals();
  geometry.setAttribute('color', new THREE.BufferAttribute(shade(geometry), 3));
  return geometry;
}

/** Where the light comes from, and the darkest a face gets: the view has no lamps. */
const LIGHT = new THREE.Vector3(0.4, -0.6, 0.75).normalize();
const DARKEST = 0.62;

function shade(geometry: THREE.BufferGeometry): Float32Array {
  const normals = geometry.getAttribute('normal');
  const normal = new THREE.Vector3();
  const colours = new Float32Array(3 * normals.count);
  for (let i = 0; i < normals.count; i++) {
    const lit = 0.5 + 0.5 * normal.fromBufferAttribute(normals, i).dot(LIGHT);
    colours.fill(DARKEST + (1 - DARKEST) * lit, 3 * i, 3 * i + 3);
  }
  return colours;
}
