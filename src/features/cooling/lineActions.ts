import { freshLineId, hoseBore } from '@/core/cooling/layout';
import { wellRoom } from '@/core/cooling/wells';
import { boundsOf, type TriangleMesh } from '@/core/geometry/mesh';
import { SurfaceTree } from '@/core/geometry/surfaceTree';
import type { CoolingLine, LineKind } from '@/core/model/cooling';
import { isWell } from '@/core/solvers/cool/passages';
import { presentInputs, useStudy } from '../study/store';
import { aimOf, useBench } from '../study/bench';
import { changeCooling } from './useCooling';

type Point = [number, number, number];

const coolingNow = () => presentInputs(useStudy.getState()).cooling;

/** A point clicked while channels are drawn: the first begins one, each further one adds one. */
export function drawChannelTo(to: Point): void {
  const { aim, set } = useBench.getState();
  const drawing = aimOf(aim, 'channel');
  const cooling = coolingNow();
  if (!drawing || !cooling) return;
  const { from, height } = drawing;
  if (!from) return set({ aim: { for: 'channel', height, from: to } });
  if (Math.hypot(...to.map((x, d) => x - from[d])) < 1e-4) return set({ aim: { for: 'channel', height, from: null } });
  const id = freshLineId('L', cooling.lines);
  const diameter = cooling.plan?.diameter ?? 0.008;
  const line: CoolingLine = { id, from, to, diameter, kind: { as: 'channel' }, loss: null };
  changeCooling(`Draw channel ${id}`, (c) => ({ ...c, lines: [...c.lines, line] }));
  set({ aim: { for: 'channel', height, from: to }, selectedChannel: id });
}

export function deleteLine(id: string): void {
  changeCooling(`Delete line ${id}`, (c) => ({
    ...c,
    lines: c.lines.filter((l) => l.id !== id),
    inserts: c.inserts.filter((i) => i.id !== id),
  }));
  useBench.getState().set({ selectedChannel: null });
}

/** A well is made between these high, m; it may be changed. */
const LEAST_WELL = 0.004;
const MOST_WELL = 0.04;

const WELL: Record<'baffle' | 'bubbler', (bore: number) => LineKind> = {
  baffle: () => ({ as: 'baffle', blade: 0.0015 }),
  bubbler: (bore) => ({ as: 'bubbler', outer: 0.6 * bore, inner: 0.4 * bore }),
};

/** A well on a channel, standing towards the part as high as that lets it. */
export function addWell(as: 'baffle' | 'bubbler', host: CoolingLine, mesh: TriangleMesh): void {
  const cooling = coolingNow();
  if (!cooling) return;
  const id = freshLineId('W', cooling.lines);
  const on = cooling.lines.filter((l) => isWell(l) && l.from[2] === host.from[2]).length;
  // One after the other they spread along the channel instead of standing in one place.
  const share = [0.5, 0.3, 0.7, 0.4, 0.6, 0.2, 0.8][on % 7];
  const from = host.from.map((x, d) => x + share * (host.to[d] - x)) as Point;
  const bore = Math.max(host.diameter, 0.008);
  const { min, max } = boundsOf(mesh.positions);
  const up = (min[2] + max[2]) / 2 >= from[2] ? 1 : -1;
  const height = Math.max(LEAST_WELL, Math.min(MOST_WELL, wellRoom(new SurfaceTree(mesh), from, up, bore)));
  const line: CoolingLine = {
    id,
    from,
    to: [from[0], from[1], from[2] + up * height],
    diameter: bore,
    kind: WELL[as](bore),
    loss: null,
  };
  changeCooling(`Add ${as} ${id}`, (c) => ({ ...c, lines: [...c.lines, line] }));
  useBench.getState().set({ selectedChannel: id });
}

/** A hose between two open ends. */
export function addHose(from: Point, to: Point, bore: number): void {
  const cooling = coolingNow();
  if (!cooling) return;
  const id = freshLineId('H', cooling.lines);
  const line: CoolingLine = { id, from, to, diameter: hoseBore(bore), kind: { as: 'hose', length: null }, loss: null };
  const touches = (p: readonly number[]) => [from, to].some((q) => Math.hypot(...q.map((x, d) => x - p[d])) < 5e-4);
  changeCooling(`Connect hose ${id}`, (c) => ({
    ...c,
    lines: [...c.lines, line],
    ends: c.ends.filter((e) => !touches(e.at)),
  }));
  useBench.getState().set({ selectedChannel: id });
}
