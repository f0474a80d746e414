'use client';

import { Canvas, useThree } from '@react-three/fiber';
import { UNMOVED } from '@/core/geometry/placement';
import { useEffect, useMemo } from 'react';
import * as THREE from 'three';
import { BlockSlice, type BlockCells } from './BlockSlice';
import { CoreSurface } from './CoreSurface';
import { CoolingLayer, type CoolingMarks } from './CoolingLayer';
import { DrawLayer, type DrawPlan } from './DrawLayer';
import { FeedDucts, type DuctMark, type FeedValues } from './FeedDucts';
import { stillFrames, stillHead, type Head } from './frames';
import { AxisLines, type AxisLine } from './AxisLines';
import { BodySurface, type BodyDraw } from './BodySurface';
import { GATE_COLOURS, type FieldView, type Overlays, type SectionView, type ViewportColours } from './fieldView';
import { eyeThrough, planeMoved, type Lying } from './lying';
import { leaves, sectionPlane } from './section';
import { SectionGrip } from './SectionGrip';
import { Creases, Ghost, PartingPlane, Patches, PlaceMark, type PartingMark } from './SceneMarks';
import { CameraRig, type CameraRequest, type Eye } from './camera';
import { StandInDraft, type DraftShape } from './StandInDraft';
import { FindingsLayer } from './FindingsLayer';
import { Tracers, Vectors } from './FlowLayer';
import { ChargeLayer, type ChargeMark } from './ChargeLayer';
import { GateMarkers, type GateMark } from './GateMarkers';
import { LabelBoard } from './Label';
import type { ColourMap } from './colour';
import { fieldUniforms, mapTextures, type FieldUniforms } from './material';
import { PartSurface, type SurfaceHit } from './PartSurface';
import { NO_VALUE } from './results';
import { RulerLayer, type RulerMark } from './RulerLayer';
import { SectionCap } from './SectionCap';
import { useGeometryOf, type DrawMesh } from './surfaceGeometry';
import { useHead } from './useFrames';

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
  /** null: not shown. */
  parting: PartingMark | null;
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
  /** A click beside all that can be hit. */
  onMissed?: () => void;
  /** Takes the place of a section that is pulled; absent: it can not be. */
  onSection?: (at: number) => void;
  /** How the part lies beside the one that leads the eye and the section; absent: it leads itself. */
  lying?: Lying | null;
  gates: GateMark[];
  /** Melt that lies in the open tool; absent: none. */
  charges?: ChargeMark[];
  overlays: Overlays;
  place: { position: [number, number, number]; label: string } | null;
  /** What is measured; absent: nothing. */
  ruler?: RulerMark | null;
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
      onPointerMissed={() => {
        props.onHover(null);
        props.onMissed?.();
      }}
    >
      <LabelBoard>
        <Scene {...props} />
      </LabelBoard>
    </Canvas>
  );
}

