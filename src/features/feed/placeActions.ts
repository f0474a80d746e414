import { freshLineId } from '@/core/feed/polylines';
import { defaultTab, defaultVent } from '@/core/model/outlet';
import type { Gate } from '@/core/model/study';
import { freshOutletId } from '@/core/results/answer';
import { changeInputs, presentPart, presentInputs, useStudy } from '../study/store';
import { aimOf, useBench } from '../study/bench';

type Point = [number, number, number];

/** Width of a vent that is clicked onto the part, m. */
const VENT_WIDTH = 0.006;

/** Places a vent or an overflow tab on the part; a tab goes straight out, level. */
export function placeOutlet(what: 'vent' | 'tab', position: Point, normal: Point): void {
  const inputs = presentInputs(useStudy.getState());
  if (what === 'vent') {
    const id = freshOutletId('V', inputs.vents ?? []);
    const vent = defaultVent(id, { kind: 'place', position, width: VENT_WIDTH });
    changeInputs(`Place vent ${id}`, ({ vents = [] }) => ({ vents: [...vents, vent] }));
    useBench.getState().set({ selectedOutlet: id });
    return;
  }
  const id = freshOutletId('T', inputs.tabs ?? []);
  const level = Math.hypot(normal[0], normal[1]);
  const direction: Point = level > 0.3 ? [normal[0] / level, normal[1] / level, 0] : normal;
  const wall = presentPart(useStudy.getState())?.size.wall ?? 0.002;
  changeInputs(`Place tab ${id}`, ({ tabs = [] }) => ({ tabs: [...tabs, defaultTab(id, position, direction, wall)] }));
  useBench.getState().set({ selectedOutlet: id });
}

/** The place where the front has to arrive for a pin to move. */
export function pickPinPlace(position: Point): void {
  const { aim, set } = useBench.getState();
  const pin = aimOf(aim, 'pin');
  if (!pin) return;
  const move = (gate: Gate): Gate =>
    gate.id === pin.gate && gate.pin ? { ...gate, pin: { ...gate.pin, [pin.move]: { by: 'front', position } } } : gate;
  changeInputs(`Place for the pin of ${pin.gate}`, ({ gates }) => ({ gates: gates.map(move) }));
  set({ aim: null });
}

/** A point clicked while runners are drawn: the first begins a line, each further one adds one. */
export function drawTo(to: Point): void {
  const { aim, set } = useBench.getState();
  const drawing = aimOf(aim, 'runner');
  const inputs = presentInputs(useStudy.getState());
  const { feed } = inputs;
  if (!drawing || !feed) return;
  const { from } = drawing;
  if (!from) return set({ aim: { for: 'runner', from: to } });
  if (Math.hypot(...to.map((x, d) => x - from[d])) < 1e-4) return set({ aim: { for: 'runner', from: null } });
  const { lines = [] } = feed;
  const id = freshLineId(lines);
  const line = { id, from, to, section: feed.runner, endSection: null, hot: null };
  changeInputs(`Draw runner ${id}`, () => ({ feed: { ...feed, lines: [...lines, line] } }));
  set({ aim: { for: 'runner', from: to }, selectedLine: id });
}
