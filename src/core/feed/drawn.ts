import type { Vec3 } from '../geometry/mesh';
import type { Feed, RunnerLine } from '../model/feed';
import type { Gate } from '../model/study';
import { SAME, type Builder, type LaidFeed } from './builder';
import { landOf } from './land';

/** The lines of a drawn feed as a graph: ends that meet are one point. */
export interface LineGraph {
  points: Vec3[];
  /** Ends of every line, as points. */
  ends: [number, number][];
  /** The point where the sprue comes down. */
  foot: number;
  /** Lines in the order of the melt, with the end the melt comes from; those it never comes to are left out. */
  order: { line: number; from: number; to: number }[];
  /** Lines that close a loop, and lines that do not hang together with the sprue. */
  loops: number[];
  loose: number[];
}

const distance = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((x, d) => x - b[d]));

/** Index of the point nearest to a place. */
function nearest(points: readonly Vec3[], at: readonly number[]): number {
  let best = 0;
  for (let p = 1; p < points.length; p++) if (distance(points[p], at) < distance(points[best], at)) best = p;
  return best;
}

/** `at`: where the sprue is wanted (x, y); null takes the first end of the first line. */
export function lineGraph(lines: readonly RunnerLine[], at: readonly [number, number] | null): LineGraph {
  const points: Vec3[] = [];
  const point = (p: Vec3) => {
    const found = points.findIndex((q) => distance(p, q) < SAME);
    return found >= 0 ? found : points.push(p) - 1;
  };
  const ends = lines.map((l): [number, number] => [point(l.from), point(l.to)]);
  const foot = at
    ? nearest(
        points.map(([x, y]) => [x, y, 0]),
        [...at, 0],
      )
    : 0;
  const seen = new Set([foot]);
  const used = new Set<number>();
  const loops: number[] = [];
  const order: LineGraph['order'] = [];
  const queue = [foot];
  for (let q = 0; q < queue.length; q++)
    ends.forEach(([a, b], line) => {
      if (used.has(line) || (a !== queue[q] && b !== queue[q])) return;
      used.add(line);
      const to = a === queue[q] ? b : a;
      if (seen.has(to)) return void loops.push(line);
      seen.add(to);
      queue.push(to);
      order.push({ line, from: queue[q], to });
    });
  const loose = lines.flatMap((_, line) => (used.has(line) ? [] : [line]));
  return { points, ends, foot, order, loops, loose };
}

/** Point of the lines that a gate hangs on: the nearest one that the melt comes to. */
export function gatePointOf({ points, order, foot }: LineGraph, gate: Gate): { point: number; away: number } {
  const reached = [foot, ...order.map((o) => o.to)];
  const k = nearest(
    reached.map((p) => points[p]),
    gate.position,
  );
  return { point: reached[k], away: distance(points[reached[k]], gate.position) };
}

/** Sprue, the drawn lines and a land to every gate. Ends without a gate are cold-slug ends. */
export function drawnRunners(builder: Builder, feed: Feed, gates: readonly Gate[]): LaidFeed {
  const lines = feed.lines ?? [];
  if (!lines.length) throw new RangeError('There is no runner yet: draw, trace or import one.');
  const graph = lineGraph(lines, feed.at);
  const at = gates.map((gate) => gatePointOf(graph, gate).point);
  const parent = new Map(graph.order.map((o, k) => [o.to, k]));
  const fedBy = graph.order.map(() => [] as number[]);
  at.forEach((p, g) => {
    for (let k = parent.get(p); k !== undefined; k = parent.get(graph.order[k].from)) fedBy[k].push(g);
  });
  builder.sprue(graph.points[graph.foot]);
  graph.order.forEach(({ line, from, to }, k) => {
    const { id, section, endSection, hot, from: start } = lines[line];
    const turned = distance(start, graph.points[from]) >= SAME;
    const own = fedBy[k].length ? builder.own(fedBy[k]) : null;
    const [first, last] = turned && endSection ? [endSection, section] : [section, endSection];
    const [a, b] = [builder.point(graph.points[from]), builder.point(graph.points[to])];
    builder.segment(fedBy[k].length ? 'runner' : 'slug', a, b, own ?? first, own ? null : last, fedBy[k], hot, id);
  });
  const gatePoints = gates.map((gate, g) =>
    builder.land(builder.point(graph.points[at[g]]), gate, g, landOf(feed, gate)),
  );
  return { ...builder.network, nozzle: 0, gatePoints };
}
