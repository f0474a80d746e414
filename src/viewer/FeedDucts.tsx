import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { Head, NodeFrames, ValueFrames } from './frames';
import type { FieldUniforms } from './material';
import { NO_VALUE } from './results';
import { useFieldMaterial, useFrames } from './useFrames';

/** A length of runner: outlines of its section at both ends (across, up), mm, and where they sit. */
export interface DuctMark {
  id: string;
  from: [number, number, number];
  to: [number, number, number];
  start: [number, number][];
  end: [number, number][];
  hot: boolean;
}

/** A result in the runners, cell by cell; NaN where there is none. */
export interface FeedValues {
  cells: NodeFrames;
  fillTimes: Float32Array;
  /** First cell and number of cells of each duct. */
  ducts: ReadonlyMap<string, { at: number; n: number }>;
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
  head,
}: {
  ducts: DuctMark[];
  result: FeedValues | null;
  uniforms: FieldUniforms;
  faded: boolean;
  cold: string;
  hot: string;
  head: Head;
}) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate(), [ducts, result, faded, cold, hot, invalidate]);
  const rings = useMemo(() => result && ringsOf(result), [result]);
  const frames = useFrames(rings?.values ?? null, rings?.values.n ?? 0, head);
  const material = useFieldMaterial(uniforms, frames, 'rings');
  return ducts.map((duct) => {
    const own = faded ? undefined : rings?.ducts.get(duct.id);
    return rings && own ? (
      <ResultDuct key={duct.id} duct={duct} {...own} times={rings.times} material={material} />
    ) : (
      <Duct key={duct.id} duct={duct} colour={duct.hot ? hot : cold} faded={faded} />
    );
  });
}

/** A duct that carries a result: a ring of vertices between every two cells. */
function ResultDuct({ duct, first, n, times, material }: RingsOfDuct & ResultProps) {
  const geometry = useMemo(() => {
    const made = loft(duct, n);
    const ring = made.getAttribute('ring') as THREE.BufferAttribute;
    ring.array.forEach((r, i) => ring.setX(i, r + first));
    return made;
  }, [duct, first, n]);
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
    const own = Float32Array.from({ length: rings.count }, (_, i) => times[rings.getX(i)]);
    geometry.setAttribute('aTime', new THREE.BufferAttribute(own, 1));
  }, [geometry, times]);
  return (
    <>
      <mesh geometry={geometry} material={material} raycast={() => null} />
      <lineSegments geometry={edges} raycast={() => null}>
        <lineBasicMaterial color="#4b4439" transparent opacity={0.5} />
      </lineSegments>
    </>
  );
}

interface ResultProps {
  duct: DuctMark;
  times: Float32Array;
  material: THREE.Material;
}

/** Where the rings of a duct stand among all: one more than its cells. */
interface RingsOfDuct {
  first: number;
  n: number;
}

/** Values between the cells of every duct: the mean of both sides where both are known. */
export function ringsOf({ cells, fillTimes, ducts }: FeedValues): {
  values: ValueFrames;
  times: Float32Array;
  ducts: ReadonlyMap<string, RingsOfDuct>;
} {
  const places = new Map<string, RingsOfDuct>();
  let count = 0;
  for (const [id, { n }] of ducts) {
    if (!n) continue;
    places.set(id, { first: count, n });
    count += n + 1;
  }
  const write = (all: Float32Array, out: Float32Array) => {
    for (const [id, { first, n }] of places) {
      const { at } = ducts.get(id)!;
      for (let k = 0; k <= n; k++) {
        const [a, b] = [all[at + Math.max(0, k - 1)], all[at + Math.min(n - 1, k)]];
        const mean = a !== a ? b : b !== b ? a : (a + b) / 2;
        out[first + k] = mean === mean ? mean : NO_VALUE;
      }
    }
  };
  const times = new Float32Array(count);
  write(fillTimes, times);
  return {
    values: { n: count, times: cells.times, write: (frame, out) => write(cells.at(frame), out) },
    times,
    ducts: places,
  };
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
