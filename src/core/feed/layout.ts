import type { Vec3 } from '../geometry/mesh';
import type { Feed } from '../model/feed';
import type { Gate } from '../model/study';
import { Builder, round, SAME, type LaidFeed } from './builder';
import { drawnRunners } from './drawn';
import { landOf } from './land';

export type { LaidFeed, SegmentKind } from './builder';

/** A gate this near to the runners' plane is fed from the side, without a drop. */
const LEVEL = 2e-3;

type Flat = [number, number];

/**
 * The network of a feed: nozzle, sprue, runners in their plane or as drawn, drops and lands. Where a gate
 * lies at the runners' height its land comes in from the side, else along z. Needs at least one gate.
 */
export function layOut(feed: Feed, gates: readonly Gate[], meltTemperature: number): LaidFeed {
  if (!gates.length) throw new RangeError('There is no gate to lay a feed to.');
  const builder = new Builder(feed, gates, meltTemperature);
  if (gates.length === 1 && gates[0].form?.kind === 'sprue') return directSprue(builder, feed, gates[0]);
  if (feed.layout === 'drawn') return drawnRunners(builder, feed, gates);
  const at: Flat = feed.at ?? centre(gates.map((g) => [g.position[0], g.position[1]]));
  const foot = builder.sprue([...at, feed.height] as Vec3);
  const ends = gates.map((gate) => entryOf(feed, gate, at));
  const all = gates.map((_, g) => g);
  const runner = (from: number, to: Flat, fed: number[]): number => {
    const end = builder.point([to[0], to[1], feed.height]);
    if (end !== from) {
      builder.segment('runner', from, end, builder.own(fed) ?? feed.runner, null, fed);
      if (fed.length > 1) builder.slug(from, end, builder.own(fed) ?? feed.runner);
    }
    return end;
  };
  const reached = new Map<number, number>();
  LAYOUTS[feed.layout](
    foot,
    at,
    ends.map((e) => e.flat),
    all,
    runner,
    (g, point) => reached.set(g, point),
  );
  const gatePoints = gates.map((gate, g) => {
    let from = reached.get(g) as number;
    const { dropTo, flat } = ends[g];
    if (dropTo !== null) {
      const low = builder.point([...flat, dropTo] as Vec3);
      const own = builder.own([g]);
      if (low !== from)
        builder.segment('drop', from, low, own ?? round(feed.drop.runner), own ?? round(feed.drop.gate), [g]);
      from = low;
    }
    return builder.land(from, gate, g, landOf(feed, gate));
  });
  return { ...builder.network, nozzle: 0, gatePoints };
}

/** One gate, and the sprue ends on it. */
function directSprue(builder: Builder, feed: Feed, gate: Gate): LaidFeed {
  const [x, y, z] = gate.position;
  const up = feed.nozzleAbove ? 1 : -1;
  const nozzle = builder.point([x, y, z + up * feed.sprue.length]);
  const end = builder.point([x, y, z], true);
  builder.segment('sprue', nozzle, end, round(feed.sprue.nozzle), round(gate.diameter), [0]);
  return { ...builder.network, nozzle, gatePoints: [end] };
}

const centre = (points: Flat[]): Flat =>
  [0, 1].map((d) => (Math.min(...points.map((p) => p[d])) + Math.max(...points.map((p) => p[d]))) / 2) as Flat;

/** Where in the plane the runner of a gate ends, and how far down a drop leads from there. */
function entryOf(feed: Feed, gate: Gate, sprue: Flat): { flat: Flat; dropTo: number | null } {
  const [x, y, z] = gate.position;
  const { length, angle } = landOf(feed, gate);
  const away = feed.height - z;
  const [dx, dy] = [sprue[0] - x, sprue[1] - y];
  const d = Math.hypot(dx, dy);
  const towards: Flat = d < SAME ? [1, 0] : [dx / d, dy / d];
  // A submarine gate slants down from the runner: it starts aside and above.
  const aside = angle === null ? length : length * Math.cos(angle);
  if (angle !== null || Math.abs(away) <= Math.max(LEVEL, length)) {
    const flat: Flat = [x + aside * towards[0], y + aside * towards[1]];
    const rise = angle === null ? 0 : Math.sign(away || 1) * length * Math.sin(angle);
    const start = z + rise;
    return { flat, dropTo: Math.abs(feed.height - start) > LEVEL ? start : null };
  }
  return { flat: [x, y], dropTo: z + Math.sign(away) * length };
}

type Layout = (
  foot: number,
  at: Flat,
  ends: Flat[],
  gates: number[],
  runner: (from: number, to: Flat, fed: number[]) => number,
  reach: (gate: number, point: number) => void,
) => void;

const LAYOUTS: Record<Exclude<Feed['layout'], 'drawn'>, Layout> = {
  /** Straight from the sprue to every gate. */
  star(foot, _at, ends, gates, runner, reach) {
    for (const g of gates) reach(g, runner(foot, ends[g], [g]));
  },

  /** A trunk through the sprue along the longer side of the gates' box, branches square to it. */
  trunk(foot, at, ends, gates, runner, reach) {
    const size = [0, 1].map((d) => Math.max(...ends.map((e) => e[d])) - Math.min(...ends.map((e) => e[d])));
    const along = size[0] >= size[1] ? 0 : 1;
    for (const sign of [1, -1]) {
      const side = gates
        .filter((g) => (sign > 0 ? ends[g][along] >= at[along] : ends[g][along] < at[along]))
        .sort((a, b) => sign * (ends[a][along] - ends[b][along]));
      let from = foot;
      side.forEach((g, k) => {
        const junction = [...at] as Flat;
        junction[along] = ends[g][along];
        from = runner(from, junction, side.slice(k));
        reach(g, runner(from, ends[g], [g]));
      });
    }
  },

  /** The gates halved along the longer side of their box, and each half again: equal ways for a regular field. */
  tree(foot, _at, ends, gates, runner, reach) {
    const grow = (from: number, group: number[]) => {
      if (group.length === 1) return reach(group[0], runner(from, ends[group[0]], group));
      const boxOf = (d: number) => group.map((g) => ends[g][d]);
      const along =
        Math.max(...boxOf(0)) - Math.min(...boxOf(0)) >= Math.max(...boxOf(1)) - Math.min(...boxOf(1)) ? 0 : 1;
      const sorted = [...group].sort((a, b) => ends[a][along] - ends[b][along] || a - b);
      const half = Math.ceil(sorted.length / 2);
      for (const part of [sorted.slice(0, half), sorted.slice(half)])
        grow(part.length === 1 ? from : runner(from, centre(part.map((g) => ends[g])), part), part);
    };
    grow(foot, gates);
  },
};
