import { useThree } from '@react-three/fiber';
import { useDeferredValue, useEffect, useMemo } from 'react';
import * as THREE from 'three';
import type { MeshBVH } from 'three-mesh-bvh';
import { WEIGHTS, type PointMap } from '@/core/grid/surfaceMap';
import { PROFILE_PLACES } from '@/core/solvers/melt/profilePlaces';
import { betweenFaces, readBetween } from './betweenFaces';
import { onPoints, stillFrames, type Head, type NodeFrames, type ValueFrames } from './frames';
import type { CoreDraw } from './fieldView';
import type { FieldUniforms } from './material';
import type { Deformed } from './PartSurface';
import type { ViewGrid } from '@/core/formats/viewGrid';
import { NO_VALUE, valuesAt } from './results';
import { useFieldMaterial, useFrames } from './useFrames';

/** Points along the longer side of the cut, before the part's own strip is refined. */
const RESOLUTION = 220;
/** Points wanted across a wall where a profile is shown, and where not. */
const ACROSS_PROFILE = 11;
const ACROSS = 3;
const FINEST = 8;

interface Props {
  box: THREE.Box3;
  /** Points with n.x + w > 0 are cut away; mm. */
  plane: THREE.Vector4;
  uniforms: FieldUniforms;
  grid: ViewGrid | null;
  nodes: NodeFrames | null;
  nodeTimes: Float32Array | null;
  /** Values through the wall at each node: the cap then shows the profile. */
  profile: NodeFrames | null;
  /** Fluid in the core: there the cut is open. */
  core: CoreDraw | null;
  /** Of the surface: the cut face goes with it. */
  deformed: Deformed | null;
  /** Values at the vertices of the surface that hold between its faces as well; null: those of the nodes count. */
  through: ValueFrames | null;
  head: Head;
  /** Surface of the part, mm, to know how far a point is from the wall. */
  surface: THREE.BufferGeometry | null;
}

