import { useThree, type ThreeEvent } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { useCoarseWhileMoving } from './coarse';
import { LIGHT, stencilMaterial, type FieldUniforms } from './material';
import { clippedRaycast, type SurfaceHit } from './PartSurface';
import { useGeometryOf, type DrawMesh } from './surfaceGeometry';

/** One body as it is drawn. */
export interface BodyDraw {
  id: string;
  mesh: DrawMesh;
  colour: string;
  /** Below 1 it is seen through and not picked. */
  opacity: number;
  selected: boolean;
}

interface Props {
  body: BodyDraw;
  uniforms: FieldUniforms;
  section: boolean;
  select: string;
  onHover: (hit: SurfaceHit | null) => void;
  onPick: (hit: SurfaceHit, event: { add: boolean }) => void;
}

const VERTEX = /* glsl */ `
varying vec3 vPlace;
varying vec3 vView;
void main() {
  vPlace = position;
  vec4 seen = modelViewMatrix * vec4(position, 1.0);
  vView = seen.xyz;
  gl_Position = projectionMatrix * seen;
}`;

/** The same soft light as on the part's surface, so that a body looks the same with and without a field. */
const FRAGMENT = /* glsl */ `
${LIGHT}
uniform bool uClipOn;
uniform vec4 uPlane;
uniform vec3 uColour, uSelect;
uniform float uOpacity, uChosen;
varying vec3 vPlace, vView;
void main() {
  if (uClipOn && dot(uPlane.xyz, vPlace) + uPlane.w > 0.0) discard;
  float lit = lightOn(vView);
  vec3 base = mix(uColour, uSelect, uChosen * 0.62);
  if (!gl_FrontFacing) base *= 0.78;
  gl_FragColor = vec4(base * lit, uOpacity);
}`;

export function BodySurface({ body, uniforms, section, select, onHover, onPick }: Props) {
  const invalidate = useThree((s) => s.invalidate);
  const geometry = useGeometryOf(body.mesh);
  useCoarseWhileMoving(geometry);
  const solid = body.opacity >= 1;
  const material = useMemo(
    () =>
      new THREE.ShaderMaterial({
        uniforms: {
          uClipOn: uniforms.uClipOn,
          uPlane: uniforms.uPlane,
          uColour: { value: new THREE.Color() },
          uSelect: { value: new THREE.Color() },
          uOpacity: { value: 1 },
          uChosen: { value: 0 },
        },
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        side: THREE.DoubleSide,
        transparent: !solid,
        depthWrite: solid,
        polygonOffset: true,
        // Faint bodies stand behind the faces of the part that they touch.
        polygonOffsetFactor: solid ? 1 : 8,
        polygonOffsetUnits: solid ? 1 : 8,
      }),
    [uniforms, solid],
  );
  const back = useMemo(() => stencilMaterial(uniforms, THREE.BackSide), [uniforms]);
  const front = useMemo(() => stencilMaterial(uniforms, THREE.FrontSide), [uniforms]);
  const mesh = useMemo(() => {
    const made = new THREE.Mesh(geometry, material);
    made.raycast = solid ? clippedRaycast(made, uniforms) : () => {};
    return made;
  }, [geometry, material, uniforms, solid]);
  useEffect(() => {
    material.uniforms.uColour.value.set(body.colour);
    material.uniforms.uSelect.value.set(select);
    material.uniforms.uOpacity.value = body.opacity;
    material.uniforms.uChosen.value = body.selected ? 1 : 0;
    invalidate();
  }, [material, body.colour, body.opacity, body.selected, select, invalidate]);
  const hitOf = (event: ThreeEvent<PointerEvent | MouseEvent>): SurfaceHit => ({
    point: event.point.clone(),
    normal: event.face?.normal.clone() ?? new THREE.Vector3(0, 0, 1),
    body: body.id,
    value: null,
    time: null,
  });
  return (
    <>
      {section && solid && <mesh geometry={geometry} material={back} renderOrder={1} raycast={() => null} />}
      {section && solid && <mesh geometry={geometry} material={front} renderOrder={1} raycast={() => null} />}
      <primitive
        object={mesh}
        renderOrder={solid ? 3 : 5}
        onPointerMove={(event: ThreeEvent<PointerEvent>) => {
          event.stopPropagation();
          onHover(hitOf(event));
        }}
        onPointerOut={() => onHover(null)}
        onClick={(event: ThreeEvent<MouseEvent>) => {
          event.stopPropagation();
          if (event.delta < 5) onPick(hitOf(event), { add: event.ctrlKey || event.metaKey || event.shiftKey });
        }}
      />
    </>
  );
}
