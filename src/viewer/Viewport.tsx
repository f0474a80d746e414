'use client';

import { Canvas, useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { AxisLines, type AxisLine } from './AxisLines';
import { BodySurface, type BodyDraw } from './BodySurface';
import { CameraRig, type CameraRequest } from './camera';
import { StandInDraft, type DraftShape } from './StandInDraft';
import { GateMarkers, type GateMark } from './GateMarkers';
import { fieldUniforms, type FieldUniforms } from './material';
import { geometryOf, PartSurface, type DrawMesh, type SurfaceHit } from './PartSurface';
import { NO_VALUE, type ViewGrid } from './results';
import { SectionCap } from './SectionCap';

export interface SectionView {
  axis: 'x' | 'y' | 'z';
  /** 0..1 between the part's ends */
  at: number;
  flipped: boolean;
}

export interface FieldView {
  /** Per vertex of the drawn surface; NO_VALUE where there is none. */
  values: Float32Array;
  times: Float32Array;
  /** Per node, for the section's cap. */
  nodeValues: Float32Array;
  nodeTimes: Float32Array;
  grid: ViewGrid | null;
  range: [number, number];
  brush: [number, number] | null;
  /** Play head, s */
  time: number;
  /** Mark the front with a line. */
  showFront: boolean;
}

export interface ViewportColours {
  clay: string;
  edge: string;
  accent: string;
  select: string;
}

export interface ViewportProps {
  /** The surface that carries the field; null when only bodies are drawn. */
  mesh: DrawMesh | null;
  /** Bodies drawn one by one. */
  bodies: BodyDraw[];
  axes: AxisLine[];
  draft: DraftShape | null;
  onDraft: (next: DraftShape, done: boolean) => void;
  /** Spheres around places, mm. */
  marks: { position: [number, number, number]; radius: number; on: boolean }[];
  /** Height of the parting plane, mm; null: not shown. */
  parting: number | null;
  /** The mesh the outline is drawn from: its creases, not those of the refined surface. */
  outline: DrawMesh;
  /** What is framed, m: all bodies, shown or not, so that hiding one does not move the eye. */
  frame: { min: readonly number[]; max: readonly number[] };
  field: FieldView | null;
  section: SectionView | null;
  gates: GateMark[];
  place: { position: [number, number, number]; label: string } | null;
  camera: CameraRequest;
  colours: ViewportColours;
  dragging: boolean;
  onHover: (hit: SurfaceHit | null) => void;
  onPick: (hit: SurfaceHit, event: { add: boolean }) => void;
  onGrab: (gateId: string) => void;
  /** The part is drawn, framed and can be picked. */
  onReady: () => void;
}

/** Past this many triangles the search for creases takes longer than its lines are worth. */
const MAX_OUTLINE = 300_000;

/** The part in 3D. Draws on demand only. */
export default function Viewport(props: ViewportProps) {
  return (
    <Canvas
      frameloop="demand"
      legacy
      linear
      flat
      dpr={[1, 2]}
      gl={{ stencil: true, antialias: true, alpha: true, preserveDrawingBuffer: true }}
      camera={{ fov: 28, up: [0, 0, 1], position: [1, -1, 1] }}
      onPointerMissed={() => props.onHover(null)}
    >
      <Scene {...props} />
    </Canvas>
  );
}

function Scene(props: ViewportProps) {
  const { mesh, outline, field, section, colours } = props;
  const uniforms = useMemo(fieldUniforms, []);
  const geometry = useMemo(() => (mesh ? geometryOf(mesh) : null), [mesh]);
  // Gates stand on what is drawn.
  const ground = useMemo(() => geometry ?? geometryOf(outline), [geometry, outline]);
  const { min, max } = props.frame;
  const ends = [...min, ...max].join();
  const box = useMemo(() => {
    const [x0, y0, z0, x1, y1, z1] = ends.split(',').map((x) => 1000 * Number(x));
    return new THREE.Box3(new THREE.Vector3(x0, y0, z0), new THREE.Vector3(x1, y1, z1));
  }, [ends]);
  const diagonal = box.getSize(new THREE.Vector3()).length();
  const cut = section ? sectionPlane(section, box) : null;
  useUniforms(uniforms, field, cut, colours);
  const { onReady } = props;
  useEffect(() => {
    const frame = requestAnimationFrame(onReady);
    return () => cancelAnimationFrame(frame);
  }, [geometry, props.bodies, onReady]);

  return (
    <>
      <CameraRig box={box} request={props.camera} locked={props.dragging} />
      {props.bodies.map((body) => (
        <BodySurface
          key={body.id}
          body={body}
          uniforms={uniforms}
          section={cut !== null}
          select={colours.select}
          onHover={props.onHover}
          onPick={props.onPick}
        />
      ))}
      {geometry && (
        <PartSurface
          geometry={geometry}
          uniforms={uniforms}
          values={field?.values ?? null}
          times={field?.times ?? null}
          section={cut !== null}
          onHover={props.onHover}
          onPick={props.onPick}
        />
      )}
      <AxisLines axes={props.axes} colour={colours.select} />
      {props.draft && <StandInDraft shape={props.draft} colour={colours.select} onChange={props.onDraft} />}
      {props.marks.map((m, i) => (
        <mesh key={i} position={m.position} renderOrder={6} raycast={() => null}>
          <sphereGeometry args={[m.radius, 24, 16]} />
          <meshBasicMaterial
            color={m.on ? colours.accent : colours.edge}
            transparent
            opacity={m.on ? 0.45 : 0.15}
            depthTest={false}
          />
        </mesh>
      ))}
      {props.parting !== null && <PartingPlane box={box} height={props.parting} colour={colours.select} />}
      {section && cut && (
        <SectionCap
          box={box}
          axis={section.axis}
          at={cut.at}
          uniforms={uniforms}
          grid={field?.grid ?? null}
          nodeValues={field?.nodeValues ?? null}
          nodeTimes={field?.nodeTimes ?? null}
        />
      )}
      {outline.triangles.length / 3 < MAX_OUTLINE && (
        <Creases mesh={outline} colour={colours.edge} plane={cut?.plane ?? null} />
      )}
      <GateMarkers
        gates={props.gates}
        geometry={ground}
        size={0.075 * diagonal}
        colour={colours.accent}
        selectedColour={colours.select}
        onGrab={props.onGrab}
      />
      {props.place && <PlaceMark position={props.place.position} radius={0.012 * diagonal} colour={colours.select} />}
    </>
  );
}

function sectionPlane(section: SectionView, box: THREE.Box3): { plane: THREE.Vector4; at: number } {
  const axis = { x: 0, y: 1, z: 2 }[section.axis];
  const low = box.min.getComponent(axis);
  const high = box.max.getComponent(axis);
  // Never exactly on an end face: the cut would flicker between all and nothing.
  const at = low + Math.min(0.999, Math.max(0.001, section.at)) * (high - low);
  const sign = section.flipped ? -1 : 1;
  const plane = new THREE.Vector4(0, 0, 0, -sign * at);
  plane.setComponent(axis, sign);
  return { plane, at };
}

function useUniforms(
  uniforms: FieldUniforms,
  field: FieldView | null,
  cut: { plane: THREE.Vector4 } | null,
  colours: ViewportColours,
): void {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    uniforms.uField.value = field !== null;
    if (field) {
      uniforms.uRange.value.set(...field.range);
      uniforms.uBrush.value.set(...(field.brush ?? [-NO_VALUE, NO_VALUE]));
      uniforms.uTime.value = Number.isFinite(field.time) ? field.time : 1e20;
      uniforms.uFront.value = field.showFront;
    }
    uniforms.uClipOn.value = cut !== null;
    if (cut) uniforms.uPlane.value.copy(cut.plane);
    uniforms.uClay.value.set(colours.clay);
    uniforms.uAccent.value.set(colours.accent);
    invalidate();
  });
}

