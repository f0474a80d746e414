import type { Vec3 } from '../geometry/mesh';
import type { Feed } from '../model/feed';
import type { Gate } from '../model/study';
import type { FeedNetwork, FeedSegment } from './network';
import type { Section } from './section';

export type SegmentKind = 'sprue' | 'runner' | 'drop' | 'land';

export interface LaidFeed extends FeedNetwork {
  kinds: SegmentKind[];
  /** Gates that each segment feeds, as indices. */
  feeds: number[][];
}

/** Points nearer than this are one. */
const SAME = 1e-5;
/** A gate this near to the runners' plane is fed from the side, without a drop. */
const LEVEL = 2e-3;

type Flat = [number, number];

/**
 * The network of a feed: nozzle, sprue, runners in their plane, drops and lands. Where a gate lies at the
 * runners' height its land comes in from the side, else along z. Needs at least one gate.
 */
export function layOut(feed: Feed, gates: readonly Gate[], meltTemperature: number): LaidFeed {
  if (!gates.length) throw new RangeError('There is no gate to lay a feed to.');
  const builder = new Builder(feed, meltTemperature);
  const middle = centre(gates.map((g) => [g.position[0], g.position[1]]));
  const at: Flat = feed.at ?? middle;
  const up = feed.nozzleAbove ? 1 : -1;
  const nozzle = builder.point([at[0], at[1], feed.height + up * feed.sprue.length]);
  const foot = builder.point([at[0], at[1], feed.height]);
  const ends = gates.map((gate) => entryOf(feed, gate, at));
  const all = gates.map((_, g) => g);
  builder.segment('sprue', nozzle, foot, round(feed.sprue.nozzle), round(feed.sprue.runner), all);
  const runner = (from: number, to: Flat, fed: number[]): number => {
    const branch = fed.length === 1 ? feed.branches[gates[fed[0]].id] : undefined;
    const end = builder.point([to[0], to[1], feed.height]);
    if (end !== from) builder.segment('runner', from, end, branch ? round(branch.diameter) : feed.runner, null, fed);
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
    const branch = feed.branches[gate.id];
    if (ends[g].dropTo !== null) {
      const low = builder.point([...ends[g].flat, ends[g].dropTo] as Vec3);
      const [wide, narrow] = branch ? [branch.diameter, branch.diameter] : [feed.drop.runner, feed.drop.gate];
      if (low !== from) builder.segment('drop', from, low, round(wide), round(narrow), [g]);
      from = low;
    }
    const end = builder.point([...gate.position], true);
    builder.segment('land', from, end, feed.land.section ?? round(gate.diameter), null, [g]);
    return end;
  });
  return { ...builder.network, nozzle, gatePoints };
}

const round = (diameter: number): Section => ({ shape: 'round', diameter });
const centre = (points: Flat[]): Flat =>
  [0, 1].map((d) => (Math.min(...points.map((p) => p[d])) + Math.max(...points.map((p) => p[d]))) / 2) as Flat;

/** Where in the plane the runner of a gate ends, and how far down a drop leads from there. */
function entryOf(feed: Feed, gate: Gate, sprue: Flat): { flat: Flat; dropTo: number | null } {
  const [x, y, z] = gate.position;
  const { length } = feed.land;
  const away = feed.height - z;
  if (Math.abs(away) > Math.max(LEVEL, length)) return { flat: [x, y], dropTo: z + Math.sign(away) * length };
  const [dx, dy] = [sprue[0] - x, sprue[1] - y];
  const d = Math.hypot(dx, dy);
  if (d < SAME) return { flat: [x + length, y], dropTo: null };
  return { flat: [x + (dx / d) * length, y + (dy / d) * length], dropTo: null };
}

class Builder {
  readonly network: { points: Vec3[]; segments: FeedSegment[]; kinds: SegmentKind[]; feeds: number[][] } = {
    points: [],
    segments: [],
    kinds: [],
    feeds: [],
  };

  constructor(
    private readonly feed: Feed,
    private readonly meltTemperature: number,
  ) {}

  /** Index of a point; one that is there already is shared, unless it must be its own. */
  point(at: Vec3, own = false): number {
    const { points } = this.network;
    const found = own ? -1 : points.findIndex((p) => Math.hypot(...p.map((x, d) => x - at[d])) < SAME);
    return found >= 0 ? found : points.push(at) - 1;
  }

  segment(kind: SegmentKind, from: number, to: number, section: Section, end: Section | null, fed: number[]): void {
    const { segments, kinds, feeds } = this.network;
    const { hot } = this.feed;
    const number = kinds.filter((k) => k === kind).length + 1;
    const id = kind === 'sprue' ? 'S' : `${kind[0].toUpperCase()}${number}`;
    const temperature = hot && kind !== 'land' ? (hot.temperature ?? this.meltTemperature) : null;
    segments.push({ id, from, to, section, endSection: end, hot: temperature });
    kinds.push(kind);
    feeds.push(fed);
  }
}

type Layout = (
  foot: number,
  at: Flat,
  ends: Flat[],
  gates: number[],
  runner: (from: number, to: Flat, fed: number[]) => number,
  reach: (gate: number, point: number) => void,
) => void;

const LAYOUTS: Record<Feed['layout'], Layout> = {
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
