'use client';

import { Box } from 'lucide-react';
import dynamic from 'next/dynamic';
import { toast } from 'sonner';
import { useCallback, useContext, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import type { Vec3 } from '@/core/geometry/mesh';
import { nameOf } from '@/core/model/names';
import { mouldedInserts, type Gate } from '@/core/model/study';
import { MAPS } from '@/core/partmaps/mapKinds';
import type { SurfaceHit } from '@/viewer/PartSurface';
import { fieldInfo } from '../study/fields';
import { FAILED_CHECKS, failsItsChecks } from '../study/runData';
import { ProbeChart } from '../answers/ProbeChart';
import { useOverlays } from '../answers/useOverlays';
import { stampNoGate } from '../answers/probeActions';
import { useMapView, useParting, useScene } from '../part/useScene';
import { presentPart, presentInputs, useStudy, wholeResult } from '../study/store';
import { drawChannelTo } from '../cooling/lineActions';
import { useBlock } from '../cooling/useBlock';
import { useChannelPlan, useCoolingMarks } from '../cooling/useCoolingMarks';
import { drawTo } from '../feed/placeActions';
import { movePiece, piecesOf } from '../cycle/pressActions';
import { useCharges } from '../cycle/useCharges';
import { moveNeedle, needlesOf } from '../feed/needleActions';
import { useDrawPlan, useFeedMarks, useOutletMarks, useRim } from '../feed/useFeedMarks';
import { PreviewNote, useCoarse } from '../feed/useCoarse';
import { useFeedResult } from '../feed/useFeedResult';
import { useFieldView, useShownField, useShownRun } from '../study/useShown';
import { timeOf } from '../compare/compared';
import { ResinSheet } from '../resin/ResinSheet';
import { aimOf, useBench } from '../study/bench';
import { ViewContext, eyeOf, headOf, mainView, useView } from '../study/view';
import { Button } from '../ui/controls';
import { useColours } from '../ui/useColours';
import { PointerTag } from '../views/PointerTag';
import { useRuler } from '../study/ruler';
import { useCavity } from '../study/meshes';
import { takePlace } from './takePlace';
import { isTyped, TypedPlace } from './TypedPlace';
import { ViewTools } from './ViewTools';

import type { CoolingMarks } from '@/viewer/CoolingLayer';
import type { DuctMark } from '@/viewer/FeedDucts';
import { labelled, useGatesOf } from '../study/names';
const Viewport = dynamic(() => import('@/viewer/Viewport'), { ssr: false });

/** The part in 3D with what is asked of it: pick, drag, probe. */
export function Stage() {
  const inputs = useStudy((s) => presentInputs(s));
  const { run, live, outdated } = useShownRun();
  const opened = useStudy((s) => s.opened !== null && wholeResult(s) === s.opened);
  const { data, field } = useShownField(run, live);
  const stored = useFieldView(run, data, field);
  const { station, aim, selectedGate, selectedNeedle, draft } = useBench();
  const section = useView((s) => s.section);
  const place = useView((s) => s.place);
  const cameraRequest = useView((s) => s.cameraRequest);
  const painting = aimOf(aim, 'no-gate');
  const featureMarks = useBench((s) => s.marks);
  const feedShown = useView((s) => s.feedShown);
  const seeThrough = useView((s) => s.seeThrough);
  const chart = useBench((s) => s.chart);
  const parting = useParting();
  const colours = useColours();
  const [hover, setHover] = useState<SurfaceHit | null>(null);
  const [pointer, setPointer] = useState({ x: 0, y: 0 });
  const [ready, setReady] = useState(false);
  const markReady = useCallback(() => setReady(true), []);
  const { dragging, moved, grab } = useGateDrag(hover);
  const brushing = useRef(false);
  const marks = useMemo(() => {
    const placeOf = (x: { id: string; position: readonly number[] }) =>
      moved?.id === x.id ? moved.position : inMillimetres(x.position);
    const gates = inputs.gates.map((g) => ({
      id: g.id,
      position: placeOf(g),
      diameter: 1000 * g.diameter,
      selected: g.id === selectedGate,
      label: labelled(nameOf(inputs, 'gate', g.id), g.id, inputs.gates.length),
    }));
    const needles = needlesOf(inputs).map((x) => ({
      id: x.id,
      position: placeOf(x),
      diameter: 1.5,
      selected: x.id === selectedNeedle,
      as: 'needle' as const,
    }));
    return [...gates, ...needles];
  }, [inputs, moved, selectedGate, selectedNeedle]);
  const charges = useCharges(inputs, moved);
  const ducts = useFeedMarks(inputs, moved);
  const inFeed = useFeedResult(live ? null : run);
  const runnerPlan = useDrawPlan(inputs);
  const channelPlan = useChannelPlan(inputs);
  const drawPlan = runnerPlan ?? channelPlan;
  const coolingMarks = useCoolingMarks(inputs, live ? null : run);
  const block = useBlock(live ? null : run);
  const outlets = useOutletMarks(inputs);
  const rim = useRim(inputs);
  const namedGates = useGatesOf(run);
  const own = useContext(ViewContext);
  const eye = useMemo(() => eyeOf(own), [own]);
  const playHead = useMemo(() => headOf(own), [own]);
  const camera = useMemo(
    () => ({ ...cameraRequest, target: cameraRequest.target && inMillimetres(cameraRequest.target) }),
    [cameraRequest],
  );
  const mapView = useMapView();
  const coarse = useCoarse(inputs, moved, { live, outOfDate: outdated === 'inputs', station, result: stored !== null });
  const result = coarse?.view ?? stored;
  const overlays = useOverlays(run, field, inputs, station !== 'part' && !coarse && !live && stored !== null);
  const withOutlets = useMemo(
    () =>
      station === 'feed'
        ? { ...overlays, places: [...overlays.places, ...outlets], curves: [...overlays.curves, ...rim] }
        : overlays,
    [station, overlays, outlets, rim],
  );
  const resultSurface = coarse ? coarse.surface : data?.surface && stored ? data.surface : null;
  const now = useScene(inputs, resultSurface, mapView?.mesh ?? null);
  // What was drawn stays until new surfaces are there: the eye must not jump at every turn or repair.
  const drawn = useRef(now);
  if (now.outline) drawn.current = now;
  const scene = now.outline ? now : drawn.current;
  const view = mapView?.view ?? (scene.plain ? null : result);
  const axes = useMemo(
    () =>
      inputs.axes.map((a) => ({
        ...a,
        nodes: a.nodes.map((n) => ({ position: inMillimetres(n.position), diameter: 1000 * n.diameter })),
      })),
    [inputs.axes],
  );
  const marksInMm = useMemo(
    () => featureMarks.map((m) => ({ ...m, position: inMillimetres(m.position), radius: 1000 * m.radius })),
    [featureMarks],
  );
  const bonded = useMemo(() => new Set(mouldedInserts(inputs).map((b) => b.id)), [inputs]);
  const ruler = useRuler(inputs);
  const { mesh: whole } = useCavity(inputs);
  const part = useStudy(presentPart);
  if (!inputs.bodies.length) return <Empty />;
  if (!scene.outline) return <div className="text-soft grid h-full place-items-center">Loading the part</div>;

  const paint = (hit: SurfaceHit | null) => {
    setHover(hit);
    if (hit && painting && brushing.current)
      stampNoGate(hit.point.toArray().map((x) => x / 1000) as [number, number, number]);
  };
  const drawPoint = runnerPlan ? drawTo : drawChannelTo;
  const put = (at: Vec3, normal: Vec3) => takePlace(at, normal, ruler?.take);
  const pick = (hit: SurfaceHit, { add }: { add: boolean }) => {
    const { set, selectedBodies } = useBench.getState();
    if (put(hit.point.toArray().map((x) => x / 1000) as Vec3, hit.normal.toArray())) return;
    if (station !== 'part' || !hit.body) return set({ selectedGate: null, selectedNeedle: null, selectedPiece: null });
    const on = selectedBodies.includes(hit.body);
    if (add)
      set({ selectedBodies: on ? selectedBodies.filter((id) => id !== hit.body) : [...selectedBodies, hit.body] });
    else set({ selectedBodies: on && selectedBodies.length === 1 ? [] : [hit.body], draft: null, marks: [] });
  };
  return (
    <div
      className={`absolute inset-0 ${aim ? 'cursor-crosshair' : dragging ? 'cursor-grabbing' : ''}`}
      data-testid="viewport"
      aria-busy={!ready}
      data-shown={
        mapView
          ? `map-${mapView.id}`
          : coarse && view
            ? coarse.kind
            : view && field
              ? `${field.id}${live ? '-live' : ''}`
              : 'clay'
      }
      onPointerMove={(e) => {
        const frame = e.currentTarget.getBoundingClientRect();
        setPointer({ x: e.clientX - frame.left, y: e.clientY - frame.top });
      }}
      onPointerLeave={() => setHover(null)}
      onPointerDownCapture={() => {
        brushing.current = true;
        if (painting && hover) stampNoGate(hover.point.toArray().map((x) => x / 1000) as [number, number, number]);
      }}
      onPointerUpCapture={() => (brushing.current = false)}
    >
      <Viewport
        mesh={scene.surface}
        bodies={view?.inserts ? scene.bodies.filter((b) => !bonded.has(b.id)) : scene.bodies}
        axes={axes}
        draft={draft?.standIn ?? null}
        onDraft={(standIn) => draft && useBench.getState().set({ draft: { ...draft, standIn } })}
        marks={marksInMm}
        parting={parting}
        outline={scene.outline}
        frame={withBlock(withFeed(scene.frame, feedShown === 'hidden' ? [] : ducts), coolingMarks)}
        cooling={coolingMarks}
        faint={station === 'cooling' && coolingMarks !== null && seeThrough}
        onChannel={(id) => useBench.getState().set({ selectedChannel: id })}
        block={block}
        feed={
          feedShown === 'hidden'
            ? null
            : {
                ducts,
                faded: feedShown === 'faded',
                alone: feedShown === 'alone',
                result: view && !coarse && !mapView ? inFeed : null,
              }
        }
        draw={drawPlan}
        onDraw={(p) => drawPoint(p.map((x) => x / 1000) as Vec3)}
        field={view}
        section={section.on ? section : null}
        onSection={(at) => mainView.getState().set({ section: { ...mainView.getState().section, at } })}
        gates={marks}
        charges={station === 'part' || station === 'answers' ? undefined : charges}
        overlays={withOutlets}
        place={place && { ...place, position: inMillimetres(place.position) }}
        ruler={ruler?.mark}
        camera={camera}
        eye={eye}
        head={playHead}
        colours={colours}
        dragging={dragging !== null || painting !== null}
        onHover={paint}
        onPick={pick}
        onMissed={tellMissed}
        onGrab={grab}
        onReady={markReady}
      />
      <div className="pointer-events-none absolute inset-x-10 bottom-2.5 flex flex-col items-center gap-1.5">
        {place && <p className="bg-petrol text-sheet rounded px-2.5 py-0.5 text-[12px]">{place.label}</p>}
        {ruler && (
          <p className="bg-petrol text-sheet num rounded px-2.5 py-0.5 text-[12px]" role="status">
            {ruler.said}
          </p>
        )}
        {coarse && view && !mapView && <PreviewNote kind={coarse.kind} />}
        {outdated && !opened && view && !mapView && !coarse && <Note>{OUTDATED[outdated]}</Note>}
        <OpenedNote />
        {live && <Note>Filling, as it is computed</Note>}
        {view && !mapView && !coarse && !live && failsItsChecks(run?.id ?? null) && (
          <p className="bg-sheet border-problem text-problem rounded-full border px-3 py-0.5 text-[12px] font-medium">
            {FAILED_CHECKS}
          </p>
        )}
      </div>
      {hover && !dragging && aim?.for !== 'gate' && (
        <PointerTag
          hit={hover}
          pointer={pointer}
          field={
            mapView
              ? MAPS[mapView.id]
              : coarse?.kind === 'gate-map'
                ? { label: 'Gate quality', unit: '%' }
                : coarse
                  ? { label: 'Preview: fill time', unit: 's' }
                  : view && field
                    ? fieldInfo(field.id, namedGates)
                    : null
          }
          head={view?.still ? Infinity : own.getState().time}
          name={hover.body ? (inputs.bodies.find((b) => b.id === hover.body)?.name ?? null) : null}
        />
      )}
      <ViewTools>
        {isTyped(aim) && whole && part && (
          <TypedPlace
            // Another thing begins in the middle again.
            key={aim?.for}
            mesh={whole}
            bounds={part.bounds}
            height={drawPlan ? drawPlan.height / 1000 : null}
            onPlace={drawPlan ? (at) => drawPoint(at) : put}
          />
        )}
      </ViewTools>
      {station === 'resin' && <ResinSheet />}
      {chart && station === 'answers' && run && !live && <ProbeChart run={run} />}
    </div>
  );
}

const OUTDATED = {
  inputs: 'Result of earlier inputs',
  shorter: 'Result so far: more is asked for',
  farther: 'Result goes farther than asked for',
  solver: 'Result of an earlier solver',
};

/** What is to be known of the picture, below it: tools stand above. */
const Note = ({ children }: { children: ReactNode }) => (
  <p className="bg-sheet border-copper rounded-full border px-3 py-0.5 text-[12px]">{children}</p>
);

const inMillimetres = (p: readonly number[]) => p.map((x) => 1000 * x) as [number, number, number];

function Empty() {
  return (
    <div className="grid h-full place-items-center">
      <div className="text-center">
        <Box size={40} strokeWidth={1} className="text-soft mx-auto" />
        <p className="mt-3 text-[15px] font-medium">There is no part yet</p>
        <p className="text-soft mt-1">Drop a STEP, 3MF, STL or OBJ file anywhere on this page.</p>
        <Button className="mt-4" onClick={() => window.dispatchEvent(new Event('bellows:import'))}>
          Bring in a part
        </Button>
      </div>
    </div>
  );
}

/** Tells that an earlier result is looked at, and leads back. */
function OpenedNote() {
  const opened = useStudy((s) => (wholeResult(s) === s.opened ? s.opened : null));
  if (!opened) return null;
  return (
    <p className="bg-sheet border-copper pointer-events-auto flex items-center gap-2 rounded-full border py-0.5 pr-1 pl-3 text-[12px]">
      Result of {timeOf(opened)}
      <button
        type="button"
        className="text-petrol hover:bg-well rounded-full px-2"
        onClick={() => useStudy.getState().openRun(null)}
      >
        Back to the newest
      </button>
    </p>
  );
}

/** A click that was meant for the part and went beside it. */
function tellMissed(): void {
  const { aim } = useBench.getState();
  // Lines are drawn in their plane, beside the part as well.
  if (aim && aim.for !== 'runner' && aim.for !== 'channel' && aim.for !== 'no-gate')
    toast('Nothing is there. Click on the part, or leave with Esc.', { id: 'missed' });
}

/** Box of the part and of the runners that are drawn, m. */
function withFeed(frame: { min: readonly number[]; max: readonly number[] }, ducts: DuctMark[]) {
  const points = ducts.flatMap((d) => [d.from, d.to]).map((p) => p.map((x) => x / 1000));
  if (!points.length) return frame;
  return {
    min: frame.min.map((m, d) => Math.min(m, ...points.map((p) => p[d]))),
    max: frame.max.map((m, d) => Math.max(m, ...points.map((p) => p[d]))),
  };
}

/** Box of all that and of the mould block, where it is shown, m. */
function withBlock(frame: { min: readonly number[]; max: readonly number[] }, marks: CoolingMarks | null) {
  if (!marks) return frame;
  return {
    min: frame.min.map((m, d) => Math.min(m, marks.block.min[d] / 1000)),
    max: frame.max.map((m, d) => Math.max(m, marks.block.max[d] / 1000)),
  };
}

/** Dragging a gate, a needle or a piece of a charge over the surface: it follows the pointer, and one step is recorded when it is let go. */
function useGateDrag(hover: SurfaceHit | null) {
  const [dragging, setDragging] = useState<string | null>(null);
  const [moved, setMoved] = useState<{ id: string; position: [number, number, number] } | null>(null);
  const latest = useRef(moved);
  latest.current = moved;
  useEffect(() => {
    if (dragging && hover) setMoved({ id: dragging, position: hover.point.toArray() });
  }, [dragging, hover]);
  useEffect(() => {
    if (!dragging) return;
    const drop = () => {
      const target = latest.current;
      setDragging(null);
      setMoved(null);
      if (!target) return;
      const study = useStudy.getState();
      const inputs = presentInputs(study);
      const position = target.position.map((x) => x / 1000) as Gate['position'];
      if (needlesOf(inputs).some((x) => x.id === target.id)) return moveNeedle(target.id, position);
      if (piecesOf(inputs).some((x) => x.id === target.id)) return movePiece(target.id, position);
      study.change(`Move gate ${target.id}`, {
        ...inputs,
        gates: inputs.gates.map((g) => (g.id === target.id ? { ...g, position } : g)),
      });
    };
    window.addEventListener('pointerup', drop);
    return () => window.removeEventListener('pointerup', drop);
  }, [dragging]);
  const grab = (id: string) => {
    const inputs = presentInputs(useStudy.getState());
    const { set } = useBench.getState();
    if (piecesOf(inputs).some((x) => x.id === id)) set({ selectedPiece: id, station: 'cycle' });
    else if (needlesOf(inputs).some((x) => x.id === id)) set({ selectedNeedle: id, station: 'feed' });
    else set({ selectedGate: id, station: 'feed' });
    setDragging(id);
  };
  return { dragging, moved, grab };
}
