import { useThree, type ThreeEvent } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { acceleratedRaycast } from 'three-mesh-bvh';
import { useCoarseWhileMoving } from './coarse';
import type { Head, ValueFrames } from './frames';
import { stencilMaterial, type FieldUniforms } from './material';
import { PieceFaces, type Pieces } from './PieceFaces';
import { NO_VALUE } from './results';
import { useFieldMaterial, useFrames } from './useFrames';

/** A place on the surface under the pointer. */
export interface SurfaceHit {
  /** mm */
  point: THREE.Vector3;
  /** Outward unit normal of the facet. */
  normal: THREE.Vector3;
  /** Body under the pointer, when bodies are drawn one by one. */
  body: string | null;
  /** Value of the shown field there; null where there is none. */
  value: number | null;
  /** Time the front passed; null where not filled. */
  time: number | null;
}

/** How the vertices are moved off the drawing. */
export interface Deformed {
  /** m, 3 per vertex */
  offset: Float32Array;
  /** They are drawn so many times as large. */
  scale: number;
  /** To and fro between drawing and shape. */
  moving: boolean;
}

/** Seconds from the drawing to the shape and back. */
const PERIOD = 2.4;

interface Props {
  geometry: THREE.BufferGeometry;
  uniforms: FieldUniforms;
  /** Values at the vertices; null where there are none. */
  values: ValueFrames | null;
  times: Float32Array | null;
  head: Head;
  deformed: Deformed | null;
  /** Closes what a range of values leaves of the part; absent: nothing does. */
  pieces?: Pieces | null;
  section: boolean;
  onHover: (hit: SurfaceHit | null) => void;
  onPick: (hit: SurfaceHit, event: { add: boolean }) => void;
}

export function PartSurface(props: Props) {
  const { geometry, uniforms, values, times, head, deformed, pieces, section, onHover, onPick } = props;
  const invalidate = useThree((s) => s.invalidate);
  useCoarseWhileMoving(geometry);
  const frames = useFrames(values, geometry.getAttribute('position').count, head);
  const material = useFieldMaterial(uniforms, frames, 'surface');
  const back = useMemo(() => stencilMaterial(uniforms, THREE.BackSide), [uniforms]);
  const front = useMemo(() => stencilMaterial(uniforms, THREE.FrontSide), [uniforms]);

  const mesh = useMemo(() => {
    const made = new THREE.Mesh(geometry, material);
    // What the section cuts away cannot be picked.
    made.raycast = clippedRaycast(made, uniforms);
    return made;
  }, [geometry, material, uniforms]);

  useEffect(() => {
    setAttribute(geometry, 'aTime', times);
    invalidate();
  }, [geometry, times, invalidate]);

  const offset = deformed?.offset ?? null;
  const scale = deformed?.scale ?? 0;
  const moving = deformed?.moving ?? false;
  useEffect(() => {
    const attribute = geometry.getAttribute('aOffset') as THREE.BufferAttribute;
    const target = attribute.array as Float32Array;
    if (offset?.length === target.length) offset.forEach((u, k) => (target[k] = u === u ? 1000 * u : 0));
    else target.fill(0);
    attribute.needsUpdate = true;
    invalidate();
  }, [geometry, offset, invalidate]);
  useEffect(() => {
    uniforms.uDeform.value = scale;
    invalidate();
    if (!moving || !scale) return;
    let frame = 0;
    const begun = performance.now();
    const draw = (now: number) => {
      uniforms.uDeform.value = (scale / 2) * (1 - Math.cos((2 * Math.PI * (now - begun)) / (1000 * PERIOD)));
      invalidate();
      frame = requestAnimationFrame(draw);
    };
    frame = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(frame);
  }, [uniforms, scale, moving, invalidate]);

  const hitOf = (event: ThreeEvent<PointerEvent | MouseEvent>): SurfaceHit => ({
    point: event.point.clone(),
    normal: event.face?.normal.clone() ?? new THREE.Vector3(0, 0, 1),
    body: null,
    value: interpolate(geometry, (vertex) => frames.at(vertex), event),
    time: interpolate(geometry, (vertex) => geometry.getAttribute('aTime').getX(vertex), event),
  });

  return (
    <>
      {section && <mesh geometry={geometry} material={back} renderOrder={1} raycast={() => null} />}
      {section && <mesh geometry={geometry} material={front} renderOrder={1} raycast={() => null} />}
      {pieces && times && pieces.walls.length === times.length && (
        <PieceFaces
          geometry={geometry}
          frames={frames}
          times={times}
          offset={offset}
          uniforms={uniforms}
          head={head}
          pieces={pieces}
        />
      )}
      <primitive
        object={mesh}
        renderOrder={3}
        onPointerMove={(event: ThreeEvent<PointerEvent>) => onHover(hitOf(event))}
        onPointerOut={() => onHover(null)}
        onClick={(event: ThreeEvent<MouseEvent>) => {
          if (event.delta < 5) onPick(hitOf(event), { add: event.ctrlKey || event.metaKey || event.shiftKey });
        }}
      />
    </>
  );
}

/** Picks the nearest point that the section leaves standing. */
export function clippedRaycast(mesh: THREE.Mesh, uniforms: FieldUniforms): THREE.Mesh['raycast'] {
  return (raycaster, hits) => {
    // A large surface without its tree yet would hold the page at every move of the pointer.
    if (!mesh.geometry.boundsTree) return;
    const all: THREE.Intersection[] = [];
    // Of what is whole the first hit is the one that is seen.
    raycaster.firstHitOnly = !uniforms.uClipOn.value;
    acceleratedRaycast.call(mesh, raycaster, all);
    const plane = uniforms.uPlane.value;
    const seen = all
      .filter((h) => !uniforms.uClipOn.value || h.point.dot(plane as unknown as THREE.Vector3) + plane.w <= 0)
      .sort((a, b) => a.distance - b.distance);
    if (seen.length) hits.push(seen[0]);
  };
}

function setAttribute(geometry: THREE.BufferGeometry, name: string, data: Float32Array | null): void {
  const attribute = geometry.getAttribute(name) as THREE.BufferAttribute;
  const target = attribute.array as Float32Array;
  // Data of another surface (a run just switched) must not be drawn on this one.
  if (data && data.length === target.length) target.set(data);
  else target.fill(NO_VALUE);
  attribute.needsUpdate = true;
}

/** Value at a hit of what vertices have; null where a corner has none. */
function interpolate(
  geometry: THREE.BufferGeometry,
  at: (vertex: number) => number,
  event: ThreeEvent<PointerEvent | MouseEvent>,
) {
  const { face } = event;
  if (!face) return null;
  const position = geometry.getAttribute('position');
  const corner = (i: number) => new THREE.Vector3().fromBufferAttribute(position, i);
  const weights = THREE.Triangle.getBarycoord(
    event.point,
    corner(face.a),
    corner(face.b),
    corner(face.c),
    new THREE.Vector3(),
  );
  if (!weights) return null;
  const values = [face.a, face.b, face.c].map(at);
  if (values.some((v) => v >= NO_VALUE / 2)) return null;
  return values[0] * weights.x + values[1] * weights.y + values[2] * weights.z;
}
