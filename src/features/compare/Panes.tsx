'use client';

import { useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import { format } from '@/core/units/reader';
import { differenceUnit } from '@/core/units/units';
import type { BodyDraw } from '@/viewer/BodySurface';
import { cssBar } from '@/viewer/colour';
import { useFieldGroups } from '../answers/useFieldGroups';
import { ViewTools } from '../shell/ViewTools';
import { fieldInfo } from '../study/fields';
import { usePacedTime, useView, ViewContext, type Link } from '../study/view';
import { Select } from '../ui/controls';
import { useColours } from '../ui/useColours';
import { RunViewer } from '../views/RunViewer';
import { AS_DRAWN, useDifference, useLaying } from '../views/useDifference';
import { useCompare, type ComparedRun } from './compared';
import { PANE_VIEWS, useLinkedViews, usePaneScale, useShown, type PaneScale } from './panes';
import { useGatesOf } from '../study/names';

/** By then all viewers have their size, ms. */
const SETTLED_MS = 250;

/** Results of the compared runs in 3D, side by side or under a divider. */
export function Panes({ runs }: { runs: readonly ComparedRun[] }) {
  const wanted = useCompare((s) => s.arrangement);
  const divider = useCompare((s) => s.divider);
  const arrangement = wanted === 'divider' && runs.length > 2 ? 'row' : wanted;
  useLinkedViews(runs.length);
  // Every viewer that has come, and every other arrangement, gives the parts other room.
  const [nReady, setReady] = useState(0);
  const ready = useCallback(() => setReady((n) => n + 1), []);
  useEffect(() => {
    if (nReady < runs.length) return;
    const fit = setTimeout(() => PANE_VIEWS.slice(0, runs.length).forEach((v) => v.getState().look('fit')), SETTLED_MS);
    return () => clearTimeout(fit);
  }, [nReady, runs.length, arrangement]);
  const area = useRef<HTMLDivElement>(null);
  return (
    <div
      ref={area}
      data-testid="panes"
      className={`relative grid min-h-0 flex-1 ${arrangement === 'divider' ? '' : GRIDS[arrangement][runs.length]}`}
    >
      {runs.map((r, k) => (
        <ViewContext.Provider key={k} value={PANE_VIEWS[k]}>
          <section
            aria-label={`View of ${r.name}`}
            className={arrangement === 'divider' ? 'absolute inset-0' : `relative min-h-0 min-w-0 ${EDGES}`}
            // Either is cut at the divider: where nothing is drawn the one below would be seen, labels above all.
            style={arrangement === 'divider' ? { clipPath: cutAt(divider, k) } : undefined}
          >
            <Pane
              at={k}
              name={r.name}
              run={r.run}
              first={runs[0].run}
              firstName={runs[0].name}
              divided={arrangement === 'divider'}
              inCorner={k === (runs.length === 4 ? 2 : arrangement === 'stack' ? runs.length - 1 : 0)}
              onReady={ready}
            />
          </section>
        </ViewContext.Provider>
      ))}
      {arrangement === 'divider' && <Divider area={area} />}
      <ViewTools />
    </div>
  );
}

const EDGES = 'border-l border-t first:border-l-0 -ml-px -mt-px';
const GRIDS: Record<'row' | 'stack', Record<number, string>> = {
  row: { 2: 'grid-cols-2', 3: 'grid-cols-3', 4: 'grid-cols-2 grid-rows-2' },
  stack: { 2: 'grid-rows-2', 3: 'grid-rows-3', 4: 'grid-cols-2 grid-rows-2' },
};

interface PaneProps {
  at: number;
  name: string;
  run: ComparedRun['run'];
  first: ComparedRun['run'];
  firstName: string;
  /** It stands left (the first) or right of the divider. */
  divided: boolean;
  /** It has the lower left corner of the room. */
  inCorner: boolean;
  onReady: () => void;
}

function Pane({ at, name, run, first, firstName, divided, inCorner, onReady }: PaneProps) {
  const differing = useCompare((s) => s.shown === 'difference');
  const asDifference = differing && at > 0;
  const own = useShown(run);
  const base = useShown(asDifference ? first : null);
  const difference = useDifference(base, asDifference ? own : null);
  // What is drawn in the place of the first lies as that does.
  const laying = useLaying(at > 0 && !asDifference ? first : null, at > 0 && !asDifference ? run : null);
  const led = useMemo(() => laying && { by: first, laying }, [first, laying]);
  useEffect(() => {
    // What turns out to lie otherwise was framed where it had been drawn.
    if (laying && laying !== AS_DRAWN) onReady();
  }, [laying, onReady]);
  const colours = useColours();
  const gates = useGatesOf(run);
  const info = fieldInfo(own?.field.id ?? '', gates);
  const label = asDifference ? `${info.label}, difference` : info.label;
  const unit = asDifference ? differenceUnit(info.unit) : info.unit;
  const view = asDifference ? (difference?.view ?? null) : (own?.view ?? null);
  const field = asDifference ? (difference?.field ?? null) : (own?.field ?? null);
  const volumes = (asDifference ? base : own)?.data.grid?.nodeVolume;
  const scale = useMemo((): PaneScale | null => {
    if (!field || !view || !volumes) return null;
    return {
      name: `${field.id}${asDifference ? ' difference' : ''}`,
      label,
      unit,
      range: view.range,
      map: view.map ?? 'sequential',
      field,
      volumes,
    };
  }, [field, volumes, view, asDifference, label, unit]);
  const range = usePaneScale(at, scale);
  const shown = useMemo(() => {
    const surface = asDifference ? difference?.surface : own?.data.surface;
    if (!surface || !view || !range || !own) return null;
    // The brush of the legend is one of differences then.
    const brush = differing && !asDifference ? null : view.brush;
    return { surface, view: { ...view, brush, range: [...range] as [number, number] }, field: own.field };
  }, [differing, asDifference, difference, own, view, range]);
  const parts = difference?.parts ?? null;
  const extra = useMemo((): BodyDraw[] => {
    if (!parts) return [];
    const ghost = (id: 'added' | 'removed', colour: string): BodyDraw => ({
      id,
      mesh: parts[id],
      colour,
      opacity: 0.6,
      selected: false,
    });
    return [ghost('added', colours.accent), ghost('removed', colours.select)];
  }, [parts, colours]);
  const changed = parts && (parts.added.triangles.length > 0 || parts.removed.triangles.length > 0);
  return (
    <>
      <RunViewer
        run={asDifference ? first : run}
        shown={shown}
        info={{ label, unit }}
        extra={extra}
        marked={!asDifference}
        led={led}
        testId={`pane-${at + 1}`}
        shows={scale?.name ?? 'clay'}
        onReady={onReady}
      />
      <div
        // The lower left corner of all is that of the bench's fold.
        className={`pointer-events-none absolute right-2 bottom-2 flex items-end gap-2 text-[12px] ${inCorner ? 'left-9' : 'left-2'} ${!divided ? 'justify-between' : at ? 'justify-end' : 'justify-start'}`}
      >
        <div className="bg-sheet/90 min-w-0 rounded border px-2 py-0.5">
          <span className="font-semibold">{name}</span>
          {asDifference && <span> less {firstName}</span>}
          {asDifference && !difference && <span className="text-soft"> is worked out</span>}
          {difference?.resampled && (
            <span className="text-soft"> · the grids differ: read at the places of the first</span>
          )}
          {changed && (
            <span className="text-soft">
              {' '}
              · <span className="text-copper">added</span> and <span className="text-petrol">removed</span> drawn
            </span>
          )}
        </div>
        {shown && scale && <Scale scale={scale} range={shown.view.range} />}
      </div>
      {at > 0 && <OwnTools run={run} />}
    </>
  );
}

/** What of the first and of the second pane is left of a divider, and right of it. */
const cutAt = (divider: number, k: number): string =>
  k ? `inset(0 0 0 ${100 * divider}%)` : `inset(0 ${100 * (1 - divider)}% 0 0)`;

/** A short legend in the corner of a pane. */
function Scale({ scale: { label, unit, map }, range }: { scale: PaneScale; range: readonly [number, number] }) {
  return (
    <div
      className="bg-sheet/90 num flex h-6 shrink-0 items-center gap-1.5 rounded border px-2 whitespace-nowrap"
      data-testid="pane-scale"
      aria-label={`Scale of ${label}`}
    >
      <span>{format(range[0], unit).split(' ')[0]}</span>
      <span className="h-2.5 w-10 rounded-sm" style={{ background: cssBar('to right', map) }} />
      <span>{format(range[1], unit)}</span>
    </div>
  );
}

/** What a view that was let go of is set by; nothing where all is linked, so that nothing follows the clock either. */
function OwnTools({ run }: { run: ComparedRun['run'] }) {
  const links = useCompare((s) => s.links);
  const all = ['field', 'clock', 'section', 'camera'] as const;
  return all.every((link) => links.includes(link)) ? null : <FreeTools run={run} links={links} />;
}

/** Its field, its moment, its section, and its eye. */
function FreeTools({ run, links }: { run: ComparedRun['run']; links: readonly Link[] }) {
  const free = (link: Link) => !links.includes(link);
  const view = useContext(ViewContext);
  const field = useView((s) => s.field);
  const section = useView((s) => s.section);
  const time = usePacedTime(free('clock'));
  const set = useView((s) => s.set);
  const groups = useFieldGroups(run);
  const gates = useGatesOf(run);
  const end = run.summary?.pack?.cycleTime_s ?? run.summary?.fillTime_s ?? 0;
  return (
    <div className="absolute top-2 right-2 flex w-52 flex-col gap-1">
      {free('field') && (
        <Select
          label="Field of this view"
          value={field}
          options={groups.flatMap((g) => g.ids).map((value) => ({ value, label: fieldInfo(value, gates).label }))}
          onChange={(next) => set({ field: next, brush: null })}
        />
      )}
      {free('clock') && (
        <label className="bg-sheet/90 num flex h-7 items-center gap-2 rounded border px-2 text-[12px]">
          <input
            type="range"
            aria-label="Moment of this view"
            min={0}
            max={1}
            step={0.002}
            value={end ? Math.min(time, end) / end : 0}
            onChange={(e) => set({ time: Number(e.target.value) >= 1 ? Infinity : Number(e.target.value) * end })}
            className="accent-petrol min-w-0 flex-1"
          />
          {format(Math.min(time, end), 's', 3)}
        </label>
      )}
      {free('section') && (
        <label className="bg-sheet/90 flex h-7 items-center gap-2 rounded border px-2 text-[12px]">
          <input
            type="checkbox"
            checked={section.on}
            onChange={(e) => set({ section: { ...section, on: e.target.checked } })}
            className="accent-petrol size-3.5"
          />
          Section
          <input
            type="range"
            aria-label="Place of the section in this view"
            min={0}
            max={1}
            step={0.005}
            value={section.at}
            disabled={!section.on}
            onChange={(e) => set({ section: { ...section, at: Number(e.target.value) } })}
            className="accent-petrol min-w-0 flex-1"
          />
        </label>
      )}
      {free('camera') && (
        <button
          type="button"
          className="bg-sheet/90 hover:bg-well h-7 rounded border text-[12px]"
          onClick={() => view.getState().look('fit')}
        >
          Fit this view
        </button>
      )}
    </div>
  );
}

/** The line between two views in one place: dragged, or moved by the arrow keys. */
function Divider({ area }: { area: React.RefObject<HTMLDivElement | null> }) {
  const at = useCompare((s) => s.divider);
  const set = useCompare((s) => s.set);
  const [held, setHeld] = useState(false);
  const to = (x: number) => set({ divider: Math.min(1, Math.max(0, x)) });
  const steps: Record<string, number> = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 };
  return (
    <div
      role="separator"
      aria-label="Divider between the two views"
      aria-orientation="vertical"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * at)}
      tabIndex={0}
      className="group absolute inset-y-0 z-10 w-4 -translate-x-1/2 cursor-ew-resize touch-none outline-none"
      style={{ left: `${100 * at}%` }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        setHeld(true);
      }}
      onPointerMove={(e) => {
        const box = area.current?.getBoundingClientRect();
        if (held && box) to((e.clientX - box.left) / box.width);
      }}
      onPointerUp={() => setHeld(false)}
      onKeyDown={(e) => {
        const step = steps[e.key];
        if (step === undefined) return;
        e.preventDefault();
        to(at + step);
      }}
    >
      <span className="bg-ink group-focus-visible:bg-petrol absolute inset-y-0 left-1/2 w-0.5 -translate-x-1/2" />
      <span className="bg-sheet group-hover:border-petrol group-focus-visible:border-petrol absolute top-1/2 left-1/2 grid h-9 w-4 -translate-x-1/2 -translate-y-1/2 place-items-center rounded border">
        <span className="border-soft h-4 w-1 border-x" />
      </span>
    </div>
  );
}
