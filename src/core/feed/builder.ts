import { z } from 'zod';
import type { Vec3 } from '../geometry/mesh';
import type { Feed } from '../model/feed';
import type { Gate } from '../model/study';
import type { Land } from './land';
import type { FeedNetwork, FeedSegment } from './network';
import type { Section } from './section';

export const segmentKindSchema = z.enum(['sprue', 'runner', 'drop', 'land', 'slug', 'tab']);
export type SegmentKind = z.infer<typeof segmentKindSchema>;

export interface LaidFeed extends FeedNetwork {
  kinds: SegmentKind[];
  /** Gates that each segment feeds, as indices; none for a cold-slug end. */
  feeds: number[][];
}

/** A runner that ends this near to its gate has no land of its own. */
const NO_LAND = 2e-4;
/** Points nearer than this are one. */
export const SAME = 1e-5;

export const round = (diameter: number): Section => ({ shape: 'round', diameter });

/** Key of the branch that feeds these gates, in `Feed.branches`; `alike` equal cavities hang on it. */
export const branchKey = (ids: readonly string[], alike = 1): string => ids.join('+') + (alike > 1 ? `×${alike}` : '');

/** Key of a branch of copies by the gates of the cavity itself. */
function keyOfCopies(ids: readonly string[]): string {
  const own = [...new Set(ids.map((id) => id.replace(/\.\d+$/, '')))];
  return branchKey(own, ids.length / own.length);
}

/** Collects points and segments of a feed; names segments by kind and number. */
export class Builder {
  readonly network: { points: Vec3[]; segments: FeedSegment[]; kinds: SegmentKind[]; feeds: number[][] } = {
    points: [],
    segments: [],
    kinds: [],
    feeds: [],
  };

  constructor(
    private readonly feed: Feed,
    private readonly gates: readonly Gate[],
    private readonly meltTemperature: number,
  ) {}

  /** Index of a point; one that is there already is shared, unless it must be its own. */
  point(at: Vec3, own = false): number {
    const { points } = this.network;
    const found = own ? -1 : points.findIndex((p) => Math.hypot(...p.map((x, d) => x - at[d])) < SAME);
    return found >= 0 ? found : points.push(at) - 1;
  }

  /** Section that the branch to these gates has been given, if any. */
  own(fed: readonly number[]): Section | null {
    const ids = fed.map((g) => this.gates[g].id);
    const branch = this.feed.branches[branchKey(ids)] ?? this.feed.branches[keyOfCopies(ids)];
    return branch ? round(branch.diameter) : null;
  }

  segment(
    kind: SegmentKind,
    from: number,
    to: number,
    section: Section,
    end: Section | null,
    fed: number[],
    hot: boolean | null = null,
    name?: string,
  ): void {
    const { segments, kinds, feeds } = this.network;
    const number = kinds.filter((k) => k === kind).length + 1;
    const id = name ?? (kind === 'sprue' ? 'S' : `${kind === 'slug' ? 'C' : kind[0].toUpperCase()}${number}`);
    const warm = (hot ?? this.feed.hot !== null) && kind !== 'land';
    const temperature = warm ? (this.feed.hot?.temperature ?? this.meltTemperature) : null;
    segments.push({ id, from, to, section, endSection: end, hot: temperature });
    kinds.push(kind);
    feeds.push(fed);
  }

  /** A dead end straight on behind `to`, where the feed has cold-slug ends and is cold. */
  slug(from: number, to: number, section: Section): void {
    const length = this.feed.slug ?? 0;
    if (!(length > 0) || this.feed.hot) return;
    const { points } = this.network;
    const way = points[to].map((x, d) => x - points[from][d]);
    const norm = Math.hypot(...way);
    const end = points[to].map((x, d) => x + (length * way[d]) / norm) as Vec3;
    // Where the runner itself goes straight on, there is nothing to catch.
    if (points.some((p) => Math.hypot(...p.map((x, d) => x - end[d])) < SAME)) return;
    this.segment('slug', to, this.point(end), section, null, []);
  }

  /** Nozzle and sprue down to a point; returns the point. */
  sprue(to: Vec3): number {
    const { sprue, nozzleAbove } = this.feed;
    const nozzle = this.point([to[0], to[1], to[2] + (nozzleAbove ? 1 : -1) * sprue.length]);
    const foot = this.point(to);
    const all = this.gates.map((_, g) => g);
    this.segment('sprue', nozzle, foot, round(sprue.nozzle), round(sprue.runner), all);
    this.slug(nozzle, foot, round(sprue.runner));
    return foot;
  }

  /** The land of a gate; returns the gate's own point. A runner that ends on the gate needs none. */
  land(from: number, gate: Gate, g: number, { section, end }: Land): number {
    const { points } = this.network;
    if (Math.hypot(...points[from].map((x, d) => x - gate.position[d])) < NO_LAND) return from;
    const at = this.point([...gate.position], true);
    this.segment('land', from, at, section, end, [g]);
    return at;
  }
}
