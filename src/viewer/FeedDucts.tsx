import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { surfaceMaterial, type FieldUniforms } from './material';
import { NO_VALUE } from './results';

/** A length of runner: outlines of its section at both ends (across, up), mm, and where they sit. */
export interface DuctMark {
  id: string;
  from: [number, number, number];
  to: [number, number, number];
  start: [number, number][];
  end: [number, number][];
  hot: boolean;
}

/** A result along a duct, cell by cell from its start; NO_VALUE where there is none. */
export interface DuctValues {
  values: readonly number[];
  times: readonly number[];
}

/**
 * Runners as solid bodies: with a result in the colours of the field, else hot ones in the page's accent and
 * cold ones in clay.
 */
export function FeedDucts({
  ducts,
  result,
  uniforms,
  faded,
  cold,
  hot,
}: {
  ducts: DuctMark[];
  result: ReadonlyMap<string, DuctValues> | null;
  uniforms: FieldUniforms;
  faded: boolean;
  cold: string;
  hot: string;
}) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate(), [ducts, result, faded, cold, hot, invalidate]);
  const material = useMemo(() => surfaceMaterial(uniforms, false), [uniforms]);
  return ducts.map((duct) => {
    const values = faded ? undefined : result?.get(duct.id);
    return values?.values.length ? (
      <ResultDuct key={duct.id} duct={duct} result={values} material={material} />
    ) : (
      <Duct key={duct.id} duct={duct} colour={duct.hot ? hot : cold} faded={faded} />
    );
  });
}

/** A duct that carries a result: a ring of vertices between every two cells. */
function ResultDuct({ duct, result, material }: { duct: DuctMark; result: DuctValues; material: THREE.Material }) {
  const n = result.values.length;
  const geometry = useMemo(() => loft(duct, n), [duct, n]);
  const edges = useMemo(() => new THREE.EdgesGeometry(loft(duct), 50), [duct]);
  useEffect(
    () => () => {
      geometry.dispose();
      edges.dispose();
    },
    [geometry, edges],
  );
  useMemo(() => {
    const rings = geometry.getAttribute('ring');
    for (const [name, list] of [
      ['aValue', ringValues(result.values)],
      ['aTime', ringValues(result.times)],
    ] as const)
      geometry.setAttribute(
        name,
        new THREE.BufferAttribute(
          Float32Array.from({ length: rings.count }, (_, i) => list[rings.getX(i)]),
          1,
        ),
      );
  }, [geometry, result]);
  return (
    <>
      <mesh geometry={geometry} material={material} raycast={() => null} />
      <lineSegments geometry={edges} raycast={() => null}>
        <lineBasicMaterial color="#4b4439" transparent opacity={0.5} />
      </lineSegments>
    </>
  );
}

/** Values between the cells: the mean of both sides where both are known. */
function ringValues(cells: readonly number[]): number[] {
  const n = cells.length;
  return Array.from({ length: n + 1 }, (_, k) => {
    const [a, b] = [cells[Math.max(0, k - 1)], cells[Math.min(n - 1, k)]];
    if (a === NO_VALUE) return b;
    return b === NO_VALUE ? a : (a + b) / 2;
  });
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

/** A closed body between the two outlines, which have as many points each, in `pieces` along its way. */
function loft({ from, to, start, end }: DuctMark, pieces = 1): THREE.BufferGeometry {
  const [a, b] = [new THREE.Vector3(...from), new THREE.Vector3(...to)];
  const along = b.clone().sub(a).normalize();
  // Up stays up for runners in the parting plane; a sprue along z takes y.
  const up = Math.abs(along.z) > 0.9 ? new THREE.Vector3(0, 1, 0) : new THREE.Vector3(0, 0, 1);
  const across = new THREE.Vector3().crossVectors(up, along).normalize();
  up.crossVectors(along, across);
  const ring = (share: number) =>
    start.map(([x, y], k) => {
      const [u, v] = [x + share * (end[k][0] - x), y + share * (end[k][1] - y)];
      return a.clone().lerp(b, share).addScaledVector(across, u).addScaledVector(up, v);
    });
  const rings = Array.from({ length: pieces + 1 }, (_, r) => ring(r / pieces));
  const n = start.length;
  const soup: THREE.Vector3[] = [];
  const of: number[] = [];
  const add = (...corners: [number, number][]) =>
    corners.forEach(([r, k]) => {
      soup.push(rings[r][k]);
      of.push(r);
    });
  for (let r = 0; r < pieces; r++)
    for (let k = 0; k < n; k++) {
      const m = (k + 1) % n;
      add([r, k], [r, m], [r + 1, m], [r, k], [r + 1, m], [r + 1, k]);
    }
  for (let k = 1; k + 1 < n; k++) add([0, 0], [0, k + 1], [0, k], [pieces, 0], [pieces, k], [pieces, k + 1]);
  const geometry = new THREE.BufferGeometry().setFromPoints(soup);
  geometry.computeVertexNormals();
  geometry.setAttribute('color', new THREE.BufferAttribute(shade(geometry), 3));
  geometry.setAttribute('ring', new THREE.BufferAttribute(Float32Array.from(of), 1));
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
