import { create } from 'zustand';
import type { StandIn } from '@/core/model/body';
import type { MapId } from '@/core/partmaps/mapKinds';
import type { Measure } from '@/core/model/warpage';
import type { ShapeCause } from '@/core/results/shape';

export type Station = 'part' | 'resin' | 'feed' | 'cooling' | 'cycle' | 'answers';
export const STATIONS: readonly Station[] = ['part', 'resin', 'feed', 'cooling', 'cycle', 'answers'];

/** Id of a field in the manifest of a run. */
export type FieldId = string;

/** What is drawn over the field. Remembered. */
export interface Layers {
  isochrones: boolean;
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

/** Places on a shape are picked to lay it onto its drawing, to measure, or to hold the part while it cools. */
export type ShapePick =
  { for: 'align' } | { for: 'support' } | { for: 'measure'; kind: Measure['kind']; places: [number, number, number][] };

/** How things are looked at: nothing here changes a result, nothing here is undone. */
export interface ViewState {
  station: Station;
  placingGate: boolean;
  selectedGate: string | null;
  selectedBodies: string[];
  /** Bodies not shown as they are. */
  bodyView: Record<string, 'hidden' | 'faded'>;
  /** Part map shown at the Part station. */
  map: MapId | null;
  /** The next click on a face turns it down. */
  pickingFace: boolean;
  /** A stand-in being adjusted, before it is used. */
  draft: { body: string; standIn: StandIn } | null;
  /** Places of features that would be removed. */
  marks: { position: [number, number, number]; radius: number; on: boolean }[];
  field: FieldId;
  /** Play head, s; Infinity stands at the end. */
  time: number;
  playing: boolean;
  /** Brush on the legend: values outside are hidden. null: everything. */
  brush: [number, number] | null;
  shape: ShapeLook;
  section: Section;
  layers: Layers;
  /** Draw the flow pattern of the present inputs while they change. */
  preview: boolean;
  /** How runners are drawn. Remembered. */
  feedShown: FeedShown;
  /** Drawing runners: where the next one starts, m; null before its first point. */
  drawing: { from: [number, number, number] | null } | null;
  selectedLine: string | null;
  /** Drawing channels: the height they lie at, and where the next one starts, m; null before its first point. */
  drawingChannel: { height: number; from: [number, number, number] | null } | null;
  /** The line of a circuit, or the insert of the mould, that is looked at. */
  selectedChannel: string | null;
  /** The part is drawn faintly where its cooling is looked at. */
  seeThrough: boolean;
  /** The next click on the part places a vent or an overflow tab. */
  placingOutlet: 'vent' | 'tab' | null;
  selectedOutlet: string | null;
  /** The next click picks the place at which the front opens (or closes) this gate's pin. */
  pickingPin: { gate: string; move: 'open' | 'close' } | null;
  /** The next clicks place probes. */
  placingProbe: boolean;
  /** The next clicks pick places on the shape. */
  pickingShape: ShapePick | null;
  selectedProbe: string | null;
  /** The strip shows the cycles of the start-up instead of the shot. */
  startUpShown: boolean;
  /** Histories of the probes are shown. */
  chart: boolean;
  /** Painting where no gate may sit: radius of the brush, m. */
  painting: { radius: number; erase: boolean } | null;
  /** Bumped to ask the viewer for a camera move. */
  cameraRequest: { n: number; view: ViewName | 'fit' | null; target: [number, number, number] | null };
  /** Marker of the place an answer points at, m. */
  place: { position: [number, number, number]; label: string } | null;

  set(patch: Partial<ViewState>): void;
  look(view: ViewName | 'fit'): void;
  flyTo(position: [number, number, number], label: string): void;
}

export const useView = create<ViewState>((set) => ({
  station: 'part',
  placingGate: false,
  selectedGate: null,
  selectedBodies: [],
  bodyView: {},
  map: null,
  pickingFace: false,
  draft: null,
  marks: [],
  field: 'fillTime',
  time: Infinity,
  playing: false,
  brush: null,
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
  layers: { isochrones: false, weldLines: true, places: true, extremes: false, arrows: false, tracers: false },
  preview: true,
  feedShown: 'full',
  drawing: null,
  selectedLine: null,
  drawingChannel: null,
  selectedChannel: null,
  seeThrough: true,
  placingOutlet: null,
  selectedOutlet: null,
  pickingPin: null,
  placingProbe: false,
  pickingShape: null,
  selectedProbe: null,
  startUpShown: false,
  chart: false,
  painting: null,
  cameraRequest: { n: 0, view: null, target: null },
  place: null,

  set: (patch) => {
    set(patch);
    if (patch.layers || patch.preview !== undefined || patch.feedShown) remember();
  },
  look: (view) => set((s) => ({ cameraRequest: { n: s.cameraRequest.n + 1, view, target: null } })),
  flyTo: (position, label) =>
    set((s) => ({
      cameraRequest: { n: s.cameraRequest.n + 1, view: null, target: position },
      place: { position, label },
    })),
}));

/** What leaving a station ends: nothing waits for a click any more. */
export const NOTHING_UNDER_WAY = {
  placingGate: false,
  placingProbe: false,
  pickingShape: null,
  painting: null,
  drawing: null,
  drawingChannel: null,
  placingOutlet: null,
  pickingPin: null,
} as const satisfies Partial<ViewState>;

const KEY = 'bellows.view';

function remember(): void {
  const { layers, preview, feedShown } = useView.getState();
  localStorage.setItem(KEY, JSON.stringify({ layers, preview, feedShown }));
}

/** Takes over what was remembered from an earlier visit; anything unknown in it is left alone. */
export function recallView(): void {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as {
      layers?: Partial<Layers>;
      preview?: boolean;
      feedShown?: string;
    };
    const { layers, preview } = useView.getState();
    useView.setState({
      layers: Object.fromEntries(
        Object.entries(layers).map(([k, on]) => [
          k,
          typeof kept.layers?.[k as Layer] === 'boolean' ? kept.layers[k as Layer] : on,
        ]),
      ) as unknown as Layers,
      preview: typeof kept.preview === 'boolean' ? kept.preview : preview,
      feedShown: FEED_SHOWN.find((v) => v === kept.feedShown) ?? 'full',
    });
  } catch {
    localStorage.removeItem(KEY);
  }
}
