import { createContext, useContext, useEffect, useState } from 'react';
import { useStore } from 'zustand';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { MapId } from '@/core/partmaps/mapKinds';
import type { ShapeCause } from '@/core/results/shape';
import type { Eye, Pose } from '@/viewer/camera';
import type { Head } from '@/viewer/frames';

/** Id of a field in the manifest of a run. */
export type FieldId = string;

/** What is drawn over the field. Remembered. */
export interface Layers {
  isochrones: boolean;
  isolines: boolean;
  weldLines: boolean;
  places: boolean;
  extremes: boolean;
  arrows: boolean;
  tracers: boolean;
}
export type Layer = keyof Layers;
export const FEED_SHOWN = ['full', 'faded', 'hidden', 'alone'] as const;
export type FeedShown = (typeof FEED_SHOWN)[number];
export type Axis = 'x' | 'y' | 'z';
export type ViewName = 'iso' | 'front' | 'back' | 'left' | 'right' | 'top' | 'bottom';

export interface Section {
  on: boolean;
  axis: Axis;
  /** Place of the plane between the part's two ends along the axis, 0..1. */
  at: number;
  flipped: boolean;
  /** Turn of the plane out of the axis, degrees, about the next axis and about the one after. */
  tilt: number;
  swing: number;
}

/** Which part of a shape is looked at, how it is laid onto the drawing, and how it is drawn. */
export interface ShapeLook {
  cause: 'all' | ShapeCause;
  along: 'total' | Axis | 'normal';
  align: 'best-fit' | 'three-points';
  /** Places picked for the alignment or a frame, m. */
  points: [number, number, number][];
  /** Axes: those of the drawing, or x from the first picked place to the second and z across the plane of all three. */
  frame: 'drawing' | 'points';
  /** Run whose shape is taken off this one, point by point. */
  against: string | null;
  /** What is drawn: what comes out, or the body to cut so that it comes out right. */
  body: 'shape' | 'counter';
  /** Where stress is looked at: in the plastic, with the inserts it holds, or in those alone. */
  stressIn: 'plastic' | 'both' | 'inserts';
  /** Deviations are drawn so many times as large; 0 draws the drawing. */
  scale: number;
  /** To and fro between drawing and shape. */
  moving: boolean;
}

/** How a body is drawn; 'solid' as it is, also around a result. */
export type BodyLook = 'hidden' | 'faded' | 'solid';

/** How one viewer looks: nothing here changes a result, nothing here is undone. */
export interface ViewState {
  field: FieldId;
  /** Part map shown at the Part station. */
  map: MapId | null;
  /** Play head, s; Infinity stands at the end. */
  time: number;
  playing: boolean;
  /** Where the play head was put by the choice of a field, s; by hand it may stand elsewhere. */
  restsAt: number;
  /** Brush on the legend: values outside are hidden. null: everything. */
  brush: [number, number] | null;
  /** What the scale spans: all instants of the shot, or the one that is shown. */
  rangeOf: 'shot' | 'instant';
  /** Ends of the scale typed in for a field, SI. */
  typedRange: { field: FieldId; ends: [number, number] } | null;
  shape: ShapeLook;
  section: Section;
  layers: Layers;
  /** How runners are drawn. Remembered. */
  feedShown: FeedShown;
  /** The part is drawn faintly where its cooling is looked at. */
  seeThrough: boolean;
  /** Depth in the wall at which the directions of fibres are drawn: 0 in its middle, 1 at its face. */
  fibreDepth: number;
  /** Bodies not shown as they are. */
  bodyView: Record<string, BodyLook>;
  /** The plastic with its result is left away, so that what stands around it is seen. */
  partHidden: boolean;
  /** Where the eye is and what it looks at, mm; null before something is framed. */
  pose: Pose | null;
  /** Bumped to ask the viewer for a camera move. */
  cameraRequest: { n: number; view: ViewName | 'fit' | null; target: [number, number, number] | null };
  /** Marker of the place an answer points at, m. */
  place: { position: [number, number, number]; label: string } | null;

  set(patch: Partial<ViewState>): void;
  look(view: ViewName | 'fit'): void;
  flyTo(position: [number, number, number], label: string): void;
}

export type View = StoreApi<ViewState>;

/** A viewer's state of its own, as it is at the first visit. */
export function createView(): View {
  return createStore<ViewState>((set) => ({
    field: 'fillTime',
    map: null,
    time: Infinity,
    playing: false,
    restsAt: Infinity,
    brush: null,
    rangeOf: 'shot',
    typedRange: null,
    shape: {
      cause: 'all',
      along: 'total',
      align: 'best-fit',
      points: [],
      frame: 'drawing',
      against: null,
      body: 'shape',
      stressIn: 'plastic',
      scale: 10,
      moving: false,
    },
    section: { on: false, axis: 'x', at: 0.5, flipped: false, tilt: 0, swing: 0 },
    layers: {
      isochrones: false,
      isolines: false,
      weldLines: true,
      places: true,
      extremes: false,
      arrows: false,
      tracers: false,
    },
    feedShown: 'full',
    seeThrough: true,
    fibreDepth: 1,
    bodyView: {},
    partHidden: false,
    pose: null,
    cameraRequest: { n: 0, view: null, target: null },
    place: null,

    set,
    look: (view) => set((s) => ({ cameraRequest: { n: s.cameraRequest.n + 1, view, target: null } })),
    flyTo: (position, label) =>
      set((s) => ({
        cameraRequest: { n: s.cameraRequest.n + 1, view: null, target: position },
        place: { position, label },
      })),
  }));
}

