import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { locate } from '@/core/grid/mouldAxes';
import { sequential } from './colour';

/** Temperatures of the mould block: planes between its cells [m] and a value a cell, x fastest; NaN in the cavity. */
export interface BlockCells {
  planes: [Float32Array, Float32Array, Float32Array];
  cells: Float32Array;
}

const RESOLUTION = 180;

/** The block cut by the plane n.x + w = 0 (mm), in the colours of the field. */
export function BlockSlice({
  block,
  plane,
  range,
}: {
  block: BlockCells;
  plane: THREE.Vector4;
  range: [number, number];
}) {
  const invalidate = useThree((s) => s.invalidate);
  const { x, y, z, w } = plane;
  const geometry = useMemo(() => sliceOf(block, new THREE.Vector4(x, y, z, w), range), [block, x, y, z, w, range]);
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  return (
    <mesh geometry={geometry} renderOrder={1} raycast={() => null}>
      <meshBasicMaterial
        vertexColors
        side={THREE.DoubleSide}
        polygonOffset
        polygonOffsetFactor={1}
        polygonOffsetUnits={1}
      />
    </mesh>
  );
}

function sliceOf(block: BlockCells, plane: THREE.Vector4, [low, high]: [number, number]): THREE.BufferGeometry {
  const ends = block.planes.map((p) => [1000 * p[0], 1000 * p[p.length - 1]]);
  const normal = new THREE.Vector3(plane.x, plane.y, plane.z).normalize();
  const u = new THREE.Vector3(Math.abs(normal.x) > 0.8 ? 0 : 1, Math.abs(normal.x) > 0.8 ? 1 : 0, 0);
  u.addScaledVector(normal, -u.dot(normal)).normalize();
  const v = new THREE.Vector3().crossVectors(normal, u);
  const centre = new THREE.Vector3(...ends.map(([a, b]) => (a + b) / 2));
  const origin = centre.clone().addScaledVector(normal, -(normal.dot(centre) + plane.w));
  const half = new THREE.Vector3(...ends.map(([a, b]) => (b - a) / 2));
  const reach = (d: THREE.Vector3) => Math.abs(d.x) * half.x + Math.abs(d.y) * half.y + Math.abs(d.z) * half.z;
  const [ru, rv] = [reach(u), reach(v)];
  const step = (2 * Math.max(ru, rv)) / RESOLUTION;
  const [nu, nv] = [Math.ceil((2 * ru) / step), Math.ceil((2 * rv) / step)];
  const positions: number[] = [];
  const colours: number[] = [];
  const index = new Int32Array((nu + 1) * (nv + 1)).fill(-1);
  for (let j = 0; j <= nv; j++)
    for (let i = 0; i <= nu; i++) {
      const p = origin
        .clone()
        .addScaledVector(u, -ru + (i / nu) * 2 * ru)
        .addScaledVector(v, -rv + (j / nv) * 2 * rv);
      const T = blockValueAt(block, p.x / 1000, p.y / 1000, p.z / 1000);
      if (T !== T) continue;
      index[i + (nu + 1) * j] = positions.length / 3;
      positions.push(p.x, p.y, p.z);
      colours.push(...sequential((T - low) / Math.max(high - low, 1e-9)));
    }
  const triangles: number[] = [];
  for (let j = 0; j < nv; j++)
    for (let i = 0; i < nu; i++) {
      const [a, b, c, d] = [0, 1, nu + 1, nu + 2].map((k) => index[i + (nu + 1) * j + k]);
      if (a >= 0 && b >= 0 && d >= 0) triangles.push(a, b, d);
      if (a >= 0 && d >= 0 && c >= 0) triangles.push(a, d, c);
    }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(Float32Array.from(positions), 3));
  geometry.setAttribute('color', new THREE.BufferAttribute(Float32Array.from(colours), 3));
  geometry.setIndex(triangles);
  return geometry;
}

/** Temperature at a point [m]: linear between the cells around it that have one; NaN outside. */
function blockValueAt({ planes, cells }: BlockCells, x: number, y: number, z: number): number {
  const sizes = planes.map((p) => p.length - 1);
  const at = [x, y, z].map((value, d) => {
    const p = planes[d];
    const cell = locate(p, value);
    if (cell < 0) return null;
    const middle = (i: number) => (p[i] + p[i + 1]) / 2;
    const low = value < middle(cell) ? Math.max(0, cell - 1) : Math.min(cell, sizes[d] - 1);
    const high = Math.min(sizes[d] - 1, low + 1);
    const span = middle(high) - middle(low);
    return { low, high, share: span > 0 ? Math.min(1, Math.max(0, (value - middle(low)) / span)) : 0 };
  });
  let [sum, weight] = [0, 0];
  for (let c = 0; c < 8; c++) {
    let w = 1;
    let cell = 0;
    let stride = 1;
    for (let d = 0; d < 3; d++) {
      const a = at[d];
      if (!a) return NaN;
      const up = (c >> d) & 1;
      w *= up ? a.share : 1 - a.share;
      cell += stride * (up ? a.high : a.low);
      stride *= sizes[d];
    }
    const T = cells[cell];
    if (!(w > 0) || T !== T) continue;
    sum += w * T;
    weight += w;
  }
  return weight > 0 ? sum / weight : NaN;
}