/** Soft edges where neighbouring faces meet at more than 28 degrees. */
function Creases({ mesh, colour, plane }: { mesh: DrawMesh; colour: string; plane: THREE.Vector4 | null }) {
  const geometry = useMemo(() => {
    const plain = new THREE.BufferGeometry();
    plain.setAttribute(
      'position',
      new THREE.BufferAttribute(
        Float32Array.from(mesh.positions, (x) => 1000 * x),
        3,
      ),
    );
    plain.setIndex(new THREE.BufferAttribute(mesh.triangles.slice(), 1));
    return new THREE.EdgesGeometry(plain, 28);
  }, [mesh]);
  const clip = useMemo(
    () => (plane ? [new THREE.Plane(new THREE.Vector3(-plane.x, -plane.y, -plane.z), -plane.w)] : []),
    [plane],
  );
  const renderer = useThree((s) => s.gl);
  useEffect(() => {
    renderer.localClippingEnabled = true;
  }, [renderer]);
  return (
    <lineSegments geometry={geometry} renderOrder={4} raycast={() => null}>
      <lineBasicMaterial color={colour} transparent opacity={0.5} clippingPlanes={clip} depthTest />
    </lineSegments>
  );
}

/** The parting plane as a pale sheet with a rim, somewhat larger than the part. */
function PartingPlane({ box, height, colour }: { box: THREE.Box3; height: number; colour: string }) {
  const size = box.getSize(new THREE.Vector3());
  const centre = box.getCenter(new THREE.Vector3());
  const margin = 0.08 * Math.max(size.x, size.y);
  const [w, d] = [size.x + 2 * margin, size.y + 2 * margin];
  const rim = useMemo(() => new THREE.EdgesGeometry(new THREE.PlaneGeometry(w, d)), [w, d]);
  return (
    <group position={[centre.x, centre.y, height]}>
      <mesh renderOrder={5} raycast={() => null}>
        <planeGeometry args={[w, d]} />
        <meshBasicMaterial color={colour} transparent opacity={0.13} side={THREE.DoubleSide} depthWrite={false} />
      </mesh>
      <lineSegments geometry={rim} renderOrder={5} raycast={() => null}>
        <lineBasicMaterial color={colour} transparent opacity={0.7} />
      </lineSegments>
    </group>
  );
}

function PlaceMark({
  position,
  radius,
  colour,
}: {
  position: [number, number, number];
  radius: number;
  colour: string;
}) {
  return (
    <group position={position}>
      <mesh renderOrder={6}>
        <sphereGeometry args={[radius, 20, 14]} />
        <meshBasicMaterial color={colour} depthTest={false} transparent opacity={0.9} />
      </mesh>
    </group>
  );
}