/** What views can share: the clock, the section, the eye, the field with its range, what is drawn over it. */
const LINKED = {
  clock: ['time', 'playing'],
  section: ['section', 'fibreDepth'],
  camera: ['pose', 'cameraRequest'],
  field: ['field', 'brush', 'shape', 'rangeOf', 'typedRange'],
  marks: ['layers', 'feedShown'],
} as const satisfies Record<string, readonly (keyof ViewState)[]>;
export type Link = keyof typeof LINKED;

/**
 * Views that share something: what one of them changes of it, the others take over, from the first one on. The returned
 * function lets go of each other.
 */
export function linkViews(views: readonly View[], links: readonly Link[]): () => void {
  const keys: readonly (keyof ViewState)[] = links.flatMap((link) => [...LINKED[link]]);
  const shared = (state: ViewState): Partial<ViewState> => Object.fromEntries(keys.map((key) => [key, state[key]]));
  const follow = (others: readonly View[], from: ViewState) => {
    for (const other of others) {
      const now = other.getState();
      if (keys.some((key) => now[key] !== from[key])) other.setState(shared(from));
    }
  };
  if (views.length) follow(views.slice(1), views[0].getState());
  const stops = views.map((view) => {
    const others = views.filter((v) => v !== view);
    return view.subscribe((state, before) => {
      if (keys.some((key) => state[key] !== before[key])) follow(others, state);
    });
  });
  return () => stops.forEach((stop) => stop());
}

/** The view of the bench: the one that benches, shot strip and keyboard speak to. */
export const mainView = createView();

/** Everything below it belongs to one view; without one, to that of the bench. */
export const ViewContext = createContext<View>(mainView);

/** The eye of a view, as its viewer moves it and is moved by it. */
export const eyeOf = (view: View): Eye => ({
  now: () => view.getState().pose,
  moved: (pose) => view.setState({ pose }),
  follow: (moved) => view.subscribe(({ pose }, before) => void (pose && pose !== before.pose && moved(pose))),
});

/** The play head of a view, for what follows it without drawing the page anew. */
export const headOf = (view: View): Head => ({
  now: () => view.getState().time,
  follow: (moved) => view.subscribe(({ time }, before) => void (time !== before.time && moved(time))),
});

const PACE_MS = 120;

/**
 * The play head of the view around, a few times a second while it is played: for what is drawn anew with it. Stands
 * still unless `on`.
 */
export function usePacedTime(on = true): number {
  const view = useContext(ViewContext);
  const [time, setTime] = useState(() => view.getState().time);
  useEffect(() => {
    if (!on) return;
    let last = 0;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const take = () => {
      timer = undefined;
      last = performance.now();
      setTime(view.getState().time);
    };
    take();
    const stop = view.subscribe((state, before) => {
      if (state.time === before.time || timer) return;
      // A head that is moved by hand is followed at once.
      const wait = state.playing ? Math.max(0, last + PACE_MS - performance.now()) : 0;
      if (wait) timer = setTimeout(take, wait);
      else take();
    });
    return () => {
      clearTimeout(timer);
      stop();
    };
  }, [on, view]);
  return time;
}

/** Something of the view around. */
export const useView = <T>(pick: (state: ViewState) => T): T => useStore(useContext(ViewContext), pick);

const KEY = 'bellows.view';

/** Keeps layers and runners of the bench's view for the next visit. */
mainView.subscribe((state, before) => {
  const { layers, feedShown } = state;
  if (layers !== before.layers || feedShown !== before.feedShown)
    localStorage.setItem(KEY, JSON.stringify({ layers, feedShown }));
});

/** Takes over what was remembered from an earlier visit; anything unknown in it is left alone. */
export function recallView(): void {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as { layers?: Partial<Layers>; feedShown?: string };
    const { layers } = mainView.getState();
    mainView.setState({
      layers: Object.fromEntries(
        Object.entries(layers).map(([k, on]) => [
          k,
          typeof kept.layers?.[k as Layer] === 'boolean' ? kept.layers[k as Layer] : on,
        ]),
      ) as unknown as Layers,
      feedShown: FEED_SHOWN.find((v) => v === kept.feedShown) ?? 'full',
    });
  } catch {
    localStorage.removeItem(KEY);
  }
}