function Scene(props: ViewportProps) {
  const { mesh, outline, field, section, colours } = props;
  const maps = useMemo(mapTextures, []);
  const uniforms = useMemo(() => fieldUniforms(maps.sequential), [maps]);
  const geometry = useGeometryOf(mesh);
  const inserts = field?.inserts ?? null;
  const insertMesh = inserts?.mesh ?? null;
  const insertGeometry = useGeometryOf(insertMesh);
  // Inserts lie there from the start.
  const always = useMemo(() => (insertMesh ? new Float32Array(insertMesh.positions.length / 3) : null), [insertMesh]);
  const insertValues = useMemo(() => inserts && stillFrames(inserts.values), [inserts]);
  const core = field?.core ?? null;
  const [walls, brush] = [field?.walls ?? null, field?.brush ?? null];
  const pieces = useMemo(() => (walls && brush ? { walls, brush } : null), [walls, brush]);
  // The core that a field colours is seen through the part.
  const faint = props.faint || inserts?.alone === true || (core?.values ?? null) !== null;
  // Gates stand on what is drawn.
  const bare = useGeometryOf(mesh ? null : outline);
  const ground = geometry ?? bare;
  const box = useBox(props.frame);
  const diagonal = box.getSize(new THREE.Vector3()).length();
  const led = useBox(props.lying?.frame ?? props.frame);
  const lying = props.lying?.matrix ?? UNMOVED;
  const cut = useMemo(() => (section ? planeMoved(sectionPlane(section, led), lying) : null), [section, led, lying]);
  const eye = useMemo(() => (lying === UNMOVED ? props.eye : eyeThrough(props.eye, lying)), [props.eye, lying]);
  const gates = useMemo(() => props.gates.filter((g) => leaves(cut, g.position)), [props.gates, cut]);
  const head = useMemo(() => headOn(props.head, field), [props.head, field]);
  useUniforms(uniforms, maps, field, cut, colours, props.overlays.isochrones);
  useHead(head, (time) => showMoment(uniforms, field, time), field);
  const { onReady } = props;
  const pickable = !geometry || geometry.boundsTree !== undefined;
  useEffect(() => {
    if (!pickable) return;
    const frame = requestAnimationFrame(onReady);
    return () => cancelAnimationFrame(frame);
  }, [pickable, geometry, props.bodies, onReady]);

  return (
    <>
      <CameraRig box={box} request={props.camera} locked={props.dragging} eye={eye} lying={lying} />
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
      {core && (core.values !== null || cut !== null) && (
        <CoreSurface core={core} uniforms={uniforms} head={head} onHover={props.onHover} onPick={props.onPick} />
      )}
      {geometry && !props.feed?.alone && (!faint || cut !== null) && (
        <PartSurface
          geometry={geometry}
          uniforms={uniforms}
          values={field?.values ?? null}
          times={field?.times ?? null}
          head={head}
          deformed={field?.deformed ?? null}
          pieces={pieces}
          section={cut !== null}
          onHover={props.onHover}
          onPick={props.onPick}
        />
      )}
      {faint && geometry && !cut && <Ghost geometry={geometry} colour={colours.clay} />}
      {props.cooling && (
        <CoolingLayer
          marks={props.cooling}
          colour={COOLANT}
          select={colours.select}
          accent={colours.accent}
          ink={colours.ink}
          paper={colours.paper}
          cut={cut}
          onPick={props.onChannel}
        />
      )}
      {props.block && cut && field && <BlockSlice block={props.block} plane={cut} range={field.range} />}
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
      {props.parting && <PartingPlane box={box} plane={props.parting} colour={colours.select} />}
      {section && cut && (
        <SectionCap
          box={box}
          plane={cut}
          uniforms={uniforms}
          grid={field?.grid ?? null}
          nodes={field?.nodes ?? null}
          nodeTimes={field?.nodeTimes ?? null}
          profile={field?.profile ?? null}
          core={core}
          deformed={field?.deformed ?? null}
          through={field?.through ? field.values : null}
          surface={geometry}
          head={head}
        />
      )}
      {section && cut && props.onSection && (
        <SectionGrip
          box={box}
          plane={cut}
          flipped={section.flipped}
          at={section.at}
          colour={colours.select}
          paper={colours.paper}
          onMove={props.onSection}
        />
      )}
      {outline.triangles.length / 3 < MAX_OUTLINE && <Creases mesh={outline} colour={colours.edge} plane={cut} />}
      <GateMarkers
        gates={gates}
        geometry={ground}
        size={0.075 * diagonal}
        colour={colours.accent}
        selectedColour={colours.select}
        paper={colours.paper}
        onGrab={props.onGrab}
      />
      {props.charges && (
        <ChargeLayer
          charges={props.charges}
          colour={colours.accent}
          selectedColour={colours.select}
          bare={field !== null}
          onGrab={props.onGrab}
        />
      )}
      <OverlayLayers {...props} head={head} diagonal={diagonal} cut={cut} />
      {props.ruler && (
        <RulerLayer mark={props.ruler} size={0.006 * diagonal} colour={colours.select} paper={colours.paper} />
      )}
      {props.place && <PlaceMark position={props.place.position} radius={0.012 * diagonal} colour={colours.select} />}
    </>
  );
}

/** Box in mm of what is framed in m; the same one for the same ends. */
function useBox({ min, max }: ViewportProps['frame']): THREE.Box3 {
  const ends = [...min, ...max].join();
  return useMemo(() => {
    const [x0, y0, z0, x1, y1, z1] = ends.split(',').map((x) => 1000 * Number(x));
    return new THREE.Box3(new THREE.Vector3(x0, y0, z0), new THREE.Vector3(x1, y1, z1));
  }, [ends]);
}

/** Full length of vectors over the diagonal of the part; bars stay clear of their neighbours. */
const VECTOR_LENGTH = { arrow: 0.045, bar: 0.022 };

/** Lines of coolant where nothing is known of them. */
const COOLANT = '#7f97a0';

function OverlayLayers({
  overlays,
  colours,
  head,
  diagonal,
  cut,
}: ViewportProps & { diagonal: number; cut: THREE.Vector4 | null }) {
  const { vectors, tracers, patches } = overlays;
  return (
    <>
      <FindingsLayer
        curves={overlays.curves}
        places={overlays.places}
        plane={cut}
        size={0.011 * diagonal}
        ink={colours.ink}
        paper={colours.paper}
        accent={colours.accent}
        select={colours.select}
      />
      {vectors && (
        <Vectors set={vectors} length={VECTOR_LENGTH[vectors.as] * diagonal} colour={colours.ink} plane={cut} />
      )}
      {tracers && <Tracers paths={tracers} head={head} size={0.0055 * diagonal} colours={GATE_COLOURS} plane={cut} />}
      {patches.length > 0 && <Patches patches={patches} colour={colours.accent} />}
    </>
  );
}

/** The play head as a field is drawn: no later than its end, or always there. */
function headOn(head: Head, field: FieldView | null): Head {
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
  maps: Record<ColourMap, THREE.Texture>,
  field: FieldView | null,
  cut: THREE.Vector4 | null,
  colours: ViewportColours,
  isochrones: number,
): void {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    uniforms.uField.value = field !== null;
    if (field) {
      uniforms.uRange.value.set(...field.range);
      uniforms.uBrush.value.set(...(field.brush ?? [-NO_VALUE, NO_VALUE]));
      uniforms.uLines.value.set(field.lines?.step ?? 0, field.lines?.from ?? 0);
    }
    uniforms.uMap.value = maps[field?.map ?? 'sequential'];
    uniforms.uBare.value = field?.bare ?? false;
    uniforms.uIso.value = field ? isochrones : 0;
    uniforms.uClipOn.value = cut !== null;
    if (cut) uniforms.uPlane.value.copy(cut);
    uniforms.uClay.value.set(colours.clay);
    uniforms.uAccent.value.set(colours.accent);
    invalidate();
  });
}
