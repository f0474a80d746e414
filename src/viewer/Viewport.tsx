'use client';

import { Canvas, useThree } from '@react-three/fiber';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { BlockSlice, type BlockCells } from './BlockSlice';
import { CoolingLayer, type CoolingMarks } from './CoolingLayer';
import { DrawLayer, type DrawPlan } from './DrawLayer';
import { FeedDucts, type DuctMark, type FeedValues } from './FeedDucts';
import { stillFrames, stillHead, type Head, type NodeFrames, type ValueFrames } from './frames';
import { AxisLines, type AxisLine } from './AxisLines';
import { BodySurface, type BodyDraw } from './BodySurface';
import { CameraRig, type CameraRequest, type Eye } from './camera';
import { StandInDraft, type DraftShape } from './StandInDraft';
import { FindingsLayer, type FindingMarks } from './FindingsLayer';
import { Arrows, Tracers, type ArrowSet } from './FlowLayer';
import { GateMarkers, type GateMark } from './GateMarkers';
import { fieldUniforms, type FieldUniforms } from './material';
import { geometryOf, PartSurface, type Deformed, type DrawMesh, type SurfaceHit } from './PartSurface';
import { NO_VALUE, type ViewGrid } from './results';
import { SectionCap } from './SectionCap';
import type { TracerPaths } from './tracers';
import { useHead } from './useFrames';

export interface SectionView {
  axis: 'x' | 'y' | 'z';
  /** 0..1 between the part's ends */
  at: number;
  flipped: boolean;
  /** Degrees out of the axis. */
  tilt: number;
  swing: number;
}

export interface FieldView {
  /** At the vertices of the drawn surface. */
  values: ValueFrames;
  /** When the front passed each vertex, s; NO_VALUE where it never did. */
  times: Float32Array;
  /** At the nodes, for the section's cap. */
  nodes: NodeFrames;
  nodeTimes: Float32Array;
  grid: ViewGrid | null;
  range: [number, number];
  brush: [number, number] | null;
  /** Last instant, s: the play head stands no later. Before it a line marks the front. */
  end: number;
  /** Drawn at its end whatever the play head says: as it is computed with the front, or as a whole. */
  still: 'front' | 'whole' | null;
  /** The part is drawn off its drawing. */
  deformed?: Deformed | null;
  /** Inserts that carry values of their own; with `alone` the part stands faintly around them. */
  inserts?: { mesh: DrawMesh; values: Float32Array; offset: Float32Array; alone: boolean } | null;
  /** Values through the wall, for the section. */
  profile?: NodeFrames | null;
}

/** What is drawn over the field. */
export interface Overlays extends FindingMarks {
  /** Time between isochrones, s; 0 draws none. */
  isochrones: number;
  arrows: ArrowSet | null;
  tracers: TracerPaths | null;
  /** Discs on the surface, mm: where no gate may sit. */
  patches: { position: [number, number, number]; radius: number }[];
}

/** Colours of the gates' tracers: apart in hue and in lightness. */
export const GATE_COLOURS = ['#a8481a', '#16626b', '#c79a2b', '#5b3f7a', '#4d7a35', '#8a8378'];

