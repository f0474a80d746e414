'use client';

import dynamic from 'next/dynamic';
import { useCallback, useContext, useMemo, useState } from 'react';
import type { Laying } from '@/core/geometry/laying';
import { boundsOf } from '@/core/geometry/mesh';
import { cavities, mouldedInserts } from '@/core/model/study';
import type { Unit } from '@/core/units/units';
import type { RunView } from '@/runtime/wire';
import type { BodyDraw } from '@/viewer/BodySurface';
import type { FieldView } from '@/viewer/fieldView';
import { inMillimetres } from '@/viewer/lying';
import type { SurfaceHit } from '@/viewer/PartSurface';
import type { DrawMesh } from '@/viewer/surfaceGeometry';
import { useOverlays } from '../answers/useOverlays';
import { useFeedMarks } from '../feed/useFeedMarks';
import { useFeedResult } from '../feed/useFeedResult';
import { colourOf } from '../part/bodyColours';
import { useCavity, useJoined, useMeshes } from '../study/meshes';
import type { ShownField } from '../study/shownField';
import { eyeOf, headOf, useView, ViewContext } from '../study/view';
import { labelled, useGatesOf } from '../study/names';
import { useColours } from '../ui/useColours';
import { PointerTag } from './PointerTag';

const Viewport = dynamic(() => import('@/viewer/Viewport'), { ssr: false });

interface Props {
  run: RunView;
  /** What is drawn on its part, and the surface that carries it. */
  shown: { surface: DrawMesh; view: FieldView; field: ShownField | null } | null;
  info: { label: string; unit: Unit };
  /** Drawn with it, seen through: what was added or removed. */
  extra?: readonly BodyDraw[];
  /** Lines, places, arrows and runners of the run over it. */
  marked?: boolean;
  testId: string;
  /** Of another run, by whose part the eye and the section are led, and how this one's lies on it; null: by its own. */
  led?: { by: RunView; laying: Laying } | null;
  /** Named in the page: the field, unless told otherwise. */
  shows?: string;
  /** The part is drawn. */
  onReady?: () => void;
}

/** The result of a run in 3D, in the view around: to be looked at, not to be changed. */
export function RunViewer({
  run,
  shown,
  info,
  extra = NONE,
  marked = true,
  led = null,
  testId,
  shows,
  onReady,
}: Props) {
  const { inputs } = run;
  const view = useContext(ViewContext);
  const eye = useMemo(() => ({ ...eyeOf(view), takesOver: true }), [view]);
  const head = useMemo(() => headOf(view), [view]);
  const section = useView((s) => s.section);
  const request = useView((s) => s.cameraRequest);
  const feedShown = useView((s) => s.feedShown);
  const colours = useColours();
  const [hover, setHover] = useState<SurfaceHit | null>(null);
  const [pointer, setPointer] = useState({ x: 0, y: 0 });
  const [ready, setReady] = useState(false);
  const markReady = useCallback(() => {
    setReady(true);
    onReady?.();
  }, [onReady]);
  const meshes = useMeshes(inputs.bodies.map((b) => b.mesh));
  const outline = useJoined(
    meshes,
    cavities(inputs).map((b) => b.mesh),
  );
  const others = useMemo(() => {
    const own = new Set([...cavities(inputs), ...(shown?.view.inserts ? mouldedInserts(inputs) : [])].map((b) => b.id));
    return inputs.bodies.flatMap((body): BodyDraw[] => {
      const mesh = meshes.get(body.mesh);
      if (!mesh || own.has(body.id) || body.role === 'left-out') return [];
      return [{ id: body.id, mesh, colour: colourOf(body), opacity: FAINT, selected: false }];
    });
  }, [inputs, meshes, shown?.view.inserts]);
  const bodies = useMemo(() => [...others, ...extra], [others, extra]);
  const frame = useMemo(() => (outline ? boundsOf(outline.positions) : null), [outline]);
  const leader = useCavity(led?.by.inputs ?? inputs).mesh;
  const lying = useMemo(
    () => led && leader && { matrix: inMillimetres(led.laying.matrix), frame: boundsOf(leader.positions) },
    [led, leader],
  );
  const named = useGatesOf(run);
  const gates = useMemo(
    () =>
      inputs.gates.map((g, k) => ({
        id: g.id,
        position: mm(g.position),
        diameter: 1000 * g.diameter,
        selected: false,
        label: labelled(named[k].id, g.id, inputs.gates.length),
      })),
    [inputs, named],
  );
  const ducts = useFeedMarks(inputs, null);
  const inFeed = useFeedResult(run);
  const overlays = useOverlays(run, shown?.field ?? null, inputs, marked && shown !== null);
  const camera = useMemo(() => ({ ...request, target: request.target && mm(request.target) }), [request]);
  if (!outline || !frame) return <div className="text-soft grid h-full place-items-center">Loading the part</div>;
  return (
    <div
      className="absolute inset-0"
      data-testid={testId}
      data-shown={shows ?? shown?.field?.id ?? 'clay'}
      aria-busy={!ready}
      onPointerMove={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        setPointer({ x: e.clientX - box.left, y: e.clientY - box.top });
      }}
      onPointerLeave={() => setHover(null)}
    >
      <Viewport
        mesh={shown?.surface ?? outline}
        bodies={bodies}
        axes={NONE}
        draft={null}
        onDraft={nothing}
        marks={NONE}
        parting={null}
        outline={outline}
        frame={frame}
        cooling={null}
        faint={false}
        onChannel={nothing}
        block={null}
        feed={
          feedShown === 'hidden'
            ? null
            : {
                ducts,
                faded: feedShown === 'faded',
                alone: feedShown === 'alone',
                result: marked && shown ? inFeed : null,
              }
        }
        draw={null}
        onDraw={nothing}
        field={shown?.view ?? null}
        section={section.on ? section : null}
        lying={lying}
        gates={gates}
        overlays={overlays}
        place={null}
        camera={camera}
        eye={eye}
        head={head}
        colours={colours}
        dragging={false}
        onHover={setHover}
        onPick={nothing}
        onGrab={nothing}
        onReady={markReady}
      />
      {hover && (
        <PointerTag hit={hover} pointer={pointer} field={shown && info} head={view.getState().time} name={null} />
      )}
    </div>
  );
}

const FAINT = 0.22;
const NONE: never[] = [];
const nothing = () => {};
const mm = (p: readonly number[]) => p.map((x) => 1000 * x) as [number, number, number];