/** The cut face: a lattice of points in the plane, coloured through the grid, shown where the solid is cut. */
export function SectionCap(props: Props) {
  const { box, plane, uniforms, grid, nodes, nodeTimes, profile, core, deformed, through, surface, head } = props;
  const invalidate = useThree((s) => s.invalidate);
  const renderer = useThree((s) => s.gl);
  // A dragged plane must not wait for its cap: steps in between are skipped.
  const { x, y, z, w } = useDeferredValue(plane);
  const across = profile || core ? ACROSS_PROFILE : ACROSS;
  const geometry = useMemo(
    () => planeGeometry(box, new THREE.Vector4(x, y, z, w), grid, across),
    [box, x, y, z, w, grid, across],
  );
  const map = useMemo(() => (grid ? capMap(geometry, grid) : null), [geometry, grid]);
  const layered = profile !== null || core !== null;
  const tree = (surface?.boundsTree as MeshBVH | undefined) ?? null;
  const depths = useMemo(
    () => (layered && grid && map && surface && tree ? wallPlaces(geometry, surface, tree, grid, map) : null),
    [geometry, surface, tree, grid, map, layered],
  );

  const offset = deformed?.offset ?? null;
  const between = useMemo(
    () =>
      surface && tree && (offset || through)
        ? betweenFaces(geometry.getAttribute('position') as THREE.BufferAttribute, surface, tree)
        : null,
    [geometry, surface, tree, offset, through],
  );

  const n = geometry.getAttribute('position').count;
  const values = useMemo((): ValueFrames | null => {
    if (through && surface && through.n === surface.getAttribute('position').count)
      return between && stillFrames(readBetween(between, atStill(through)));
    if (!map) return null;
    if (!profile || !depths) return nodes && onPoints(map, nodes, n);
    return { n, times: profile.times, write: (frame, out) => profileAt(map, profile, frame, depths, out) };
  }, [map, nodes, profile, depths, n, through, between, surface]);
  const frames = useFrames(values, n, head);
  const material = useFieldMaterial(uniforms, frames, 'cap');

  useEffect(() => {
    const times = new Float32Array(n).fill(NO_VALUE);
    if (map && nodeTimes) valuesAt(map, nodeTimes, times);
    geometry.setAttribute('aTime', new THREE.BufferAttribute(times, 1));
    invalidate();
  }, [geometry, map, n, nodeTimes, invalidate]);

  useEffect(() => {
    const moved = between && offset ? readBetween(between, offset, 3) : new Float32Array(3 * n);
    for (let k = 0; k < moved.length; k++) moved[k] = moved[k] < NO_VALUE / 2 ? 1000 * moved[k] : 0;
    geometry.setAttribute('aOffset', new THREE.BufferAttribute(moved, 3));
    invalidate();
  }, [geometry, n, between, offset, invalidate]);

  useEffect(() => {
    const inCore = new Float32Array(n).fill(-1);
    const coreTimes = new Float32Array(n).fill(NO_VALUE);
    if (map && grid && core && depths) {
      valuesAt(map, core.nodeTimes, coreTimes);
      // Place of the core's face through the wall, less that of the point: above 0 inside the core.
      const faces = core.skin.map((skin, i) => (skin === skin ? 1 - (2 * skin) / grid.thickness[i] : 0));
      valuesAt(map, faces, inCore);
      for (let p = 0; p < n; p++) inCore[p] = inCore[p] < NO_VALUE / 2 ? inCore[p] - Math.abs(depths[p]) : -1;
    }
    geometry.setAttribute('aCore', new THREE.BufferAttribute(inCore, 1));
    geometry.setAttribute('aCoreTime', new THREE.BufferAttribute(coreTimes, 1));
    invalidate();
  }, [geometry, map, grid, n, core, depths, invalidate]);

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

/** Values of what stays the same. */
function atStill({ n, write }: ValueFrames): Float32Array {
  const out = new Float32Array(n);
  write(0, out);
  return out;
}

/**
 * A lattice of points over the part in the plane n.x + w = 0. Squares that touch the part are divided so
 * that a wall gets `across` points.
 */
function planeGeometry(
  box: THREE.Box3,
  plane: THREE.Vector4,
  grid: ViewGrid | null,
  across: number,
): THREE.BufferGeometry {
  const normal = new THREE.Vector3(plane.x, plane.y, plane.z).normalize();
  const u = new THREE.Vector3(Math.abs(normal.x) > 0.8 ? 0 : 1, Math.abs(normal.x) > 0.8 ? 1 : 0, 0);
  u.addScaledVector(normal, -u.dot(normal)).normalize();
  const v = new THREE.Vector3().crossVectors(normal, u);
  const centre = box.getCenter(new THREE.Vector3());
  const origin = centre.clone().addScaledVector(normal, -(normal.dot(centre) + plane.w));
  const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
  // Half extents of the box seen along u and v; the plane may lie off the centre, so a little is added.
  const reach = (d: THREE.Vector3) => Math.abs(d.x) * half.x + Math.abs(d.y) * half.y + Math.abs(d.z) * half.z;
  const off = origin.distanceTo(centre);
  const [ru, rv] = [reach(u) + 0.5 * off, reach(v) + 0.5 * off];
  const step = (2 * Math.max(ru, rv)) / RESOLUTION;
  const [nu, nv] = [Math.max(1, Math.ceil((2 * ru) / step)), Math.max(1, Math.ceil((2 * rv) / step))];
  const at = (i: number, j: number) =>
    origin
      .clone()
      .addScaledVector(u, -ru + i * step)
      .addScaledVector(v, -rv + j * step);
  const thicknessAt = (p: THREE.Vector3) => {
    const node = grid ? grid.mapper.nodeAt(p.x / 1000, p.y / 1000, p.z / 1000) : -1;
    return node < 0 || !grid ? 0 : 1000 * grid.thickness[node];
  };
  const positions: number[] = [];
  const index: number[] = [];
  const corners = new Float32Array((nu + 1) * (nv + 1));
  for (let j = 0; j <= nv; j++)
    for (let i = 0; i <= nu; i++) corners[i + (nu + 1) * j] = grid ? thicknessAt(at(i, j)) : step;
  for (let j = 0; j < nv; j++) {
    for (let i = 0; i < nu; i++) {
      const around = [0, 1, nu + 1, nu + 2].map((k) => corners[i + (nu + 1) * j + k]);
      const wall = Math.max(...around, grid ? thicknessAt(at(i + 0.5, j + 0.5)) : 0);
      if (wall === 0) continue;
      const m = Math.min(FINEST, Math.max(1, Math.ceil((across * step) / wall)));
      const start = positions.length / 3;
      for (let b = 0; b <= m; b++) for (let a = 0; a <= m; a++) positions.push(...at(i + a / m, j + b / m).toArray());
      for (let b = 0; b < m; b++)
        for (let a = 0; a < m; a++) {
          const k = start + a + (m + 1) * b;
          index.push(k, k + 1, k + m + 2, k, k + m + 2, k + m + 1);
        }
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute('position', new THREE.BufferAttribute(Float32Array.from(positions), 3));
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

/**
 * Place through the wall of each point of the cap: -1 at a wall of the lower half of the mould, 0 in the
 * middle, 1 at a wall of the upper half, from the distance to the nearest surface.
 */
function wallPlaces(
  cap: THREE.BufferGeometry,
  surface: THREE.BufferGeometry,
  tree: MeshBVH,
  grid: ViewGrid,
  map: PointMap,
): Float32Array {
  const position = cap.getAttribute('position');
  const index = surface.getIndex() as THREE.BufferAttribute;
  const corners = surface.getAttribute('position');
  const out = new Float32Array(position.count);
  const point = new THREE.Vector3();
  const target = { point: new THREE.Vector3(), distance: 0, faceIndex: 0 };
  const [a, b, c] = [new THREE.Vector3(), new THREE.Vector3(), new THREE.Vector3()];
  for (let p = 0; p < position.count; p++) {
    if (!map.weights[WEIGHTS * p]) continue;
    const reach = 500 * grid.thickness[map.nodes[WEIGHTS * p]];
    const found = tree.closestPointToPoint(point.fromBufferAttribute(position, p), target, 0, 2 * reach);
    if (!found) continue;
    const [i, j, k] = [0, 1, 2].map((q) => index.getX(3 * found.faceIndex + q));
    a.fromBufferAttribute(corners, i);
    b.fromBufferAttribute(corners, j).sub(a);
    c.fromBufferAttribute(corners, k).sub(a);
    const upwards = b.cross(c).z >= 0;
    const place = Math.max(0, 1 - found.distance / reach);
    out[p] = upwards ? place : -place;
  }
  return out;
}

/** Puts the profile of the nodes around each point at its place through the wall into `out`. */
function profileAt(map: PointMap, profile: NodeFrames, frame: number, places: Float32Array, out: Float32Array): void {
  const { components } = profile;
  const values = profile.at(frame);
  out.fill(NO_VALUE);
  const nPlaces = PROFILE_PLACES.length;
  const whole = components > nPlaces;
  for (let p = 0; p < out.length; p++) {
    const zeta = Math.abs(places[p]);
    let k = 1;
    while (k < nPlaces - 1 && PROFILE_PLACES[k] < zeta) k++;
    const s = Math.min(1, Math.max(0, (zeta - PROFILE_PLACES[k - 1]) / (PROFILE_PLACES[k] - PROFILE_PLACES[k - 1])));
    // Whole walls are stored from the upper half's wall to the lower one's.
    const slot = (q: number) => (!whole ? q : places[p] >= 0 ? nPlaces - 1 - q : nPlaces + q);
    let [sum, weight] = [0, 0];
    for (let m = WEIGHTS * p; m < WEIGHTS * (p + 1); m++) {
      const at = map.nodes[m] * components;
      const v = values[at + slot(k - 1)] * (1 - s) + values[at + slot(k)] * s;
      if (!map.weights[m] || !(v === v)) continue;
      sum += map.weights[m] * v;
      weight += map.weights[m];
    }
    if (weight > 0) out[p] = sum / weight;
  }
}
