import { create } from 'zustand';
import type { StandIn } from '@/core/model/body';
import type { Measure } from '@/core/model/warpage';

export type Station = 'part' | 'resin' | 'feed' | 'cooling' | 'cycle' | 'answers' | 'compare';
export const STATIONS: readonly Station[] = ['part', 'resin', 'feed', 'cooling', 'cycle', 'answers', 'compare'];

export const STATION_NAMES: Record<Station, string> = {
  part: 'Part',
  resin: 'Resin',
  feed: 'Feed',
  cooling: 'Cooling',
  cycle: 'Cycle',
  answers: 'Answers',
  compare: 'Compare',
};

export type Point = [number, number, number];

/** A place that is measured from or to, and how thick the wall below it is, m; null on an edge, or where none is. */
export interface RulerEnd {
  at: Point;
  wall: number | null;
}

/** What the next clicks in a view are for: one thing at a time. Lengths and places in m. */
export type Aim =
  | { for: 'gate' }
  | { for: 'probe' }
  /** Places between which a distance is measured. */
  | { for: 'distance'; ends: RulerEnd[] }
  /** A face that the section is laid along. */
  | { for: 'section-face' }
  /** The face turned down. */
  | { for: 'face' }
  | { for: 'outlet'; kind: 'vent' | 'tab' }
  /** Pieces of a charge that are laid into the open tool. */
  | { for: 'charge' }
  /** A needle, or the place at which the front ends the melt. */
  | { for: 'core'; what: 'needle' | 'melt' }
  /** The place at which the front opens (or closes) this gate's pin. */
  | { for: 'pin'; gate: string; move: 'open' | 'close' }
  /** Discs where no gate may sit: radius of the brush. */
  | { for: 'no-gate'; radius: number; erase: boolean }
  /** Runners: where the next one starts; null before its first point. */
  | { for: 'runner'; from: Point | null }
  /** Channels: the height they lie at, and where the next one starts. */
  | { for: 'channel'; height: number; from: Point | null }
  /** Places on a shape, to lay it onto its drawing, to hold the part while it cools, or to measure. */
  | { for: 'alignment' }
  | { for: 'support' }
  /** A face of an insert that the tool holds it by. */
  | { for: 'insert-face'; insert: string }
  | { for: 'measure'; kind: Measure['kind']; places: Point[] };

/** What the page is at: the station, what is chosen there and what waits for a click. */
export interface BenchState {
  station: Station;
  aim: Aim | null;
  selectedGate: string | null;
  selectedBodies: string[];
  selectedLine: string | null;
  /** The line of a circuit, or the insert of the mould, that is looked at. */
  selectedChannel: string | null;
  selectedOutlet: string | null;
  selectedNeedle: string | null;
  selectedPiece: string | null;
  selectedProbe: string | null;
  /** A stand-in being adjusted, before it is used. */
  draft: { body: string; standIn: StandIn } | null;
  /** Places of features that would be removed. */
  marks: { position: Point; radius: number; on: boolean }[];
  /** Draw the flow pattern of the present inputs while they change. Remembered. */
  preview: boolean;
  /** The strip shows the cycles of the start-up instead of the shot. */
  startUpShown: boolean;
  /** Question whose answer was asked for by choosing one of its fields; another object each time. */
  asked: { question: string } | null;
  /** Histories of the probes are shown. */
  chart: boolean;
  /** A second field of the result stands beside the first. */
  beside: boolean;

  set(patch: Partial<BenchState>): void;
  /** Goes to a station: what waited for a click there no longer does. */
  goTo(station: Station): void;
}

export const useBench = create<BenchState>((set) => ({
  station: 'part',
  aim: null,
  selectedGate: null,
  selectedBodies: [],
  selectedLine: null,
  selectedChannel: null,
  selectedOutlet: null,
  selectedNeedle: null,
  selectedPiece: null,
  selectedProbe: null,
  draft: null,
  marks: [],
  preview: true,
  startUpShown: false,
  asked: null,
  chart: false,
  beside: false,

  set,
  goTo: (station) => set({ station, aim: null }),
}));

/** What is aimed at, when it is that. */
export const aimOf = <K extends Aim['for']>(aim: Aim | null, what: K): Extract<Aim, { for: K }> | null =>
  aim?.for === what ? (aim as Extract<Aim, { for: K }>) : null;

/** What is aimed at, when it is that. */
export const useAim = <K extends Aim['for']>(what: K): Extract<Aim, { for: K }> | null =>
  useBench((s) => aimOf(s.aim, what));

const KEY = 'bellows.bench';

useBench.subscribe((state, before) => {
  if (state.preview !== before.preview) localStorage.setItem(KEY, JSON.stringify({ preview: state.preview }));
});

/** Takes over what was remembered from an earlier visit. */
export function recallBench(): void {
  try {
    const { preview } = JSON.parse(localStorage.getItem(KEY) ?? '{}') as { preview?: unknown };
    if (typeof preview === 'boolean') useBench.setState({ preview });
  } catch {
    localStorage.removeItem(KEY);
  }
}
