import { useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { WEIGHTS, type PointMap } from '@/core/results/surfaceMap';
import { surfaceMaterial, type FieldUniforms } from './material';
import { NO_VALUE, valuesAt, type ViewGrid } from './results';

const AXES = { x: 0, y: 1, z: 2 } as const;
/** Points along the longer side of the cut. */
const RESOLUTION = 220;

interface Props {
  box: THREE.Box3;
  axis: 'x' | 'y' | 'z';
  /** mm along the axis */
  at: number;
  uniforms: FieldUniforms;
  grid: ViewGrid | null;
  nodeValues: Float32Array | null;
  nodeTimes: Float32Array | null;
}

/** The cut face: a lattice of points in the plane, coloured through the grid, shown where the solid is cut. */
export function SectionCap({ box, axis, at, uniforms, grid, nodeValues, nodeTimes }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  const renderer = useThree((s) => s.gl);
  const material = useMemo(() => surfaceMaterial(uniforms, true), [uniforms]);
  const geometry = useMemo(() => planeGeometry(box, AXES[axis], at), [box, axis, at]);
  const map = useMemo(() => (grid ? capMap(geometry, grid) : null), [geometry, grid]);

  useEffect(() => {
    const n = geometry.getAttribute('position').count;
    const fill = (name: string, values: Float32Array | null) => {
      const data = map && values ? valuesAt(map, values, new Float32Array(n)) : new Float32Array(n).fill(NO_VALUE);
      geometry.setAttribute(name, new THREE.BufferAttribute(data, 1));
    };
    fill('aValue', nodeValues);
    fill('aTime', nodeTimes);
    invalidate();
  }, [geometry, map, nodeValues, nodeTimes, invalidate]);

  useEffect(() => () => geometry.dispose(), [geometry]);

  return (
    <mesh
      geometry={geometry}
      material={material}
      renderOrder={2}
      raycast={() => null}
      onAfterRender={() => renderer.clearStencil()}
    />
  );
}

function planeGeometry(box: THREE.Box3, axis: number, at: number): THREE.BufferGeometry {
  const u = (axis + 1) % 3;
  const v = (axis + 2) % 3;
  const min = box.min.toArray();
  const size = box.getSize(new THREE.Vector3()).toArray();
  const step = Math.max(size[u], size[v]) / RESOLUTION;
  const nu = Math.max(1, Math.ceil(size[u] / step));
  const nv = Math.max(1, Math.ceil(size[v] / step));
  const positions = new Float32Array(3 * (nu + 1) * (nv + 1));
  for (let j = 0, p = 0; j <= nv; j++) {
    for (let i = 0; i <= nu; i++, p += 3) {
      positions[p + axis] = at;
      positions[p + u] = min[u] + (size[u] * i) / nu;
      positions[p + v] = min[v] + (size[v] * j) / nv;
    }
  }
  const index: number[] = [];
  for (let j = 0; j < nv; j++) {
    for (let i = 0; i < nu; i++) {
      const a = i + (nu + 1) * j;
      index.push(a, a + 1, a + nu + 2, a, a + nu + 2, a + nu + 1);
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  geometry.setIndex(index);
  return geometry;
}

function capMap(geometry: THREE.BufferGeometry, grid: ViewGrid): PointMap {
  const position = geometry.getAttribute('position');
  const n = position.count;
  const map: PointMap = { nodes: new Int32Array(WEIGHTS * n), weights: new Uint8Array(WEIGHTS * n) };
  for (let p = 0; p < n; p++) {
    const point: [number, number, number] = [position.getX(p) / 1000, position.getY(p) / 1000, position.getZ(p) / 1000];
    const node = grid.mapper.nodeAt(...point);
    if (node >= 0) grid.mapper.weightsAt(point, node, map.nodes, map.weights, WEIGHTS * p);
  }
  return map;
}
