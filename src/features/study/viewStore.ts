import { create } from 'zustand';
import type { StandIn } from '@/core/model/body';
import type { MapId } from '@/core/partmaps/maps';

export type Station = 'part' | 'resin' | 'feed' | 'cycle' | 'answers';
export const STATIONS: readonly Station[] = ['part', 'resin', 'feed', 'cycle', 'answers'];

export type FieldId = 'fillTime' | 'pressure' | 'thickness' | 'peakShearRate';
export type Axis = 'x' | 'y' | 'z';
export type ViewName = 'iso' | 'front' | 'back' | 'left' | 'right' | 'top' | 'bottom';

export interface Section {
  on: boolean;
  axis: Axis;
  /** Place of the plane between the part's two ends along the axis, 0..1. */
  at: number;
  flipped: boolean;
}

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
  section: Section;
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
  section: { on: false, axis: 'x', at: 0.5, flipped: false },
  cameraRequest: { n: 0, view: null, target: null },
  place: null,

  set: (patch) => set(patch),
  look: (view) => set((s) => ({ cameraRequest: { n: s.cameraRequest.n + 1, view, target: null } })),
  flyTo: (position, label) =>
    set((s) => ({
      cameraRequest: { n: s.cameraRequest.n + 1, view: null, target: position },
      place: { position, label },
    })),
}));