export interface ViewportColours {
  clay: string;
  edge: string;
  accent: string;
  select: string;
  ink: string;
  paper: string;
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
  /** Runners; null when there are none or they are hidden. */
  feed: { ducts: DuctMark[]; faded: boolean; alone: boolean; result: FeedValues | null } | null;
  /** Mould block with its circuits; null where they are not looked at. */
  cooling: CoolingMarks | null;
  /** The part's surface is seen through. */
  faint: boolean;
  onChannel: (id: string) => void;
  /** Temperatures of the block, for the section; null where there are none. */
  block: BlockCells | null;
  /** Lines being drawn; null while none are. */
  draw: DrawPlan | null;
  onDraw: (at: [number, number, number]) => void;
  field: FieldView | null;
  section: SectionView | null;
  gates: GateMark[];
  overlays: Overlays;
  place: { position: [number, number, number]; label: string } | null;
  camera: CameraRequest;
  /** Keeps where the camera is; the same object for one viewer's life. */
  eye: Eye;
  /** The play head, s; the same object for one viewer's life. */
  head: Head;
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
  const inserts = field?.inserts ?? null;
  const insertMesh = inserts?.mesh ?? null;
  const insertGeometry = useMemo(() => (insertMesh ? geometryOf(insertMesh) : null), [insertMesh]);
  // Inserts lie there from the start.
  const always = useMemo(() => (insertMesh ? new Float32Array(insertMesh.positions.length / 3) : null), [insertMesh]);
  const insertValues = useMemo(() => inserts && stillFrames(inserts.values), [inserts]);
  const faint = props.faint || inserts?.alone === true;
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
  const head = useMemo(() => headOf(props.head, field), [props.head, field]);
  useUniforms(uniforms, field, cut, colours, props.overlays.isochrones);
  useHead(head, (time) => showMoment(uniforms, field, time), field);
  const { onReady } = props;
  useEffect(() => {
    const frame = requestAnimationFrame(onReady);
    return () => cancelAnimationFrame(frame);
  }, [geometry, props.bodies, onReady]);

  return (
    <>
      <CameraRig box={box} request={props.camera} locked={props.dragging} eye={props.eye} />
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
      {insertGeometry && inserts && (
        <PartSurface
          geometry={insertGeometry}
          uniforms={uniforms}
          values={insertValues}
          times={always}
          head={head}
          deformed={field?.deformed ? { ...field.deformed, offset: inserts.offset } : null}
          section={false}
          onHover={props.onHover}
          onPick={props.onPick}
        />
      )}
      {geometry && !props.feed?.alone && !faint && (
        <PartSurface
          geometry={geometry}
          uniforms={uniforms}
          values={field?.values ?? null}
          times={field?.times ?? null}
          head={head}
          deformed={field?.deformed ?? null}
          section={cut !== null}
          onHover={props.onHover}
          onPick={props.onPick}
        />
      )}
      {faint && geometry && <Ghost geometry={geometry} colour={colours.clay} />}
      {props.cooling && (
        <CoolingLayer
          marks={props.cooling}
          colour={COOLANT}
          select={colours.select}
          accent={colours.accent}
          ink={colours.ink}
          paper={colours.paper}
          cut={cut?.plane ?? null}
          onPick={props.onChannel}
        />
      )}
      {props.block && cut && field && <BlockSlice block={props.block} plane={cut.plane} range={field.range} />}
      {props.feed && (
        <FeedDucts
          ducts={props.feed.ducts}
          result={props.feed.result}
          uniforms={uniforms}
          faded={props.feed.faded}
          cold={colours.clay}
          hot={colours.accent}
          head={head}
        />
      )}
      {props.draw && (
        <DrawLayer
          plan={props.draw}
          colour={colours.select}
          paper={colours.paper}
          size={0.006 * diagonal}
          onPoint={props.onDraw}
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
          plane={cut.plane}
          uniforms={uniforms}
          grid={field?.grid ?? null}
          nodes={field?.nodes ?? null}
          nodeTimes={field?.nodeTimes ?? null}
          profile={field?.profile ?? null}
          surface={geometry}
          head={head}
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
      <OverlayLayers {...props} head={head} diagonal={diagonal} />
      {props.place && <PlaceMark position={props.place.position} radius={0.012 * diagonal} colour={colours.select} />}
    </>
  );
}

/** Lines of coolant where nothing is known of them. */
const COOLANT = '#7f97a0';

/** The part as glass: its shape stays, what lies behind it is seen. */
function Ghost({ geometry, colour }: { geometry: THREE.BufferGeometry; colour: string }) {
  return (
    <mesh geometry={geometry} renderOrder={3} raycast={() => null}>
      <meshBasicMaterial color={colour} transparent opacity={0.34} depthWrite={false} />
    </mesh>
  );
}

const AXIS = { x: 0, y: 1, z: 2 } as const;

/** The cutting plane: across an axis, turned by tilt and swing, between the part's ends along its normal. */
function sectionPlane(section: SectionView, box: THREE.Box3): { plane: THREE.Vector4 } {
  const axis = AXIS[section.axis];
  const unit = (k: number) => new THREE.Vector3().setComponent(k % 3, 1);
  const rad = Math.PI / 180;
  const normal = unit(axis)
    .applyAxisAngle(unit(axis + 1), section.tilt * rad)
    .applyAxisAngle(unit(axis + 2), section.swing * rad);
  const centre = box.getCenter(new THREE.Vector3());
  const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
  const reach = Math.abs(normal.x) * half.x + Math.abs(normal.y) * half.y + Math.abs(normal.z) * half.z;
  // Never exactly on an end face: the cut would flicker between all and nothing.
  const at = normal.dot(centre) + reach * (2 * Math.min(0.999, Math.max(0.001, section.at)) - 1);
  const sign = section.flipped ? -1 : 1;
  return { plane: new THREE.Vector4(sign * normal.x, sign * normal.y, sign * normal.z, -sign * at) };
}

function OverlayLayers({ overlays, colours, head, diagonal }: ViewportProps & { diagonal: number }) {
  const { arrows, tracers, patches } = overlays;
  return (
    <>
      <FindingsLayer
        curves={overlays.curves}
        places={overlays.places}
        size={0.011 * diagonal}
        ink={colours.ink}
        paper={colours.paper}
        accent={colours.accent}
        select={colours.select}
      />
      {arrows && <Arrows set={arrows} length={0.045 * diagonal} colour={colours.ink} />}
      {tracers && <Tracers paths={tracers} head={head} size={0.0055 * diagonal} colours={GATE_COLOURS} />}
      {patches.length > 0 && <Patches patches={patches} colour={colours.accent} />}
    </>
  );
}

/** Painted places: flat balls, one instance each. */
function Patches({ patches, colour }: { patches: Overlays['patches']; colour: string }) {
  const invalidate = useThree((s) => s.invalidate);
  const mesh = useMemo(() => {
    const made = new THREE.InstancedMesh(
      new THREE.SphereGeometry(1, 16, 12),
      new THREE.MeshBasicMaterial({ color: colour, transparent: true, opacity: 0.4, depthWrite: false }),
      patches.length,
    );
    const matrix = new THREE.Matrix4();
    patches.forEach((p, i) => {
      matrix.makeScale(p.radius, p.radius, p.radius).setPosition(...p.position);
      made.setMatrixAt(i, matrix);
    });
    made.renderOrder = 6;
    made.raycast = () => {};
    return made;
  }, [patches, colour]);
  useEffect(() => {
    invalidate();
    return () => mesh.dispose();
  }, [mesh, invalidate]);
  return <primitive object={mesh} />;
}

/** The play head as a field is drawn: no later than its end, or always there. */
function headOf(head: Head, field: FieldView | null): Head {
  if (!field || field.still) return stillHead(field?.end ?? 0);
  const until = (time: number) => Math.min(time, field.end);
  return { now: () => until(head.now()), follow: (moved) => head.follow((time) => moved(until(time))) };
}

/** A moment of the shot, by nothing but uniforms. */
function showMoment(uniforms: FieldUniforms, field: FieldView | null, time: number): void {
  uniforms.uTime.value = field?.still === 'whole' ? 1e20 : time;
  uniforms.uFront.value = field !== null && (field.still === 'front' || (field.still === null && time < field.end));
}

function useUniforms(
  uniforms: FieldUniforms,
  field: FieldView | null,
  cut: { plane: THREE.Vector4 } | null,
  colours: ViewportColours,
  isochrones: number,
): void {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    uniforms.uField.value = field !== null;
    if (field) {
      uniforms.uRange.value.set(...field.range);
      uniforms.uBrush.value.set(...(field.brush ?? [-NO_VALUE, NO_VALUE]));
    }
    uniforms.uIso.value = field ? isochrones : 0;
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
